"""Integrity findings: each has a take that triggers it, and sound takes trigger none."""

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.findings import clock, interrupted, leaps
from kickback.findings import steps as physics_steps
from kickback.findings.finding import SEVERITIES
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.exercises import plane_drill, standard_drill
from kickback.kinds.foot.model.parameters import FAULTS, INTEGRATORS
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from kickback.kinds.shot.kind import SHOT
from kickback.kinds.state.aspect import STATES
from kickback.kinds.table import KINDS
from kickback.kinds.vehicle.kind import VEHICLE
from kickback.motion.options import Options
from kickback.takes.build import build_take
from kickback.takes.header import Header
from test_interruptions import CASES as INTERRUPTED
from test_missed import FOUND
from truth.physics import LIBRARIES, physics_take, random_world
from truth.recurrence import during, play, sampled_arc, steps

DRILL = drill_from_mapping(
    {
        "length": 12.0,
        "floor": [{"x": -50.0, "height": 0.0}, {"x": 25.0, "height": -4.0}],
        "input": [
            {"at": 0.5, "until": 2.0, "move_x": 1.0},
            {"at": 3.0, "until": 3.8, "jump": 1.0},
            {"at": 3.2, "until": 3.3, "jump": 0.0},
            {"at": 5.0, "until": 8.0, "move_x": 1.0},
            {"at": 9.5, "until": 9.9, "jump": 1.0},
        ],
    },
    "test",
)
AGAIN = drill_from_mapping(  # back and forth, and a jump over known ground
    {
        "length": 9.0,
        "input": [
            {"at": 0.5, "until": 2.9, "move_x": 1.0},
            {"at": 3.0, "until": 6.0, "move_x": -1.0},
            {"at": 3.9, "until": 4.4, "jump": 1.0},
        ],
    },
    "test",
)
MANY_JUMPS = drill_from_mapping(
    {
        "length": 6.0,
        "input": [
            *({"at": at, "until": at + 0.1, "jump": 1.0} for at in (1.0, 1.3, 1.6, 1.9, 2.2)),
            {"at": 0.2, "until": 0.8, "move_x": 1.0},
        ],
    },
    "test",
)
HELD = drill_from_mapping(
    {"length": 5.0, "input": [{"at": 1.0, "until": 1.8, "jump": 1.0}]}, "test"
)


CODES = {
    kind.code: kind
    for kind in (
        *clock.FINDINGS,
        *leaps.FINDINGS,
        *physics_steps.FINDINGS,
        *interrupted.FINDINGS,
        *(one for kind in KINDS for one in kind.measuring.findings),
    )
}


def codes(take, options=None):
    return {item.code for item in examine(take, options)}


FAULTY = {
    "jump-in-air": MANY_JUMPS,
    "rise-while-held": HELD,
    "no-fall": DRILL,
    "constant-fall": DRILL,
    "straight-jump": HELD,
    "speed-on-ground": DRILL,
    "fell-through": AGAIN,
    "diagonal-faster": plane_drill(),
    "camera-late": DRILL,
    "state-flicker": DRILL,
    "state-contradicts": DRILL,
}


@quick(2)
@pytest.mark.parametrize("order", some(INTEGRATORS, "semi-implicit"))
@pytest.mark.parametrize("rate", some([30, 60, 144], 30))
@pytest.mark.parametrize("fault", FAULTS)
def test_a_fault_of_the_code_is_found_and_nothing_else(fault, rate, order):
    values = {"integrator": order, "camera_rate": 5.0, "label_run": 3.0, "label_idle": 0.5}
    take = simulate({**values, "mistakes": fault}, FAULTY[fault], frame_rate=rate)
    assert codes(take) == {fault}
    assert not codes(simulate(values, FAULTY[fault], frame_rate=rate))


def base(rate=60, jitter=0.0):
    dt = steps(rate, 9.0, jitter)
    move = during((0.5, 2.5, 1), (4.0, 5.5, -1))
    return play(dt, move, during((6.5, 7.0, 1)))


def changed(**columns):
    """Return a change of columns: each is replaced by what its function gives."""
    return lambda c: {**c, **{name: make(c) for name, make in columns.items()}}


def at(array, row, value):
    array = array.copy()
    array[row] = value
    return array


