"""Metrics against closed forms and recurrences, at many frame rates and uneven steps."""

import math

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.kinds.measuring import measure
from truth.recurrence import RATES, THETA, during, play, press_time, sampled_arc, steps

RUN = during((0.5, 3.5, 1), (6.0, 8.0, 1), (8.0, 10.0, -1))
LEVELS = {"run.time_to_90": 0.1, "run.time_to_top_speed": 0.01}
JITTERS = (0.0, 0.3)


def close(found, wanted, relative=1e-6):
    assert found == pytest.approx(wanted, rel=relative, abs=1e-12)


def frames_off(found, wanted, rate):
    return abs(found - wanted) * rate


@pytest.mark.parametrize("jitter", JITTERS)
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", RATES)
def test_constant_acceleration_is_located_between_frames(rate, order, jitter):
    top, accel, slow = 7.7, 37.0, 29.0
    columns = play(
        steps(rate, 12, jitter, 7), RUN, theta=THETA[order], top=top, accel=accel, slow=slow
    )
    found = measure(take_of(columns))
    close(found["run.top_speed"].value, top)
    wanted = {
        "run.time_to_90": 0.9 * top / accel,
        "run.time_to_top_speed": 0.99 * top / accel,
        "coast.stop_time": 0.99 * top / slow,
        "brake.stop_time": top / accel,
        "reverse.time_to_zero": top / accel,
        "turn.time": 1.99 * top / accel,
    }
    for name, value in wanted.items():
        assert frames_off(found[name].value, value, rate) < 0.02, name
    released, row = press_time(columns, "in_move_x", 0)
    stop = released + wanted["coast.stop_time"]
    distance = np.interp(stop, columns["t"], columns["x"]) - columns["x"][row - 1]
    close(found["coast.stop_distance"].occurrences.value[0], distance)


@pytest.mark.parametrize("jitter", JITTERS)
@pytest.mark.parametrize("accel", [60.0, 90.0, 130.0])
@pytest.mark.parametrize("rate", [20, 30])
def test_a_clamp_after_two_frames_is_seen_through(rate, accel, jitter):
    columns = play(steps(rate, 12, jitter, 5), RUN, top=8.0, accel=accel, slow=accel, theta=1.0)
    found = measure(take_of(columns))
    for name, value in (
        ("run.time_to_90", 7.2),
        ("coast.stop_time", 7.92),
        ("brake.stop_time", 8.0),
    ):
        assert frames_off(found[name].value, value / accel, rate) < 0.02, name


@pytest.mark.parametrize(
    ("law", "jitter"),
    [("exact", 0), ("exact", 0.3), ("first-order", 0), ("first-order", 0.3), ("per-frame", 0)],
)
@pytest.mark.parametrize("rate", RATES)
def test_smoothing_and_friction_are_located_between_frames(rate, law, jitter):
    dt, k = steps(rate, 12, jitter, 3), 9.0
    columns = play(dt, RUN, law=law, k=k)
    found = measure(take_of(columns))
    keep = {
        "exact": math.exp(-k / rate),
        "first-order": 1 - k / rate,
        "per-frame": math.exp(-k / 60),
    }
    settles = keep[law] ** (rate * 1.0) < 1e-6
    pressed, press = press_time(columns, "in_move_x", 1)
    release = press_time(columns, "in_move_x", 0)[1]
    for name, left in LEVELS.items():
        if law == "first-order" and jitter:
            value = _level_time(columns, press, 8.0 * (1 - left), dt) - pressed
        elif law == "exact":
            value = -math.log(left) / k
        else:
            value = math.log(left) / math.log(keep[law]) / rate
        if settles:
            located = found[name].occurrences.value[0]
            assert frames_off(located, value, rate) < 0.02, name
    stop = found["coast.stop_time"].occurrences
    entry = columns["vx"][release - 1]
    if law == "exact" or not jitter:
        per_frame = k / rate if law == "exact" else -math.log(keep[law])
        assert frames_off(stop.value[0], math.log(100) / per_frame / rate, rate) < 0.02
    distance = np.interp(stop.end[0], columns["t"], columns["x"]) - columns["x"][release - 1]
    close(found["coast.stop_distance"].occurrences.value[0], distance)
    close(np.interp(stop.end[0], columns["t"], columns["vx"]), 0.01 * entry, 0.1)


def _level_time(columns, press, level, dt):
    """Cross a level where a frame's own factor 1 − k·dt shrinks the gap evenly in log time."""
    hit = press + int(np.argmax(columns["vx"][press:] >= level))
    gap = 8.0 - columns["vx"]
    share = math.log((8.0 - level) / gap[hit - 1]) / math.log(gap[hit] / gap[hit - 1])
    return columns["t"][hit - 1] + share * dt[hit]


@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", RATES)
def test_jumps_match_the_discrete_parabola(rate, order):
    theta, h, v0, g, top = THETA[order], 1 / rate, 12.7, 38.0, 7.7
    columns = play(
        steps(rate, 8), during((0.5, 7, 1)), during((3, 5, 1)), theta=theta, v0=v0, g=g, top=top
    )
    found = measure(take_of(columns))
    arc = sampled_arc(theta, h, v0, g)
    air = (2 * v0 / (g * h) - (2 * theta - 1)) * h
    close(found["jump.apex_height"].value, arc.max(), 1e-9)
    assert frames_off(found["jump.time_to_apex"].value, v0 / g - (theta - 0.5) * h, rate) < 0.02
    assert frames_off(found["jump.air_time"].value, air, rate) < 0.02
    close(found["jump.distance"].value, top * air)
    close(found["jump.landing_speed"].value, g * air - v0)
    speed = found["jump.takeoff_speed"]
    close(speed.value, v0 - g * h if theta == 1 else v0)
    assert abs(speed.value - v0) <= speed.resolution + 1e-9
    assert found["hop.apex_height"].value is None


