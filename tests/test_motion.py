"""Motion as takes show it: velocities, contact, phases and events."""

import itertools

import numpy as np
import pytest

from conftest import quick, take_of, without
from kickback.kinds.foot.events import events_of
from kickback.kinds.foot.phases import foot_phases
from kickback.kinds.measuring import measure
from kickback.kinds.table import analyse
from truth.recurrence import THETA, during, play, steps

RUN = during((0.5, 2.5, 1), (4.0, 6.0, 1), (6.0, 8.0, -1))
JUMPS = during((9.0, 9.5, 1), (11.0, 11.5, 1))


def exercise(rate=60, **options):
    return play(steps(rate, 13), RUN, JUMPS, **options)


def names_of(phases, track):
    return [phase.name for phase in phases if phase.track == track]


@pytest.mark.parametrize("rate", [30, 60, 144, 240])
def test_phases_follow_the_inputs(rate):
    phases = analyse(take_of(exercise(rate))).phases
    assert names_of(phases, "travel") == [
        "rest",
        "speed-up",
        "cruise",
        "coast",
        "rest",
        "speed-up",
        "cruise",
        "turn",
        "cruise",
        "coast",
        "rest",
        "still",
        "rest",
        "still",
        "rest",
    ]
    assert names_of(phases, "vertical") == [
        "grounded",
        "rise",
        "fall",
        "grounded",
        "rise",
        "fall",
        "grounded",
    ]
    assert not any(phase.inferred for phase in phases)


@pytest.mark.parametrize("track", ["travel", "vertical"])
def test_each_frame_has_one_phase_in_each_track(track):
    take = take_of(exercise())
    phases = [phase for phase in analyse(take).phases if phase.track == track]
    assert phases[0].start == 0
    assert phases[-1].stop == len(take)
    assert all(a.stop == b.start for a, b in itertools.pairwise(phases))


@pytest.mark.parametrize(
    ("spans", "expected"),
    [
        (((0.5, 2.5, 1), (2.5, 2.6, -1)), "brake"),
        (((0.5, 2.5, 1), (2.5, 3.5, -1)), "turn"),
        (((0.5, 0.6, 1), (0.6, 2.0, -1)), "reverse"),
    ],
)
def test_opposite_input_is_a_brake_a_turn_or_a_reverse(spans, expected):
    phases = analyse(take_of(play(steps(60, 5), during(*spans)))).phases
    assert expected in names_of(phases, "travel")
    assert {"brake", "turn", "reverse"} & set(names_of(phases, "travel")) == {expected}


def test_a_brake_button_brakes():
    columns = play(steps(60, 5), during((0.5, 2.5, 1)))
    columns["in_brake"] = ((columns["t"] > 2.51) & (columns["t"] < 3.5)).astype(float)
    assert "brake" in names_of(analyse(take_of(columns)).phases, "travel")
    assert measure(take_of(columns))["brake.stop_time"].value == pytest.approx(0.25, abs=0.02 / 60)


def test_a_landing_is_not_a_rest():
    columns = play(steps(60, 6), during((0.5, 5, 1)), during((2, 2.5, 1)))
    phases = analyse(take_of(columns)).phases
    assert names_of(phases, "travel") == ["rest", "speed-up", "cruise", "coast", "rest"]


def test_events_come_in_order_with_their_frames():
    motion = analyse(take_of(exercise())).whole
    events = events_of(motion)
    assert [event.name for event in events if event.time > 8.9] == [
        "jump press",
        "takeoff",
        "apex",
        "jump release",
        "landing",
        "jump press",
        "takeoff",
        "apex",
        "jump release",
        "landing",
    ]
    takeoff = next(event for event in events if event.name == "takeoff")
    assert takeoff.time == pytest.approx(9.0)
    assert motion.t[takeoff.frame] == pytest.approx(9.0 + 1 / 60)


def test_input_held_in_the_first_row_is_no_press():
    columns = play(steps(60, 3), lambda _: 1)
    found = measure(take_of(columns))
    assert found["run.time_to_90"].reason == "no full press from rest on the ground"
    assert found["run.top_speed"].value == pytest.approx(8.0)


@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", [20, 60, 240])
def test_theta_is_read_off_the_displacements(rate, order):
    motion = analyse(take_of(exercise(rate, theta=THETA[order]))).whole
    for track in (motion.across, motion.up):
        assert track.source == "reported"
        assert track.theta == pytest.approx(THETA[order], abs=1e-6)


