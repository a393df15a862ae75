"""Numbers as people read them."""

import math

__all__ = ["plain"]


def plain(value: float) -> str:
    """Return a number with four significant digits, never in exponent form where avoidable."""
    if abs(value) < 1e-11:  # what arithmetic leaves of nothing
        return "0"
    if not math.isfinite(value):
        return str(value)
    value = float(f"{value:.3e}")  # what rounds up to 1 has a digit less behind its point
    size = abs(value)
    if size >= 1e7 or size < 1e-5:
        return f"{value:.3g}"
    digits = max(0, 3 - math.floor(math.log10(size)))
    return f"{value:.{min(digits, 7)}f}"
