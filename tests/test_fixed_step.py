"""A physics step of its own under a faster display: read as the log of its steps would be."""

import numpy as np
import pytest
from benchmarks.display import display_log
from benchmarks.game_loop import hands, play, random_rules
from benchmarks.uneven_takes import Game
from benchmarks.uneven_takes import hands as free_hands
from benchmarks.uneven_takes import run as play_freely

from conftest import some, take_of, without
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import analyse
from kickback.takes.quantities import FRAMES, RATIO, TIME
from truth.physics import physics_take
from truth.recurrence import during

SECONDS = 9


def logs(seed, physics, display, *, drawn, movement="constant", order="semi-implicit", uneven=0.0):
    """Return a display's log and that of the physics' steps."""
    rng = np.random.default_rng(seed)
    rules = random_rules(rng, movement, order)
    frames = rng.uniform(1 - uneven, 1 + uneven, round(SECONDS * display)) / display
    played = hands(np.random.default_rng(seed), SECONDS)  # the same at every display
    return display_log(rules, physics, frames, *played, interpolated=drawn)


BY_FLIGHT = {"air.kept_speed"}
"""What goes with how long each flight was let go in: the median turns with one flight more."""


def apart(shown, steps, physics):
    """Return the metrics that miss those of the steps' log by over a step and 1 %."""
    found, wanted = measure(take_of(shown)), measure(take_of(steps))
    off = {}
    for one in wanted:
        if one.value is None or one.unit.dimension == FRAMES or one.metric in BY_FLIGHT:
            continue
        if one.group == "smoothness":  # that is of what is shown
            continue
        other = found[one.metric]
        step = (1000 if one.unit.milli else 1) / physics
        slack = {TIME: 1.001 * step, RATIO: one.frame_shift + 0.02}.get(
            one.unit.dimension, one.frame_shift
        )
        missed = other.value is None or abs(other.value - one.value) > slack + 0.01 * abs(one.value)
        if missed:
            off[one.metric] = (one.value, other.value, other.reason)
    return off


CASES = [
    (physics, display, drawn)
    for physics in (50, 60)
    for display in (60, 75, 120, 144, 240)
    for drawn in (False, True)
    if display > physics
]


@pytest.mark.parametrize(
    "case",
    some(
        CASES, (50, 60, True), (60, 144, False), (60, 144, True), (50, 240, True), (60, 75, False)
    ),
)
@pytest.mark.parametrize("movement", some(["constant", "smoothing", "friction"], "smoothing"))
def test_every_metric_is_that_of_the_steps(case, movement):
    physics, display, drawn = case
    shown, steps = logs(2, physics, display, drawn=drawn, movement=movement)
    assert not apart(shown, steps, physics)
    found = analyse(take_of(shown)).fixed_step
    assert found.rate == pytest.approx(physics, rel=1e-4)
    assert found.between == drawn


@pytest.mark.parametrize(
    ("drop", "uneven", "places"),
    [((), 0.1, 3), (("dt",), 0.0, 4), (("vx", "vy"), 0.0, None), (("touch_ground",), 0.1, 4)],
)
@pytest.mark.parametrize("drawn", [False, True])
def test_as_it_is_logged(drop, uneven, places, drawn):
    shown, steps = logs(3, 60, 144, drawn=drawn, movement="friction", uneven=uneven)
    if places:
        shown = {name: np.round(column, places) for name, column in shown.items()}
    assert not apart(without(shown, *drop), without(steps, *drop), 60)


def test_a_tick_tells_the_steps_where_nothing_else_does():
    shown, _ = logs(3, 60, 144, drawn=True)
    still = without(shown | {"x": 0 * shown["t"], "y": 0 * shown["t"]}, "vx", "vy")
    assert analyse(take_of(still)).fixed_step is None
    counted = still | {"tick": np.floor(shown["t"] * 60 + 1e-9)}
    assert analyse(take_of(counted)).fixed_step.rate == pytest.approx(60)


