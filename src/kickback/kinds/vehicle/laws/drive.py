"""What drives a vehicle and what resists it, pedal by pedal, on straight and level ground."""

from collections.abc import Mapping, Sequence
from itertools import product
from typing import NamedTuple

import numpy as np
from msgspec import structs

from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.phases import before
from kickback.kinds.vehicle.roles import FORWARD
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.level import CLAMP, CONSTANT_SPEED, INSTANT
from kickback.laws.families.resistance import NET, RESISTANCE, balance
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.forces import select_forces
from kickback.laws.keys import PhaseKey
from kickback.laws.observations import Stretch
from kickback.laws.pooled import law_of_pool
from kickback.laws.record import Constant, Law
from kickback.laws.select import Selected
from kickback.laws.selected_law import hidden, law_of
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC, ROLLING
from kickback.laws.steps import Pool, pool_of, steps_of, stretches_of
from kickback.motion.segments import BoolArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12, root_between
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import SURE

__all__ = ["Rolling", "beside", "drive_laws", "law_of_forces", "rolling_of", "straight_rows"]

_PUSHED = (
    ((PUSH,),),
    ((PUSH, LINEAR), (PUSH, QUADRATIC)),
    ((PUSH, LINEAR, QUADRATIC), (PUSH, QUADRATIC, ROLLING)),
)
_FREE = (
    ((ROLLING,), (LINEAR,), (QUADRATIC,)),
    ((ROLLING, LINEAR), (ROLLING, QUADRATIC), (LINEAR, QUADRATIC)),
    ((ROLLING, LINEAR, QUADRATIC),),
)
"""Sets of terms by how many they are, of a vehicle that is pushed and of one that is not."""

_AT_ONCE = (INSTANT, CONSTANT_SPEED)
"""Families of speeds that nothing resists."""

_BY_THROTTLE = PhaseKey("brake", part="by throttle")
_OUT_OF_REVERSE = PhaseKey("brake", part="out of reverse")

_TURNS = 1e-6
"""Degrees by which a heading may change in a frame and be held: what arithmetic leaves."""

_FEWEST = 6
"""Rows of a stretch below which it tells nothing."""

_AROUND = 2.0
"""Factor within which a step balances beside the forces themselves."""

_SMALL = 1e-6
"""Share of a speed by which it is moved to see what a step makes of that."""

_NEAR = 0.01
"""Share by which a speed that is held may differ from where forces balance."""

_ARITHMETIC = 1e-9
"""Share of a speed by which it may change and stay."""

_AS_COASTING = (
    "these frames show net alone: acceleration holds where it rolls under a pedal as in coasting"
)
"""Why a law has a constant that its own frames do not show."""

_SLOWEST = 0.02
"""Share of the highest speed below which a resistance may be a stop."""


def straight_rows(motion: VehicleMotion, *, turning: float = 0.0) -> BoolArray:
    """Return the frames, shape (n,), that go straight over level ground, and did before.

    ``turning``: degrees/s that still go for straight; none but what arithmetic leaves for laws.
    """
    n = len(motion.t)
    straight = np.ones(n, dtype=bool)
    if motion.pedals.steer is not None:
        straight &= motion.pedals.steer == 0
    if motion.yaw is not None:
        turned = np.abs(np.diff(motion.heading, prepend=motion.heading[0]))
        straight &= turned <= _TURNS + turning * motion.dt + 1.01 * motion.yaw.quantum
    elif motion.heading_source == "from the path":
        turned = np.abs(np.diff(motion.heading, prepend=motion.heading[0]))
        straight &= turned <= 1.0
    straight &= np.concatenate((straight[:1], straight[:-1]))
    return np.asarray(straight & motion.driven)


def _carries_round(motion: VehicleMotion) -> bool:
    """Whether it never slides: then it carries its speed along round a turn."""
    aside = motion.sideways
    if aside is None or aside.source != "reported":
        return False
    least = SURE * aside.noise + _ARITHMETIC * float(np.max(np.abs(motion.forward.v), initial=0.0))
    return bool(np.all(np.abs(aside.v[motion.driven]) <= least))


