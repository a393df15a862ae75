"""Laws: what the model, plain loops and physics libraries were given is read off their takes."""

import csv
import io
import json

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.parameters import INTEGRATORS
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.recovering import recover_laws, residuals_of
from kickback.kinds.table import analyse
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.families.table import choices_of, simple
from kickback.laws.observations import Observations, Stretch
from kickback.laws.select import select
from truth.physics import LIBRARIES, physics_take
from truth.recurrence import THETA, during, play, steps

RATES = (20, 30, 60, 120, 144, 240, 1000)
PHASES = ("speed-up", "coast", "brake", "rise", "fall")


def drawn(rng, movement=None):
    """Return parameters drawn at random."""
    low = {
        "run_speed": (3, 14), "ground_acceleration": (15, 80), "coast_deceleration": (10, 60),
        "brake_deceleration": (20, 100), "smoothing_rate": (3, 15), "stop_rate": (3, 15),
        "friction_rate": (2, 8), "gravity_rise": (15, 60), "gravity_fall": (15, 80),
        "jump_speed": (7, 18),
    }  # fmt: skip
    values = {name: float(rng.uniform(*ends)) for name, ends in low.items()}
    movement = movement or str(rng.choice(["constant", "smoothing", "friction"]))
    order = str(rng.choice(INTEGRATORS))
    return {**values, "terminal_speed": 60.0, "ground_movement": movement, "integrator": order}


def expected(p, phase, *, uneven=False):
    """Return the family of a phase and the constants that are in the parameters."""
    movement = p["ground_movement"]
    if phase in {"rise", "fall"}:
        return "constant-acceleration", {"acceleration": -p[f"gravity_{phase}"]}
    if movement == "constant":
        name = {
            "speed-up": "ground_acceleration",
            "coast": "coast_deceleration",
            "brake": "brake_deceleration",
        }[phase]
        return "constant-acceleration", {
            "acceleration": p[name] * (1 if phase == "speed-up" else -1)
        }
    if phase == "coast":
        return "friction", {"rate": p["stop_rate" if movement == "smoothing" else "friction_rate"]}
    if movement == "smoothing":
        goal = p["run_speed"] * (1 if phase == "speed-up" else -1)
        return "smoothing", {"goal": goal, "rate": p["smoothing_rate"]}
    # at an even rate a push against friction is a smoothing toward where they balance
    return ("drive" if uneven else "smoothing"), {"rate": p["friction_rate"]}


def laws_by_phase(take):
    return {str(law.phase): law for law in recover_laws(take)}


@quick(2)
@pytest.mark.parametrize("jitter", [0.0, 0.25])
@pytest.mark.parametrize("order", some(INTEGRATORS, "semi-implicit", "trapezoid"))
@pytest.mark.parametrize("movement", ["constant", "smoothing", "friction"])
@pytest.mark.parametrize("rate", some(RATES, 30, 144))
def test_every_law_of_the_model_is_recovered(rate, movement, order, jitter):
    p = {**drawn(np.random.default_rng(rate), movement), "integrator": order}
    take = simulate(p, frame_rate=rate, jitter=jitter, seed=1)
    found = laws_by_phase(take)
    told = 0
    for phase in PHASES:
        law = found[phase]
        if law.law == "none":  # four frames away from limits are the least
            assert law.frames < 4, (phase, law.reason)
            continue
        family, constants = expected(p, phase, uneven=bool(jitter))
        assert law.law == family, phase
        for name, value in constants.items():
            assert law.value(name) == pytest.approx(value, rel=1e-6), (phase, name)
        told += 1
    assert told >= (2 if rate <= 30 else 4)
    rule = found["position"]
    assert rule.value("theta") == pytest.approx(THETA[order], abs=1e-6)
    assert rule.value("scale") == pytest.approx(1.0, rel=1e-6)


