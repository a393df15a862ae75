"""Which column is up, which is along the ground, and the sign that makes up positive."""

from kickback.takes.header import Header

__all__ = ["flipped_columns", "ground_axes", "ground_axis", "up_axis"]


def up_axis(header: Header) -> str:
    """Return the letter of the axis that is up (in a top view: drawn upward)."""
    return header.up[1]


def ground_axis(header: Header) -> str:
    """Return the letter of the first ground axis: x, or y where x is up."""
    return "y" if up_axis(header) == "x" else "x"


def ground_axes(header: Header) -> str:
    """Return the letters of the ground's axes: one in a side view, two in any other.

    In a top view the second is the one that is drawn upward.
    """
    if header.view == "side":
        return ground_axis(header)
    if header.view == "top":
        return ground_axis(header) + up_axis(header)
    return "".join(axis for axis in "xyz" if axis != up_axis(header))


def flipped_columns(header: Header) -> frozenset[str]:
    """Return the columns whose sign is turned between file and memory (``up`` negative)."""
    if header.up[0] == "+":
        return frozenset()
    axis = up_axis(header)
    names = ("{}", "v{}", "camera_{}", "platform_v{}", "target_{}")
    flipped = frozenset(name.format(axis) for name in names)
    # from above it is one of the ground's axes, toward which headings turn
    return flipped | {"heading"} if header.view == "top" else flipped
