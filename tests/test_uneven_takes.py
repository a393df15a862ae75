"""Several takes that are each uneven, played by other hands: causes, cures, and what is no fault."""

import numpy as np
import pytest
from benchmarks.uneven_takes import Game, hands, run

from conftest import quick, some, take_of
from kickback.causes.constants import collect
from kickback.framerate.analyse import frame_rates
from kickback.kinds.foot.laws.events import scaled_by_step
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.laws.families.moments import TIMER
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.takes.quantities import FRAMES, TIME

RATES = (30, 60, 144)


def takes_of(game, spread, digits, seed=0, rates=RATES):
    """Takes of a plain loop by hands that are never alike."""
    rng, takes = np.random.default_rng(seed), []
    for rate in rates:
        steps = np.full(14 * rate, 1 / rate)
        steps *= np.clip(1 + spread * rng.standard_normal(len(steps)), 0.4, 1.9)
        columns = run(game, steps, hands(rng, game.view))
        if digits is not None:
            columns = {name: np.round(one, digits) for name, one in columns.items()}
        takes.append(take_of(columns, name=f"take-{rate}"))
    return takes


def named(takes):
    return {cause.name: cause for _, cause in frame_rates(takes).causes
            if cause.name != "integration-order"}  # fmt: skip


@quick(2)
@pytest.mark.parametrize(
    ("ground", "mistakes", "cure"),
    [
        ("push", ("acceleration-per-frame",), "speed += 45·dt"),
        ("push", ("gravity-per-frame",), "rise −= 38·dt"),
        ("smoothing", ("factor-per-frame",), "a factor of 0.8607 per frame"),
        ("friction", ("factor-per-frame",), "a factor of 0.9048 per frame"),
        ("smoothing", ("first-order-factor",), "instead of 1 − 9·dt"),
        ("push", ("timer-in-frames",), "0.1667 s (dash time, 10 frames)"),
        ("friction", ("acceleration-per-frame",), "speed += 42·dt"),
        ("smoothing", ("factor-per-frame", "gravity-per-frame"), "a factor of 0.8607 per frame"),
        ("push", ("dt-clamped",), ""),
        ("push", ("dt-clamped", "gravity-per-frame"), ""),
    ],
)
@pytest.mark.parametrize("digits", some((None, 4), None))
def test_causes_are_named_with_the_constants_of_the_code(ground, mistakes, cure, digits):
    dash = 18.0 if "timer-in-frames" in mistakes else 0.0
    found = named(takes_of(Game(ground, mistakes, dash), 0.2 if digits is None else 0.12, digits))
    assert set(found) == set(mistakes)
    if digits is None:
        assert cure in found[mistakes[0]].fix


@quick(2)
@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("ground", ["push", "smoothing", "friction"])
def test_sound_code_passes_whoever_plays_it(ground, seed):
    found = frame_rates(takes_of(Game(ground, (), 18.0), 0.2 if seed % 2 else 0.0, None, seed))
    assert not found.failed, [(row.name, row.verdict) for row in found.rows if row.beyond]
    assert {cause.name for _, cause in found.causes} <= {"integration-order"}


@pytest.mark.parametrize(("mistakes", "power"), [((), 0), (("acceleration-per-frame",), 1)])
def test_what_a_take_tells_by_itself_counts_by_the_step_it_was_read_with(mistakes, power):
    laws = [(take.frame_rate, recover_laws(take))
            for take in takes_of(Game("push", mistakes), 0.2, None)]  # fmt: skip
    row = next(one for one in collect(laws) if one.name == "speed-up.acceleration")
    assert row.told_power == power
    assert row.fits(power, 1e-6)
    assert row.frame == pytest.approx([law["speed-up"].frame for _, law in laws])
    assert row.rate * row.frame != pytest.approx(np.ones(3), abs=1e-3)