@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("movement", ["constant", "smoothing", "friction"])
def test_without_a_velocity_column_exact_positions_tell_the_same(movement, rate):
    p = drawn(np.random.default_rng(rate + 1), movement)
    take = simulate(p, frame_rate=rate)
    bare = {n: c for n, c in take.columns.items() if n not in {"vx", "vy"}}
    found = laws_by_phase(take_of(bare))
    for phase in PHASES:
        family, constants = expected(p, phase)
        if found[phase].law != "none":
            assert found[phase].law == family, phase
            for name, value in constants.items():
                assert found[phase].value(name) == pytest.approx(value, rel=1e-6), (phase, name)


def test_a_friction_push_says_both_readings():
    law = laws_by_phase(simulate({"ground_movement": "friction"}))["speed-up"]
    assert law.law == "smoothing"
    assert "or an acceleration of 40 with the friction that coasting shows" in law.reason
    assert (
        laws_by_phase(simulate({"ground_movement": "smoothing", "stop_rate": 5.0}))[
            "speed-up"
        ].reason
        is None
    )


@pytest.mark.parametrize("last", [False, True])
def test_a_push_that_is_clamped_below_its_balance_is_a_drive(last):
    dt = steps(60, 6.0)
    rows, v, x, f = [], 0.0, 0.0, np.exp(-4 / 60)
    for k, h in enumerate(dt):
        move = float(30 <= k < 150)
        v = min(v * f + 60 * move * h if last else (v + 60 * move * h) * f, 9.0)
        x += v * h
        rows.append((x, v, move))
    columns = np.array(rows).T
    take = take_of({"t": np.cumsum(dt), "dt": dt, "x": columns[0], "y": 0 * dt, "vx": columns[1],
                    "in_move_x": columns[2]})  # fmt: skip
    found = laws_by_phase(take)
    assert found["speed-up"].law == "drive"
    size = 60 / (f if last else 1.0)  # at even steps either order does as well: one is told
    size *= f if found["speed-up"].friction_first else 1.0
    assert found["speed-up"].value("acceleration") == pytest.approx(size, rel=1e-6)
    assert found["speed-up"].value("rate") == pytest.approx(4.0, rel=1e-6)
    for _ in range(500):
        v = v * f + 1.0 if last else (v + 1.0) * f
    settled = [item.value for item in recover_laws(take).consequences if "settles" in item.what]
    assert settled == [pytest.approx(v, rel=1e-6)]
    assert found["cruise"].value("speed") == pytest.approx(9.0)


def test_limits_impulses_and_speeds_that_are_there_at_once():
    found = laws_by_phase(simulate({"terminal_speed": 9.0, "run_speed": 6.0}))
    assert found["cruise"].value("speed") == pytest.approx(6.0)
    assert found["terminal"].value("speed") == pytest.approx(-9.0)
    assert found["takeoff"].value("speed") == pytest.approx(13.0)
    at_once = play(steps(60, 6.0), during((0.5, 2, 1), (3, 4, -1)), accel=1e6, slow=1e6)
    law = laws_by_phase(take_of(at_once))["speed-up"]
    assert (law.law, law.value("speed")) == ("instant", pytest.approx(8.0))


@pytest.mark.parametrize(
    ("releases", "reason"), [((0.1,), "one height of release cannot tell"), ((0.08, 0.16), None)]
)
def test_a_cut_is_a_factor_where_two_heights_tell(releases, reason):
    hops = [
        {"at": 1.0 + 2 * k, "until": 1.0 + 2 * k + length, "jump": 1.0}
        for k, length in enumerate(releases)
    ]
    drill = drill_from_mapping({"length": 6.0, "input": hops}, "hops")
    law = laws_by_phase(simulate({"release_cut": 0.45}, drill, frame_rate=120))["release"]
    assert law.value("factor") == pytest.approx(0.45, rel=1e-6)
    assert law.reason is None if reason is None else reason in law.reason


