"""What is measured of labels: how many, how they change, how late, and where they are wrong."""

from collections.abc import Callable
from typing import Any

import numpy as np

from kickback.kinds.state.labels import STATE, after_contact, durations, labels_of, thresholds_of
from kickback.metrics.metric import LARGEST, SUM, Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.motion import Motion, Scene, motion_in
from kickback.motion.segments import BoolArray, stretches
from kickback.takes.quantities import PER_TIME, RATIO, TIME

__all__ = ["METRICS", "contradicted", "flickers"]

_SHORTEST = 2
"""Frames below which a label flickers."""

_LONG = 3
"""Frames from which a label that does not fit contradicts the motion."""

_MOVES = 0.5
"""Share of the highest speed from which a subject moves."""

_MOVING = ("run", "walk", "sprint", "dash", "drive", "roll", "skid", "slide")
_STILL = ("idle", "stand", "rest", "wait")
_FLYING = ("jump", "fall", "air", "fly", "leap", "hop")
"""Parts of labels that say what the subject should do."""

_NAMED = 4
"""Labels that a remark names."""


def _one(motion: Motion, value: float, sure: float, remark: str = "") -> Occurrences:
    return Occurrences(
        value=np.array([value]),
        start=motion.begin[:1],
        end=motion.t[-1:],
        resolution=np.array([sure]),
        frame_shift=np.zeros(1),
        remark=remark,
    )


def _count(scene: Scene) -> Occurrences:
    """Count the labels that occur; the remark says how long each did, and which never did."""
    motion = motion_in(scene)
    labels = labels_of(motion)
    total = float(motion.t[-1] - motion.begin[0])
    shown = durations(labels, motion.t, motion.begin)
    parts = [f"{name} {time / total:.0%}" for name, time in shown]
    every: object = motion.take.header.extra.get("states")
    never = (
        [str(one) for one in every if str(one) not in labels.known]
        if isinstance(every, list)
        else []
    )
    remark = ", ".join(parts[: 2 * _NAMED])
    remark += f"; never: {', '.join(never[: 2 * _NAMED])}" if never else ""
    return _one(motion, float(len(labels.known)), 0.0, remark)


def _changes(scene: Scene) -> Occurrences:
    motion = motion_in(scene)
    labels = labels_of(motion)
    pairs = [
        f"{one.name} → {other.name}"
        for one, other in zip(labels.stretches, labels.stretches[1:], strict=False)
    ]
    total = float(motion.t[-1] - motion.begin[0])
    often = sorted(dict.fromkeys(pairs), key=lambda pair: -pairs.count(pair))[:_NAMED]
    remark = ", ".join(f"{pair} {pairs.count(pair)}" for pair in often)
    return _one(motion, len(pairs) / total, 1 / total, remark)


def flickers(motion: Motion) -> list[tuple[int, int, str]]:
    """Return labels shorter than two frames, with their frames; not those at either end."""
    labels = labels_of(motion)
    return [
        (one.start, one.stop, one.name)
        for one in labels.stretches[1:-1]
        if one.stop - one.start < _SHORTEST
    ]


def _flicker(scene: Scene) -> Occurrences:
    motion = motion_in(scene)
    return _one(motion, float(len(flickers(motion))), 0.0)


def _delay(scene: Scene) -> Occurrences:
    """Measure how long after a speed reaches a threshold, or a contact changes, labels follow."""
    motion = motion_in(scene)
    labels = labels_of(motion)
    every = thresholds_of(labels)
    told = {f"{one.slow}/{one.fast}": one.late for one in every if not one.alike}
    if "touch_ground" in motion.take:
        ground = motion.take.numbers("touch_ground") > 0.5
        told |= {"/".join(pair): late for pair, late in after_contact(labels, ground).items()}
    if not told:
        return none(
            "its changes of state came about alike: a late label would follow another speed"
            if every
            else "its labels follow no speed that two changes show"
        )
    late = np.array([float(one) for one in told.values()])
    usual = motion.clock.usual
    value = late * usual
    remark = ", ".join(f"{name} {many} frames" for name, many in told.items() if many)
    start = np.full(len(told), motion.begin[0])
    end = np.full(len(told), motion.t[-1])
    return Occurrences(
        value=value,
        start=start,
        end=end,
        resolution=np.full(len(told), usual),
        frame_shift=np.full(len(told), usual),
        remark=remark,
    )