def shifted(name, row, by):
    return changed(**{name: lambda c: c[name] + by * (np.arange(len(c[name])) >= row)})


def wrapped(width):
    return changed(x=lambda c: np.mod(c["x"], width))


def late(c):
    """Return a game that stutters: one frame of a quarter of a second."""
    dt = at(c["dt"], 60, 0.25)
    return {**c, "dt": dt, "t": np.cumsum(dt), "x": c["x"]}


def coarse(c):
    """Return a display of 144 frames/s over a physics of 60: positions are repeated."""
    take = np.minimum(np.floor(np.arange(len(c["t"]) * 2) * 60 / 144).astype(int), len(c["t"]) - 1)
    take = take[: int(len(c["t"]) * 2.4)]
    out = {name: column[take] for name, column in c.items()}
    out["t"] = (np.arange(len(take)) + 1) / 144
    out["dt"] = np.full(len(take), 1 / 144)
    return out


def skipping(c):
    """Return a display that shows three of five steps of the physics."""
    rows = np.arange(5, 5 * len(c["t"]) - 5, 5) // 3
    out = {name: column[rows[rows < len(c["t"])]] for name, column in c.items()}
    step = 5 / 3 * (c["t"][1] - c["t"][0])
    return {**out, "t": step * (1 + np.arange(len(out["t"]))), "dt": np.full(len(out["t"]), step)}


def landing(c):
    """Return the frame of the last landing."""
    return int(np.flatnonzero(np.diff(c["touch_ground"]) > 0)[-1]) + 1


def late_flag(c, pressed=True):
    """Return a ground flag that comes 0.15 s after the landing, when jump is pressed again."""
    row, out = landing(c), {name: column.copy() for name, column in c.items()}
    out["touch_ground"][(c["t"] >= c["t"][row]) & (c["t"] < c["t"][row] + 0.15)] = 0.0
    if pressed:
        out["in_jump"][(c["t"] > c["t"][row] + 0.05) & (c["t"] < c["t"][row] + 0.12)] = 1.0
    return out


def falling_on(c):
    """Return a landing that is missed: the fall goes on until the take ends."""
    row, out = landing(c), {name: column.copy() for name, column in c.items()}
    gone = np.cumsum(c["dt"][row:])
    out["vy"][row:] = c["vy"][row - 1] - 40.0 * gone
    out["y"][row:] = c["y"][row - 1] + np.cumsum(out["vy"][row:] * c["dt"][row:])
    out["touch_ground"][row:] = 0.0
    return {name: column for name, column in out.items() if name not in {"x", "vx"}}


def in_vain(c):
    """Return presses of jump while it stands, three of which do nothing."""
    pressed = sum((c["t"] > at) & (c["t"] < at + 0.2) for at in (2.9, 3.3, 3.7))
    return {**c, "in_jump": np.maximum(c["in_jump"], pressed)}


def drawn_between(c):
    """Return the same, with places drawn between the last two steps."""
    out, t = coarse(c), (np.arange(len(coarse(c)["t"])) + 1) / 144
    for axis in ("x", "y"):
        out[axis] = np.interp(t - 1 / 60, c["t"], c[axis])
    return out


def flickering(c):
    touch = c["touch_ground"].copy()
    touch[40:300:9] = 0.0
    return {**c, "touch_ground": touch}


def doubled(c):
    """Return frames that were written twice, a thousandth of a second apart."""
    order = np.sort(np.concatenate((np.arange(len(c["t"])), np.arange(60, 90, 7))))
    out = {name: column[order] for name, column in c.items()}
    again = np.flatnonzero(np.diff(order) == 0) + 1
    out["t"][again] += 0.001
    return out


