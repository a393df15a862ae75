"""What the laws of a take leave unexplained, step by step."""

import numpy as np

from kickback.laws.record import Law
from kickback.laws.steps import Steps
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Residuals", "foretold"]


class Residuals(Record, frozen=True, kw_only=True):
    """A law's residuals, arrays of shape (k,): times, s, and speeds less foretold ones."""

    phase: str
    track: str
    t: FloatArray
    v: FloatArray


def foretold(law: Law, steps: Steps) -> FloatArray | None:
    """Return the speeds after the steps that a law foretells, shape (k,); None where none does."""
    if law.family is None or law.model is None or not law.model.terms:
        return None
    c = np.array([law.value(name) for name in law.model.constants])
    return np.asarray(law.model.after(steps.v0, steps.dt, law.frame, c))
