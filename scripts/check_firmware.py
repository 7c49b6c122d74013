#!/usr/bin/python3
"""Builds firmware with a library that comes as source and starts it in simulators of Debian's packages: an AVR program with a clock as its
definition and each choice of a bus, in simavr; two Cortex-M3 images that share one function of a library, in qemu-system-arm.

usage: check_firmware.py FIBULA      needs gcc-avr, avr-libc, simavr, gcc-arm-none-eabi and qemu-system-arm
"""
import os
import pathlib
import re
import subprocess
import sys
import tempfile

fibula = os.path.abspath(sys.argv[1])
scratch = tempfile.TemporaryDirectory(prefix="fibula-firmware-")
home = pathlib.Path(scratch.name)
environment = dict(os.environ, XDG_CACHE_HOME=str(home / "cache"), FIBULA_SHELF=str(home / "shelf"))
failures = []


def write(name, text):
    (home / name).parent.mkdir(parents=True, exist_ok=True)
    (home / name).write_text(text)


def run(folder, *words):
    return subprocess.run([fibula, *words], cwd=home / folder, env=environment, stdin=subprocess.DEVNULL, capture_output=True, text=True, timeout=120)


def expect(what, ran, *wanted):
    said = ran.stdout + ran.stderr
    missing = [one for one in wanted if not re.search(one, said)]
    if ran.returncode != 0 or missing:
        failures.append(what)
        print(f"{what}: FAILED, status {ran.returncode}, without {missing}\n{said}")
    else:
        print(f"{what}: {', '.join(wanted)}")


def write_bus():
    """One interface, two back ends, and a divider that the board's clock decides."""
    write("lampbus-2.1/include/lampbus.h", """#pragma once
#ifndef F_CPU
#error "define F_CPU: the clock of the board, in Hz"
#endif
#define LAMPBUS_DIVIDER (F_CPU / 100000UL)
const char *lampbus_name(void);
unsigned long lampbus_divider(void);
""")
    for bus in ("twi", "spi"):
        write(f"lampbus-2.1/src/lampbus_{bus}.c", f"""#include "lampbus.h"
const char *lampbus_name(void) {{ return "{bus}"; }}
unsigned long lampbus_divider(void) {{ return LAMPBUS_DIVIDER; }}
""")


# In simavr the serial port's bytes come out of the terminal; sleep without interrupts ends it.
AVR_MAIN = """#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <lampbus.h>
#include <stdio.h>

static int put(char one, FILE *stream) {
  (void)stream;
  while (!(UCSR0A & _BV(UDRE0))) {}
  UDR0 = (unsigned char)one;
  return 0;
}

static FILE port = FDEV_SETUP_STREAM(put, NULL, _FDEV_SETUP_WRITE);

int main(void) {
  UCSR0B = _BV(TXEN0);
  fprintf(&port, "bus %s divider %lu\\n", lampbus_name(), lampbus_divider());
  while (!(UCSR0A & _BV(UDRE0))) {}
  cli();
  sleep_mode();
  return 0;
}
"""


def avr():
    write_bus()
    write("lamp/main.c", AVR_MAIN)
    taken = run(".", "take", "lampbus-2.1")
    expect("take lampbus", taken, "lampbus_spi|spi", "twi")
    for bus, clock in (("twi", 8000000), ("spi", 16000000), ("twi", 16000000)):
        write("lamp/fibula.toml", f"""[[output]]
name = "lamp"
sources = ["main.c"]
[library.lampbus]
choices = {{ CHOICE = "{bus}" }}
definitions = ["F_CPU={clock}UL"]
[lane.lamp]
compiler = "avr-gcc"
configuration = "release"
flags = ["-mmcu=atmega328p"]
start-through = "simavr -m atmega328p -f {clock}"
""".replace("CHOICE", choice_name(taken.stdout)))
        expect(f"an AVR program, bus {bus}, {clock // 1000000} MHz", run("lamp", "build", "--run"), f"bus {bus} divider {clock // 100000}")
        expect("and again", run("lamp", "build"), "nothing to do")


def choice_name(said):
    """As `take` names it."""
    card = (home / "shelf/lampbus/2.1/card.toml").read_text()
    found = re.search(r"^\[source\.choices\.(\S+?)[.\]]", card, re.M)
    return found[1] if found else "bus"


# Semihosting: the debugger's side of a breakpoint writes, and ends (Arm's Semihosting for AArch32, 5).
ARM_MAIN = """#include <tally.h>

static int ask(int what, const void *with) {
  register int r0 __asm__("r0") = what;
  register const void *r1 __asm__("r1") = with;
  __asm__ volatile("bkpt 0xAB" : "+r"(r0) : "r"(r1) : "memory");
  return r0;
}

void begin(void) {
  const int sum = tally_add(FIRST, 20);
  char text[] = "NAME: 00 at 0x00000000\\n";
  text[6] = (char)('0' + sum / 10);
  text[7] = (char)('0' + sum % 10);
  unsigned place = (unsigned)tally_add & ~1u;
  for (int i = 21; i > 13; --i, place >>= 4) text[i] = "0123456789abcdef"[place & 15];
  ask(0x04, text);
  ask(0x18, (const void *)0x20026);
  for (;;) {}
}

__attribute__((section(".vectors"), used)) static const void *const vectors[] = {(void *)0x20002000, (void *)begin};
"""
SCRIPT = """MEMORY {
  FLASH (rx) : ORIGIN = 0x0, LENGTH = 32K
  SHARED (rx) : ORIGIN = 0x10000, LENGTH = 4K
  RAM (rwx) : ORIGIN = 0x20000000, LENGTH = 8K
}
ENTRY(begin)
SECTIONS {
  .text : { KEEP(*(.vectors)) *(.text*) *(.rodata*) } > FLASH
  .shared : { KEEP(*(.shared)) } > SHARED
  .data : { *(.data*) } > RAM AT > FLASH
  .bss : { *(.bss*) *(COMMON) } > RAM
}
"""


def cortex():
    write("tally-1.0/tally.h", "int tally_add(int a, int b);\n")
    write("tally-1.0/tally.c", '#include "tally.h"\n__attribute__((section(".shared"))) int tally_add(int a, int b) { return a + b; }\n')
    run(".", "take", "tally-1.0")
    outputs = ""
    for name, first in (("boot", 22), ("main", 57)):
        write(f"board/{name}.c", ARM_MAIN.replace("NAME", name).replace("FIRST", str(first)))
        outputs += f'[[output]]\nname = "{name}"\nsources = ["{name}.c"]\nlinker-script = "board.ld"\nflags = ["-nostdlib"]\nplacement = {{ "tally_add" = "SHARED" }}\n'
    write("board/board.ld", SCRIPT)
    write("board/fibula.toml", outputs + """[library.tally]
[lane.board]
compiler = "arm-none-eabi-gcc"
configuration = "release"
flags = ["-mcpu=cortex-m3", "-mthumb"]
start-through = "qemu-system-arm -M mps2-an385 -nographic -semihosting -kernel"
""")
    built = run("board", "build", "--run")
    expect("two Cortex-M3 images that share a function", built, "boot: 42 at 0x00010000", "main: 77 at 0x00010000", "in SHARED")
    expect("and again", run("board", "build"), "nothing to do")


avr()
cortex()
print(f"{len(failures)} failed" if failures else "all started, and said what they should")
sys.exit(bool(failures))