CHANGES = {
    "time-backwards": changed(t=lambda c: at(c["t"], 200, c["t"][190])),
    "time-still": changed(t=lambda c: at(c["t"], 200, c["t"][199])),
    "frames-dropped": lambda c: {n: np.delete(v, slice(70, 75)) for n, v in c.items()},
    "frame-doubled": doubled,
    "hitch": late,
    "step-unit": changed(dt=lambda c: 1000 * c["dt"]),
    "time-unit": changed(t=lambda c: 1000 * c["t"], dt=lambda c: 1000 * c["dt"]),
    "teleport": shifted("x", 100, 30.0),
    "screen-wrap": wrapped(6.0),
    "velocity-per-frame": changed(vx=lambda c: c["vx"] * c["dt"]),
    "velocity-sign": changed(vx=lambda c: -c["vx"]),
    "velocity-scale": changed(vx=lambda c: 32 * c["vx"]),
    "velocity-disagrees": changed(vx=lambda c: 3 * np.sin(7 * c["t"])),
    "up-flipped": changed(y=lambda c: -c["y"], vy=lambda c: -c["vy"]),
    "motion-without-input": changed(in_move_x=lambda c: 0 * c["t"]),
    "input-without-motion": changed(x=lambda c: 0 * c["t"], vx=lambda c: 0 * c["t"]),
    "contact-flicker": flickering,
    "contact-disagrees": changed(touch_ground=lambda c: 1 - c["touch_ground"]),
    "position-frozen": changed(
        x=lambda c: np.where((c["t"] > 1.5) & (c["t"] < 1.8), c["x"][90], c["x"])
    ),
    "positions-repeated": coarse,
    "positions-interpolated": drawn_between,
    "steps-skipped": skipping,
    "contact-late": late_flag,
    "presses-in-vain": in_vain,
    "sinks-in": lambda c: {**c, "y": at(c["y"], landing(c), -0.1)},
    "position-glitch": lambda c: {**c, "y": at(c["y"], 60, -1.5)},
    "falls-on": falling_on,
}


@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize("code", CHANGES)
def test_a_fault_of_the_log_is_found(code, rate):
    columns = CHANGES[code](base(60 if code.startswith("positions-") else rate))
    take = build_take(Header(length_unit="m"), columns, name="take", any_clock=True)
    found = [item for item in examine(take) if item.code == code]
    assert found, codes(take)
    assert found[0].severity == CODES[code].severity
    assert 0 <= found[0].start < found[0].stop <= len(take)
    if code not in {"position-frozen", "velocity-disagrees", "time-unit"}:
        assert codes(take) == {code}


def test_a_thin_floor_names_the_speed_and_the_rate_at_which_it_begins():
    take = simulate({}, DRILL, frame_rate=30)
    assert not codes(take)
    drop = float(-np.diff(take.numbers("y")).min())
    found = examine(take, Options(floor_thickness=0.9 * drop))
    assert {item.code for item in found} == {"floor-thin"}
    assert f"{0.9 * drop * 30:.4g} m/s" in found[0].message
    header = {"floor_thickness": 0.9 * drop}
    assert codes(take_of(dict(take.columns), extra=header)) == {"floor-thin"}
    assert not codes(take, Options(floor_thickness=1.1 * drop))


def test_a_probe_off_the_tiles_is_noted():
    columns = base()
    raised = take_of({**columns, "y": columns["y"] + 0.5})
    assert codes(raised, Options(tile=1.0)) == {"probe-centre"}
    assert not codes(take_of(columns), Options(tile=1.0))
    assert not codes(take_of({**columns, "y": columns["y"] + 0.5}, probe="feet"), Options(tile=1.0))


def test_every_code_is_tested_here():
    elsewhere = {name.partition(",")[0] for name in (*FOUND, *INTERRUPTED)} | {"cut-scene"}
    elsewhere |= {
        one.code for kind in (VEHICLE, SHOT) for one in kind.measuring.findings
    }  # their own tests
    elsewhere |= {one.code for one in STATES.measured.findings}
    tested = {*FAULTS, *CHANGES, "floor-thin", "probe-centre", *elsewhere}
    assert tested == set(CODES)
    assert {kind.severity for kind in CODES.values()} == set(SEVERITIES)