def test_even_takes_tell_nothing_by_themselves():
    laws = [(take.frame_rate, recover_laws(take)) for take in takes_of(Game("push"), 0.0, None)]
    row = next(one for one in collect(laws) if one.name == "speed-up.acceleration")
    assert (row.clock, row.told_power) == ("", None)
    assert row.frame == pytest.approx(1 / row.rate)


def suspected(game, rate, spread, digits, hitches=False):
    """What one take shows for sure, but for the order that all of these loops have."""
    rng = np.random.default_rng(rate)
    steps = np.clip(1 + spread * rng.standard_normal(14 * rate), 0.4, 1.9) / rate
    steps[rng.random(len(steps)) < 0.04 * hitches] = 0.08
    columns = run(game, steps, hands(rng, game.view))
    if digits is not None:
        columns = {name: np.round(one, digits) for name, one in columns.items()}
    found = frame_rates([take_of(columns)]).suspicions[0]
    return {one.name for one in found.causes} - {"integration-order"}


@pytest.mark.parametrize(
    ("mistakes", "rate", "spread", "digits", "shown"),
    [
        (("gravity-per-frame",), 144, 0.03, 3, True),
        (("acceleration-per-frame",), 60, 0.03, 3, True),
        (("position-per-frame",), 60, 0.03, 3, True),
        (("position-per-frame",), 30, 0.12, 3, True),
        (("impulse-times-dt",), 60, 0.12, 3, True),
        (("impulse-times-dt",), 144, 0.03, 3, False),  # rounding hides it
        ((), 144, 0.03, 3, True),
    ],
)
def test_one_take_of_barely_uneven_printed_times_shows_what_it_can(
    mistakes, rate, spread, digits, shown
):
    found = suspected(Game("push", mistakes, 18.0), rate, spread, digits)
    assert found == (set(mistakes) if shown else set())


@pytest.mark.parametrize("spread", [0.0, 0.12])
@pytest.mark.parametrize("digits", [None, 3])
def test_long_frames_that_a_game_clamps_show_no_mistake_of_frames(digits, spread):
    game = Game("push", ("dt-clamped",), 18.0)
    assert not suspected(game, 144, spread, digits, hitches=True)


@pytest.mark.parametrize("seed", range(3))
def test_letting_go_cuts_no_jump_of_a_game_that_does_not(seed):
    for take in takes_of(Game("push", (), 18.0), 0.2, 3, seed):
        row = measure(take, ["jump.full_hold"])["jump.full_hold"]
        assert row.value is None, take.name


@pytest.mark.parametrize(
    ("frames", "rates", "counted"),
    [(1, (30, 60), False), (2, (30, 60), True), (10, (30, 60), True), (10, (60, 65), False),
     (10, (60, 67), True)],
)  # fmt: skip
def test_a_timer_counts_frames_where_no_time_would_do(frames, rates, counted):
    def law(rate):
        values = (("seconds", frames / rate, TIME), ("frames", frames, FRAMES))
        return Law(
            take="", role=ACROSS, phase=PhaseKey("dash time"), start=0.0, end=1.0, axis="x",
            family=TIMER, frame=1 / rate,
            constants=tuple(Constant(name=name, value=value, unit=unit.within("m"), stderr=0.0)
                            for name, value, unit in values),
        )  # fmt: skip

    [row] = [one for one in collect([(rate, [law(rate)]) for rate in rates])
             if one.constant == "seconds"]  # fmt: skip
    assert (row.clock == "frame") == counted


@pytest.mark.parametrize(
    ("error", "spread", "goes"),
    [(0.0, 0.0, True), (3e-4, 0.01, True), (3e-4, 0.1, False), (3e-3, 0.1, False)],
)
def test_speeds_go_with_the_step_within_what_steps_were_rounded_to(error, spread, goes):
    dt = np.array([0.03, 0.036, 0.033, 0.029, 0.034])
    speed = 360 * dt * (1 + spread * np.array([0.7, -0.5, 1, -1, 0.2]))
    assert (scaled_by_step(speed, dt, error) is not None) == goes
    assert scaled_by_step(np.full(5, 12.0), dt, error) is None
