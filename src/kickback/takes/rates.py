"""Frame rates as names: when two measured rates are one nominal rate."""

__all__ = ["same_rate"]


def same_rate(a: float, b: float) -> bool:
    """Whether two frame rates, 1/s, are one nominal rate: within 2 %."""
    return abs(a / b - 1) <= 0.02
