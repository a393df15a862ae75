"""Freezes, pauses, slow motion, respawns and cut scenes: found, and left out of the medians."""

import numpy as np
import pytest

from conftest import take_of, without
from kickback.kinds.examining import examine
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.motion.options import Options
from truth.recurrence import during, play, steps

RATE = 60
JUMPS = (1.0, 3.0, 5.0, 7.0)
MOVES = during((0.2, 2.6, 1), (3.6, 4.6, -1), (6.2, 8.4, 1))
PRESSES = during(*((at, at + 0.5, 1) for at in JUMPS))
MIDDLE = 192  # in the second jump, rising


def clean(dt=None):
    return play(steps(RATE, 9) if dt is None else dt, MOVES, PRESSES, theta=1.0)


def held(columns, row, frames, step=1 / RATE):
    """Repeat a frame while the wall clock goes on; ``step`` is the game's own meanwhile."""
    index = np.insert(np.arange(len(columns["t"])), row, np.full(frames, row - 1))
    out = {name: column[index] for name, column in columns.items()}
    out["dt"] = out["dt"].copy()
    out["dt"][row : row + frames] = step
    out["t"] = np.arange(1, len(index) + 1) / RATE
    return out


def gap(columns, row, seconds):
    out = dict(columns)
    out["t"] = columns["t"] + np.where(np.arange(len(columns["t"])) >= row, seconds, 0.0)
    return out


def slowed(pace):
    """Play with game time slow in the second jump, on a wall clock that goes on."""
    dt = steps(RATE, 9)
    dt[MIDDLE : MIDDLE + 40] *= pace
    out = clean(dt)
    out["t"] = np.arange(1, len(dt) + 1) / RATE
    return out


def respawned(columns):
    out = {name: column.copy() for name, column in columns.items()}
    out["y"][MIDDLE:] += 0.0
    out["x"][MIDDLE:] -= 30.0
    return out


def scene(columns):
    """Let a cut scene walk the subject, in a rest."""
    out = {name: column.copy() for name, column in columns.items()}
    rest = slice(345, 372)
    out["vx"][rest] = 3.0
    out["x"][345:] += np.minimum(np.arange(1, len(out["x"]) - 344), 27) * 3.0 / RATE
    out["in_jump"][300:372] = 0.0
    return out


CASES = {
    "hit-stop": held(clean(), MIDDLE, 8),
    "hit-stop, step 0": held(clean(), MIDDLE, 8, 0.0),
    "hit-stop, no velocity": without(held(clean(), MIDDLE, 8), "vx", "vy", "dt"),
    "pause": gap(clean(), MIDDLE, 3.0),
    "pause, no dt": without(gap(clean(), MIDDLE, 3.0), "dt"),
    "pause, no velocity": without(gap(clean(), MIDDLE, 3.0), "vx", "vy", "dt"),
    "pause, frames": held(clean(), MIDDLE, 90, 0.0),
    "slow-motion": slowed(0.3),
    "respawn": respawned(clean()),
}


def found(columns, code):
    return [item for item in examine(take_of(columns)) if item.code == code]


@pytest.mark.parametrize("name", CASES)
def test_what_interrupts_a_jump_is_said_and_left_out(name):
    code = name.partition(",")[0]
    columns = CASES[name]
    told = found(columns, code)
    assert len(told) == 1, [item.code for item in examine(take_of(columns))]
    assert told[0].start <= MIDDLE + 1 < told[0].stop + 2
    assert not {item.code for item in examine(take_of(columns))} - {code}
    jump, plain = measure(take_of(columns)), measure(take_of(clean()))
    for metric in ("jump.air_time", "jump.apex_height", "jump.time_to_apex"):
        assert jump[metric].value == pytest.approx(plain[metric].value, rel=0.01), metric
    air = jump["jump.air_time"]
    if code != "respawn":
        assert air.n == len(JUMPS) - 1
        assert f"1 of {len(JUMPS)} left out" in air.reason
        records = [one for one in air.to_each() if "left out" in (one["reason"] or "")]
        assert any(one["n"] == 0 and one["reason"].startswith("left out: ") for one in records)


@pytest.mark.parametrize("name", ["hit-stop", "hit-stop, step 0", "pause", "slow-motion"])
def test_laws_are_read_around_it(name):
    laws, plain = recover_laws(take_of(CASES[name])), recover_laws(take_of(clean()))
    for phase in ("speed-up", "rise", "fall"):
        assert laws[phase].value("acceleration") == pytest.approx(
            plain[phase].value("acceleration"), rel=1e-3
        )


@pytest.mark.parametrize("name", ["hit-stop, step 0", "pause", "pause, frames", "slow-motion"])
def test_the_games_own_clock_leaves_it_out(name):
    own, plain = (
        measure(take_of(columns), options=Options(clock="game"))
        for columns in (CASES[name], clean())
    )
    assert own["jump.air_time"].n == len(JUMPS)
    assert own["jump.air_time"].spread < 1e-6 + plain["jump.air_time"].spread + 0.01
    assert own["jump.air_time"].value == pytest.approx(plain["jump.air_time"].value, rel=1e-3)


def test_a_cut_scene_is_said_and_left_out():
    assert found(scene(clean()), "cut-scene")
    assert not found(clean(), "cut-scene")


@pytest.mark.parametrize(
    ("columns", "code"),
    [
        (held(clean(), MIDDLE, 1), "hit-stop"),  # one frame may be a repeat
        (held(clean(), 40, 3), "pause"),
        (held(clean(), MIDDLE, 20), "pause"),  # a freeze below 0.4 s is a hit-stop
        (gap(clean(), 345, 0.05), "pause"),
        (slowed(0.95), "slow-motion"),
        (clean(), "respawn"),
    ],
)
def test_what_is_none(columns, code):
    assert not found(columns, code)


@pytest.mark.parametrize(("dt", "says"), [(-0.01, "must not be below 0")])
def test_a_step_below_nothing_is_refused(dt, says):
    columns = clean()
    columns["dt"][5] = dt
    with pytest.raises(Exception, match=says):
        take_of(columns)
