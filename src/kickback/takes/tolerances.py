"""Tolerances that one idea has everywhere: what arithmetic leaves, and what is beyond chance."""

__all__ = ["ARITHMETIC", "SURE", "TELLS"]

ARITHMETIC = 1e-9
"""Share of a quantity that arithmetic may leave of it: less is nothing, and no error is less."""

SURE = 3.0
"""Standard errors within which what differs may be chance, and beyond which it is not."""

TELLS = SURE**2
"""Chi squared by which one reading must be better than another."""
