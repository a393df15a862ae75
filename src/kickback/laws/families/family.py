"""What a family of laws is: how it is fitted, what scales, what follows, how it reads."""

from collections.abc import Callable, Mapping, Sequence

from kickback.laws.evidence import PathEvidence
from kickback.laws.fit import Fit
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Consequence, Constant, Law
from kickback.laws.recurrence import Recurrence
from kickback.laws.steps import Steps
from kickback.takes.quantities import Dimension
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Family", "Rule", "no_consequence", "one_reading"]

Rule = Callable[[Steps], Fit]
"""Fits one form of a rule to exact steps."""


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

    ``rules`` fit exact steps, ``uneven_rules`` those of uneven length, one rule for each clock
    that its constants may belong to; ``tier`` says how simple it is: the simplest tier that
    explains the steps is told. ``on_path`` fits poor data: None where it does not explain
    them, ``none`` with a reason where the data cannot tell; families are asked in their
    order in the table. ``recurrences``: the same rules for printed speeds, first the one whose
    constants belong to the second. ``step_size`` gives of each step what goes with its
    length to the exponent's power. ``ahead`` foretells the speeds after steps. ``follows`` is
    what a law of it implies by itself. ``other_reading`` gives the constants that the same frames
    have as another family, and ``twins`` which of its own each stands for. ``stepped`` says that
    the time step multiplies its constants; ``against`` are those that are taken off.
    """

    name: str
    words: str
    constants: Mapping[str, Dimension]
    code: Callable[[Law], str]
    scaling: tuple[str, ...] = ()
    rules: tuple[Rule, ...] = ()
    uneven_rules: tuple[Rule, ...] = ()
    tier: int = 0
    on_path: Callable[[PathEvidence], PathFit | None] | None = None
    recurrences: tuple[Recurrence, ...] = ()
    step_size: Callable[[Fit, Steps], FloatArray] | None = None
    ahead: Callable[[Law, Steps], FloatArray] | None = None
    follows: Callable[[Law], Sequence[Consequence]] = no_consequence
    other_reading: Callable[[Law], Sequence[Constant]] = one_reading
    twins: Mapping[str, str] = {}
    stepped: bool = False
    against: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        unknown = set(self.scaling) - set(self.constants)
        lacks = [
            what
            for what, missing in (
                ("a name", not self.name),
                ("words", not self.words),
                ("constants", not self.constants),
                (f"constants called {', '.join(sorted(unknown))}", bool(unknown)),
                ("rules for uneven steps", bool(self.rules) and not self.uneven_rules),
                ("what its steps foretell", bool(self.uneven_rules) and self.ahead is None),
            )
            if missing
        ]
        if lacks:
            raise TypeError(f"the family '{self.name}' is incomplete: it lacks {lacks[0]}")
