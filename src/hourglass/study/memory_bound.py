"""A bound on the memory of the process that sets it."""

import resource


def bound_memory(more: int) -> None:
    """Let this process take that many bytes beyond what it has, and leave no image when it breaks off.

    What libraries take as they load differs from machine to machine, with the number of its processors too:
    the bound is on what comes after them.
    """
    most = _taken() + more
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _taken() -> int:
    """Bytes of data that this process has requested, as the bound counts them."""
    with open("/proc/self/status", encoding="ascii", errors="replace") as file:
        line = next(line for line in file if line.startswith("VmData:"))
    return int(line.split()[1]) * 1024
