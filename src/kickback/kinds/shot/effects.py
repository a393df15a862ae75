"""Which metrics of a projectile the constants of its laws move, and what they foretell."""

from collections.abc import Collection

from kickback.causes.constants import ConstantRow
from kickback.kinds.foretold import Foretold
from kickback.laws.keys import PhaseKey

__all__ = ["FORETOLD", "MEANS", "groups_of", "moved", "moved_by_order"]

_FLIES = ("shot.gravity", "shot.drag", "shot.quadratic_drag", "shot.flight_time", "shot.range",
          "shot.apex_height", "shot.time_to_apex", "shot.impact_speed", "shot.impact_angle",
          "shot.spread", "shot.miss", "shot.miss_along", "shot.miss_up", "shot.low_elevation",
          "shot.high_elevation", "shot.lead_needed", "shot.beyond_reach", "shot.least_speed",
          "shot.bounce_factor", "shot.bounce_kept")  # fmt: skip
_BY_PHASE = {
    "flight": _FLIES,
    "launch": ("shot.launch_speed", *_FLIES),
    "cadence": ("shot.cadence",),
    "cooldown": ("shot.cooldown",),
}
"""What the constants of each phase move."""


def moved(row: ConstantRow, _: Collection[PhaseKey]) -> tuple[str, ...]:
    """Return the metrics that a constant moves."""
    return groups_of(row.phase.base)


def groups_of(phase: str) -> tuple[str, ...]:
    """Return the metrics that constants of a phase move."""
    return _BY_PHASE.get(phase, ("shot",))


def moved_by_order(_: bool) -> tuple[str, ...]:
    """Return the metrics that the order of integration moves."""
    return (
        "shot.flight_time",
        "shot.range",
        "shot.apex_height",
        "shot.time_to_apex",
        "shot.impact_speed",
        "shot.impact_angle",
        "shot.spread",
        "shot.bounce_factor",
        "shot.miss",
        "shot.miss_along",
        "shot.miss_up",
        "shot.launch_angle",
        "shot.launch_speed",
        "shot.low_elevation",
        "shot.high_elevation",
        "shot.beyond_reach",
    )


FORETOLD = (
    Foretold("shot.launch_speed", ("launch.speed",), lambda v: v, "the launch"),
    Foretold("shot.gravity", ("flight.acceleration",), lambda g: g, "the gravity"),
)

MEANS = {
    "gravity": "flight", "drag": "flight", "air": "flight", "launch": "launch",
    "muzzle": "launch", "speed": "launch", "power": "launch", "cadence": "cadence",
    "cooldown": "cooldown", "pause": "cooldown", "interval": "cadence",
}  # fmt: skip
