"""Frame rates as names: when two measured rates are one nominal rate."""

__all__ = ["NOMINAL", "same_rate"]

NOMINAL = 0.02
"""Share by which two rates of one name differ at most: 60 and 59.94 are one, 60 and 64 are two."""


def same_rate(a: float, b: float, loose: float = 0.0) -> bool:
    """Whether two frame rates, 1/s, are one nominal rate: within ``NOMINAL``.

    ``loose`` is the share by which uneven frames leave them uncertain beside that.
    """
    return abs(a / b - 1) <= NOMINAL + loose
