"""Laws of dashes, jumps in the air, sustained rises, timers, landings and partial sticks."""

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.exercises import moves_drill
from kickback.kinds.foot.model.parameters import INTEGRATORS
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.foot.phases import foot_phases
from kickback.kinds.recovering import recover_laws, residuals_of
from kickback.kinds.table import analyse
from truth.recurrence import THETA, during, play, steps


def held(at, until, **values):
    return {"at": at, "until": until, **values}


MOVES = moves_drill()


def moving(rng):
    """Return parameters of a character that dashes, holds its rise and jumps twice."""
    return {
        "dash_speed": rng.uniform(16, 30), "dash_time": rng.uniform(0.1, 0.2),
        "dash_lockout": rng.uniform(0.25, 0.3), "dash_cooldown": rng.uniform(0.46, 0.9),
        "hold_time": rng.uniform(0.12, 0.16), "hold_gravity": rng.uniform(0, 0.8),
        "air_jumps": 1.0, "air_jump_speed": rng.uniform(9, 14), "coast_deceleration": 25.0,
        "jump_speed": rng.uniform(12, 15),
    }  # fmt: skip


TIMERS = {
    "dash time": "dash_time",
    "lock-out": "dash_lockout",
    "cooldown": "dash_cooldown",
    "hold": "hold_time",
}


def laws_by_phase(take):
    return {str(law.phase): law for law in recover_laws(take)}


@quick(2)
@pytest.mark.parametrize("rate", some([30, 60, 120, 144, 240], 30, 144))
@pytest.mark.parametrize("order", INTEGRATORS)
@pytest.mark.parametrize("seed", some(range(4), 0))
def test_dashes_air_jumps_and_sustained_rises_are_read_off(seed, order, rate):
    p = moving(np.random.default_rng(seed))
    take = simulate({**p, "integrator": order}, MOVES, frame_rate=rate)
    found = laws_by_phase(take)
    assert found["dash"].value("speed") == pytest.approx(p["dash_speed"], rel=1e-6)
    hidden = 40 / rate if order == "semi-implicit" else 0  # gravity's first step
    assert found["air jump"].value("speed") == pytest.approx(p["air_jump_speed"], abs=hidden + 1e-6)
    for phase, name in TIMERS.items():
        law, half = found[phase], found[phase].constant("seconds").stderr * np.sqrt(3)
        assert law.value("seconds") == pytest.approx(p[name], abs=half + 1e-6), phase
        if phase != "cooldown":  # that one lies between two presses
            assert half <= 0.5001 / rate
            assert law.value("frames") == np.ceil(p[name] * rate - 1e-9), phase
    held_rise, free = found["rise sustained"], found["rise"]
    assert held_rise.value("acceleration") == pytest.approx(-40 * p["hold_gravity"])
    assert free.value("acceleration") == pytest.approx(-40.0)
    assert found["coast"].value("acceleration") == pytest.approx(-25.0)
    assert found["position"].value("theta") == pytest.approx(THETA[order], abs=1e-6)
    left = residuals_of(analyse(take))
    assert all(float(np.max(np.abs(one.v))) < 1e-9 for one in left)


@pytest.mark.parametrize(("mistakes", "clock"), [("", "second"), ("timer-in-frames", "frame")])
def test_uneven_times_tell_whether_a_timer_counts_frames(mistakes, clock):
    presses = [held(1 + k, 1.1 + k, dash=1.0) for k in range(8)]
    drill = {"length": 10.0, "floor": [{"x": -9, "height": 0}], "input": presses}
    law = laws_by_phase(simulate({"mistakes": mistakes}, drill, jitter=0.3, seed=2))["dash time"]
    assert law.clock == clock
    assert law.value("seconds") == pytest.approx(0.18, abs=0.02)
    assert ("counted in frames" in law.reason) == (clock == "frame")


def test_a_dash_is_no_push_and_no_plateau():
    motion = analyse(simulate(moving(np.random.default_rng(1)), MOVES, frame_rate=60)).whole
    assert [phase.name for phase in foot_phases(motion)].count("dash") == len(motion.dashes) == 3
    assert len(motion.dashes.presses) == 5
    assert not len(analyse(simulate()).whole.dashes)


