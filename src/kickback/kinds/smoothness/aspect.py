"""Smoothness, as it goes with any kind."""

import numpy as np

from kickback.kinds.aspect import Aspect, Measured
from kickback.kinds.picture import Curve
from kickback.motion.motion import Motion
from kickback.takes.numeric import median
from kickback.takes.quantities import TIME, Unit

__all__ = ["SMOOTHNESS"]

_UNEVEN = 1.02
"""Times the usual frame from which a longest one is worth a strip."""


def _curves(motion: Motion) -> list[Curve]:
    """Return how long frames last, where they do not all last alike."""
    step = 1e3 * motion.step
    if float(np.max(step[1:], initial=0.0)) < _UNEVEN * median(step):
        return []
    unit = Unit(TIME, motion.take.header.length_unit, milli=True)
    return [Curve(label="frame time", role="", unit=unit, t=motion.t, y=step, strip=True)]


def _measured() -> Measured:
    from kickback.kinds.smoothness.metrics import METRICS

    return Measured(metrics=METRICS)


SMOOTHNESS = Aspect(name="smoothness", curves=_curves, load_measured=_measured)
