"""What fitting a rule to exact steps gives."""

from collections.abc import Mapping

from kickback.takes.record import Record

__all__ = ["FEWEST", "NO_FIT", "Fit"]

FEWEST = 4
"""Steps below which no law is told: two constants, and as many again to hold them to."""


class Fit(Record, frozen=True, kw_only=True):
    """A rule's outcome: ``law`` with values and standard errors by name, or ``none``.

    ``clock`` says what its constants belong to, as in a Law, with ``gain`` and
    ``friction_first`` for a drive. ``misfit``: root mean
    square of what is left, length/s.
    """

    law: str
    values: Mapping[str, float] = {}
    stderr: Mapping[str, float] = {}
    clock: str = "even"
    gain: str = "second"
    friction_first: bool = False
    misfit: float = 0.0
    reason: str = ""
    exponent: tuple[float, float] | None = None


NO_FIT = Fit(law="none", misfit=float("inf"))
"""A rule that cannot be fitted at all."""
