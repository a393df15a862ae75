"""Waits of jumps, landings, ledges and walls: their timers, falls with the stick held down."""

import numpy as np
import pytest

from conftest import some, take_of
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.foot.model.simulate import simulate
from truth.moves import moves
from truth.recurrence import during


def still(_):
    return 0


RUN = during((0.5, 9, 1))
WALLS = {"walls": (8.5, 5.5), "wall_jump": 12.0, "wall_away": 8.0, "slide": 3.0, "jump": 16.1}
OFF_A_WALL = (
    during((0.2, 1.6, 1), (1.6, 2.2, 1), (4, 5, -1)),
    during((1, 1.3, 1), (1.5, 1.8, 1), (5.5, 5.8, 1)),
    still,
)

# phase: how it is played, the loop's other numbers, the loop's name for the timer, its seconds
TIMERS = {
    "squat": ((RUN, during((1, 1.6, 1), (2.9, 3.5, 1)), still), {}, "squat", 0.1),
    "landing lag": ((RUN, during((1, 1.6, 1), (2.9, 3.5, 1)), still), {}, "lag", 0.2),
    "ledge hang": ((RUN, still, still), {"ledge": 10.0}, "hang", 0.1),
    "wall stick": ((during((0.2, 5, 1)), during((1, 1.6, 1)), still), WALLS, "stick", 0.2),
    "wall jump lock-out": (OFF_A_WALL, WALLS, "wall_lock", 0.2),
}


def played(phase, rate, jitter=0.0, seconds=None):
    (move, jump, dash), own, name, value = TIMERS[phase]
    dt = np.full(round(9 * rate), 1 / rate)
    dt = dt * np.random.default_rng(rate).uniform(1 - jitter, 1 + jitter, len(dt))
    return moves(dt, move, jump, dash, **own, **{name: value if seconds is None else seconds})


def law_of(columns, phase):
    return next((law for law in recover_laws(take_of(columns)) if str(law.phase) == phase), None)


@pytest.mark.parametrize("rate", some([30, 60, 144], 60))
@pytest.mark.parametrize("form", ["even", "uneven", "printed"])
@pytest.mark.parametrize("phase", TIMERS)
def test_a_wait_is_read_as_the_timer_behind_it(phase, form, rate):
    columns = played(phase, rate, 0.0 if form == "even" else 0.3)
    grid = 0.0
    if form == "printed":
        columns, grid = (
            {n: np.round(c, 3 if n in {"t", "dt"} else 2) for n, c in columns.items()},
            2e-3,
        )
    law = law_of(columns, phase)
    assert law.law == "timer"
    low, high = law.constant("seconds").between
    assert low - grid - 1e-9 <= TIMERS[phase][3] <= high + grid + 1e-9
    assert high - low <= 1.31 / rate + grid


@pytest.mark.parametrize("phase", TIMERS)
def test_without_a_wait_there_is_no_timer(phase):
    assert law_of(played(phase, 60, seconds=0.0), phase) is None


@pytest.mark.parametrize("phase", TIMERS)
def test_a_wait_in_frames_is_a_cause_and_one_in_seconds_is_none(phase):
    rates = (30, 60, 144)
    counted = frame_rates([take_of(played(phase, rate, seconds=6 / rate)) for rate in rates])
    (cause,) = [cause for _, cause in counted.causes if cause.verdict != "note"]
    assert cause.name == "timer-in-frames"
    assert [term.row.of for term in cause.terms] == [phase]
    (seconds,) = cause.corrected.values()
    assert 5 / 60 < seconds <= 6 / 60
    assert f"({phase}, " in cause.fix
    timed = frame_rates([take_of(played(phase, rate)) for rate in rates])
    assert not [cause for _, cause in timed.causes if cause.verdict != "note"]


def fallen(down, fast, rate=60, **own):
    dt = np.full(round(6 * rate), 1 / rate)
    numbers = {"fast": fast, "g": 40.0, "g_fall": 40.0, "jump": 16.0} | own
    return moves(dt, RUN, during((1, 1.5, 1), (3, 3.5, 1)), fast_at=down, **numbers)


@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize(("fast", "told"), [(1.6, True), (1.1, True), (1.0, False), (1.02, False)])
def test_falls_with_the_stick_held_down_are_apart_where_it_makes_them_faster(fast, told, rate):
    columns = fallen(during((3.2, 4.5, 1)), fast, rate)
    laws = {str(law.phase): law for law in recover_laws(take_of(columns))}
    found = measure(take_of(columns))
    assert ("fall held down" in laws) == told
    assert found["jump.fall_gravity"].n == (1 if told else 2)
    assert found["jump.apex_height"].n == 2
    if told:
        assert laws["fall held down"].value("acceleration") == pytest.approx(-40 * fast)
        assert laws["fall"].value("acceleration") == pytest.approx(-40)
        assert found["jump.air_time"].n == 1


def test_a_press_that_is_over_when_it_takes_off_gives_a_hop():
    pressed = [{"at": 1.0, "until": 1.5, "jump": 1.0}, {"at": 3.0, "until": 3.05, "jump": 1.0}]
    take = simulate({"squat_time": 0.1}, {"input": pressed, "length": 5.0})
    found = measure(take)
    assert (found["jump.takeoff_speed"].n, found["hop.takeoff_speed"].n) == (1, 1)
    assert found["hop.takeoff_speed"].value == pytest.approx(6.5)
    (thrown,) = [law for law in recover_laws(take) if str(law.phase) == "takeoff"]
    assert thrown.value("speed") == pytest.approx(13.0)
    assert "differ" not in (thrown.reason or "")


def test_a_press_against_a_wall_is_no_lag():
    columns = moves(np.full(360, 1 / 60), RUN, during((2, 2.5, 1)), walls=(8.0,))
    assert measure(take_of(columns))["jump.landing_lag"].value is None
    assert law_of(columns, "landing lag") is None
