"""Positions in whole pixels and no velocity column: what can still be had, and how surely."""

import numpy as np
import pytest

from conftest import take_of
from kickback.kinds.measuring import measure
from kickback.kinds.table import analyse
from kickback.motion.approach import approach_moment
from kickback.motion.grids import fitted_speed, printed
from truth.recurrence import during, play, steps

pytestmark = pytest.mark.xdist_group("pairs")  # one process makes what they share

RUN = during((0.5, 3.5, 1), (6.0, 8.0, 1), (8.0, 10.0, -1), (12, 15, 1))
SEEDS = range(60)
LENGTHS = (
    "run.top_speed",
    "coast.stop_distance",
    "brake.stop_distance",
    "jump.apex_height",
    "jump.distance",
    "run.highest_speed",
)
TIMES = (
    "run.time_to_90",
    "run.time_to_top_speed",
    "coast.stop_time",
    "brake.stop_time",
    "reverse.time_to_zero",
    "turn.time",
    "jump.time_to_apex",
    "jump.air_time",
    "input.latency",
)
SPEEDS = ("jump.takeoff_speed", "jump.landing_speed")


def rounded_and_exact(seed):
    """Return measurements of a random character, from whole pixels and from exact columns."""
    rng = np.random.default_rng(seed)
    rate = float(rng.choice([30, 60, 120, 144, 240]))
    numbers = {
        "top": rng.uniform(150, 350),
        "accel": rng.uniform(800, 2500),
        "slow": rng.uniform(600, 2000),
        "k": rng.uniform(6, 14),
        "v0": rng.uniform(300, 500),
        "g": rng.uniform(900, 1800),
    }
    law, theta = rng.choice(["constant", "exact"]), rng.choice([0.0, 0.5, 1.0])
    columns = play(steps(rate, 18), RUN, during((13, 14.2, 1)), law=law, theta=theta, **numbers)
    left_out = {"vx", "vy"} | ({"touch_ground"} if seed % 2 else set())
    coarse = {name: column for name, column in columns.items() if name not in left_out}
    coarse |= {"x": np.round(columns["x"]), "y": np.round(columns["y"])}
    names = (*LENGTHS, *TIMES, *SPEEDS)
    return measure(take_of(coarse, length_unit="px"), names), measure(take_of(columns), names)


@pytest.fixture(scope="module")
def pairs():
    return [rounded_and_exact(seed) for seed in SEEDS]


@pytest.mark.parametrize("name", LENGTHS)
def test_lengths_and_speeds_within_two_percent_or_a_pixel(pairs, name):
    off = []
    for coarse, exact in pairs:
        found, wanted = coarse[name].value, exact[name].value
        assert found is not None, coarse[name].reason
        off.append(abs(found - wanted) / max(0.02 * abs(wanted), 1.0))
        assert abs(found - wanted) <= coarse[name].resolution + 0.02 * abs(wanted)
    # the moment of a stop may be a frame off, which at 30 frames/s can add a part of a pixel
    assert np.mean(np.array(off) <= 1.0) >= 0.96


@pytest.mark.parametrize("name", TIMES)
def test_times_within_the_resolution_that_is_stated(pairs, name):
    for coarse, exact in pairs:
        found, wanted = coarse[name], exact[name]
        if found.value is None:
            assert found.reason
            continue
        assert abs(found.value - wanted.value) <= found.resolution + 1e-9
    assert sum(coarse[name].value is None for coarse, _ in pairs) <= 0.04 * len(pairs)


@pytest.mark.parametrize("name", SPEEDS)
def test_vertical_speeds_within_their_resolution(pairs, name):
    for coarse, exact in pairs:
        assert abs(coarse[name].value - exact[name].value) <= coarse[name].resolution


@pytest.mark.parametrize("name", ["run.time_to_90", "coast.stop_time"])
def test_the_resolution_is_no_excuse(pairs, name):
    for coarse, _ in pairs:
        step = 1 / coarse[name].frame_rate
        # max(one frame, sqrt(2q/a)) with q = 1 px and a no less than a tenth of the slowest
        assert step <= coarse[name].resolution * 1.001
        assert coarse[name].resolution <= max(step, (2 / 2.0) ** 0.5)


@pytest.mark.parametrize("rate", [30, 60, 120, 144, 240])
@pytest.mark.parametrize("law", ["constant", "exact"])
def test_phases_of_rounded_positions_do_not_flicker(rate, law):
    columns = play(
        steps(rate, 18), RUN, during((13, 14.2, 1)), law=law, top=256, accel=1280, slow=1000
    )
    plain = {"t": columns["t"], "x": np.round(columns["x"]), "in_move_x": columns["in_move_x"]}
    names = [p.name for p in analyse(take_of(plain)).phases if p.track == "travel"]
    expected = (
        "rest speed-up cruise coast rest speed-up cruise turn cruise coast rest speed-up cruise"
    )
    assert " ".join(names).startswith(expected)


