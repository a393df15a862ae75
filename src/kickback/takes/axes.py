"""Which column is up, which is along the ground, and the sign that makes up positive."""

from kickback.takes.header import Header

__all__ = ["flipped_columns", "ground_axis", "up_axis"]


def up_axis(header: Header) -> str:
    """Return the letter of the axis that is up (in a top view: drawn upward)."""
    return header.up[1]


def ground_axis(header: Header) -> str:
    """Return the letter of the first ground axis: x, or y where x is up."""
    return "y" if up_axis(header) == "x" else "x"


def flipped_columns(header: Header) -> frozenset[str]:
    """Return the columns whose sign is turned between file and memory (``up`` negative)."""
    if header.up[0] == "+":
        return frozenset()
    axis = up_axis(header)
    return frozenset({axis, f"v{axis}", f"camera_{axis}"})