@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("seed", some(range(6), 0, 1))
@pytest.mark.parametrize("rate", RATES)
def test_jumps_with_uneven_steps(rate, seed, order):
    theta, v0, g = THETA[order], 13.0, 40.0
    dt = steps(rate, 8, 0.3, seed)
    columns = play(dt, during((0.5, 7, 1)), during((3, 5, 1)), theta=theta, v0=v0, g=g)
    found = measure(take_of(columns))
    pressed, row = press_time(columns, "in_jump", 1)
    close(found["jump.apex_height"].value, columns["y"].max(), 1e-9)
    last = row + int(np.argmax(columns["touch_ground"][row:])) - 1
    y, v, h = columns["y"][last], columns["vy"][last], dt[last + 1]
    a, b = -g / 2, v - (theta - 0.5) * g * h
    landed = columns["t"][last] + (-b - math.sqrt(b * b - 4 * a * y)) / (2 * a) - pressed
    assert frames_off(found["jump.air_time"].value, landed, rate) < 0.02
    if order == "trapezoid":  # the only order whose frames lie on one parabola at any steps
        assert frames_off(found["jump.air_time"].value, 2 * v0 / g, rate) < 1e-6
        assert frames_off(found["jump.time_to_apex"].value, v0 / g, rate) < 1e-6
        close(found["jump.distance"].value, 8.0 * 2 * v0 / g)


@pytest.mark.parametrize("lacking", [(), ("vx", "vy"), ("vx", "vy", "touch_ground")])
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", RATES)
def test_rise_and_fall_may_have_gravities_of_their_own(rate, order, lacking):
    theta, h, rise, fall = THETA[order], 1 / rate, 30.0, 61.0
    columns = play(
        steps(rate, 5), during((0.2, 5, 1)), during((1, 3, 1)), theta=theta, g=rise, g_fall=fall
    )
    row = press_time(columns, "in_jump", 1)[1]
    last = row + int(np.argmax(columns["touch_ground"][row:])) - 1
    top = int(np.argmax(columns["y"]))
    found = measure(take_of({n: c for n, c in columns.items() if n not in lacking}))
    close(found["jump.apex_height"].value, columns["y"].max(), 1e-9)
    slope = columns["vy"][top - 1] - (theta - 0.5) * rise * h
    apex = columns["t"][top - 1] + slope / rise - columns["t"][row - 1]
    assert frames_off(found["jump.time_to_apex"].value, apex, rate) < 0.02
    slope = columns["vy"][last] - (theta - 0.5) * fall * h
    tau = (slope + math.sqrt(slope**2 + 2 * fall * columns["y"][last])) / fall
    landed = columns["t"][last] + tau - columns["t"][row - 1]
    assert frames_off(found["jump.air_time"].value, landed, rate) < 0.02
    close(found["jump.distance"].value, 8.0 * landed, 1e-6 if not lacking else 1e-5)


@quick(3)
@pytest.mark.parametrize("lacking", [("vx", "vy"), ("vx", "vy", "touch_ground")])
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", RATES)
def test_without_a_velocity_column_times_stay_within_half_a_frame(rate, order, lacking):
    theta, v0, g = THETA[order], 13.0, 40.0
    columns = play(
        steps(rate, 14), during((0.5, 3, 1), (4.5, 8, 1)), during((6, 7.5, 1)), theta=theta
    )
    columns = {name: column for name, column in columns.items() if name not in lacking}
    found = measure(take_of(columns))
    wanted = {"run.time_to_90": 0.18, "run.time_to_top_speed": 0.198, "coast.stop_time": 0.2475}
    for name, value in wanted.items():
        located = found[name]
        assert frames_off(located.value, value, rate) < 0.5 + 1e-6, name
        assert abs(located.value - value) <= located.resolution + 1e-9, name
    close(found["run.top_speed"].value, 8.0)
    close(found["jump.apex_height"].value, sampled_arc(theta, 1 / rate, v0, g).max(), 1e-9)
    air = (2 * v0 * rate / g - (2 * theta - 1)) / rate
    assert frames_off(found["jump.air_time"].value, air, rate) < 0.02


@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", [30, 60, 120, 144, 240, 1000])
def test_a_hop_is_a_jump_whose_release_lowered_the_apex(rate, order):
    theta, g, hold = THETA[order], 40.0, 1 / 6
    columns = play(
        steps(rate, 6), during(), during((1, 2, 1), (3, 3 + hold, 1)), theta=theta, cut=0.5
    )
    row = press_time(columns, "in_jump", 0, 1)[1]
    y, v, h = columns["y"][row - 1], columns["vy"][row - 1] / 2, 1 / rate
    n = np.arange(400)
    arc = y + v * n * h - g * h * h * n * (n + 2 * theta - 1) / 2
    found = measure(take_of(columns))
    assert found["hop.apex_height"].n == found["jump.apex_height"].n == 1
    close(found["hop.apex_height"].value, arc.max(), 1e-9)
    apex = (
        columns["t"][row - 1] + v / g - (theta - 0.5) * h - press_time(columns, "in_jump", 1, 1)[0]
    )
    assert frames_off(found["hop.time_to_apex"].value, apex, rate) < 0.02


def test_letting_go_after_the_apex_or_without_effect_is_no_hop():
    columns = play(steps(60, 6), during(), during((1, 1.1, 1), (3, 3.5, 1)), theta=1.0)
    found = measure(take_of(columns))
    assert found["jump.apex_height"].n == 2
    assert found["hop.apex_height"].reason == "no jump was cut short"
