"""Several takes that are each uneven, played by other hands: causes, cures, and what is no fault."""

import numpy as np
import pytest
from benchmarks.uneven_takes import Game, hands, run

from conftest import quick, some, take_of
from kickback.causes.constants import collect
from kickback.framerate.analyse import frame_rates
from kickback.kinds.recovering import recover_laws

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