def drive_laws(motion: VehicleMotion, track: Track) -> list[Law]:
    """Return the law of each pedal: what pushes, what resists, where it tops out."""
    gas = motion.pedals.throttle
    if gas is None:
        return []
    level = straight_rows(motion)
    if _carries_round(motion):  # rounded along both axes, which a turn mixes
        level, both = motion.driven, 2**0.5
        track = replace(track, logged_grid=both * track.logged_grid)
    steps = steps_of(track, motion)
    row = steps.row
    was, rest = before(track.v), motion.rest_speed
    brake = motion.pedals.brake
    stops = np.zeros(len(gas), dtype=bool) if brake is None else brake
    held = np.concatenate((gas[:1], gas[:-1])) == gas
    ok = level & held & (np.concatenate((stops[:1], stops[:-1])) == stops)
    moving = np.abs(was) > rest
    way = np.sign(was)
    full, free = np.abs(gas) >= FULL, gas == 0
    with_it = gas * was >= 0
    masks = (
        (PhaseKey("speed-up"), full & (gas > 0) & with_it & ~stops, np.sign(gas), True),
        (PhaseKey("reverse"), full & (gas < 0) & with_it & ~stops, np.sign(gas), True),
        (PhaseKey("coast"), free & ~stops & moving, way, False),
        (PhaseKey("brake"), stops & free & moving, way, False),
        (_BY_THROTTLE, full & (gas < 0) & ~with_it & ~stops & moving, way, False),
        (_OUT_OF_REVERSE, full & (gas > 0) & ~with_it & ~stops & moving, way, False),
        *(
            (
                PhaseKey("speed-up", amount=amount),
                (np.round(gas, 2) == amount) & with_it & ~stops,
                np.ones(1),
                True,
            )
            for amount in _partial(gas)
        ),
    )
    rows: list[Law] = []
    coast_first = sorted(masks, key=lambda one: one[0].base != "coast")  # the others stand on it
    for (medium, on), (phase, mask, turn, pushed) in product(motion.media, coast_first):
        keep = (mask & ok & on)[row]
        sign = np.broadcast_to(turn, gas.shape)[row]
        if np.count_nonzero(keep) < _FEWEST:
            continue
        turned = replace(steps, v0=steps.v0 * sign, v1=steps.v1 * sign).only(keep)
        limit = _limit_of(phase, medium) if pushed else None
        key = structs.replace(phase, medium=medium)
        pool = pool_of(FORWARD, key, turned, sign[keep], track, limit=limit, settles=pushed)
        rolling = None if phase.base == "coast" else rolling_of(rows, medium)
        rows += _laws(motion, track, pool, pushed=pushed, rolling=rolling)
    phases = [phase for phase, *_ in masks]
    rows.sort(key=lambda law: _place(law.phase, phases))
    return [law for medium, _ in motion.media for law in _with_hidden(rows, medium)]


def _limit_of(phase: PhaseKey, medium: str) -> PhaseKey:
    """Return what the limit is called that a push runs into."""
    part = phase.base if phase.base == "reverse" else ""
    return PhaseKey("cruise", part=part, medium=medium, amount=phase.amount)


def _place(phase: PhaseKey, phases: Sequence[PhaseKey]) -> int:
    """Return where a law stands among those of the pedals, a limit by what runs into it."""
    if phase.base == "cruise":
        return phases.index(PhaseKey(phase.part or "speed-up", amount=phase.amount))
    return phases.index(structs.replace(phase, medium="", side=""))


class Rolling(NamedTuple):
    """What coasting shows to roll on a surface, a constant loss, and the time that it goes by."""

    loss: Constant
    by_frame: bool

    def of(self, step: FloatArray, usual: float) -> FloatArray:
        """Return what it takes of a speed in each step, shape (n,)."""
        return self.loss.value * (np.full(len(step), usual) if self.by_frame else step)


