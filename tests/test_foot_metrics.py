"""What a character on foot does beside running and jumping, against what its loop was told to do."""

import numpy as np
import pytest

from conftest import some, take_of, without
from kickback import measure
from kickback.kinds.several_takes import narrowed_windows
from kickback.motion.options import Options
from truth.moves import moves
from truth.recurrence import during


def still(_):
    return 0


RUN = during((0.5, 9, 1))
SLOW_FALL = {"g": 40.0, "g_fall": 60.0, "jump": 13.0}
V, G, F = 13.0, 40.0, 60.0

# name: how it is played, the loop's numbers, and what the metrics must be: seconds that fall on
# frames are known to one ("s"), everything else to what the log allows
CASES = {
    "dash": (
        (during((0.5, 3, 1), (7, 9, 1)), still, during((1.5, 1.6, 1), (2.2, 2.3, 1), (5.5, 5.6, 1))),
        {"dash": 24.0, "dash_time": 0.15, "cooldown": 0.4},
        {
            "dash.peak_speed": 24.0, "dash.gain": 16.0, "dash.duration": (0.15, "s"),
            "dash.distance": (3.6, "24 s"),
        },
    ),
    "dash, back": (
        (RUN, still, during((1.5, 1.6, 1))),
        {"dash": 24.0, "dash_time": 0.15},
        {"dash.recovery_time": (24 - 8 * 1.01) / 60, "input.dash_latency": 0, "input.lost_dashes": 0},
    ),
    "dash in the air": (
        (RUN, during((2.9, 3.3, 1)), during((3.1, 3.2, 1))),
        {"dash": 20.0, "dash_time": 0.1},
        {"air_dash.peak_speed": 20.0, "air_dash.duration": (0.1, "s")},
    ),
    "cooldown": (
        (RUN, still, during((1.5, 1.56, 1), (1.8, 1.86, 1), (2.1, 2.16, 1))),
        {"dash": 24.0, "dash_time": 0.1, "cooldown": 0.45},
        {"dash.cooldown": (0.45, "0.16"), "input.lost_dashes": 1},
    ),
    "gravities": (
        (RUN, during((1, 1.6, 1), (2.5, 3.1, 1)), still),
        SLOW_FALL,
        {
            "jump.rise_gravity": G, "jump.fall_gravity": F, "jump.gravity_ratio": F / G,
            "jump.bend_misfit": 0, "jump.squat_time": 0, "jump.landing_lag": 0,
        },
    ),
    "hanging": (
        (RUN, during((1, 1.6, 1), (2.5, 3.1, 1)), still),
        {"jump": V, "g": G, "g_fall": G},
        {"jump.slow_time": (0.2 * V / G, "0.1 s"), "jump.hang_time": (2 * 0.1**0.5 * V / G, "0.3 s")},
    ),
    "a bend": (
        (RUN, during((1, 1.6, 1), (2.5, 3.1, 1)), still),
        {"hold": 0.1, "g_hold": 5.0},
        {"jump.bend_misfit": (0.07, "0.07")},
    ),
    "squat and lag": (
        (RUN, during((1, 1.6, 1), (2.9, 3.5, 1)), still),
        {"squat": 0.1, "lag": 0.2},
        {"jump.squat_time": (0.1, "s"), "jump.landing_lag": (0.2, "s")},
    ),
    "a ceiling": (
        (RUN, during((1, 1.6, 1), (2.5, 3.1, 1)), still),
        {"ceiling": 1.0, "g": G, "jump": V},
        {"ceiling.free_height": (V * V / 2 / G, "7 s"), "ceiling.lost_height": (V * V / 2 / G - 1, "7 s")},
    ),
    "control in the air": (
        (during((0.5, 1.55, 1), (1.8, 3.1, -1), (4.1, 5.0, 1)), during((1.5, 2.4, 1), (4, 5, 1)), still),
        {"air_accel": 12.0, "g": 20.0, "jump": 14.0},
        {"air.acceleration": 12.0, "air.turn_time": 8 / 12, "air.kept_speed": 1.0},
    ),
    "a ledge": (
        (RUN, still, still),
        {"ledge": 10.0, "hang": 0.1, "terminal": 9.0},
        {"fall.terminal_speed": (9.0, "9 s"), "fall.ledge_delay": (0.1, "2.5 s")},
    ),
    "a wall": (
        (during((0.2, 5, 1)), during((1, 1.6, 1)), still),
        {"walls": (8.0,), "slide": 3.0, "jump": 16.0},
        {"wall.slide_speed": 3.0},
    ),
    "off a wall": (
        (during((0.2, 1.6, 1), (1.6, 2.2, -1), (2.2, 3, 1)),
         during((1, 1.3, 1), (1.5, 1.8, 1), (1.95, 2.2, 1), (5, 5.5, 1)), still),
        {"walls": (8.5, 5.5), "wall_jump": 12.0, "wall_away": 8.0},
        {"wall_jump.away_speed": 8.0, "wall_jump.angle": (np.rad2deg(np.arctan2(12, 8)), "200 s")},
    ),
    "a stick": (
        (during((0.5, 1.5, 1), (2, 3, 0.5), (3.5, 4.5, 0.25), (5, 6, 0.75)), still, still),
        {},
        {"stick.linearity": 0, "run.first_frame_speed": (0, "60 s"), "run.mean_acceleration": 60.0,
         "run.overshoot": 0},
    ),
    "presses in vain": (
        (RUN, during((1, 1.3, 1), (1.4, 1.45, 1), (3, 3.6, 1)), still),
        {},
        {"input.lost_jumps": 1, "input.held_jumps": 0, "input.jump_latency": 0},
    ),
}  # fmt: skip


