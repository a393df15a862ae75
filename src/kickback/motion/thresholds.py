"""The thresholds that a project may set: what counts as a plateau, and what as rest."""

from kickback.takes.record import Record

__all__ = ["Thresholds"]


class Thresholds(Record, frozen=True, kw_only=True):
    """What counts as a settled speed, and as standing still.

    ``plateau_time``, s, and ``plateau_change``, a share: a speed is settled where it changes
    by no more than that share for at least that time. ``rest_speed``, length/s: below it
    the subject rests; None for 0.1 % of its highest speed.
    """

    plateau_time: float = 0.2
    plateau_change: float = 1e-3
    rest_speed: float | None = None

    @property
    def no_plateau(self) -> str:
        """Return the reason where no speed settles."""
        change, time = f"{100 * self.plateau_change:g} %", f"{self.plateau_time:g} s"
        return f"no full input on the ground held its speed within {change} for {time}"
