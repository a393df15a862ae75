"""What a family of laws is: how it is fitted, what scales, what follows, how it reads."""

from collections.abc import Callable, Mapping, Sequence

from kickback.laws.record import Consequence, Constant, Law
from kickback.laws.step_model import StepModel
from kickback.takes.quantities import Dimension
from kickback.takes.record import Record

__all__ = ["Family", "no_consequence", "one_reading"]


def one_reading(_: Law) -> Sequence[Constant]:
    """Return that the frames of a law have no other reading."""
    return ()


def no_consequence(_: Law) -> Sequence[Consequence]:
    """Return that nothing follows from a law alone."""
    return ()


class Family(Record, frozen=True, kw_only=True):
    """One family of laws.

    ``constants`` are its constants' names and dimensions, ``words`` what it is, ``code`` how
    a law of it reads as a line of code. ``scaling``: the constants that go with the frame
    rate in ways of their own; others follow from them.

    ``models`` are what it makes of a step, a model for each clock that its constants may have and
    each order of its terms, the usual one first; ``tier`` says how simple it is: the simplest tier
    that explains observations is told. ``follows`` is
    what a law of it implies by itself. ``other_reading`` gives the constants that the same frames
    have as another family, and ``twins`` which of its own each stands for. ``stepped`` says that
    the time step multiplies its constants; ``against`` are those that are taken off.
    """

    name: str
    words: str
    constants: Mapping[str, Dimension]
    code: Callable[[Law], str]
    scaling: tuple[str, ...] = ()
    models: tuple[StepModel, ...] = ()
    tier: int = 0
    follows: Callable[[Law], Sequence[Consequence]] = no_consequence
    other_reading: Callable[[Law], Sequence[Constant]] = one_reading
    twins: Mapping[str, str] = {}
    stepped: bool = False
    against: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        unknown = set(self.scaling) - set(self.constants)
        made = {name for model in self.models for name in model.constants}
        unmade = made - set(self.constants)
        lacks = [
            what
            for what, missing in (
                ("a name", not self.name),
                ("words", not self.words),
                ("constants", not self.constants),
                (f"constants called {', '.join(sorted(unknown))}", bool(unknown)),
                (f"constants called {', '.join(sorted(unmade))}", bool(unmade)),
            )
            if missing
        ]
        if lacks:
            raise TypeError(f"the family '{self.name}' is incomplete: it lacks {lacks[0]}")