@pytest.mark.parametrize(("display", "uneven"), [(30, 0.0), (30, 0.15), (25 / 0.7, 0.0)])
@pytest.mark.parametrize("drawn", [False, True])
@pytest.mark.parametrize("places", [None, 3])
def test_steps_that_a_slower_display_skips_are_counted(display, uneven, drawn, places):
    shown, steps = logs(5, 50, display, drawn=drawn, uneven=uneven)
    if places:
        shown = {name: np.round(column, places) for name, column in shown.items()}
    found, take = analyse(take_of(shown)).fixed_step, take_of(shown)
    assert (found.rate, found.skips, found.between) == (pytest.approx(50), True, drawn)
    (told,) = [item for item in examine(take) if item.code == "steps-skipped"]
    assert "50 steps/s under" in told.message
    assert ("drawn between" in told.message) == drawn
    top = measure(take_of(steps))["run.top_speed"].value
    assert measure(take)["run.top_speed"].value == pytest.approx(top, rel=1e-3)


@pytest.mark.parametrize("physics", [60, 1000 / 14])
@pytest.mark.parametrize("per_frame", ["", "gravity"])
def test_frames_that_each_make_a_step_skip_none(physics, per_frame):
    rng = np.random.default_rng(8)
    rules = random_rules(rng, "smoothing", "semi-implicit")._replace(per_frame=per_frame)
    log = play(rules, rng.uniform(0.7, 1.3, 600) / physics, *hands(rng, 9))
    for places in (None, 3):
        columns = {n: c if places is None else np.round(c, places) for n, c in log.columns.items()}
        assert analyse(take_of(columns)).fixed_step is None


@pytest.mark.parametrize("rate", [60, 120, 133])
def test_rows_that_go_as_far_however_long_they_are_skip_none(rate):
    rng = np.random.default_rng(7)
    frames = rng.normal(1, 0.2, 14 * rate).clip(0.4, 1.9) / rate
    game = Game("push", ("position-per-frame",), view="top")
    take = take_of(play_freely(game, frames, free_hands(rng, "top")))
    assert analyse(take).fixed_step is None


@pytest.mark.parametrize("drawn", [False, True])
def test_moments_are_known_to_a_step_and_it_is_said(drawn):
    shown, _ = logs(2, 60, 144, drawn=drawn)
    take = take_of(shown)
    for one in measure(take):
        if one.group == "smoothness":
            assert one.metric != "smoothness.drawn_late" or (one.value is not None) == drawn
        elif one.value is not None and one.unit.dimension == TIME:
            assert one.resolution >= (1000 if one.unit.milli else 1) / 60 - 1e-9
            assert one.frame_rate == pytest.approx(144)
    (told,) = [item for item in examine(take) if item.code.startswith("positions-")]
    assert "60 steps/s under 144 frames/s" in told.message
    assert ("16.7 ms late" in told.message) == drawn
    assert ("58% of the moving frames" in told.message) != drawn


def test_laws_are_those_of_the_steps():
    shown, steps = logs(4, 60, 144, drawn=True, movement="smoothing")
    found, wanted = (recover_laws(take_of(one)) for one in (shown, steps))
    for phase, name in (("speed-up", "rate"), ("coast", "rate"), ("rise", "acceleration")):
        assert found[phase].value(name) == pytest.approx(wanted[phase].value(name), rel=1e-3)


@pytest.mark.parametrize(("library", "rate"), [("pymunk", 60), ("box2d", 60), ("box2d", 144)])
def test_a_row_a_step_is_none(library, rate):
    columns = physics_take(library, rate, during((0.5, 2, 1), (2, 3, -1)), during((1, 1.4, 1)),
                           5.0, top=6, accel=30, slow=25, v0=9, g=30)  # fmt: skip
    for changed in (columns, without(columns, "vx", "vy"),
                    {name: np.round(column, 2) for name, column in columns.items()}):  # fmt: skip
        take = take_of({**changed, "t": columns["t"], "dt": columns["dt"]})
        assert analyse(take).fixed_step is None


def test_whole_pixels_of_a_slow_walk_are_no_steps():
    t = np.arange(1, 400) / 144
    walk = {"t": t, "x": np.round(40 * t), "y": 0 * t}
    assert analyse(take_of(walk, length_unit="px")).fixed_step is None


def test_a_group_over_displays_is_steady_with_a_note():
    takes = []
    for display in (75, 144, 240):
        shown, _ = logs(2, 60, display, drawn=False)
        takes.append(take_of(shown))
    result = frame_rates(takes)
    assert {cause.name for _, cause in result.causes} == {"fixed-step", "integration-order"}
    assert not result.failed
    assert {row.verdict for row in result.rows} <= {"steady", "cannot-tell"}
    (alone,) = frame_rates(takes[:1]).suspicions
    assert alone.step == pytest.approx(1 / 60, rel=1e-4)
