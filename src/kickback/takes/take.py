"""A take: a header and one table of frames, checked once when it is made."""

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

import msgspec
import numpy as np
import numpy.typing as npt

from kickback.errors import InputError, nearest
from kickback.takes.header import Header
from kickback.takes.plain import PlainDict
from kickback.takes.record import Record

if TYPE_CHECKING:
    from pandas import DataFrame

__all__ = ["Column", "FloatArray", "Take"]

FloatArray = npt.NDArray[np.float64]
Column = npt.NDArray[Any]

_STATED = 0.05
"""Share by which the times may miss the rate that a header states: timers drift, 50 is not 60."""

_FAR = 100.0
"""Times the spacing of the times that a step in seconds never is."""


class Take(Record, frozen=True, kw_only=True):
    """One recorded run.

    ``columns`` maps names to read-only arrays of shape (n,), up positive. ``derived``
    names those that no file gave; ``warnings`` are sentences from reading. ``mapped`` says that a
    mapping made the columns, and ``made`` by which scale and offset where it did so by these
    alone: ``value = raw·scale + offset`` has the digits of the raw number. ``shown_rate`` is the
    frame rate of the display where the rows are steps of a slower physics. ``name`` stands for the
    take in tables; ``source`` is where it came from.
    """

    header: Header
    columns: Mapping[str, Column]
    name: str
    source: str = ""
    derived: frozenset[str] = frozenset()
    warnings: Sequence[str] = ()
    mapped: bool = False
    made: Mapping[str, tuple[float, float]] = {}
    shown_rate: float | None = None

    def __post_init__(self) -> None:
        """Freeze the columns and check that they are of one length."""
        frozen = dict(self.columns)
        for name, column in frozen.items():
            if column.flags.writeable:
                frozen[name] = view = column.view()
                view.flags.writeable = False
        if len(set(map(len, frozen.values()))) != 1:
            raise InputError("the columns of a take must be equally long", self.name)
        msgspec.structs.force_setattr(self, "columns", MappingProxyType(frozen))

    def __reduce__(self) -> tuple[Callable[..., "Take"], tuple[object, ...]]:
        """Return what another process makes the same take of."""
        fields = {name: getattr(self, name) for name in self.__struct_fields__}
        return _take_of, ({**fields, "columns": dict(self.columns)},)

    def __len__(self) -> int:
        """Return the number of frames."""
        return len(next(iter(self.columns.values())))

    def __contains__(self, name: object) -> bool:
        """Whether the take has a column of that name."""
        return name in self.columns

    def numbers(self, name: str) -> FloatArray:
        """Return a column of numbers, shape (n,).

        Raises InputError where the take lacks it (naming the nearest) or it holds text.
        """
        column = self.columns.get(name)
        if column is None:
            raise InputError(f"no column '{name}'{nearest(name, self.columns)}", self.name)
        if column.dtype.kind != "f":
            raise InputError(f"column '{name}' holds text, not numbers", self.name)
        return column

    def to_frame(self) -> "DataFrame":
        """Return the frames as a pandas table, a column each, up positive."""
        from kickback.takes.frames import data_frame

        return data_frame(dict(self.columns))

    @property
    def frame_rate(self) -> float:
        """Return frames per second: the header's where the times agree within 5 %."""
        if self.shown_rate is not None:
            return self.shown_rate
        t = self.numbers("t")
        span, stated = float(t[-1] - t[0]), self.header.frame_rate
        if span <= 0:  # a clock that does not advance is let through to be reported
            return stated or 0.0
        measured = (len(t) - 1) / span
        if stated is not None and abs(measured / stated - 1) <= _STATED:
            return stated
        return measured

    @property
    def duration(self) -> float:
        """Return the time from the start of the first frame to the end of the last, s."""
        t, first = self.numbers("t"), float(self.numbers("dt")[0])
        if len(t) > 1 and first > _FAR * (spacing := float(t[1] - t[0])) > 0:
            first = spacing  # a step in another unit
        return float(t[-1] - t[0] + first)


def _take_of(fields: PlainDict) -> Take:
    return Take(**fields)
