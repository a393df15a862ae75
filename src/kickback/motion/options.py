"""What a project may say about measuring: plateaus, rest, floors and tiles."""

from kickback.takes.record import Record

__all__ = ["Options"]


class Options(Record, frozen=True, kw_only=True):
    """What counts as a settled speed and as standing still, and what the level is made of.

    ``plateau_time``, s, and ``plateau_change``, a share: a speed is settled where it changes
    by no more than that share for at least that time. ``rest_speed``, length/s: below it
    the subject rests; None for 0.1 % of its highest speed. ``floor_thickness``, length: the
    thinnest floor, where a header does not say; ``tile``, length: the side of a tile.
    ``clock``: whose time durations are in where a header does not say, ``wall`` or ``game``.
    ``display``: the rate, 1/s, of the display on which smoothness is judged; None for a display
    that shows each frame as it comes. ``target``: a place to be hit, in the order of the axes.
    ``ground``: how high the ground is that ends a shot's rows; None for what a header says.
    """

    plateau_time: float = 0.2
    plateau_change: float = 1e-3
    rest_speed: float | None = None
    floor_thickness: float | None = None
    tile: float | None = None
    clock: str | None = None
    display: float | None = None
    target: tuple[float, ...] | None = None
    ground: float | None = None

    @property
    def plateau(self) -> str:
        """Return what a settled speed is, in words."""
        return f"within {100 * self.plateau_change:g} % for {self.plateau_time:g} s"
