"""Fitting a rule to poor data: to whole stretches of positions or speeds, with their noise."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.evidence import Path, PathEvidence
from kickback.laws.families.family import Family
from kickback.laws.families.table import FAMILIES
from kickback.laws.path_fit import LAWLESS, PathFit
from kickback.takes.take import FloatArray

__all__ = ["fit_path", "fit_paths"]

FEWEST = 8
"""Frames below which poor data tell no law."""

_LEAST = 1e-12
"""Share of the largest value that is noise at least: what arithmetic leaves."""


def fit_path(
    t: FloatArray, y: FloatArray, sigma: float, *, position: bool, rounding: float = 0.0
) -> PathFit:
    """Return the simplest family that explains one stretch; see ``fit_paths``."""
    return fit_paths([(t, y)], sigma, position=position, rounding=rounding)


def fit_paths(
    paths: Sequence[Path],
    sigma: float,
    *,
    position: bool,
    rounding: float = 0.0,
    families: Sequence[Family] = FAMILIES,
) -> PathFit:
    """Return the simplest family that explains stretches within their noise.

    ``paths``: times, s, and positions or speeds of each, shape (n,); ``sigma``: the standard
    deviation of their noise, 0 where it is not known: then it is told from third
    differences, ``σ² = mean(Δ³y²)/20``; ``rounding``: the part of it that is rounding, below
    which no error is believed. A family is no answer where another one of the
    same size explains as much, or where the noise hides a bend that would matter.
    """
    if sum(len(y) for _, y in paths) < FEWEST:
        return PathFit(law="none", reason=f"fewer than {FEWEST} frames, too few with such noise")
    third = np.concatenate([np.diff(y, 3) for _, y in paths])
    noise = sigma or float(np.sqrt(np.mean(third**2) / 20))
    noise = max(noise, _LEAST * max(float(np.max(np.abs(y))) for _, y in paths))
    evidence = PathEvidence(paths, noise, position=position, rounding=rounding)
    for family in families:
        found = family.on_path(evidence) if family.on_path is not None else None
        if found is not None:
            return found
    return PathFit(law="none", reason=LAWLESS, lawless=True)
