"""What can be wished of a character on foot, and which parameters it is had by."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from kickback.kinds.foot.model.drills import FootDrill, drill_from_mapping
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.foot.model.simulate import simulate_many
from kickback.kinds.playing.drills import Drill
from kickback.kinds.wishing import Wishable, Wishing
from kickback.takes.header import ParameterSet, Value
from kickback.takes.take import Take

__all__ = ["FOOT_WISHES"]


def _drill(name: str, length: float, *held: tuple[float, float, str, float]) -> FootDrill:
    inputs = [{"at": a, "until": b, key: amount} for a, b, key, amount in held]
    return drill_from_mapping({"name": name, "length": length, "input": inputs}, name)


# a tap of four frames at 60 frames/s: about the shortest of a thumb
_RUN = partial(_drill, "run", 8.5, (0.5, 4.5, "move_x", 1.0))
_TURN = partial(_drill, "turn", 9.0, (0.5, 4.0, "move_x", 1.0), (4.0, 8.0, "move_x", -1.0))
_LEAP = partial(_drill, "leap", 5.0, (0.5, 4.9, "jump", 1.0))
_FAR = partial(_drill, "far", 8.0, (0.5, 7.9, "move_x", 1.0), (3.5, 7.9, "jump", 1.0))
_HOP = partial(_drill, "hop", 3.5, (0.5, 0.56, "jump", 1.0))
_DASH = partial(_drill, "dash", 3.5, (0.5, 0.6, "dash", 1.0))

_SPEED_UP = ("ground_acceleration", "smoothing_rate", "friction_rate")
_COAST = ("coast_deceleration", "stop_rate", "friction_rate")
_BRAKE = ("brake_deceleration", "smoothing_rate", "friction_rate")
_TOP = ("run_speed", "ground_acceleration")

_ROWS: tuple[tuple[str, tuple[str, ...], Callable[[], Drill]], ...] = (
    ("jump.apex_height", ("jump_speed", "gravity_rise"), _LEAP),
    ("jump.time_to_apex", ("gravity_rise", "jump_speed"), _LEAP),
    ("jump.air_time", ("gravity_fall", "gravity_rise", "jump_speed"), _LEAP),
    ("jump.gravity_ratio", ("gravity_fall", "gravity_rise"), _LEAP),
    ("jump.landing_speed", ("gravity_fall", "jump_speed", "gravity_rise"), _LEAP),
    ("jump.distance", ("run_speed", "gravity_fall", "gravity_rise", "jump_speed"), _FAR),
    ("hop.lowest_height", ("release_cut",), _HOP),
    ("run.top_speed", _TOP, _RUN),
    ("run.time_to_90", _SPEED_UP, _RUN),
    ("run.time_to_top_speed", _SPEED_UP, _RUN),
    ("coast.stop_time", (*_COAST, "run_speed"), _RUN),
    ("coast.stop_distance", (*_COAST, "run_speed"), _RUN),
    ("brake.stop_time", (*_BRAKE, "run_speed"), _TURN),
    ("brake.stop_distance", (*_BRAKE, "run_speed"), _TURN),
    ("turn.time", (*_BRAKE, "ground_acceleration", "run_speed"), _TURN),
    ("dash.distance", ("dash_speed", "dash_time"), _DASH),
    ("dash.peak_speed", ("dash_speed",), _DASH),
    ("dash.duration", ("dash_time",), _DASH),
)

_OF_MOVEMENT = {
    "ground_acceleration": ("constant", "friction"),
    "coast_deceleration": ("constant",),
    "brake_deceleration": ("constant",),
    "smoothing_rate": ("smoothing",),
    "stop_rate": ("smoothing",),
    "friction_rate": ("friction",),
}
"""The kinds of ground movement in which a parameter does anything."""


def _works(metric: str, name: str, values: Mapping[str, Value]) -> bool:
    """Whether a parameter does anything for a metric beside others.

    Friction has no run speed of its own: it is the acceleration that makes it.
    """
    movement = values["ground_movement"]
    if name == "run_speed":
        return movement != "friction"
    if metric == "run.top_speed":
        return movement == "friction"
    return movement in _OF_MOVEMENT.get(name, (movement,))


def _play(sets: Sequence[ParameterSet], drill: Drill, rate: float) -> Sequence[Take]:
    if not isinstance(drill, FootDrill):
        raise TypeError("a character on foot plays drills of its own")
    return simulate_many(sets, drill, frame_rate=rate)


FOOT_WISHES = Wishing(
    wishes=[Wishable(metric=metric, knobs=knobs, drill=drill) for metric, knobs, drill in _ROWS],
    works=_works,
    ties={"gravity_fall": "gravity_rise"},
    limits={"release_cut": 1.0},
    checked=checked_values,
    play=_play,
)
