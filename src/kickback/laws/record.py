"""What recovery gives: laws with their constants, and the flat records made of them."""

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from kickback.laws.keys import PhaseKey
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import ACCELERATION, FRAMES, SPEED, TIME, Unit
from kickback.takes.record import Record
from kickback.takes.roles import Role

if TYPE_CHECKING:
    from pandas import DataFrame

    from kickback.laws.families.family import Family
    from kickback.laws.step_model import StepModel

__all__ = ["Consequence", "Constant", "Law", "Laws"]


class Constant(Record, frozen=True, kw_only=True):
    """A law's constant; ``stderr`` is its standard error, None where it is not estimated.

    ``between``: what it is known to lie between, where that is all that is known of it; the
    upper end is infinite where nothing shows it: then the ``value`` is the lower one.
    """

    name: str
    value: float
    unit: Unit
    stderr: float | None = None
    between: tuple[float, float] | None = None

    @property
    def open(self) -> bool:
        """Whether it is only known to be more than its value."""
        return self.between is not None and self.between[1] == float("inf")


class Law(Record, frozen=True, kw_only=True):
    """The rule of equal phases of a take along one axis.

    ``role`` is that of the track, ``start`` and ``end`` the first and last moment that it was
    read from, s. ``family`` is None, with the ``reason``, where there is no law. ``frames`` steps
    were used; ``misfit`` is the root mean square of what the rule leaves, in the unit of the
    speed (or of the position, for a position rule). ``frame`` is the usual time step, s. ``model``
    is what a step does by it, where it is one of steps.

    ``clock`` says what the constants belong to: ``even`` (cannot be told), ``second``,
    ``frame``, ``square`` (the time step twice), ``step`` (an impulse that the time step
    multiplies) or, for a rate, ``first-order``. A drive's is that of its friction; ``gain``
    that of its acceleration, ``clocks`` those of what resists beside, by name where they are
    told apart; ``friction_first`` is a drive's order. ``unlike`` says that the phases
    which were pooled disagree, ``lawless`` that they follow none of the known families.
    ``by_frame``: its speeds are lengths a frame in the code, which has no time step there.
    """

    take: str
    role: Role
    phase: PhaseKey
    start: float
    end: float
    axis: str
    family: "Family | None" = None
    constants: tuple[Constant, ...] = ()
    model: "StepModel | None" = None
    reason: str | None = None
    frames: int = 0
    misfit: float | None = None
    frame: float = 0.0
    clock: str = "even"
    gain: str = "second"
    clocks: Mapping[str, str] = {}
    friction_first: bool = False
    unlike: bool = False
    lawless: bool = False
    by_frame: bool = False

    @property
    def shown(self) -> "tuple[Constant, ...]":
        """Return the constants in the units that the code has them in.

        Speeds that move the position by themselves in each frame are lengths a frame.
        """
        if not self.by_frame:
            return self.constants
        return tuple(_by_frame(one, self.frame) for one in self.constants)

    def clock_of(self, constant: str) -> str:
        """Return whose one of several forces is, by its constant's name."""
        return self.clocks.get(constant, self.gain)

    @property
    def track(self) -> str:
        """Return the name of the track."""
        return self.role.name

    @property
    def law(self) -> str:
        """Return the name of the family, or ``none``."""
        return "none" if self.family is None else self.family.name

    @property
    def name(self) -> str:
        """Return what the law is of in words; a position rule is that of a track."""
        return f"{self.track} {self.phase}" if self.phase.base == "position" else str(self.phase)

    def value(self, name: str) -> float:
        """Return a constant's value; KeyError where the law has none of that name."""
        return self.constant(name).value

    def constant(self, name: str) -> Constant:
        """Return a constant; KeyError where the law has none of that name."""
        for item in self.constants:
            if item.name == name:
                return item
        raise KeyError(name)

    def to_records(self) -> list[PlainDict]:
        """Return a flat record for each constant, or one without for a law that has none."""
        base = {
            "take": self.take,
            "track": self.track,
            "phase": str(self.phase),
            "start": self.start,
            "end": self.end,
            "axis": self.axis,
            "law": self.law,
        }
        nothing = {"constant": None, "value": None, "unit": None, "stderr": None}
        rows: list[PlainDict] = [
            {
                "constant": one.name,
                "value": None if one.open else one.value,  # a bound is no value
                "unit": str(one.unit),
                "stderr": one.stderr,
            }
            for one in self.shown
        ]
        return [{**base, **row, "reason": self.reason} for row in rows or [nothing]]


def _by_frame(one: Constant, frame: float) -> Constant:
    """Return a constant by the frame, where it is a speed or what changes one."""
    power = {SPEED: 0, ACCELERATION: 1}.get(one.unit.dimension)
    if power is None:
        return one
    size = frame**power
    return Constant(
        name=one.name,
        value=one.value * size,
        unit=one.unit * (TIME / FRAMES) ** (power + 1),
        stderr=None if one.stderr is None else one.stderr * size,
    )


class Consequence(Record, frozen=True, kw_only=True):
    """A number that a law implies: of which phase, what it is, its value and unit.

    ``given`` is what it takes for granted, where the take does not show it.
    """

    phase: str
    what: str
    value: float
    unit: Unit
    given: str = ""


class Laws(Record, frozen=True, kw_only=True):
    """The laws of one take, and what follows from them.

    ``even`` says that all its frames lasted equally long: then nothing tells whether a
    constant belongs to the frame or to the second. ``clock_signs`` are numbers that would: they
    stay at other rates, or go against the rate.
    """

    rows: Sequence[Law]
    even: bool = True
    consequences: Sequence[Consequence] = ()
    clock_signs: Sequence[Consequence] = ()

    def __iter__(self) -> Iterator[Law]:
        """Iterate over the laws."""
        return iter(self.rows)

    def __len__(self) -> int:
        """Return the number of laws."""
        return len(self.rows)

    def __getitem__(self, phase: str | PhaseKey) -> Law:
        """Return the first law of a phase; KeyError where there is none."""
        for row in self.rows:
            if str(row.phase) == str(phase):
                return row
        raise KeyError(str(phase))

    def to_records(self) -> list[PlainDict]:
        """Return the flat records of all laws."""
        return [record for row in self.rows for record in row.to_records()]

    def to_frame(self) -> "DataFrame":
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records())
