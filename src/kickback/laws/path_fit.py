"""What fitting a rule to the path of poor data gives."""

from collections.abc import Mapping

from kickback.takes.record import Record

__all__ = ["LAWLESS", "PathFit"]

LAWLESS = "no rule of the known kinds explains these frames"
"""Why there is no law where the noise hides none."""


class PathFit(Record, frozen=True, kw_only=True):
    """A path's outcome: ``law`` with values and standard errors by name, or ``none``.

    ``misfit``: root mean square of what is left, in the unit of the data. ``lawless`` says
    that no family explains it, not that the data are too poor to tell which does; ``clock``
    what its constants belong to, as in a Law.
    """

    law: str
    values: Mapping[str, float] = {}
    stderr: Mapping[str, float] = {}
    misfit: float = 0.0
    frames: int = 0
    reason: str = ""
    lawless: bool = False
    clock: str = "even"