MISTAKES = [
    ("acceleration-per-frame", "constant", "speed-up", 0),
    ("gravity-per-frame", "constant", "rise", 0),
    ("gravity-per-frame", "constant", "speed-up", 1),
    ("dt-twice", "constant", "coast", 2),
    ("factor-per-frame", "smoothing", "speed-up", 0),
    ("factor-per-frame", "smoothing", "coast", 0),
    ("first-order-factor", "smoothing", "coast", 1),
    ("all-in-frames", "constant", "rise", 0),
    ("position-per-frame", "constant", "speed-up", 1),
    ("", "smoothing", "speed-up", 1),
]


@pytest.mark.parametrize(("mistake", "movement", "phase", "exponent"), MISTAKES)
def test_uneven_times_tell_what_belongs_to_the_frame(mistake, movement, phase, exponent):
    values = {"mistakes": mistake, "ground_movement": movement, "stop_rate": 7.0}
    found = laws_by_phase(simulate(values, frame_rate=60, jitter=0.25, seed=3))
    item = found[phase].constant("exponent")
    assert item.value == pytest.approx(exponent, abs=0.05)
    assert item.stderr < 0.05
    assert ("1 − rate·dt" in (found[phase].reason or "")) == (mistake == "first-order-factor")
    no_step = "no time step" in (found["position"].reason or "")
    assert no_step == (mistake in {"position-per-frame", "all-in-frames"})


def test_at_an_even_rate_it_says_that_it_cannot_know():
    assert recover_laws(simulate()).even
    assert not recover_laws(simulate(jitter=0.1)).even
    assert not any(
        item.name == "exponent" for law in recover_laws(simulate()) for item in law.constants
    )


REPEATED = drill_from_mapping(
    {
        "length": 21.0,
        "input": [
            {"at": 10 * k + at, "until": 10 * k + at + lasts, **held}
            for k in (0, 1)
            for at, lasts, held in (
                (0.5, 1.5, {"move_x": 1.0}), (3.0, 1.5, {"move_x": 1.0}),
                (4.5, 1.5, {"move_x": -1.0}), (7.0, 0.5, {"jump": 1.0}), (8.5, 0.7, {"jump": 1.0}),
            )
        ],
    },
    "repeated",
)  # fmt: skip


def verdicts(change, count, seed, drill=None):
    """Return told, wrong and abstained phases, and constants' errors in their own sigmas."""
    rng = np.random.default_rng(seed)
    told = wrong = abstained = 0
    off = []
    for _ in range(count):
        p = drawn(rng)
        take = simulate(p, drill, frame_rate=float(rng.choice([30, 60, 120, 144, 240])))
        columns, unit = change(dict(take.columns), rng)
        found = laws_by_phase(take_of(columns))
        for phase in PHASES:
            law = found.get(phase)
            family, constants = expected(p, phase)
            if law is None or law.law == "none":
                abstained += 1
                continue
            told += 1
            if law.law != family:
                wrong += 1
                continue
            for name, value in constants.items():
                item = law.constant(name)
                off.append((item.value - value * (unit if name != "rate" else 1)) / item.stderr)
    return told, wrong, abstained, np.abs(off)


def pixels(columns, rng):
    del rng
    return {n: np.round(32 * c) if n in "xy" else c for n, c in columns.items() if n[0] != "v"}, 32


def noisy(columns, rng):
    return {n: c + rng.normal(0, 0.02, len(c)) if n[0] == "v" else c for n, c in columns.items()}, 1


@pytest.mark.parametrize(
    ("change", "least", "count", "drill"),
    [
        (pixels, 0.25, 4, None),
        (noisy, 0.5, 4, None),
        pytest.param(pixels, 0.4, 60, None, marks=pytest.mark.long),
        pytest.param(pixels, 0.5, 30, REPEATED, marks=pytest.mark.long),
        pytest.param(noisy, 0.65, 60, None, marks=pytest.mark.long),
    ],
)
def test_poor_data_give_no_wrong_law_and_honest_errors(change, least, count, drill):
    told, wrong, abstained, off = verdicts(change, count, 11, drill)
    assert told / (told + abstained) > least  # the others say why they cannot tell
    assert wrong <= 0.05 * told
    assert np.mean(off < 3) >= 0.95


