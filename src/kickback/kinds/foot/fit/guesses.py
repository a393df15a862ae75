"""First values for what was played and no law tells, and for what nothing tells at all."""

from collections.abc import Mapping, Sequence

from kickback.kinds.fitting import PLAY, Number
from kickback.kinds.foot.model.parameters import PARAMETERS
from kickback.takes.header import Value
from kickback.takes.record import Record

__all__ = ["GUESS", "Missing", "guessed", "untold"]

LIKE: Mapping[str, tuple[str, ...]] = {
    "brake_deceleration": ("ground_acceleration", "coast_deceleration"),
    "coast_deceleration": ("ground_acceleration",),
    "ground_acceleration": ("coast_deceleration", "brake_deceleration"),
    "air_acceleration": ("ground_acceleration",),
    "air_deceleration": ("coast_deceleration",),
    "gravity_fall": ("gravity_rise",),
    "gravity_rise": ("gravity_fall",),
    "stop_rate": ("smoothing_rate",),
    "smoothing_rate": ("stop_rate",),
    "air_stop_rate": ("air_rate",),
}
"""Which parameters one that was played and not read is first taken to be like."""

ALWAYS = frozenset({"air_stop_rate"})
"""Those that code with the other one has as well, though no phase of a take is long enough."""

_OTHER_UNIT = 4.0
"""Times of the model's own speeds from which lengths are in another unit."""

_FASTEST = 20.0
"""How many times its speeds a fall may become that has no limit."""

GUESS = 0.3
"""Share of such a value that it may be off by."""


class Missing(Record, frozen=True, kw_only=True):
    """A parameter that no law shows, why, and whether takes ``played`` what it is for at all."""

    name: str
    reason: str
    played: bool


def guessed(missing: Sequence[Missing], numbers: Sequence[Number]) -> list[Number]:
    """Return first values for what was played and no law tells, to be brought near by the play."""
    known = {one.name: one for one in numbers}
    found = []
    for one in missing:
        value = _alike(one.name, known) if one.played or one.name in ALWAYS else None
        if value is not None:
            found.append(
                Number(
                    name=one.name,
                    value=value,
                    stderr=GUESS * value,
                    source=PLAY,
                    note=one.reason,
                    guess=True,
                )
            )
    return found


def _alike(name: str, known: Mapping[str, Number]) -> float | None:
    """Return a value like that of another parameter, or as the model's own is to its speeds."""
    for one in LIKE.get(name, ()):
        if one in known:
            return float(known[one].value)
    if name not in LIKE or not _own_value(name):
        return None
    for speed in ("run_speed", "jump_speed"):
        if speed in known:
            return _own_value(name) * float(known[speed].value) / _own_value(speed)
    return None


def _own_value(name: str) -> float:
    """Return the model's own value of a number."""
    return float(PARAMETERS[name].default)


def untold(values: Mapping[str, Value]) -> dict[str, Value]:
    """Return values for what no take shows and the model's own would be wrong for.

    A fall without a limit has none, and what is never seen to dash does not; where lengths are in
    another unit than the model's own, a character that is to its speeds as the model's is.
    """
    speeds = [one for one in ("run_speed", "jump_speed") if one in values]
    if not speeds:
        return {}
    out = _in_other_units(values, float(values[speeds[0]]) / _own_value(speeds[0]))
    if "release_cut" not in values:
        out["release_cut"] = 1.0
    if "dash_speed" not in values:
        out["dash_speed"] = 0.0
    if "terminal_speed" not in values:
        out["terminal_speed"] = _FASTEST * max(float(values[one]) for one in speeds)
    return out


def _in_other_units(values: Mapping[str, Value], scale: float) -> dict[str, Value]:
    """Return what no take shows in the takes' unit, where that is so many times the model's."""
    if 1 / _OTHER_UNIT < scale < _OTHER_UNIT:
        return {}
    return {
        name: _own_value(name) * scale
        for name, one in PARAMETERS.items()
        if one.unit.startswith("L") and name not in values and _own_value(name)
    }
