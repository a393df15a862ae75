"""Smoothness, as it goes with any kind."""

from kickback.kinds.aspect import Aspect
from kickback.kinds.smoothness.metrics import METRICS

__all__ = ["SMOOTHNESS"]

SMOOTHNESS = Aspect(name="smoothness", metrics=METRICS)