def played(name, rate, jitter):
    (move, jump, dash), own, _ = CASES[name]
    dt = np.full(round(9 * rate), 1 / rate)
    dt = dt * np.random.default_rng(rate).uniform(1 - jitter, 1 + jitter, len(dt))
    return moves(dt, move, jump, dash, **own)


def printed(columns):
    return {name: np.round(c, 3 if name in {"t", "dt"} else 2) for name, c in columns.items()}


def slack_of(text, rate):
    """Return what a moment that falls on a frame may be off: so many frames' worth."""
    if not text.endswith("s"):
        return float(text)
    return float(text.removesuffix("s").strip() or 1) * 1.31 / rate


@pytest.mark.parametrize("rate", some([30, 60, 144], 60))
@pytest.mark.parametrize("form", ["even", "uneven", "printed"])
@pytest.mark.parametrize("name", CASES)
def test_metrics_are_what_the_loop_was_told(name, form, rate):
    columns = played(name, rate, 0.0 if form == "even" else 0.3)
    found = measure(take_of(printed(columns) if form == "printed" else columns))
    for metric, wanted in CASES[name][2].items():
        value, slack = wanted if isinstance(wanted, tuple) else (wanted, "1e-6")
        row = found[metric]
        assert row.value is not None, (metric, row.reason)
        allowed = slack_of(slack, rate) + 2 * row.resolution + 1e-6 * abs(value)
        assert abs(row.value - value) <= allowed, (metric, row.value, value, row.resolution)
        tight = 0.05 * abs(value) + slack_of(slack, rate) + 0.02
        assert form != "printed" or row.resolution <= tight, (metric, row.resolution)


def test_heights_go_with_the_hold_the_run_up_and_the_jumps_in_a_row():
    holds = ((1, 1.05), (2.5, 2.6), (4, 4.2), (5.5, 5.8), (7, 7.6), (9, 9.6))
    run = during((0.2, 6, 1), (8.5, 12, 1))
    dt = np.full(60 * 13, 1 / 60)
    jumps = during(*((a, b, 1) for a, b in holds), (10.5, 10.6, 1), (10.7, 11, 1))
    columns = moves(dt, run, jumps, g=40.0, jump=13.0, cut=0.4, air=(9.0,))
    found = measure(take_of(columns))
    hold = found["jump.full_hold"]
    # letting go changes nothing once the rise is over, 0.325 s after takeoff
    assert abs(hold.value - 0.29) <= hold.resolution + 0.05
    assert "of the take's" not in (hold.reason or "")
    assert found["hop.lowest_height"].value < found["hop.apex_height"].value
    assert found["jump.most_in_the_air"].value == 1
    assert found["jump.run_up_gain"].value == pytest.approx(1.0, rel=1e-6)
    assert found["jump.standing_height"].n == 1