def rolling_of(laws: Sequence[Law], medium: str) -> Rolling | None:
    """Return what coasting on a surface shows to roll; None where nothing does for sure."""
    key = PhaseKey("coast", medium=medium)
    law = next((one for one in laws if one.phase == key and one.family is not None), None)
    if law is None or law.unlike:  # the middle of unlike ones is what no code has
        return None
    found = {one.name: one for one in law.constants}
    loss = found.get(ROLLING.name)
    if law.family is CONSTANT_ACCELERATION:
        push = found[PUSH.name]
        loss = replace(push, name=ROLLING.name, value=-push.value)
    if loss is None or loss.value <= SURE * (loss.stderr or 0.0):
        return None
    return Rolling(loss, "frame" in {law.clock, law.gain})


def beside(law: Law, rolling: Rolling, *, apart: bool = False) -> Law:
    """Return a law of a push or a brake with what rolls beside it told apart.

    The frames show the sum alone, ``net``; that it rolls under a pedal too is the usual code.
    ``apart``: what rolls was taken off before the push was read.
    """
    found, loss = {one.name: one for one in law.constants}, rolling.loss
    net = _net(law, found)
    if net is None:
        return law
    kept = law.value("factor") if "factor" in found and not law.friction_first else 1.0
    error = float(np.hypot(net.stderr or 0.0, loss.stderr or 0.0))
    more = loss.value / kept
    push = replace(net, name=PUSH.name, value=net.value + more, stderr=error)
    if apart:
        push, net = replace(net, name=PUSH.name), replace(net, value=net.value - more, stderr=error)
    others = [found[name] for name in (LINEAR.name, "factor", QUADRATIC.name, "balance")
              if name in found]  # fmt: skip
    return replace(
        law,
        family=RESISTANCE,
        constants=(push, loss, *others, replace(net, name=NET)),
        reason="; ".join(filter(None, (_AS_COASTING, law.reason))),
    )


def _net(law: Law, found: Mapping[str, Constant]) -> Constant | None:
    """Return the push, or the brake, that the frames of a law show; None where it is none."""
    if law.family is SMOOTHING:
        return SMOOTHING.other_reading(law)[0]
    if law.family in {CONSTANT_ACCELERATION, DRIVE}:
        return found[PUSH.name]
    if law.family is not RESISTANCE or (PUSH.name in found) == (ROLLING.name in found):
        return None
    brake = found.get(ROLLING.name)
    return found[PUSH.name] if brake is None else replace(brake, value=-brake.value)


def _with_hidden(rows: list[Law], medium: str) -> list[Law]:
    """Return the laws on a surface; short ones say which resistances coasting shows there.

    They hide these in their own constants.
    """
    rows = [row for row in rows if row.phase.medium == medium]
    coast = next((row for row in rows if row.phase == PhaseKey("coast", medium=medium)), None)
    shown = _resistances(coast)

    def said(row: Law) -> Law:
        hidden = sorted(shown - _resistances(row))
        if row.phase.base != "brake" or row.family in {None, CLAMP, INSTANT} or not hidden:
            return row
        text = f"coasting shows {' and '.join(hidden)}, which is hidden here in the others"
        return _with_reason(row, text)

    return [said(row) for row in rows]


def _resistances(law: Law | None) -> set[str]:
    """Return the resistances that a law tells beside a constant one."""
    return (
        set()
        if law is None
        else {one.name for one in law.constants} & {LINEAR.name, QUADRATIC.name}
    )


def _partial(gas: FloatArray) -> list[float]:
    """Return the amounts of the throttle that are held longest, short of full."""
    amounts, counts = np.unique(np.round(gas, 2), return_counts=True)
    keep = (amounts > 0) & (amounts < FULL) & (counts >= 4 * _FEWEST)
    return [float(one) for one in amounts[keep]][:4]


def _laws(
    motion: VehicleMotion, track: Track, pool: Pool, *, pushed: bool, rolling: Rolling | None
) -> list[Law]:
    """Return the law of a pool, with what coasting shows to roll beside it, and its limit."""
    first, *limits = _alone(motion, track, pool, pushed=pushed)
    if rolling is None:
        return [first, *limits]
    if not motion.clock.even and (first.family is None or _odd(first)):
        found = _resisted(motion, track, pool, pushed=pushed, rolling=rolling)
        law = None if found is None else law_of_forces(first, found, motion)
        if law is not None and (first.family is None or len(_odd(law)) < len(_odd(first))):
            return [beside(law, rolling, apart=True), *limits]
    return [beside(first, rolling), *limits]


