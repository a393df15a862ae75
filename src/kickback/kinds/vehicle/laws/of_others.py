"""What the takes of one game tell each other: what rolls in one that coasts rolls in all."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.vehicle.laws.drive import Rolling, beside, rolling_of
from kickback.kinds.vehicle.roles import FORWARD
from kickback.laws.record import Law, Laws
from kickback.takes.numeric import median
from kickback.takes.record import replace
from kickback.takes.tolerances import SURE

__all__ = ["with_rolling_of_others"]

_PEDALS = {"speed-up", "reverse", "brake"}

_SAME = 0.01
"""Share by which the losses of takes may differ beside their errors."""


def with_rolling_of_others(several: Sequence[Laws]) -> list[Laws]:
    """Return the laws of takes, with what rolls beside the pedals of those that never coast.

    Only where all that coast show one loss, of the second: a loss of the frame is another at
    another rate.
    """
    media = {law.phase.medium for laws in several for law in laws}
    for medium in media:
        shared = _shared(several, medium)
        if shared is not None:
            several = [_with(laws, medium, shared) for laws in several]
    return list(several)


def _shared(several: Sequence[Laws], medium: str) -> Rolling | None:
    """Return what rolls on a surface in all takes that coast there, None where they differ."""
    found = [rolling_of(laws.rows, medium) for laws in several if _coasts(laws, medium)]
    known = [one for one in found if one is not None and not one.by_frame]
    if not known or len(known) < len(found):
        return None
    values = np.array([one.loss.value for one in known])
    error = max(one.loss.stderr or 0.0 for one in known)
    middle = median(values)
    same = float(np.ptp(values)) <= SURE * error + _SAME * abs(middle)
    loss = replace(known[0].loss, value=middle, stderr=error)
    return known[0]._replace(loss=loss) if same else None


def _coasts(laws: Laws, medium: str) -> bool:
    return any(law.phase.base == "coast" and law.phase.medium == medium for law in laws)


def _with(laws: Laws, medium: str, rolling: Rolling) -> Laws:
    if _coasts(laws, medium):
        return laws

    def told(law: Law) -> Law:
        pedal = law.role is FORWARD and law.phase.base in _PEDALS and law.phase.medium == medium
        return beside(law, rolling) if pedal and law.family is not None else law

    return replace(laws, rows=[told(law) for law in laws])
