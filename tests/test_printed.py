"""Logs as games write them: a few digits, uneven frames. What can be read, and how surely."""

import numpy as np
import pytest
from benchmarks.game_loop import Printing, frame_times, hands, log_of, play, random_rules
from benchmarks.reading import readings, settings

from conftest import take_of, without
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.recovering import recover_laws
from kickback.motion.clock import clock_of
from kickback.motion.grids import printed

pytestmark = pytest.mark.xdist_group("logs")  # one process makes what they share

SECONDS = 6
USUAL = Printing(4, 3, 3)


def log(seed, movement="friction", *, uneven=0.2, rate=60, order="semi-implicit",
        printing=USUAL, stick=None, **rules):  # fmt: skip
    """Return the columns of a printed log."""
    rng = np.random.default_rng(seed)
    made = random_rules(rng, movement, order, rules.pop("unit", 1.0))._replace(**rules)
    dt = frame_times(rng, rate, SECONDS, uneven)
    moves, jumps = hands(rng, SECONDS)
    return log_of(play(made, dt, stick or moves, jumps), printing)


@pytest.fixture(scope="module")
def reads():
    return [read for setting in settings(5, 24) for read in readings(setting)]


def test_nearly_every_long_phase_of_a_printed_log_has_its_law(reads):
    told = [one for one in reads if one.law != "none"]
    assert len(reads) > 100
    assert len(told) >= 0.95 * len(reads)
    assert sum(one.right for one in told) >= 0.98 * len(told)


def test_constants_lie_off_by_their_standard_errors(reads):
    misses = np.array([miss for one in reads if one.right for miss in one.misses])
    assert np.mean(misses < 3) >= 0.95
    assert 0.55 <= np.mean(misses < 1) <= 0.8  # 0.68, of some 150 constants


@pytest.mark.parametrize(
    ("changes", "drop", "clock", "name"),
    [
        ({"per_frame": "gravity"}, (), "frame", "gravity-per-frame"),
        ({}, (), "second", None),
        ({"per_frame": "gravity"}, ("dt",), "frame", "gravity-per-frame"),
        ({}, ("dt",), "second", None),
    ],
)
def test_printed_uneven_frames_tell_what_gravity_belongs_to(changes, drop, clock, name):
    take = take_of(without(log(3, **changes), *drop))
    assert recover_laws(take)["fall"].clock == clock
    told = {cause.name for item in frame_rates([take]).suspicions for cause in item.causes}
    assert told == ({name} if name else set())


def test_what_nothing_was_read_of_is_said_to_be_untold():
    take = take_of(without(log(5, printing=Printing(3, 2, 2)), "vx", "vy"))
    (item,) = frame_rates([take]).suspicions
    assert not item.even
    assert not item.read
    assert {one.phase for one in item.unread} >= {"speed-up", "rise", "fall"}
    assert frame_rates([take]).unsure


@pytest.mark.parametrize("order", ["semi-implicit", "trapezoid"])
def test_who_only_jumps_in_place_has_no_law_of_travel(order):
    columns = log(5, "constant", order=order, stick=lambda t: float(0.5 < t < 0.53),
                  printing=Printing())  # fmt: skip
    laws = recover_laws(take_of(without(columns, "vx", "vy")))
    assert not [row for row in laws if str(row.phase) == "coast in the air" and row.family]


@pytest.mark.parametrize(
    ("p", "grid"),
    [
        (np.round(np.cumsum(np.random.default_rng(1).uniform(0.1, 0.2, 90)), 3), 1e-3),
        (np.round(np.cumsum(np.random.default_rng(1).uniform(0.1, 0.2, 90)), 12), 0.0),
        (np.cumsum(np.full(90, 0.25)), 0.0),  # exact, and on a lattice
        (np.array([float(f"{x:.4g}") for x in np.cumsum(np.linspace(0.011, 0.3, 90)) ** 2]), 0.01),
        (np.tile([0.0, 3, 6, 8, 8, 8, 5, 2, 0], 9), 0.0),  # exact steps, few levels
    ],
)
def test_how_a_column_was_printed(p, grid):
    assert printed(p).grid == pytest.approx(grid)


@pytest.mark.parametrize(
    ("t", "dt", "step", "tolerance"),
    [
        (np.round(np.arange(1, 400) / 144, 3), np.full(399, 0.007), 1 / 144, 1e-5),
        (np.arange(1, 400) / 60, np.full(399, 0.0167), 1 / 60, 1e-9),
        (np.arange(1, 400) / 60, np.full(399, 1 / 50), 1 / 50, 0),  # a step of the game's own
    ],
)
def test_steps_are_read_off_the_times_that_they_were_rounded_from(t, dt, step, tolerance):
    take = take_of({"t": t, "dt": dt, "x": t, "y": 0 * t})
    clock = clock_of(take, printed(t), printed(dt))
    assert clock.dt[5] == pytest.approx(step, rel=tolerance + 1e-12)
    assert abs(clock.dt[5] / step - 1) <= 3 * clock.rate_error + 1e-9


@pytest.mark.parametrize("hitch", [False, True])
@pytest.mark.parametrize(
    ("rate", "spread", "both", "told"),
    [(30, 0.01, True, True), (60, 0.03, False, True), (60, 0.03, True, True),
     (144, 0.03, False, True), (144, 0.12, True, True), (30, 0.12, False, False)],
)  # fmt: skip
def test_uneven_times_are_told_from_their_neighbours_as_far_as_they_are(
    rate, spread, both, told, hitch
):
    rng = np.random.default_rng(rate)
    steps = np.clip(1 + spread * rng.standard_normal(2000), 0.4, 1.9) / rate
    steps[[500, 1200]] += 0.2 * hitch
    true = np.cumsum(steps)
    t, dt = np.round(true, 3), np.round(steps, 3)
    columns = {"t": t, "x": true, "y": 0 * t} | ({"dt": dt} if both else {})
    clock = clock_of(take_of(columns), printed(t), printed(dt))
    assert (clock.alike > 0) == told
    assert np.max(np.abs(clock.t - t)) <= 0.0005 + 1e-12
    assert np.std(clock.t - true) < (0.95 if told else 1.05) * clock.time_error
    assert np.std((clock.dt - steps)[1:]) == pytest.approx(clock.step_error, rel=0.2)
    if told:
        assert clock.step_error < 0.95 * 2**0.5 * 0.001 / 12**0.5
    if hitch:
        assert clock.dt[[500, 1200]] == pytest.approx(steps[[500, 1200]], abs=1e-3)


def test_times_that_were_not_rounded_stay():
    t = np.cumsum(np.random.default_rng(1).uniform(0.9, 1.1, 300)) / 60
    clock = clock_of(take_of({"t": t, "x": t, "y": 0 * t}), printed(t), printed(np.diff(t)))
    assert (clock.alike, clock.t.tolist()) == (0.0, t.tolist())


@pytest.mark.parametrize("drop", [(), ("vx", "vy"), ("vx", "vy", "touch_ground")])
def test_an_ordinary_printed_log_has_no_finding(drop):
    for seed in range(6):
        for printing in (USUAL, Printing(3, 2, 2), Printing(6, 4, 0, dt=False)):
            movement = ("constant", "smoothing", "friction")[seed % 3]
            unit = 1.0 if printing.x else 32.0
            columns = log(seed, movement, uneven=0.2 * (seed % 2), rate=(60, 144)[seed % 2],
                          printing=printing, unit=unit)  # fmt: skip
            take = take_of(without(columns, *drop), length_unit="m" if printing.x else "px")
            assert not examine(take), (seed, printing)
