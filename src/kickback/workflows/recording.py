"""``record``: from a stream of lines to takes on disk."""

from collections.abc import Callable
from pathlib import Path

from kickback.errors import InputError
from kickback.files.read import read_take
from kickback.record.pipe import read_pipe
from kickback.record.session import Finished, Session
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["Recorded", "record_pipe"]


class Recorded(Record, frozen=True, kw_only=True):
    """A take that was saved; ``take`` is None with a problem where it cannot be measured."""

    finished: Finished
    take: Take | None
    problem: str


def record_pipe(
    descriptor: int, folder: Path, *, gap: float, report: Callable[[Recorded], None]
) -> Session:
    """Save takes from a pipe until it ends; ``report`` hears of each.

    Raises InputError where a file cannot be written or no frame came at all.
    """
    count = 0

    def on_finish(finished: Finished) -> None:
        nonlocal count
        count += 1
        report(_checked(finished))

    session = Session(folder=folder, gap=gap, on_finish=on_finish)
    try:
        read_pipe(descriptor, session, gap=gap)
    except KeyboardInterrupt:
        session.close()
    if not count:
        detail = f"; {session.first_refusal}" if session.first_refusal else ""
        raise InputError(f"no frame came{detail}", "standard input")
    return session


def _checked(finished: Finished) -> Recorded:
    try:
        take = read_take(finished.path)
    except InputError as error:
        return Recorded(finished=finished, take=None, problem=str(error))
    return Recorded(finished=finished, take=take, problem="")