def coyote(late, rate=60):
    dt = np.full(4 * rate, 1 / rate)
    columns = moves(dt, during((0.2, 2.5, 1)), during((late, late + 0.1, 1)), ledge=8.0, coyote=0.1)
    return measure(take_of(columns), only="coyote,input")


def test_takes_narrow_a_window_together():
    early, late, failed = coyote(1.30), coyote(1.34), coyote(1.45)
    assert early["coyote.window"].reason == "more than 0.05000 s: nothing beyond that failed"
    assert early["coyote.missed"].value == 0
    assert failed["coyote.missed"].value == 1
    assert "a window of 0.2 s would have saved them" in failed["coyote.missed"].reason
    assert failed["input.lost_jumps"].reason == "1 too late after a ledge"
    rows = {row.metric: row for row in narrowed_windows([early, late, failed])}
    window = rows["coyote.window"]
    assert window.take == "3 takes"
    assert window.value - window.resolution == pytest.approx(0.1)
    assert window.value + window.resolution == pytest.approx(0.2, abs=1e-3)
    assert rows["coyote.window_frames"].reason == "6.000 to 12.00 frames, from 3 tries"
    assert narrowed_windows([early]) == []


@pytest.mark.parametrize(
    ("before", "buffer", "missed"),
    [(0.12, 0.2, 0), (0.12, 0.0, 1), (2.5 / 60, 0.2, 0)],  # s before the landing
)
def test_a_press_that_is_kept_for_the_landing_is_no_late_jump(before, buffer, missed):
    dt, run = np.full(240, 1 / 60), during((0.2, 2.5, 1))
    alone = moves(dt, run, still, ledge=8.0, g_fall=160.0)
    off = int(np.argmin(alone["touch_ground"] > 0.5))
    down = alone["t"][off + int(np.argmax(alone["touch_ground"][off:] > 0.5))]
    press = during((down - before, down + 0.3, 1))
    found = measure(
        take_of(moves(dt, run, press, ledge=8.0, g_fall=160.0, buffer=buffer)), only="coyote,jump"
    )
    assert found["coyote.missed"].value == missed
    assert found["coyote.window"].reason.startswith("less than")
    assert found["jump.takeoff_speed"].n == (buffer > 0)


def test_a_press_before_a_landing_counts_where_it_is_buffered():
    dt = np.full(300, 1 / 60)
    jump = during((1, 1.5, 1), (1.6, 1.9, 1), (3.0, 3.3, 1), (3.45, 3.5, 1))
    found = measure(take_of(moves(dt, still, jump, buffer=0.1)), only="buffer")
    assert (
        found["buffer.window"].reason == "0.03333 to 0.1833 s, from 2 tries"
    )  # no middle of these
    assert found["buffer.missed"].value == 1