@quick(3)
@pytest.mark.parametrize("jitter", [0.0, 0.2])
@pytest.mark.parametrize("order", some(INTEGRATORS, "explicit"))
@pytest.mark.parametrize("movement", ["constant", "smoothing", "friction"])
@pytest.mark.parametrize("drill", [standard_drill(), DRILL], ids=["standard", "ledge"])
@pytest.mark.parametrize("rate", some((20, 30, 60, 120, 240), 20, 60))
def test_sound_takes_give_no_finding(drill, movement, order, jitter, rate):
    values = {"ground_movement": movement, "integrator": order}
    take = simulate(values, drill, frame_rate=rate, jitter=jitter)
    assert not codes(take)
    bare = {n: c for n, c in take.columns.items() if n in {"t", "x", "y", "in_move_x"}}
    assert not codes(take_of(bare))
    rounded = {n: np.round(16 * c) if n in "xy" else c for n, c in bare.items()}
    assert not codes(take_of(rounded, length_unit="px"))


def test_a_leap_is_never_bridged():
    columns = base()
    leap = take_of(shifted("x", 100, 30.0)(columns))
    assert measure(leap)["run.highest_speed"].value == pytest.approx(8.0)
    assert measure(take_of(wrapped(6.0)(columns)))["run.top_speed"].value == pytest.approx(8.0)


# Pymunk moves with the speed before gravity (theta 0), Box2D with that after it (theta 1).
THETA = {"pymunk": 0.0, "box2d": 1.0}
FEEL = {"top": 8.0, "accel": 40.0, "slow": 32.0, "v0": 13.0, "g": 40.0}
LEDGE = ((-100.0, 7.0, 0.0), (7.0, 200.0, -3.0))


@pytest.fixture(scope="module", params=[(lib, rate) for lib in LIBRARIES for rate in (30, 60, 144)],
                ids=lambda pair: f"{pair[0]}-{pair[1]}")  # fmt: skip
def world(request):
    library, rate = request.param
    move, jump = during((0.5, 2.0, 1), (3.5, 5.0, -1)), during((6.0, 6.5, 1), (8.0, 8.5, 1))
    return THETA[library], rate, physics_take(library, rate, move, jump, 10.0, **FEEL)


def test_takes_of_physics_libraries_agree_with_what_was_put_in(world):
    theta, rate, columns = world
    h, v, found = 1 / rate, FEEL["v0"], measure(take_of(columns))
    braked = np.arange(8.0, 0, -32.0 * h) - 32.0 * h  # speeds after each step of coasting
    expected = {
        "run.top_speed": 8.0,
        "run.time_to_90": 0.9 * 8 / 40,
        "run.time_to_top_speed": 0.99 * 8 / 40,
        "coast.stop_time": 0.99 * 8 / 32,
        "coast.stop_distance": h * np.maximum(braked, 0).sum(),
        "jump.takeoff_speed": v,
        "jump.apex_height": sampled_arc(theta, h, v, 40.0).max(),
        "jump.time_to_apex": v / 40 + h * (0.5 - theta),
        "jump.air_time": 2 * (v / 40 + h * (0.5 - theta)),
    }
    for name, value in expected.items():
        row = found[name]
        assert row.value == pytest.approx(value, abs=1.0001 * row.resolution + 2e-6), name
        assert row.n == 2, name


def test_takes_of_physics_libraries_give_no_finding(world):
    _, _, columns = world
    for lacking in (set(), {"vx", "vy"}, {"touch_ground"}):
        take = take_of({n: c for n, c in columns.items() if n not in lacking})
        assert not codes(take, Options(floor_thickness=1.0)), lacking


@pytest.mark.parametrize("seed", range(24))
def test_random_worlds_of_physics_libraries_give_no_false_alarm(seed):
    columns, what = random_world(np.random.default_rng(seed))
    for lacking in (set(), {"vx", "vy"}, {"vx", "vy", "touch_ground"}):
        found = codes(take_of({n: c for n, c in columns.items() if n not in lacking}))
        # in a corner the flag tells of the wall as well: it does flicker, and stays on in the air
        true = {"contact-flicker", "contact-late"}
        if columns["y"].min() < -50:  # through a joint of two floors
            true.add("falls-on")
        assert found <= true, (what, lacking)


@pytest.mark.parametrize("library", LIBRARIES)
@pytest.mark.parametrize("rate", [30, 60, 144])
def test_a_fall_from_a_ledge_in_a_physics_library_is_sound(library, rate):
    columns = physics_take(
        library, rate, during((0.5, 2.5, 1)), during(), 5.0, floors=LEDGE, **FEEL
    )
    assert not codes(take_of(columns))
