"""Runs a command where the kernel knows no openat2, as kernels before Linux 5.6. usage: without_openat2.py PROGRAM ARGUMENT..."""
import ctypes
import os
import struct
import sys

PR_SET_SECCOMP, PR_SET_NO_NEW_PRIVS, FILTER = 22, 38, 2
LOAD, IS, GIVE = 0x20, 0x15, 0x06  # of the classic packet filter: load a word, jump if equal, return
OPENAT2, ENOSYS, ALLOW, ERROR = 437, 38, 0x7FFF0000, 0x00050000
steps = [(LOAD, 0, 0, 0), (IS, 0, 1, OPENAT2), (GIVE, 0, 0, ERROR | ENOSYS), (GIVE, 0, 0, ALLOW)]
program = ctypes.create_string_buffer(b"".join(struct.pack("HBBI", *step) for step in steps))
filter_ = ctypes.create_string_buffer(struct.pack("HxxxxxxP", len(steps), ctypes.addressof(program)))
libc = ctypes.CDLL(None, use_errno=True)
if libc.prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0) != 0 or libc.prctl(PR_SET_SECCOMP, FILTER, filter_) != 0:
    sys.exit(f"no filter can be set: {os.strerror(ctypes.get_errno())}")
os.execv(sys.argv[1], sys.argv[1:])
