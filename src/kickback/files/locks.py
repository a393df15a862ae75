"""Locks on files that are being written, by which what was left behind is told."""

try:
    import fcntl
except ImportError:  # where files have no such locks, an open one cannot be renamed either
    fcntl = None  # type: ignore[assignment]

__all__ = ["lock"]


def lock(descriptor: int) -> None:
    """Lock an open file for this process; raises OSError where another one has it."""
    if fcntl is not None:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
