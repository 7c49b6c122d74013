#include "interrupt.hpp"

#include <csignal>
#include <initializer_list>

namespace cli {
namespace {

volatile std::sig_atomic_t kept = 0;

void keep(int signal) {
  kept = signal;
}

}  // namespace

void keep_interrupts() {
  struct sigaction action {};
  action.sa_handler = keep;
  action.sa_flags = static_cast<int>(SA_RESETHAND);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
    struct sigaction before {};
    // What nobody can interrupt, like a job of nohup, stays so.
    if (::sigaction(signal, nullptr, &before) == 0 && before.sa_handler != SIG_IGN)
      ::sigaction(signal, &action, nullptr);
  }
}

int interrupted() {
  return kept;
}

int status_of_interrupt() {
  return 128 + kept;
}

}  // namespace cli