@pytest.mark.parametrize(
    "spoil",
    [
        lambda c: {"vx": c["vx"] / 60, "vy": c["vy"] / 60},
        lambda c: {"vx": -c["vx"], "vy": -c["vy"]},
        lambda c: {"vx": 0 * c["vx"], "vy": 0 * c["vy"]},
        lambda c: {"vx": c["vx"] * 1.1, "vy": c["vy"] * 1.1},
    ],
    ids=["per frame", "flipped", "zero", "scaled"],
)
def test_a_velocity_that_is_not_the_motion_is_not_used(spoil):
    columns = exercise(theta=0.5)
    found = measure(take_of(columns | spoil(columns)))
    assert analyse(take_of(columns | spoil(columns))).whole.across.source == "displacement"
    assert found["run.top_speed"].value == pytest.approx(8.0)
    assert abs(found["run.time_to_90"].value - 0.18) < 0.5 / 60


def test_slow_motion_shows_in_wall_clock_speed():
    columns = exercise(theta=0.5)
    columns["t"] = columns["t"] * 1.5
    found = measure(take_of(columns))
    assert found["run.top_speed"].value == pytest.approx(8.0 / 1.5)
    assert found["run.time_to_90"].value == pytest.approx(0.18 * 1.5, abs=0.02 / 60)


@quick(4)
@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("rate", [30, 60, 144])
def test_contact_that_flickers_changes_nothing(rate, seed):
    columns = exercise(rate, theta=0.5)
    clean = measure(take_of(columns))
    rng = np.random.default_rng(seed)
    touch = columns["touch_ground"].copy()
    moved = np.flatnonzero(touch[1:] != touch[:-1]) + 1
    for row in rng.choice(np.arange(8, len(touch) - 8, 6), 6, replace=False):
        if np.min(np.abs(moved - row)) > 5:
            touch[row : row + rng.integers(1, 3)] = 1 - touch[row]
    noisy = measure(take_of(columns | {"touch_ground": touch}))
    for name in ("jump.air_time", "jump.apex_height", "run.top_speed", "turn.time"):
        assert noisy[name].value == pytest.approx(clean[name].value), name
        assert noisy[name].n == clean[name].n, name


@pytest.mark.parametrize("late", [(1, 0), (0, 1), (1, 1), (2, 2), (-1, 0), (0, -1)])
@pytest.mark.parametrize("rate", [30, 60, 144])
def test_flags_that_lead_or_lag_are_moved_to_the_motion(rate, late):
    columns = exercise(rate, theta=0.5)
    touch = columns["touch_ground"].copy()
    down = np.flatnonzero(touch[1:] < touch[:-1]) + 1
    up = np.flatnonzero(touch[1:] > touch[:-1]) + 1
    shifted = np.ones_like(touch)
    for a, b in zip(down + late[0], up + late[1], strict=True):
        shifted[a:b] = 0
    clean, moved = measure(take_of(columns)), measure(take_of(columns | {"touch_ground": shifted}))
    for name in ("jump.air_time", "jump.apex_height", "jump.takeoff_speed", "input.latency"):
        assert moved[name].value == pytest.approx(clean[name].value), name


@pytest.mark.parametrize("rate", [30, 60, 144, 1000])
@pytest.mark.parametrize("order", THETA)
def test_contact_is_inferred_where_none_is_recorded(rate, order):
    columns = exercise(rate, theta=THETA[order])
    motion = analyse(take_of(without(columns, "touch_ground"))).whole
    assert motion.contact_source == "inferred"
    assert [p.inferred for p in foot_phases(motion) if p.track == "vertical"] == [True] * 7
    known = analyse(take_of(columns)).whole
    assert list(motion.flights.start) == list(known.flights.start)
    assert np.all(np.abs(motion.flights.stop - known.flights.stop) <= 1)
    found = measure(take_of(without(columns, "touch_ground")))["jump.air_time"]
    assert found.reason == "ground contact inferred from the motion"


@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize("depth", [0.02, 0.2])
def test_a_body_that_sinks_in_and_is_pushed_back_has_landed(rate, depth):
    columns = exercise(rate, theta=0.5)
    up = np.flatnonzero(np.diff(columns["touch_ground"]) > 0) + 1
    since = np.full(len(columns["t"]), np.inf)
    for row in up:
        since[row:] = columns["t"][row:] - columns["t"][row]
    sunk = columns["y"] - np.where(columns["y"] == 0, depth * np.exp(-since / 0.08), 0.0)
    motion = analyse(take_of(without(columns, "touch_ground", "vy") | {"y": sunk})).whole
    assert len(motion.flights) == 2
    found = measure(motion.take)
    assert found["jump.apex_height"].value == pytest.approx(columns["y"].max(), rel=0.01)
    assert abs(found["jump.air_time"].value - 0.65) < 0.5 / rate