@quick(3)
@pytest.mark.parametrize("order", some(THETA, "semi-implicit"))
@pytest.mark.parametrize("movement", ["constant", "smoothing", "friction"])
def test_uneven_steps_tell_the_laws_and_the_order_without_a_velocity(movement, order):
    p = {"ground_movement": movement, "integrator": order, "stop_rate": 7.0, "gravity_rise": 35.0}
    take = simulate(p, jitter=0.2, seed=4)
    take = take_of({n: c for n, c in take.columns.items() if n[0] != "v"})
    laws = list(recover_laws(take))
    assert {round(law.value("theta"), 9) for law in laws if str(law.phase) == "position"} == {
        THETA[order]
    }
    family, name, value = {
        "constant": ("constant-acceleration", "acceleration", -32.0),
        "smoothing": ("friction", "rate", 7.0),
        "friction": ("friction", "rate", 5.0),
    }[movement]
    found = {str(law.phase): law for law in laws}
    assert found["coast"].law == family
    assert found["coast"].value(name) == pytest.approx(value, rel=1e-6)
    assert found["rise"].value("acceleration") == pytest.approx(-35.0, rel=1e-6)
    assert found["fall"].value("acceleration") == pytest.approx(-40.0, rel=1e-6)
    left = residuals_of(analyse(take))
    assert all(float(np.max(np.abs(one.v))) < 1e-9 for one in left)


@pytest.mark.parametrize("movement", ["constant", "smoothing", "friction"])
def test_partial_sticks_have_laws_of_their_own(movement):
    pushes = [held(0.5, 2, move_x=0.5), held(3, 5, move_x=1.0), held(7, 9, move_x=-0.25)]
    drill = drill_from_mapping({"length": 11.0, "input": pushes}, "sticks")
    found = laws_by_phase(simulate({"ground_movement": movement}, drill, frame_rate=120))
    for share, phase in ((1.0, "speed-up"), (0.5, "speed-up at 50%"), (0.25, "speed-up at 25%")):
        law = found[phase]
        if movement == "constant":
            assert law.value("acceleration") == pytest.approx(40.0)
            assert found[phase.replace("speed-up", "cruise")].value("speed") == 8.0 * share
        else:
            top = {"smoothing": 8.0, "friction": 40 / 120 / (np.exp(5 / 120) - 1)}[movement]
            assert law.value("goal") == pytest.approx(top * share)


def landings(lag):
    """Return three jumps that collide after moving (lag 0) or before it (lag 1)."""
    y, vy, ground, rows = 0.0, 0.0, True, []
    for k in range(240):
        jump = k % 70 in range(10, 30)
        if lag and not ground and y <= 0 and vy < 0:
            y, vy, ground = 0.0, 0.0, True
        if jump and ground and k % 70 == 10:
            vy, ground = 13.0, False
        if not ground:
            vy -= 40 / 60
            y += vy / 60
        if not lag and y <= 0 and vy < 0:
            y, vy, ground = 0.0, 0.0, True
        rows.append(((k + 1) / 60, 0.0, y, vy, float(ground or y <= 0), float(jump)))
    names = ("t", "x", "y", "vy", "touch_ground", "in_jump")
    return take_of({n: np.array(c) for n, c in zip(names, zip(*rows, strict=True), strict=True)})


@pytest.mark.parametrize("lag", [0, 1])
def test_the_order_of_move_and_collision_shows_at_landings(lag):
    assert laws_by_phase(landings(lag))["landing"].value("lag") == lag


def sunk(columns):
    """Let the body sink in at each landing, and come back up over ten frames."""
    y = columns["y"].copy()
    for row in np.flatnonzero(np.diff(columns["touch_ground"]) > 0) + 1:
        y[row : row + 10] -= 0.02 * 0.6 ** np.arange(10)
    return {**columns, "y": y}


FAULTY = {
    "whole milliseconds": lambda c: {**c, "t": np.round(c["t"], 3)},
    "contact slop": sunk,
    "another velocity": lambda c: {**c, "vx": np.sin(c["t"]), "vy": np.cos(c["t"])},
    "half the velocity": lambda c: {**c, "vx": c["vx"] / 2, "vy": c["vy"] / 2},
}


@pytest.mark.parametrize("fault", FAULTY)
def test_logs_that_are_not_clean_tell_the_same(fault):
    run = play(steps(60, 9.0), during((0.5, 2, 1), (3, 4.5, 1)), during((6, 6.6, 1), (7.5, 7.9, 1)))
    columns = {n: c for n, c in run.items() if n != "dt"}
    found = laws_by_phase(take_of(FAULTY[fault](columns)))
    scale = 0.5 if fault == "half the velocity" else 1.0
    for phase, value in (("speed-up", 40.0), ("coast", -32.0), ("rise", -40.0), ("fall", -40.0)):
        assert found[phase].law == "constant-acceleration", phase
        assert found[phase].value("acceleration") == pytest.approx(value * scale, rel=1e-4), phase
    if scale != 1:
        assert "2 times as fast as the velocity says" in found["position"].reason
    if fault == "another velocity":
        assert found["position"].law == "none"
