/// Ctrl-C and its like: what runs is ended and told, instead of being left behind.
#pragma once

namespace cli {

/// From here on the first request to end is kept; the second one ends this process at once.
void keep_interrupts();
/// The number of the signal that was kept; 0: none.
int interrupted();
/// The exit status that shells expect of a program that a signal ended.
int status_of_interrupt();

}  // namespace cli
