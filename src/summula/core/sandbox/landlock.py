"""Landlock: a process gives up the files that it does not need, for good. See landlock(7) of the Linux manual."""

from __future__ import annotations

import ctypes
import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable
    from pathlib import Path

# System calls of every architecture that has them, and prctl's number for "no new privileges".
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446
_NO_NEW_PRIVILEGES = 38
_TELL_VERSION, _PATH_BENEATH = 1, 1

# Rights by bit: 0 execute, 1 write, 2 read, 3 list, 4-12 remove and make, 13 link elsewhere, 14 truncate, 15 ioctl.
_READ_FILE, _READ = 1 << 2, 1 << 2 | 1 << 3
_WRITE_FILE, _TRUNCATE = 1 << 1, 1 << 14
_WRITE = _READ | _WRITE_FILE | 1 << 4 | 1 << 5 | 1 << 7 | 1 << 8
_FILES_BY_VERSION = {1: 13, 2: 14, 3: 15, 4: 15}
_FILES_NOW = 16  # bits from version 5 on
_NETWORK = 1 << 0 | 1 << 1  # bind and connect by TCP, from version 4 on
_SCOPES = 1 << 0 | 1 << 1  # abstract sockets and signals of processes outside, from version 6 on


class _Ruleset(ctypes.Structure):
    _fields_ = [("files", ctypes.c_uint64), ("network", ctypes.c_uint64), ("scoped", ctypes.c_uint64)]


class _Beneath(ctypes.Structure):
    _pack_ = 1
    _fields_ = [("allowed", ctypes.c_uint64), ("parent", ctypes.c_int32)]


_libc = ctypes.CDLL(None, use_errno=True)


def version() -> int:
    """The version that the kernel has; 0 where it has none."""
    return max(0, int(_libc.syscall(_CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(_TELL_VERSION))))


def give_up_files(readable: Iterable[Path], writable: Iterable[Path]) -> bool:
    """From now on this thread, and those it starts, open only these files and what is below these folders, and connect
    to nothing. False where the kernel has no Landlock. Raises OSError where it has and refuses."""
    known = version()
    if not known:
        return False
    files = (1 << _FILES_BY_VERSION.get(known, _FILES_NOW)) - 1
    network, scoped = _NETWORK if known >= 4 else 0, _SCOPES if known >= 6 else 0
    size = 8 if known < 4 else 16 if known < 6 else 24
    wanted = _Ruleset(files, network, scoped)
    rules = _libc.syscall(_CREATE_RULESET, ctypes.byref(wanted), ctypes.c_size_t(size), ctypes.c_uint32(0))
    _check(rules)
    try:
        for path in readable:
            _allow(rules, path, files & (_READ if path.is_dir() else _READ_FILE))
        for path in writable:
            _allow(rules, path, files & (_WRITE | _TRUNCATE if path.is_dir() else _READ_FILE | _WRITE_FILE | _TRUNCATE))
        _check(_libc.prctl(_NO_NEW_PRIVILEGES, 1, 0, 0, 0))
        _check(_libc.syscall(_RESTRICT_SELF, rules, ctypes.c_uint32(0)))
    finally:
        os.close(rules)
    return True


def _allow(rules: int, path: Path, rights: int) -> None:
    """What is not there needs no rule."""
    try:
        opened = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except OSError:
        return
    try:
        beneath = _Beneath(rights, opened)
        _check(_libc.syscall(_ADD_RULE, rules, _PATH_BENEATH, ctypes.byref(beneath), ctypes.c_uint32(0)))
    finally:
        os.close(opened)


def _check(result: int) -> None:
    if result < 0:
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number))