@pytest.mark.long
@pytest.mark.parametrize("position", [False, True])
@pytest.mark.parametrize("law", ["constant-acceleration", "friction", "smoothing"])
def test_two_in_three_true_values_lie_within_one_standard_error(law, position):
    rng = np.random.default_rng(5)
    t = np.arange(1, 61) / 60
    truth = {
        "constant-acceleration": {"acceleration": 9.0},
        "friction": {"rate": 4.0},
        "smoothing": {"rate": 5.0, "goal": 6.0},
    }[law]
    k, g = truth.get("rate", 1.0), truth.get("goal", 0.0)
    speed = 2 + 9.0 * t if law == "constant-acceleration" else g + (9 - 2 * g) * np.exp(-k * t)
    path = (
        2 * t + 4.5 * t**2
        if law == "constant-acceleration"
        else g * t - (9 - 2 * g) / k * np.exp(-k * t)
    )
    inside = []
    for _ in range(500):
        noise = rng.normal(0, 0.01, 60)
        stretch = Stretch(v=speed if position else speed + noise, dt=np.diff(t, prepend=t[0]),
                          p=path + noise if position else None)  # fmt: skip
        data = Observations.noisy([stretch], 0.01, 1 / 60, 0.0)
        fit = select(data, choices_of([CONSTANT_SPEED, *simple()], data))
        if fit.law == law:
            inside += [
                abs(fit.values[name] - value) < fit.stderr[name] for name, value in truth.items()
            ]
    assert len(inside) > 400
    assert np.mean(inside) == pytest.approx(0.68, abs=0.05)