def _odd(law: Law) -> set[str]:
    """Return to what else than the second the constants of a law belong."""
    return {law.clock, law.gain} - {"second", "even"}


def _alone(motion: VehicleMotion, track: Track, pool: Pool, *, pushed: bool) -> list[Law]:
    """Return the law of a pool: a general one where that explains it, else what resists."""
    told = law_of_pool(motion, track, pool)
    first = told[0]
    if not pushed and _is_drive_back(first):
        return [_rolling(first)]
    settled = _settled(first, pushed=pushed)
    exact = not (track.rounded or track.quantum or track.printed)
    if settled and (exact or first.family in _AT_ONCE):
        return told
    found = _resisted(motion, track, pool, pushed=pushed)
    if found is None:
        return [_rolling(first)] if not pushed and _goes_below_rest(first) else told
    return _of_forces(motion, told, found, settled=settled)


def _of_forces(
    motion: VehicleMotion, told: list[Law], found: Selected, *, settled: bool
) -> list[Law]:
    """Return the law of the forces in place of a general one that does not explain its pool."""
    first = told[0]
    if settled and found.family is not RESISTANCE:
        return [_with_reason(first, hidden(found)), *told[1:]]
    law = law_of_forces(first, found, motion)
    return [law, *(limit for limit in told[1:] if not _balanced(law, limit))]


def _with_reason(law: Law, text: str | None) -> Law:
    """Return a law with another reason beside its own."""
    return replace(law, reason="; ".join(one for one in (law.reason, text) if one) or None)


def _settled(law: Law, *, pushed: bool) -> bool:
    """Whether a general law may be the last word: a smoothing is none of what only resists."""
    return law.family is not None and (pushed or law.family is not SMOOTHING)


def _is_drive_back(law: Law) -> bool:
    return law.family is DRIVE and law.value("acceleration") < 0


def _goes_below_rest(law: Law) -> bool:
    return law.family is SMOOTHING and law.value("goal") < 0


def _balanced(law: Law, limit: Law) -> bool:
    """Whether a speed that is held is where a push and its resistances balance: no limit."""
    ahead = [one.value for one in RESISTANCE.follows(law)] if law.family is RESISTANCE else []
    return any(abs(limit.value("speed") / speed - 1) <= _NEAR for speed in ahead if speed)


def _rolling(law: Law) -> Law:
    """Return a decay toward a speed beyond rest as what it is: rolling and a linear resistance.

    A drive has it as an acceleration, a smoothing as the speed that it goes toward.
    """
    rate, kept = law.constant("rate"), law.value("factor")
    if law.family is DRIVE:
        push = law.constant(PUSH.name)
        size, error, unit = -push.value, push.stderr or 0.0, push.unit
    else:
        goal = law.constant("goal")
        size, unit = -goal.value * (1 - kept) / law.frame, goal.unit * rate.unit.dimension
        share = (goal.stderr or 0.0) / abs(goal.value) + (rate.stderr or 0.0) / rate.value
        error = abs(size) * share
    constants = (
        Constant(name=LINEAR.name, value=rate.value, unit=rate.unit, stderr=rate.stderr),
        Constant(name="factor", value=kept, unit=RATIO.within(unit.length)),
        Constant(name=ROLLING.name, value=size, unit=unit, stderr=error),
    )
    return replace(law, family=RESISTANCE, constants=constants)


