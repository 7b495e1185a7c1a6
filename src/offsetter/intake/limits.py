"""What a file from outside may cost. Applied to the process that parses it, before anything is opened."""

import ctypes
import math
import os
import resource
import signal

from offsetter.core.values.pixels import LONGEST_PX, MOST_PX

MAX_BYTES = 300 * 1024 * 1024
MAX_PIXELS, MAX_SIDE = MOST_PX, LONGEST_PX
CPU_SECONDS = 60
ADDRESS_BYTES = 6 * 1024**3
OF_THE_MACHINE = 0.6
"""Of all its memory, on one that has less."""
ARENAS = -8
"""mallopt's number for the most heaps that a process has."""
DIES_WITH_PARENT = 1
"""prctl's number for the signal that a child gets when its parent is gone."""
WALL_SECONDS = 90
BYTES_A_PIXEL, BESIDES_BYTES = 72, 1024**3
"""What looking at a picture takes: half as much again as the most that was measured (50 a pixel, 0.5 GB besides)."""


def end_with_parent(parent: int = 0) -> None:
    """A child whose server was killed does not go on alone; parent: its number, where it may be gone already."""
    ctypes.CDLL(None).prctl(DIES_WITH_PARENT, signal.SIGKILL)
    if parent and os.getppid() != parent:
        os._exit(1)


def few_arenas() -> None:
    """Threads share two heaps instead of one a thread: what previews of ever other sizes leave behind in each would add up."""
    ctypes.CDLL(None).mallopt(ARENAS, 2)


def memory() -> int:
    """Bytes that this machine has."""
    return os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")


def hold_to(pixels: int) -> None:
    """Less memory, for a picture of so many pixels by its own header: one that needs more than it promised is refused."""
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    wanted = BESIDES_BYTES + pixels * BYTES_A_PIXEL
    resource.setrlimit(resource.RLIMIT_AS, (wanted if soft == resource.RLIM_INFINITY else min(wanted, soft), hard))


def allow(seconds: float) -> None:
    """So much processor time from now on, where it is limited: for a piece of work whose size is known."""
    soft, hard = resource.getrlimit(resource.RLIMIT_CPU)
    if soft != resource.RLIM_INFINITY:
        used = resource.getrusage(resource.RUSAGE_SELF)
        wanted = math.ceil(used.ru_utime + used.ru_stime + seconds)
        resource.setrlimit(resource.RLIMIT_CPU, (wanted if hard == resource.RLIM_INFINITY else min(wanted, hard), hard))


def confine() -> None:
    """Limit this process's memory, processor time, files and core dump; it cannot be undone."""
    end_with_parent()
    for what, value in (
        (resource.RLIMIT_AS, min(ADDRESS_BYTES, int(memory() * OF_THE_MACHINE))),
        (resource.RLIMIT_CPU, CPU_SECONDS),
        (resource.RLIMIT_FSIZE, 2 * 1024**3),
        (resource.RLIMIT_NOFILE, 128),
        (resource.RLIMIT_CORE, 0),
    ):
        hard = resource.getrlimit(what)[1]
        resource.setrlimit(what, (value if hard == resource.RLIM_INFINITY else min(value, hard), hard))
