"""What a file from outside may cost. Applied to the process that parses it, before anything is opened."""

import resource

MAX_BYTES = 300 * 1024 * 1024
MAX_PIXELS = 140_000_000  # twice A3 at 600 dpi
MAX_SIDE = 30_000 - 1
CPU_SECONDS = 60
ADDRESS_BYTES = 6 * 1024**3
WALL_SECONDS = 90


def confine() -> None:
    """Limit this process's memory, processor time, files and core dump; it cannot be undone."""
    for what, value in (
        (resource.RLIMIT_AS, ADDRESS_BYTES),
        (resource.RLIMIT_CPU, CPU_SECONDS),
        (resource.RLIMIT_FSIZE, 2 * 1024**3),
        (resource.RLIMIT_NOFILE, 128),
        (resource.RLIMIT_CORE, 0),
    ):
        hard = resource.getrlimit(what)[1]
        resource.setrlimit(what, (value if hard == resource.RLIM_INFINITY else min(value, hard), hard))
