"""How much a process that reads may take, and how it binds itself to that."""

from __future__ import annotations

import ctypes
import os
import resource
import signal
import sysconfig
from contextlib import suppress
from pathlib import Path

import msgspec

import summula
from summula.core.sandbox.landlock import give_up_files

_GIGABYTE = 1024**3
_LEAST_MEMORY, _MEMORY_PER_BYTE = 3 * _GIGABYTE // 2, 64  # a workbook is packed, and unfolds to so much
_SHARE_OF_FREE = 0.9  # of what the machine has free
_LEAST_SECONDS, _BYTES_PER_SECOND = 30, 20_000  # the slowest reader is one of packed XML, in Python
_UNKNOWN = 8 * _GIGABYTE  # free, where the machine does not tell
_GRACE = 5  # seconds between the signal that tells of too much work and the one that ends it
_ADDRESSES = 8 * _GIGABYTE  # what is reserved and never used
_PARENT_DIES = 1  # of prctl: a signal when the process that made this one has gone

# What the system's own libraries look up while they run.
_SYSTEM = (
    "/usr/lib", "/usr/local/lib", "/lib", "/lib64", "/usr/share/zoneinfo", "/etc/localtime", "/etc/ld.so.cache",
    "/proc/self", "/proc/meminfo", "/proc/cpuinfo", "/sys/devices/system/cpu", "/dev/null", "/dev/urandom",
)  # fmt: skip


class Limits(msgspec.Struct, frozen=True):
    """Bytes of memory beside what the process took before, and seconds of processor."""

    memory: int
    seconds: int


def limits_for(size: int) -> Limits:
    """For a source of so many bytes. Memory is bounded by what the machine has free."""
    memory = max(_LEAST_MEMORY, size * _MEMORY_PER_BYTE)
    return Limits(min(memory, int(free_memory() * _SHARE_OF_FREE)), _LEAST_SECONDS + size // _BYTES_PER_SECOND)


def free_memory() -> int:
    """Bytes that the machine has free; a guess where it does not tell."""
    with suppress(OSError, ValueError, IndexError), Path("/proc/meminfo").open(encoding="ascii") as lines:
        for line in lines:
            if line.startswith("MemAvailable:"):
                return int(line.split()[1]) * 1024
    return _UNKNOWN


def end_with_parent() -> None:
    """This process is killed when the one that made it ends."""
    ctypes.CDLL(None).prctl(_PARENT_DIES, signal.SIGKILL)


def confine(limits: Limits, readable: tuple[Path, ...], scratch: Path) -> None:
    """Bind this process, which has one thread, for good: it reads these files and the program's own, writes below
    `scratch`, and ends when it goes over its limits."""
    held = _own("VmData")
    _limit(resource.RLIMIT_DATA, held + limits.memory)
    _limit(resource.RLIMIT_AS, _own("VmSize") + limits.memory * 2 + _ADDRESSES)
    _limit(resource.RLIMIT_FSIZE, limits.memory)
    _limit(resource.RLIMIT_CORE, 0)
    seconds = int(sum(os.times()[:2])) + limits.seconds
    _limit(resource.RLIMIT_CPU, seconds, seconds + _GRACE)
    give_up_files([*readable, *_program()], [scratch])


def _program() -> list[Path]:
    """Where the program and what it is made of lie."""
    import msgspec as beside  # whatever is installed is beside it

    paths = sysconfig.get_paths()
    own = {paths["stdlib"], paths["platstdlib"], paths["purelib"], paths["platlib"]}
    own |= {str(Path(beside.__file__).parent.parent), str(Path(summula.__file__).parent)}
    return [Path(each) for each in (*sorted(own), *_SYSTEM)]


def _own(line: str) -> int:
    """A line of what the system tells of this process, in bytes."""
    with Path("/proc/self/status").open() as lines:
        return next(int(each.split()[1]) * 1024 for each in lines if each.startswith(f"{line}:"))


def _limit(which: int, most: int, hard: int | None = None) -> None:
    """At `most` comes a warning, at `hard` the end; where they are the same only that."""
    _, present = resource.getrlimit(which)
    hard = most if hard is None else hard
    hard = hard if present == resource.RLIM_INFINITY else min(hard, present)
    resource.setrlimit(which, (min(most, hard), hard))