@pytest.mark.parametrize(
    ("positions", "grid"),
    [
        (np.round(np.arange(200) * 2.37), 1.0),
        (np.round(np.arange(200) * 0.237, 1), 0.1),
        (np.round(np.arange(200) * 0.0237, 2), 0.01),
        (np.round(np.arange(200) * 2.37 * 4) / 4, 0.25),
        (np.arange(200) * 2.0, 0.0),
        (np.arange(200) * 0.25, 0.0),
        (np.arange(200) ** 2 * 1.0, 0.0),
        (np.arange(200) * 2.37, 0.0),
        (np.zeros(200), 0.0),
        (np.array([0.0, 1.0, 1.0]), 0.0),
    ],
)
def test_rounding_is_told_from_exact_motion_on_a_grid(positions, grid):
    assert printed(positions).grid == grid


def test_fitted_speeds_never_look_across_a_change_of_input():
    t = np.arange(60) / 60
    p = np.where(t < 0.5, 0.0, (t - 29 / 60) * 300)
    segment = (np.arange(60) >= 30).astype(np.int64)
    v, tv = fitted_speed(p, t, 3, segment)
    assert np.allclose(v[:30], 0)
    assert np.allclose(v[30:], 300)
    assert np.all(np.diff(tv) > 0)


@pytest.mark.parametrize(
    ("distance", "short", "moment", "a"),
    [
        (lambda t: 0.5 * 900 * (0.4 - t) ** 2, 0.0, 0.4, 900),
        (lambda t: 0.5 * 900 * (0.4 - t) ** 2, 45.0, 0.35, 900),
        (lambda t: 40 * np.exp(-9 * t), 3.6, np.log(100) / 9, 32.4),
    ],
)
def test_an_approach_is_solved_for_its_moment(distance, short, moment, a):
    t = np.arange(0, 0.38, 1 / 120)
    found, bend = approach_moment(t, distance(t), short, 0.01)
    assert found == pytest.approx(moment, rel=1e-6)
    assert bend == pytest.approx(a, rel=1e-6)


def test_an_approach_of_two_frames_is_not_guessed_at():
    assert np.isnan(approach_moment(np.array([0, 0.1]), np.array([3.0, 0.1]), 0.0, 1.0)[0])


def whole_milliseconds(rate, jitter, drop=()):
    columns = play(steps(rate, 18, jitter, 3), RUN, during((13, 14.2, 1)), theta=1.0, g=38.0)
    rounded = {name: column for name, column in columns.items() if name not in {"dt", *drop}}
    rounded["t"] = np.round(columns["t"], 3)
    return measure(take_of(rounded)), measure(take_of(columns))


@pytest.mark.parametrize("drop", [(), ("vx", "vy")])
@pytest.mark.parametrize("rate", [30, 60, 144, 240])
def test_even_times_in_whole_milliseconds_cost_nothing(rate, drop):
    found, wanted = whole_milliseconds(rate, 0.0, drop)
    for row in wanted:
        if row.value is not None and row.metric != "jump.landing_speed":
            slack = found[row.metric].resolution if drop else 0.0
            assert found[row.metric].value == pytest.approx(row.value, rel=2e-4, abs=1e-4 + slack)


@pytest.mark.parametrize("rate", [30, 60, 144, 240])
def test_uneven_times_in_whole_milliseconds_stay_within_the_resolution(rate):
    found, wanted = whole_milliseconds(rate, 0.2)
    for row in wanted:
        other = found[row.metric]
        if row.value is not None and "too coarsely" not in (other.reason or ""):
            assert abs(other.value - row.value) <= other.resolution + 2e-3 * abs(row.value), (
                row.metric
            )


@pytest.mark.parametrize("rate", [30, 60, 144, 240])
@pytest.mark.parametrize("law", ["constant", "exact"])
def test_without_inputs_a_release_is_not_placed_but_the_rest_is_told(rate, law):
    columns = play(steps(rate, 18), RUN, during((13, 14.2, 1)), law=law, top=256, accel=1280,
                   slow=1000, v0=400, g=1300)  # fmt: skip
    take = take_of(
        {name: np.round(columns[name]) if name != "t" else columns[name] for name in "txy"}
    )
    found, wanted = measure(take), measure(take_of(columns))
    travel = [p.name for p in analyse(take).phases if p.track == "travel"]
    assert travel[:5] == ["rest", "speed-up", "cruise", "coast", "rest"]
    for name in ("coast.stop_time", "brake.stop_distance", "turn.time"):
        assert "nothing places the release" in found[name].reason
    assert found["run.top_speed"].value == pytest.approx(256, rel=0.02)
    for name in ("run.time_to_90", "jump.air_time"):
        assert abs(found[name].value - wanted[name].value) <= found[name].resolution
