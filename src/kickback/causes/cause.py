"""What a cause of a dependence on the frame rate is, and one that was found."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from kickback.causes.clamped import Pace
from kickback.causes.constants import ConstantRow
from kickback.laws.record import Law
from kickback.takes.record import Record

if TYPE_CHECKING:
    from kickback.causes.cures import Bench
    from kickback.causes.evidence import Evidence

__all__ = ["VERDICTS", "Cause", "CauseKind", "Term", "nothing_suspected"]

VERDICTS = ("breaks", "drifts", "note")
"""What a cause does, worst first; a note is a finding only against a budget of the user's."""


class Term(Record, frozen=True, kw_only=True):
    """A constant that shows a cause: with the own exponent that it has."""

    row: ConstantRow
    power: int


class Cause(Record, frozen=True, kw_only=True):
    """A cause in a group; its verdict is the kind's, unless the metrics make it a worse one.

    ``terms`` show it; ``evidence`` says how. ``other`` is a second reading that the takes
    cannot tell from it. ``metrics`` are those that it moves, filled in with the metrics.
    ``theta`` and ``pace`` are what some kinds know besides.
    """

    kind: "CauseKind"
    verdict: str
    terms: tuple[Term, ...] = ()
    evidence: str = ""
    other: str = ""
    metrics: tuple[str, ...] = ()
    fix: str = ""
    corrected: Mapping[str, float] = {}
    theta: float | None = None
    pace: Pace | None = None

    @property
    def name(self) -> str:
        """Return the name of its kind."""
        return self.kind.name


def nothing_suspected(_: Sequence[Law]) -> Sequence[Law]:
    """Return that no law of a single take shows a cause."""
    return ()


class CauseKind(Record, frozen=True, kw_only=True):
    """One entry of the table of causes.

    ``about`` is what it is, as a sentence. ``tell`` finds it in the constants of several
    rates, ``suspect`` picks the laws of one uneven take that show it. ``cure`` says what to
    write instead. ``everything`` says that it moves every metric, ``by_order`` that it moves
    those that the order of integration does; else its terms say what it moves. ``absorbs``:
    causes that are none of their own beside it, ``part_of`` those beside which it is none.
    """

    name: str
    about: str
    tell: "Callable[[Evidence], Cause | None]"
    cure: "Callable[[Cause, Bench], str]"
    verdict: str = "breaks"
    suspect: Callable[[Sequence[Law]], Sequence[Law]] = nothing_suspected
    everything: bool = False
    by_order: bool = False
    absorbs: tuple[str, ...] = ()
    part_of: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.name or not self.about or self.verdict not in VERDICTS:
            raise TypeError(
                f"the cause '{self.name}' is incomplete: it needs a name, what it is about, and a"
                f" verdict of {', '.join(VERDICTS)}"
            )
