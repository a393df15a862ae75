"""A thing and what it follows."""

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Followed"]


class Followed(Record, frozen=True, kw_only=True):
    """A thing and what it follows: their places, shape (n,), and what these round to.

    ``ends`` name the ways toward plus and toward minus; ``ahead``: it may look ahead, by the
    leader's own speed ``pace``, shape (n,), or by that of its displacement.
    """

    follower: FloatArray
    leader: FloatArray
    grid: float
    ends: tuple[str, str] = ("rising", "falling")
    ahead: bool = False
    pace: FloatArray | None = None
