"""What recovery gives: laws with their constants, and the flat records made of them."""

from collections.abc import Sequence
from typing import Any

from kickback.takes.record import Record

__all__ = ["UNITS", "Constant", "Law", "Laws"]

UNITS = {"acceleration": "{0}/s²", "goal": "{0}/s", "speed": "{0}/s", "rate": "1/s", "factor": ""}
"""The unit of each constant, with the length unit to be filled in."""


class Constant(Record, frozen=True, kw_only=True):
    """A law's constant; ``stderr`` is its standard error, None where it is not estimated."""

    name: str
    value: float
    unit: str
    stderr: float | None = None


class Law(Record, frozen=True, kw_only=True):
    """The rule of equal phases of a take along one axis.

    ``start`` and ``end``: the first and last moment that it was read from, s. ``law`` is
    ``none`` where there is none, with the ``reason``. ``frames`` steps were used; ``misfit``
    is the root mean square of what the rule leaves, in the unit of the speed (or of the
    position, for a position rule). ``frame`` is the usual time step, s.

    ``clock`` says what the constants belong to: ``even`` (cannot be told), ``second``,
    ``frame``, ``square`` (the time step twice) or, for a rate, ``first-order``. A drive's is
    that of its friction; ``gain`` that of its acceleration, ``friction_first`` its order.
    ``unlike`` says that the phases which were pooled disagree.
    """

    take: str
    track: str
    phase: str
    start: float
    end: float
    axis: str
    law: str
    constants: tuple[Constant, ...] = ()
    reason: str | None = None
    frames: int = 0
    misfit: float | None = None
    frame: float = 0.0
    clock: str = "even"
    gain: str = "second"
    friction_first: bool = False
    unlike: bool = False

    def value(self, name: str) -> float:
        """Return a constant's value; KeyError where the law has none of that name."""
        return self.constant(name).value

    def constant(self, name: str) -> Constant:
        """Return a constant; KeyError where the law has none of that name."""
        for item in self.constants:
            if item.name == name:
                return item
        raise KeyError(name)

    def to_records(self) -> list[dict[str, Any]]:
        """Return a flat record for each constant, or one without for a law that has none."""
        base = {
            "take": self.take,
            "track": self.track,
            "phase": self.phase,
            "start": self.start,
            "end": self.end,
            "axis": self.axis,
            "law": self.law,
        }
        nothing = {"constant": None, "value": None, "unit": None, "stderr": None}
        rows: list[dict[str, Any]] = [
            {"constant": item.name, "value": item.value, "unit": item.unit, "stderr": item.stderr}
            for item in self.constants
        ]
        return [{**base, **row, "reason": self.reason} for row in rows or [nothing]]


class Laws(Record, frozen=True, kw_only=True):
    """The laws of one take, travel first.

    ``even`` says that all its frames lasted equally long: then nothing tells whether a
    constant belongs to the frame or to the second.
    """

    rows: Sequence[Law]
    even: bool = True

    def __iter__(self) -> Any:
        """Iterate over the laws."""
        return iter(self.rows)

    def __len__(self) -> int:
        """Return the number of laws."""
        return len(self.rows)

    def __getitem__(self, phase: str) -> Law:
        """Return the first law of a phase; KeyError where there is none."""
        for row in self.rows:
            if row.phase == phase:
                return row
        raise KeyError(phase)

    def to_records(self) -> list[dict[str, Any]]:
        """Return the flat records of all laws."""
        return [record for row in self.rows for record in row.to_records()]

    def to_frame(self) -> Any:
        """Return the records as a pandas table."""
        import pandas as pd

        return pd.DataFrame(self.to_records())