def _resisted(
    motion: VehicleMotion,
    track: Track,
    pool: Pool,
    *,
    pushed: bool,
    rolling: Rolling | None = None,
) -> Selected | None:
    """Return the forces of a pool's stretches; what is known to roll is taken off in each step."""
    runs = []
    slow = _SLOWEST * float(np.max(np.abs(pool.every.v1), initial=0.0))
    places = track.source != "reported"
    for a, b in stretches_of(pool.every):
        part = pool.every.between(a, b)
        stop = _changing(part.v1, slow, track.noise, pushed=pushed)
        if stop < _FEWEST:
            continue
        rows = np.concatenate(([part.row[0] - 1], part.row[:stop]))
        sign = float(pool.way[a])
        stretch = Stretch(
            v=sign * track.v[rows],
            dt=motion.dt[rows],
            p=sign * track.p[rows] if places and track.quantum else None,
        )
        runs.append(stretch if rolling is None else _rolled(stretch, rolling, motion.clock.usual))
    if not runs:
        return None
    usual = motion.clock.usual
    if places:
        noise = track.quantum / ROOT_12
    else:
        bend = float(np.max(np.abs(pool.every.v1 - pool.every.v0), initial=0.0)) / usual
        noise = float(np.hypot(track.printed / ROOT_12, motion.clock.time_error * bend))
    return select_forces(runs, noise, usual, _PUSHED if pushed else _FREE)


def _rolled(stretch: Stretch, rolling: Rolling, usual: float) -> Stretch:
    """Return a stretch as it would be if what rolls were taken off before the next step."""
    loss = rolling.of(stretch.dt, usual)
    ones = np.ones(len(loss))
    return replace(stretch, v=stretch.v + loss, p=None, turned=(ones, -before(loss)))


def _changing(speed: FloatArray, slow: float, noise: float, *, pushed: bool) -> int:
    """Return how many rows pass before a speed stays, or is nearly nothing."""
    if not pushed:
        over = np.flatnonzero(speed <= slow)
        return int(over[0]) if over.size else len(speed)
    far = np.flatnonzero(np.abs(speed - speed[-1]) > 2 * noise + _ARITHMETIC * abs(speed[-1]))
    return int(far[-1]) + 1 if far.size else 0


def law_of_forces(base: Law, found: Selected, motion: VehicleMotion) -> Law:
    """Return the law of forces that were found: of a general family where there is one."""
    values, stderr, frame = dict(found.values), dict(found.stderr), base.frame
    model, family = found.model, found.family
    if family is CONSTANT_ACCELERATION and ROLLING.name in values:
        name, model = PUSH.name, CONSTANT_ACCELERATION.models[0]
        values, stderr = {name: -values[ROLLING.name]}, {name: stderr[ROLLING.name]}
    if family is DRIVE:  # at an even rate the same step
        family, model = SMOOTHING, SMOOTHING.models[0]
        goal, error = _goal(found, frame)
        del values[PUSH.name]
        values, stderr = {"goal": goal, **values}, {**stderr, "goal": error}
    if family is RESISTANCE and PUSH.name in values:
        values["balance"], stderr["balance"] = _balance(found, frame)
    told = replace(found, family=family, model=model, values=values, stderr=stderr)
    return law_of(base, told, motion.take.header.length_unit)


def _balance(found: Selected, frame: float) -> tuple[float, float]:
    """Return the speed that a step no longer changes, and its standard error.

    What acts in turns balances a little below where the forces themselves do.
    """
    terms = (PUSH, ROLLING, LINEAR, QUADRATIC)
    forces = balance(*(found.value(term.name) for term in terms))

    def gain(v: float) -> float:
        return float(found.after(np.array([v]), np.array([frame]), frame)[0]) - v

    low, high = forces / _AROUND, forces * _AROUND
    speed = root_between(gain, low, high) if gain(low) * gain(high) < 0 else forces
    slope = abs(gain(speed * (1 + _SMALL)) - gain(speed)) / (_SMALL * speed)
    error = found.misfit / found.frames**0.5 / max(slope, _SMALL)
    return speed, max(error, _ARITHMETIC * speed)


def _goal(found: Selected, frame: float) -> tuple[float, float]:
    """Return the speed that a push and a decay after it go toward: ``a·h·f/(1 − f)``."""
    push, kept = found.values[PUSH.name], found.values["factor"]
    goal = push * frame * kept / (1 - kept)
    a, k = (found.stderr[name] / found.values[name] for name in (PUSH.name, LINEAR.name))
    return goal, abs(goal) * float(np.hypot(a, k))
