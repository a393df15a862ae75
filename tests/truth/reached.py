"""What can be cleared, by trying: every takeoff frame and hold time played over a real gap.

``tried`` plays the model over a floor with the gap in it, each try by itself, with nothing shared
between gaps or takeoffs. ``leapt`` is a loop of plain numbers that shares nothing with the model.
"""

from copy import deepcopy

import numpy as np

from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.foot.model.state import State, at_rest
from kickback.kinds.foot.reach.plans import TAP, Plans, reads_of

THETA = {"semi-implicit": 1.0, "explicit": 0.0, "trapezoid": 0.5}
MANY = 20_000
INPUT = [
    {"at": 0.0, "until": 1.0, "move_x": 1.0},
    {"at": 0.5, "until": 0.6, "dash": 1.0},
]


def random_character(rng):
    """Return full parameters of a character without walls to hold on to."""
    c, u = rng.choice, rng.uniform
    values = {
        "ground_movement": str(c(["constant", "smoothing", "friction"])),
        "integrator": str(c(list(THETA))), "run_speed": u(4, 12), "ground_acceleration": u(25, 90),
        "gravity_rise": u(20, 60), "gravity_fall": u(20, 80), "jump_speed": u(7, 16),
        "release_cut": c([0.3, 0.5, 1.0]), "terminal_speed": c([12.0, 24.0, 40.0]),
        "air_acceleration": c([0.0, 5.0, 20.0, 60.0]), "air_speed": c([0.0, 0.0, 5.0]),
        "coyote_time": c([0.0, 0.05, 0.1, 0.15]), "squat_time": c([0.0, 0.0, 0.05]),
        "hold_time": c([0.0, 0.0, 0.15]), "hold_gravity": c([0.5, 0.7]), "air_jumps": 1.0,
        "air_jump_speed": u(6, 13), "dash_time": c([0.1, 0.18]), "dash_speed": u(10, 25),
        "dash_lockout": c([0.0, 0.18, 0.3]), "friction_rate": u(4, 8), "smoothing_rate": u(6, 15),
        "air_rate": c([0.0, 0.0, 0.0, 5.0]),
        "mistakes": str(c(["", "", "", "gravity-per-frame", "timer-in-frames", "all-in-frames",
                           "impulse-times-dt", "integration-order", "position-per-frame"])),
    }  # fmt: skip
    return checked_values({k: v if isinstance(v, str) else float(v) for k, v in values.items()}, "")


def _scene(edge, gap, step, ceiling):
    floor = [{"x": -1e3, "height": 0.0}]
    floor += [{"x": edge, "height": -500.0}] if gap > 0 else []
    data = {"name": "gap", "length": 1.0, "input": INPUT,
            "floor": [*floor, {"x": edge + gap, "height": step}]}  # fmt: skip
    if ceiling is not None:
        data["ceiling"] = [{"x": -1e3, "height": ceiling}]
    return drill_from_mapping(data, "gap")


def _played(values, scene, plans, frames, rate, first):
    many = len(plans.press)
    state = deepcopy(first)
    for name in State.__slots__:
        setattr(state, name, np.repeat(getattr(state, name), many))
    reads = reads_of(plans, frames)
    out = run_foot([values] * many, scene, np.full(frames + 1, 1 / rate), first=state,
                   reads=[reads[0], *reads])  # fmt: skip
    return {name: column[1:] for name, column in out.items()}


def run_up(values, rate):
    """Return the state at full run, and its way in a frame."""
    frames, state = round(8 * rate), at_rest(np.zeros(1), np.zeros(1))
    flat = drill_from_mapping({"name": "flat", "length": 1.0, "input": INPUT[:1]}, "flat")
    plans = Plans(*(np.array([one]) for one in (10**6, 1, 0, -1, -1)))
    out = run_foot([values], flat, np.full(frames, 1 / rate), first=state,
                   reads=reads_of(plans, frames))  # fmt: skip
    return state, float(out["x"][-1, 0] - out["x"][-2, 0])


def _every(press, holds, push, when, second):
    """Return all combinations of presses; ``when``: of a dash, or of a second jump."""
    grids = [one.ravel() for one in np.meshgrid(press, holds, push, when, indexing="ij")]
    never = np.full(grids[0].shape, -1)
    later = np.where(grids[3] >= 0, grids[0] + grids[3], -1)
    plans = Plans(*grids[:3], *((never, later) if second else (later, never)))
    whole = ~((plans.again >= 0) & (plans.again - plans.press <= plans.hold))
    return Plans(*(one[whole] for one in plans))


