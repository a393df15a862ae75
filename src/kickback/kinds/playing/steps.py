"""The time steps of the frames that a model plays."""

import numpy as np

from kickback.errors import UsageError
from kickback.takes.take import FloatArray

__all__ = ["frame_steps"]


def frame_steps(
    frame_rate: float, length: float, *, jitter: float = 0.0, seed: int = 0
) -> FloatArray:
    """Return time steps, shape (n,), s, that together last ``length`` seconds.

    With ``jitter`` j each step is uniform in ``(1 ± j)/frame_rate``, from the seed.
    Raises UsageError for a rate, length or jitter that makes no sense.
    """
    if not 1 <= frame_rate <= 100_000:
        raise UsageError(f"the frame rate must lie between 1 and 100000, not {frame_rate:g}")
    if not 0 <= jitter < 1:
        raise UsageError(f"the jitter must lie between 0 and 1 (1 excluded), not {jitter:g}")
    count = max(2, round(length * frame_rate))
    steps = np.full(count, 1.0 / frame_rate)
    if jitter:
        steps *= np.random.default_rng(seed).uniform(1 - jitter, 1 + jitter, count)
    return steps