def contradicted(motion: Motion) -> tuple[BoolArray, str]:
    """Return the frames whose label says other than the motion does, shape (n,), and which it is.

    For three frames on end at least; by the parts of its name.
    """
    labels = labels_of(motion)
    top = float(np.max(labels.speed, initial=0.0))
    quick, slow = labels.speed > _MOVES * top, labels.speed <= motion.rest_speed
    lower = np.char.lower(labels.names)
    says = {
        words: np.any([np.char.find(lower, word) >= 0 for word in words], axis=0)
        for words in (_MOVING, _STILL, _FLYING)
    }
    wrong = (says[_MOVING] & slow & ~says[_STILL]) | (says[_STILL] & quick & ~says[_MOVING])
    if "touch_ground" in motion.take:
        ground = motion.take.numbers("touch_ground") > 0.5
        wrong |= says[_FLYING] & ground
    out = np.zeros(len(wrong), dtype=bool)
    for a, b in stretches(wrong, _LONG):
        out[a:b] = True
    name = str(labels.names[int(np.argmax(out))]) if out.any() else ""
    return out, name


def _contradictions(scene: Scene) -> Occurrences:
    motion = motion_in(scene)
    wrong, name = contradicted(motion)
    remark = f"such as '{name}'" if name else ""
    return _one(motion, float(np.mean(wrong)), 1 / len(wrong), remark)


def _foot_slide(scene: Scene) -> Occurrences:
    """Measure how far the ground moves under feet: the speed against that of the stride."""
    motion = motion_in(scene)
    given: object = motion.take.header.extra.get("stride")
    if not isinstance(given, dict):
        return none("the header tells no 'stride', a length and a time a cycle for each state")
    labels, found = labels_of(motion), []
    for name, one in given.items():
        held = labels.names == str(name)
        if not isinstance(one, dict) or not held.any():
            continue
        pace = float(one.get("length", 0.0)) / max(float(one.get("time", 0.0)), 1e-12)
        speed = labels.speed[held]
        moving = speed > motion.rest_speed
        if moving.any():
            value = float(np.mean(np.abs(speed[moving] - pace) / speed[moving]))
            found.append(_one(motion, value, labels.grid / float(np.max(speed)), f"in '{name}'"))
    if not found:
        return none("no state with a stride was shown while it moved")
    return max(found, key=lambda item: float(item.value[0]))


def _metric(part: str, measure: Callable[[Any], Occurrences], **own: Any) -> Metric:
    return Metric(group="state", part=part, measure=measure, needs=(STATE,), **own)


METRICS = (
    _metric("count", _count, dimension=RATIO, title="States", combine=LARGEST,
            definition="How many labels occur; with how long each was shown, and which of the"
            " header's 'states' never were.", formula="number of different labels"),
    _metric("changes", _changes, dimension=PER_TIME, title="Changes of state",
            definition="How often the label changes, and from which to which most often.",
            formula="number of changes / duration"),
    _metric("flicker", _flicker, dimension=RATIO, title="Flicker", combine=SUM,
            definition="How many labels were shown for less than two frames.",
            formula="number of stretches of one frame"),
    _metric("delay", _delay, dimension=TIME, title="Delay of the state",
            definition="How long after the speed reaches the threshold that a label follows, or"
            " after a takeoff or a landing, it is shown; known to a frame.",
            formula="frames late · dt"),
    _metric("contradictions", _contradictions, dimension=RATIO, title="Contradictions",
            definition="The share of frames whose label says other than the motion does, for three"
            " frames on end at least: moving at rest, still at a tenth of the highest speed, in the"
            " air on the ground.", formula="mean(label says other than the motion)",
            combine=LARGEST),
    _metric("foot_slide", _foot_slide, dimension=RATIO, title="Foot slide", detail=True,
            definition="How far the ground moves under the feet, as a share of the speed, in the"
            " state where it does most: the header's 'stride' gives a length and a time a cycle.",
            formula="mean |v − length/time| / v", combine=LARGEST),
)  # fmt: skip
