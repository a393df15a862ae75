"""Moments between samples: laws carried into a frame, and the helpers they stand on."""

import numpy as np
import pytest

from kickback.motion.between import carried, crossing, crossing_error
from kickback.motion.segments import first_where, last_where, runs
from kickback.takes.numeric import median, quantile

UNEVEN = np.cumsum(np.random.default_rng(4).uniform(0.01, 0.025, 80))
EVEN = np.arange(1, 81) / 60


def reach(t, v, level, first=0, **options):
    hit = np.array([first + int(np.argmax(v[first:] >= level))])
    time, known = crossing(t, v, hit, np.array([level]), np.array([first]), **options)
    return float(time[0]), bool(known[0])


@pytest.mark.parametrize("t", [EVEN, UNEVEN])
@pytest.mark.parametrize("share", [0.3, 0.9, 0.99])
def test_a_clamped_frame_does_not_bend_constant_acceleration(t, share):
    v = np.minimum(37.0 * (t - t[0]), 8.0)
    time, known = reach(t, v, share * 8.0)
    assert known
    assert time == pytest.approx(t[0] + share * 8.0 / 37.0, abs=1e-12)


@pytest.mark.parametrize("t", [EVEN, UNEVEN])
@pytest.mark.parametrize("clamp", [8.0, 7.3])
def test_an_exponential_is_carried_on_at_any_steps(t, clamp):
    v = np.minimum(8.0 * (1 - np.exp(-9 * (t - t[0]))), clamp)
    time, known = reach(t, v, 7.2)
    assert known
    assert time == pytest.approx(t[0] + np.log(10) / 9, abs=1e-9)


@pytest.mark.parametrize(
    ("bent", "error"),
    [(False, (0.0, 3e-3, 0.0)), (True, (0.0, 3e-3, 5e-3)), (True, (4e-4, 0.0, 0.0))],
)
def test_the_error_of_a_crossing_is_how_far_noise_spreads_it(bent, error):
    t, rng = EVEN, np.random.default_rng(1)
    v = 8 * (1 - np.exp(-6 * (t - t[0]))) if bent else 37.0 * (t - t[0])
    hit = np.array([int(np.argmax(v >= 6.0))])
    told = crossing_error(t, v, hit, np.array([6.0]), np.array([0]), error)[0]
    found = []
    for _ in range(400):
        noise = [one * rng.standard_normal(len(t)) for one in error]
        level = np.array([6.0 + noise[2][0]])
        moment, _ = crossing(
            t + noise[0], v + noise[1], hit, level, np.array([0]), errors=error[:2]
        )
        found.append(moment[0])
    assert 0.6 < told / np.std(found) < 1.6


def test_a_factor_per_frame_is_carried_on_in_frames():
    v = 8.0 * (1 - 0.86 ** np.arange(80))
    time, known = reach(EVEN, v, 7.2)
    assert known
    assert (time - EVEN[0]) * 60 == pytest.approx(np.log(0.1) / np.log(0.86), abs=1e-9)


def test_without_a_law_the_chord_decides():
    v = np.array([0.0, 0.1, 3.0, 3.1, 9.0, 9.0])
    time, known = reach(EVEN[:6], v, 6.05)
    assert not known
    assert time == pytest.approx((EVEN[3] + EVEN[4]) / 2, abs=1e-12)


def test_the_first_step_alone_is_a_chord():
    time, _ = reach(EVEN[:4], np.array([0.0, 8.0, 8.0, 8.0]), 7.2)
    assert time == pytest.approx(EVEN[0] + 0.9 / 60)


def test_a_law_does_not_reach_behind_its_first_sample():
    v = np.array([5.0, 2.0, 0.0, 1.0, 2.0, 3.0, 4.0])
    time, known = reach(EVEN[:7], v, 2.5, first=2)
    assert known
    assert time == pytest.approx(EVEN[4] + 0.5 / 60)


def test_a_half_clamped_mean_over_a_step_is_seen_through():
    exact = np.minimum(40.0 * np.arange(0, 21) / 60 / 2, 5.0)
    mean = (exact[1:] + exact[:-1]) / 2
    mid = (np.arange(20) + 0.5) / 60
    hit = np.array([int(np.argmax(mean >= 4.99))])
    time, known = crossing(mid, mean, hit, np.array([4.99]), np.array([0]), mixed=True)
    assert known[0]
    assert abs(time[0] - 4.99 / 20) < 0.5 / 60


def test_crossings_are_found_for_many_ranges_at_once():
    t = np.arange(400) / 100
    v = np.abs(((t * 2) % 2) - 1) * 10
    start = np.array([50, 150, 250])
    hit = first_where(v >= 5.0, start, start + 50)
    time, known = crossing(t, v, hit, np.full(3, 5.0), start)
    assert known.all()
    assert np.allclose(time, [0.75, 1.75, 2.75])


def test_a_parabola_is_carried_from_its_last_three_points():
    t = np.array([0.3, 0.45, 0.5])
    p = 2 + 3 * t - 5 * t**2
    p2, b, c = carried(tuple(p[:, None]), tuple(t[:, None]))
    later = 0.2
    assert p2 + b * later + c * later**2 == pytest.approx(2 + 3 * 0.7 - 5 * 0.49)


@pytest.mark.parametrize(
    ("values", "starts", "stops"),
    [([], [], []), ([1], [0], [1]), ([1, 1, 2, 1], [0, 2, 3], [2, 3, 4])],
)
def test_runs_are_half_open(values, starts, stops):
    found = runs(np.array(values))
    assert [list(part) for part in found] == [starts, stops]


@pytest.mark.parametrize(
    ("condition", "first", "last"),
    [
        ([0, 0, 0, 0, 0, 0], [-1, -1], [-1, -1]),
        ([0, 1, 1, 0, 0, 1], [1, 5], [2, 5]),
        ([1, 0, 0, 0, 0, 0], [0, -1], [0, -1]),
    ],
)
def test_first_and_last_stay_inside_their_ranges(condition, first, last):
    holds = np.array(condition, dtype=bool)
    start, stop = np.array([0, 3]), np.array([3, 6])
    assert list(first_where(holds, start, stop)) == first
    assert list(last_where(holds, start, stop)) == last


@pytest.mark.parametrize("count", [1, 2, 5, 8, 101])
def test_the_median_and_the_shares_are_the_usual_ones(count):
    values = np.random.default_rng(count).normal(size=count)
    assert median(values) == pytest.approx(float(np.median(values)))
    for share in (0.0, 0.05, 0.5, 0.95, 0.99, 1.0):
        assert quantile(values, share) == pytest.approx(float(np.quantile(values, share)))
    assert np.isnan(quantile(np.append(values, np.nan), 0.0))