def test_bunny_hops_are_jumps_of_their_own():
    presses = during(*((k * 0.7 + 1, k * 0.7 + 1.3, 1) for k in range(5)))
    columns = play(steps(60, 6), during(), presses, theta=0.5)
    for drop in ((), ("touch_ground",)):
        assert measure(take_of(without(columns, *drop)))["jump.apex_height"].n == 5


def test_without_inputs_travel_is_inferred_and_says_so():
    columns = without(exercise(theta=0.5), "in_move_x", "in_jump")
    take = take_of(columns)
    phases = analyse(take).phases
    travel = [phase for phase in phases if phase.track == "travel"]
    assert [p.name for p in travel][:8] == [
        "rest",
        "speed-up",
        "cruise",
        "coast",
        "rest",
        "speed-up",
        "cruise",
        "turn",
    ]
    assert all(phase.inferred for phase in travel)
    found = measure(take)
    for name, value in (("run.time_to_90", 0.18), ("coast.stop_time", 0.2475)):
        assert abs(found[name].value - value) < 0.5 / 60
        assert "inferred" in found[name].reason
    assert found["input.latency"].value is None


@pytest.mark.parametrize("missing", ["x", "y"])
def test_one_axis_alone_still_carries_its_metrics(missing):
    columns = without(exercise(theta=0.5), missing, f"v{missing}")
    found = measure(take_of(columns))
    kept, lost = ("jump.apex_height", "run.top_speed")[:: 1 if missing == "x" else -1]
    assert found[kept].value is not None
    assert found[lost].value is None
    assert found[lost].reason in {"the take has no sideways position", "the take has no height"}


def test_a_ledge_is_a_fall_without_a_takeoff():
    n = np.arange(240)
    t = (n + 1) / 60
    fall = np.maximum(0, t - 2.0)
    y = np.maximum(-20.0, -20 * fall**2)
    columns = {"t": t, "x": t * 2, "y": y, "touch_ground": ((y == 0) | (y == -20)).astype(float)}
    motion = analyse(take_of(columns)).whole
    assert names_of(foot_phases(motion), "vertical") == ["grounded", "fall", "grounded"]
    assert [
        event.name
        for event in events_of(motion)
        if "press" not in event.name and "release" not in event.name
    ] == ["ledge", "landing"]
    assert measure(take_of(columns))["jump.apex_height"].reason == "no jump in the take"


def test_terminal_speed_is_a_plateau_of_the_fall():
    n = np.arange(200)
    vy = -np.minimum(12.0, 40 * np.maximum(0, n - 20) / 60)
    y = np.cumsum(vy) / 60
    columns = {
        "t": (n + 1) / 60,
        "x": n * 0.0,
        "y": y,
        "vy": vy,
        "touch_ground": (n <= 20).astype(float),
    }
    assert measure(take_of(columns))["fall.terminal_speed"].value == pytest.approx(12.0)


@pytest.mark.parametrize(
    ("level", "reason"), [(1.0, "it lands 1 m above its takeoff"), (-1.0, None)]
)
def test_a_jump_to_another_level(level, reason):
    columns = play(steps(60, 4), during(), during((1, 2, 1)), theta=0.5)
    y, row = columns["y"].copy(), int(np.argmax(columns["y"]))
    n = np.arange(len(y) - row)
    y[row:] = np.maximum(level, y[row] + columns["vy"][row] * n / 60 - 20 * (n / 60) ** 2)
    down = (np.arange(len(y)) > row) & (y == level)
    columns |= {
        "y": y,
        "touch_ground": np.where(np.arange(len(y)) < row, columns["touch_ground"], down),
    }
    found = measure(take_of(without(columns, "vy")))
    assert found["jump.drop"].value == pytest.approx(-level)
    assert found["jump.air_time"].reason == reason
    if reason is None:
        assert found["jump.air_time"].value == pytest.approx(0.65, abs=0.02 / 60)
        assert found["jump.flight_time"].value > 0.65


@pytest.mark.parametrize("up", ["+y", "-y", "+x", "-x", "+z", "-z"])
def test_any_axis_may_be_up(up):
    columns = exercise(theta=0.5)
    axis, sign = up[1], -1.0 if up[0] == "-" else 1.0
    ground = "y" if axis == "x" else "x"
    plain = without(columns, "x", "y", "vx", "vy") | {
        ground: columns["x"],
        f"v{ground}": columns["vx"],
        axis: sign * columns["y"],
        f"v{axis}": sign * columns["vy"],
    }
    found, wanted = measure(take_of(plain, up=up)), measure(take_of(columns))
    for name in ("jump.apex_height", "jump.distance", "turn.time", "jump.landing_speed"):
        assert found[name].value == wanted[name].value