@pytest.mark.parametrize(
    ("response", "metric", "value", "within"),
    [
        (lambda a: a if a > 0.2 else 0.0, "stick.dead_zone", 0.2, 0.051),
        (lambda a: 0.3 if a < 0.6 else 1.0, "stick.run_threshold", 0.55, 0.051),
        (lambda a: 0.3 if a < 0.6 else 1.0, "stick.walk_speed", 2.4, 1e-9),
        (lambda a: a * a, "stick.linearity", 0.25, 0.01),
    ],
)
def test_the_response_to_a_stick_is_read(response, metric, value, within):
    amounts = [*np.arange(0.15, 1.0, 0.1).tolist(), 1.0]
    dt = np.full(len(amounts) * 90, 1 / 60)
    t = np.cumsum(dt) - dt[0] / 2
    step = np.minimum((t // 1.5).astype(int), len(amounts) - 1)
    amount = np.where(t % 1.5 < 1.0, np.array(amounts)[step], 0.0)
    columns = moves(
        dt, lambda time: response(amount[min(int(time * 60 + 0.5), len(dt) - 1)]), still
    )
    found = measure(take_of(columns | {"in_move_x": amount}), only="stick")
    assert found[metric].value == pytest.approx(value, abs=within)


def test_a_fall_with_the_stick_down_is_told():
    dt = np.full(600, 1 / 60)
    jump = during((1, 1.6, 1), (4, 4.6, 1))
    columns = moves(dt, still, jump, fast_at=during((4.3, 5, 1)), fast=4.0)
    found = measure(take_of(columns), only="fall")
    assert found["fall.fast_fall_ratio"].value == pytest.approx(4.0)
    plain = measure(take_of(without(columns, "in_move_y")), only="fall")["fall.fast_fall_ratio"]
    assert "no vertical stick was recorded" in plain.reason


@pytest.mark.parametrize(("tile", "share"), [(0.1, 0.6464), (0.32, 0.2929), (3.0, 0.0)])
def test_the_share_of_a_stop_until_within_a_tile(tile, share):
    """Under constant deceleration the way left is v0²/2a·(1 − s)²: 0.64 units here."""
    dt = np.full(6000, 1 / 600)
    found = measure(
        take_of(moves(dt, during((0.5, 3, 1)), still)), "coast", options=Options(tile=tile)
    )
    wanted = max(0.0, 1 - (tile / 0.64) ** 0.5) if tile < 0.64 else 0.0
    assert found["coast.tile_share"].value == pytest.approx(wanted, abs=0.02)
    assert share == pytest.approx(wanted, abs=0.05)


def hill(rate=120, speed=6.0, along=True, crest=4.0):
    """Return columns of a run up and down a hill of 30 degrees, and over its crest."""
    dt, tilt = 1 / rate, np.deg2rad(30)
    n = np.arange(1, 5 * rate)
    pace = speed * (np.cos(tilt) if along else 1.0)
    x = np.concatenate((np.zeros(rate // 2), np.cumsum(np.full(len(n), pace * dt))))
    y = np.where(x < crest, x, 2 * crest - x) * np.tan(tilt)
    t = dt * np.arange(1, len(x) + 1)
    moving = (t > 0.5).astype(float)
    return {
        "t": t, "dt": np.full(len(t), dt), "x": x, "y": y, "vx": moving * pace,
        "vy": np.gradient(y, dt), "touch_ground": np.ones(len(t)), "in_move_x": moving,
    }  # fmt: skip


def test_slopes_are_measured_along_them_and_over_the_ground():
    found = measure(take_of(hill()), only="slope")
    assert found["slope.speed_up"].value == pytest.approx(6.0, rel=1e-6)
    assert found["slope.speed_down"].value == pytest.approx(6.0, rel=1e-6)
    assert found["slope.ground_speed_up"].value == pytest.approx(6 * np.cos(np.deg2rad(30)))
    assert found["slope.crests_flown"].value == 0
    flat = measure(take_of(hill() | {"y": np.zeros(599 + 60)}), only="slope")["slope.speed_up"]
    assert flat.reason == "no full press held its speed up a slope for 0.1 s"


@pytest.mark.parametrize("kept", [0.0, 0.5, 1.0])
def test_what_a_takeoff_keeps_of_a_platform(kept):
    dt = np.full(300, 1 / 60)
    columns = moves(dt, during((0.5, 1.5, 1)), during((3, 3.5, 1)))
    air = columns["touch_ground"] < 0.5
    drift = np.where(air, kept * 2.0, 2.0)
    carried = columns | {
        "vx": columns["vx"] + drift,
        "x": columns["x"] + np.cumsum(drift * dt),
        "platform_vx": np.where(air, 0.0, 2.0),
    }
    found = measure(take_of(carried), only="platform")
    assert found["platform.kept_share"].value == pytest.approx(kept, abs=1e-6)
    assert found["platform.relative_speed"].value == pytest.approx(8.0, rel=1e-6)
    assert "platform_vx" in measure(take_of(columns), only="platform")["platform.kept_share"].reason