def lawless(kind, rng):
    """Return a path that no rule made, and its speed."""
    n = np.arange(600)
    if kind == "walking speed":
        v = np.cumsum(rng.normal(0, 0.3, 600))
        return np.cumsum(v) / 60, v
    if kind == "walk":
        x = np.cumsum(rng.normal(0, 0.1, 600))
    elif kind == "spline":
        knots = np.cumsum(rng.normal(0, 2, 16))
        share = (1 - np.cos(np.pi * (n % 40) / 40)) / 2
        x = knots[n // 40] * (1 - share) + knots[n // 40 + 1] * share
    else:
        x = 3 * np.sin(n / rng.uniform(30, 120)) + 2 * np.sin(n / rng.uniform(15, 30) + 1)
    return x, np.diff(x, prepend=x[0]) * 60


@pytest.mark.parametrize(
    "kind_and_seeds",
    some(
        [
            ("walk", 2),
            ("spline", 2),
            ("drawn", 2),
            ("walking speed", 4),
            ("walk", 20),
            ("spline", 20),
            ("drawn", 20),
            ("walking speed", 60),
        ],
        ("walk", 2),
        ("spline", 2),
        ("drawn", 2),
        ("walking speed", 4),
    ),
)
def test_lawless_motion_gives_no_law(kind_and_seeds):
    kind, seeds = kind_and_seeds
    laws = []
    for seed in range(seeds):
        x, v = lawless(kind, np.random.default_rng(seed))
        columns = {"t": np.arange(1, 601) / 60, "x": x, "y": 0 * x}
        if seed % 2 or kind == "walking speed":
            columns["vx"] = v
        if seed % 2:
            columns["in_move_x"] = np.sign(np.gradient(x if seed % 4 == 1 else v))
        laws += [law for law in recover_laws(take_of(columns)) if str(law.phase) != "position"]
    assert len(laws) > 1.7 * seeds
    assert {law.law for law in laws} == {"none"}
    assert all(law.reason for law in laws)


# Pymunk's manual promises velocities first, then positions; its takes show that a jump's
# speed moves the body once before gravity acts: theta 0. Box2D steps the velocity first.
@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize(("library", "theta"), [("pymunk", 0.0), ("box2d", 1.0)])
def test_the_rules_of_physics_libraries_are_found(library, theta, rate):
    assert library in LIBRARIES
    move, jump = during((0.5, 2.0, 1), (3.5, 5.0, -1)), during((6.0, 6.5, 1), (8.0, 8.5, 1))
    feel = {"top": 8.0, "accel": 40.0, "slow": 32.0, "v0": 13.0, "g": 40.0}
    found = {
        (law.track, str(law.phase)): law
        for law in recover_laws(take_of(physics_take(library, rate, move, jump, 10.0, **feel)))
    }
    for key, value in {("travel", "speed-up"): 40.0, ("travel", "coast"): -32.0,
                       ("vertical", "rise"): -40.0, ("vertical", "fall"): -40.0}.items():  # fmt: skip
        assert found[key].law == "constant-acceleration", key
        assert found[key].value("acceleration") == pytest.approx(value, rel=2e-5), key
    assert found["travel", "cruise"].value("speed") == pytest.approx(8.0)
    assert found["vertical", "position"].value("theta") == pytest.approx(theta, abs=1e-4)


def test_what_follows_is_in_the_closed_forms():
    told = {
        (item.phase, item.what): item.value
        for item in recover_laws(simulate({"integrator": "explicit"})).consequences
    }
    assert told["speed-up", "time to top speed"] == pytest.approx(0.2)
    assert told["takeoff", "ideal apex"] == pytest.approx(13**2 / 80)
    assert told["takeoff", "apex at 30 frames/s"] == pytest.approx(13**2 / 80 + 13 / 60)
    smooth = recover_laws(simulate({"ground_movement": "smoothing"})).consequences
    assert any(item.value == pytest.approx(np.log(10) / 9) for item in smooth)


def test_a_leap_leaves_the_longer_side():
    take = simulate()
    x = take.numbers("x") + 50 * (np.arange(len(take)) > 500)
    assert laws_by_phase(take_of({**take.columns, "x": x}))["speed-up"].value(
        "acceleration"
    ) == pytest.approx(40.0)


def test_law_on_the_command_line(kickback, tmp_path):
    kickback("simulate", "-o", "run.jsonl", status=0)
    _, out, _ = kickback("law", "run.jsonl", status=0)
    for text in ("speed += 40.00·dt", "position += mean of both speeds·dt", "rise *= 0.5000",
                 "time to top speed 0.2000 s", "nothing in this take tells"):  # fmt: skip
        assert text in out
    records = json.loads(kickback("law", "run.jsonl", "--format", "json", status=0)[1])
    assert list(records[0]) == [
        "take", "track", "phase", "start", "end", "axis", "law", "constant", "value", "unit", "stderr", "reason",
    ]  # fmt: skip
    table = list(
        csv.DictReader(io.StringIO(kickback("law", "run.jsonl", "--format", "csv", status=0)[1]))
    )
    assert [row["phase"] for row in table] == [row["phase"] for row in records]
    (tmp_path / "bad.csv").write_text("t,x\n1,0\n0,1\n")
    assert "time runs backwards" in kickback("law", "bad.csv", status=2)[2]
    (tmp_path / "still.csv").write_text("t,x,y\n" + "".join(f"{k},0,0\n" for k in range(1, 40)))
    kickback("law", "still.csv", status=0)


@pytest.mark.parametrize(
    "mistake", ["", "gravity-per-frame", "position-per-frame", "first-order-factor"]
)
@pytest.mark.parametrize("movement", ["constant", "smoothing"])
def test_exact_laws_leave_nothing(movement, mistake):
    values = {"ground_movement": movement, "mistakes": mistake, "stop_rate": 7.0}
    take = simulate(values, jitter=0.25)
    left = residuals_of(analyse(take))
    assert {one.phase for one in left} >= {"speed-up", "coast", "rise", "fall"}
    assert all(float(np.max(np.abs(one.v))) < 1e-9 for one in left)


def test_the_plot_shows_what_laws_leave(kickback, tmp_path):
    kickback("simulate", "-o", "run.jsonl", status=0)
    kickback("plot", "run.jsonl", "--law", "-o", "run.svg", status=0)
    assert "misfit" in (tmp_path / "run.svg").read_text()


def flight(rate, pull, *, drag=0.0, drag_first=False, gravity_first=True):
    """Return a take of one jump, one frame at a time, by a rule of its own."""
    h, y, vy, ground, rows = 1 / rate, 0.0, 0.0, True, []
    for k in range(4 * rate):
        jump, thrown = k * h >= 1.0 - 1e-9, False
        if jump and ground and k * h < 1.0 + h / 2:
            vy, ground, thrown = 13.0, False, True
        if not ground:
            kept, gain = np.exp(-drag * h), -pull(vy) * h * (gravity_first or not thrown)
            vy = vy * kept + gain if drag_first else (vy + gain) * kept
            y += h * vy
            if y <= 0 and vy < 0:
                y, vy, ground = 0.0, 0.0, True
        rows.append(((k + 1) * h, 0.0, y, vy, float(ground), float(jump)))
    names = ("t", "x", "y", "vy", "touch_ground", "in_jump")
    return take_of({n: np.array(c) for n, c in zip(names, zip(*rows, strict=True), strict=True)})


@pytest.mark.parametrize("rate", [60, 144])
def test_gravity_near_the_apex_has_a_law_of_its_own(rate):
    found = laws_by_phase(flight(rate, lambda vy: 20.0 if abs(vy) < 3 else 40.0))
    for phase in ("rise", "fall"):
        assert found[phase].value("acceleration") == pytest.approx(-40.0)
        near = found[f"{phase} near the apex"]
        assert near.value("acceleration") == pytest.approx(-20.0)
        assert near.value("below") == pytest.approx(3.0, abs=40 / rate)


@pytest.mark.parametrize("drag_first", [False, True])
def test_gravity_and_drag_together_are_a_drive_in_either_order(drag_first):
    found = laws_by_phase(flight(60, lambda _: 40.0, drag=2.0, drag_first=drag_first))
    for phase in ("rise", "fall"):
        law = found[phase]
        assert law.law == "drive"
        assert law.value("rate") == pytest.approx(2.0, rel=1e-6)
        other = float(law.reason.split()[1])
        assert (other if drag_first else law.value("acceleration")) == pytest.approx(
            -40.0, rel=1e-6
        )


def test_the_takeoff_says_whether_gravity_acts_in_its_frame():
    assert "in the frame of the takeoff already" in laws_by_phase(simulate())["takeoff"].reason
    later = laws_by_phase(flight(60, lambda _: 40.0, gravity_first=False))["takeoff"]
    assert later.value("speed") == pytest.approx(13.0, abs=later.constant("speed").stderr + 1e-9)
    assert "already" not in (later.reason or "")


def test_presses_in_the_air_bracket_the_timers():
    def presses(*times):
        return [{"at": at, "until": at + 0.02, "jump": 1.0} for at in times]

    flat = {"length": 9.0, "input": [{"at": 1.0, "until": 1.5, "jump": 1.0}, *presses(1.58),
                                     {"at": 4.0, "until": 4.4, "jump": 1.0}, *presses(4.48)]}  # fmt: skip
    law = laws_by_phase(simulate({}, flat, frame_rate=120))["buffer"]
    low, high = (float(word) for word in (law.reason.split()[2], law.reason.split()[8]))
    assert low <= 0.1 + 1 / 120 <= high + 1 / 60
    assert law.value("seconds") == pytest.approx((low + high) / 2, abs=1e-3)
    assert law.value("frames") == pytest.approx(120 * law.value("seconds"))
    edge = {"length": 4.0, "floor": [{"x": -9.0, "height": 0.0}, {"x": 8.0, "height": -3.0}],
            "input": [{"at": 0.5, "until": 3.0, "move_x": 1.0}, *presses(1.66)]}  # fmt: skip
    law = laws_by_phase(simulate({}, edge, frame_rate=120))["coyote"]
    assert 0.04 < law.value("seconds") < 0.1
    assert "none that failed shows its end" in law.reason
    assert "coyote" not in laws_by_phase(simulate({"coyote_time": 0.0}, edge, frame_rate=120))


@pytest.mark.parametrize("movement", ["constant", "smoothing"])
def test_sides_that_differ_have_laws_of_their_own(movement):
    values = {"ground_movement": movement, "run_speed": 8.0, "reverse_speed": 5.0, "stop_rate": 7.0}
    take = simulate(values)
    found = laws_by_phase(take)
    name, constant = ("cruise", "speed") if movement == "constant" else ("speed-up", "goal")
    assert found[f"{name} toward +x"].value(constant) == pytest.approx(8.0, rel=1e-6)
    assert found[f"{name} toward −x"].value(constant) == pytest.approx(5.0, rel=1e-6)
    assert all(float(np.max(np.abs(one.v))) < 1e-9 for one in residuals_of(analyse(take)))
    assert "speed-up toward +x" not in laws_by_phase(simulate({"ground_movement": movement}))


@pytest.mark.parametrize("gain", ["second", "frame", "square"])
@pytest.mark.parametrize("decay", ["second", "frame", "first-order"])
@pytest.mark.parametrize("first", [False, True])
def test_uneven_times_tell_a_drive_s_order_and_clocks(first, decay, gain):
    dt, rows, v, x = steps(60, 8.0, 0.25, 4), [], 0.0, 0.0
    for k, h in enumerate(dt):
        move = float(30 <= k < 200 or 260 <= k < 400)
        f = {"second": np.exp(-4 * h), "frame": np.exp(-4 / 60), "first-order": 1 - 4 * h}[decay]
        push = 40 * move * {"second": h, "frame": 1 / 60, "square": 60 * h * h}[gain]
        v = v * f + push if first else (v + push) * f
        x += v * h
        rows.append((x, v, move))
    x, v, move = map(np.array, zip(*rows, strict=True))
    take = take_of({"t": np.cumsum(dt), "dt": dt, "x": x, "y": 0 * x, "vx": v, "in_move_x": move})
    law = laws_by_phase(take)["speed-up"]
    if law.law == "drive":  # the others are exactly a smoothing of the same clock
        assert (law.clock, law.gain) == (decay, gain)
        push, frames = law.constant("acceleration"), 60 * law.frame
        size = {"second": 1.0, "frame": frames, "square": 1 / frames}[gain]
        assert abs(push.value * size - 40) <= 1.01 * push.stderr + 1e-6
        # a factor a frame after the push is the same step as before one that is as much less
        assert law.friction_first == first or decay == "frame"
    else:
        assert (law.law, decay) in {("smoothing", "frame"), ("smoothing", "first-order")}
    assert all(float(np.max(np.abs(one.v))) < 1e-9 for one in residuals_of(analyse(take)))


def test_the_apex_at_other_rates_is_told_only_where_gravity_may_belong_to_the_second():
    def apexes(**how):
        return [
            item
            for item in recover_laws(simulate(**how)).consequences
            if item.what.startswith("apex at")
        ]

    assert {item.given for item in apexes()} == {"other rates: if gravity belongs to the second"}
    assert {item.given for item in apexes(jitter=0.2)} == {""}
    assert not apexes(parameters={"mistakes": "gravity-per-frame"}, jitter=0.2)