def tried(values, way, rate, place, phase, flight, rise):
    """Return how many takeoffs land beyond a gap: ``place`` is it, its step and the ceiling.

    Takeoffs are told apart by the press of the jump, from a stand by that of the direction.
    ``flight`` and ``rise`` bound the presses, frames.
    """
    values = dict(values) if way == "air_jump" else {**values, "air_jumps": 0.0}
    rates = max(rate, 60)
    squat = int(np.ceil(values["squat_time"] * rates)) + 2
    late = int(np.ceil(values["coyote_time"] * rates)) + 3
    standing, back = way == "standing", 2 * flight + squat
    if standing:
        state, long, back = at_rest(np.zeros(1), np.zeros(1)), 0.0, 0
    else:
        state, long = run_up(values, rate)
    if way == "dash":  # which goes much farther than a run does in its time
        back += int(2 * flight * values["dash_speed"] / rate / long)
    # the last frame on the ground: just before the edge, or a whole step before it
    state.x = np.array([-back * long - phase * long + (1e-9 if phase == 1 else -1e-12)])
    press = np.array([0]) if standing else np.arange(back + late + 1)
    if way == "air_jump":  # what comes too late to take off would be a jump in the air
        press = press[_takes_off({**values, "air_jumps": 0.0}, state, press, rate, back)]
    holds = np.arange(1, rise + 3)
    holds = np.array([max(1, int(np.ceil(TAP * rate - 1e-9)))]) if way == "hop" else holds
    push = np.arange(flight + 1) if standing else np.array([0])
    sets = [_every(press, holds, push, [-1], second=False)]
    if way == "dash":
        sets.append(_every(press, holds, push, np.arange(squat - 1, flight + 1), second=False))
    if way == "air_jump":
        sets.append(_every(press, holds, push, np.arange(2, flight + 1), second=True))
    plans = Plans(*(np.concatenate(parts) for parts in zip(*sets, strict=True)))
    frames = back + 2 * flight + late + int(values["dash_time"] * rates) + 30
    landed = []
    for begin in range(0, len(plans.press), MANY):
        some = Plans(*(one[begin : begin + MANY] for one in plans))
        landed.append(_landed(values, place, some, frames, rate, state, squat))
    key = (plans.push if standing else plans.press)[np.concatenate(landed)]
    return len(np.unique(key))


def _takes_off(values, state, press, rate, back):
    plans = Plans(press, press * 0 + 99, press * 0, press * 0 - 1, press * 0 - 1)
    out = _played(values, _scene(0.0, 1e3, 0.0, None), plans, back + 60, rate, state)
    return (out["vy"] > 0).any(axis=0)


def _landed(values, place, plans, frames, rate, state, squat):
    gap, step, ceiling = place
    out = _played(values, _scene(0.0, gap, step, ceiling), plans, frames, rate, state)
    ground, x, vy, n = out["touch_ground"] > 0, out["x"], out["vy"], np.arange(frames)[:, None]
    up = (vy > 0) & (n >= plans.press)
    rises = np.where(up.any(axis=0), up.argmax(axis=0), 10**6)
    second = np.where(plans.again >= 0, plans.again, 10**6)
    far = ground & (x >= gap)
    there = np.where(far.any(axis=0), far.argmax(axis=0), 10**7)
    # one that lands short of the edge has ended: it may run on, but that is another jump
    short = np.maximum.accumulate(up, axis=0) & ground & (vy <= 0) & (x < gap)
    short &= n > rises
    took = (rises < there) & (rises <= plans.press + squat) & (rises < second)
    return took & (there < 10**7) & ~short.any(axis=0)


def leapt(rules, fps, gap, step, phase):
    """Return how many takeoff frames of a run-up land beyond a gap, in plain numbers.

    ``rules``: order, speed, jump, gravity, frames of coyote, and the acceleration in the air with
    which a body gets on top from the foot of the wall. The jump is held throughout.
    """
    long = rules["speed"] / fps
    near = -phase * long + (1e-9 if phase else -1e-9)
    early = [_lands(rules, 1 / fps, near - k * long, 0, gap, step) for k in range(round(fps))]
    late = [_lands(rules, 1 / fps, near, k, gap, step) for k in range(1, rules["coyote"] + 1)]
    return sum(early) + sum(late)


def _lands(rules, h, x, late, gap, step):
    """Whether a leap lands: from ``x``, so many frames after the edge."""
    theta, y, v, up = THETA[rules["order"]], 0.0, rules["speed"], 0.0
    for frame in range(400):
        if frame == late:
            up = rules["jump"]
        old_x, old_y, old_v, old_up = x, y, v, up
        v = min(v + rules["air"] * h, rules["speed"])
        runs = late and not frame  # off the edge, before there is a fall
        up -= 0.0 if runs else rules["gravity"] * h
        x += h * ((1 - theta) * old_v + theta * v)
        y += 0.0 if runs else h * ((1 - theta) * old_up + theta * up)
        if old_x < gap <= x and min(y, old_y) < step - 1e-9:
            x, v = np.nextafter(gap, -1.0), 0.0  # the far wall
        if x < 0 and y <= 0:
            return False
        if x >= gap and y <= step and up <= 0:
            return True
    return False
