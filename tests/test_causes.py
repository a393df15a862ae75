"""Causes of a dependence on the frame rate, their cures, single takes, and ``retime``."""

import json

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.errors import UsageError
from kickback.framerate.analyse import frame_rates
from kickback.framerate.retime import KINDS, kind_of, retime
from kickback.kinds.foot.model.exercises import moves_drill
from kickback.kinds.foot.model.parameters import INTEGRATORS, MISTAKES
from kickback.kinds.foot.model.simulate import simulate
from kickback.takes.header import ParameterSet
from kickback.takes.record import replace
from truth.physics import physics_take
from truth.recurrence import during

DRILL = moves_drill()
RATES = (30, 60, 144)
SHOWN_ON = {
    "acceleration-per-frame": "constant",
    "dt-twice": "constant",
    "factor-per-frame": "smoothing",
    "first-order-factor": "friction",
}
FINDABLE = [name for name in MISTAKES if name != "integration-order"]


def drawn(seed, movement="constant", order="trapezoid", mistakes=""):
    rng = np.random.default_rng(seed)
    low = {
        "run_speed": (6, 10), "ground_acceleration": (25, 50), "coast_deceleration": (20, 40),
        "smoothing_rate": (4, 10), "stop_rate": (4, 10), "friction_rate": (3, 7),
        "gravity_rise": (25, 50), "gravity_fall": (25, 60), "jump_speed": (9, 15),
        "dash_speed": (20, 30), "dash_time": (0.12, 0.25),
    }  # fmt: skip
    values = {name: float(rng.uniform(*ends)) for name, ends in low.items()}
    return {**values, "terminal_speed": 60.0, "ground_movement": movement,
            "integrator": order, "mistakes": mistakes}  # fmt: skip


def group(values, rates=RATES, drill=DRILL):
    return [simulate(ParameterSet(name="p", values=values), drill, frame_rate=r) for r in rates]


def causes(result, *, notes=False):
    return {cause.name: cause for _, cause in result.causes if notes or cause.verdict != "note"}


def without_velocity(take):
    return replace(take, columns={n: c for n, c in take.columns.items() if n[0] != "v"})


def pixels(take):
    rounded = {n: np.round(32 * c) if n in "xy" else c for n, c in take.columns.items()}
    return without_velocity(replace(take, columns=rounded))


@quick(4)
@pytest.mark.parametrize("rates", some([RATES, (60, 144)], RATES))
@pytest.mark.parametrize("order", some(INTEGRATORS, "explicit"))
@pytest.mark.parametrize("mistake", FINDABLE)
def test_each_mistake_is_named_alone(mistake, order, rates):
    movement = SHOWN_ON.get(mistake, "constant")
    seed = list(MISTAKES).index(mistake) + rates[0]
    found = causes(frame_rates(group(drawn(seed, movement, order, mistake), rates)))
    hidden = mistake == "dt-clamped" and rates[0] > 40
    assert set(found) == (set() if hidden else {mistake})


PAIRS = [
    ("acceleration-per-frame", "gravity-per-frame"), ("gravity-per-frame", "impulse-times-dt"),
    ("position-per-frame", "impulse-times-dt"), ("dt-twice", "timer-in-frames"),
    ("timer-in-frames", "dt-clamped"), ("gravity-per-frame", "dt-clamped"),
    ("factor-per-frame", "gravity-per-frame"), ("first-order-factor", "position-per-frame"),
    ("acceleration-per-frame", "first-order-factor"), ("all-in-frames", "dt-clamped"),
]  # fmt: skip


@quick(4)
@pytest.mark.parametrize("pair", PAIRS)
@pytest.mark.parametrize("order", some(["semi-implicit", "explicit"], "semi-implicit"))
def test_two_mistakes_are_both_named(pair, order):
    values = drawn(len(pair[0]) + len(pair[1]), "constant", order, " ".join(pair))
    if set(pair) & {"factor-per-frame", "first-order-factor"}:
        values["ground_movement"] = "friction"
    assert set(causes(frame_rates(group(values)))) == set(pair)


@quick(3)
@pytest.mark.parametrize("movement", some(["constant", "smoothing", "friction"], "smoothing"))
@pytest.mark.parametrize("order", some(INTEGRATORS, "explicit"))
@pytest.mark.parametrize("change", [list, without_velocity, pixels])
def test_correct_controllers_have_no_finding(change, order, movement):
    for seed in range(2 if change is list else 1):
        takes = group(drawn(seed, movement, order))
        result = frame_rates(takes if change is list else [change(take) for take in takes])
        assert not causes(result), seed
        assert not result.failed
        if change is list:
            noted = causes(result, notes=True)
            exact = order == "trapezoid" and movement != "friction"
            assert set(noted) == (set() if exact else {"integration-order"})


@pytest.mark.parametrize("library", ["pymunk", "box2d"])
def test_physics_libraries_have_no_finding(library):
    move, jump = during((0.5, 2.0, 1), (3.5, 5.0, -1)), during((6.0, 6.5, 1), (8.0, 8.5, 1))
    feel = {"top": 8.0, "accel": 40.0, "slow": 32.0, "v0": 13.0, "g": 40.0}
    takes = [
        take_of(physics_take(library, rate, move, jump, 10.0, **feel), name=f"run-{rate}")
        for rate in RATES
    ]
    result = frame_rates(takes)
    assert not causes(result)
    assert set(causes(result, notes=True)) == {"integration-order"}
    assert not result.failed


CURED = {
    "speed-up.acceleration": ("ground_acceleration", 1),
    "coast.acceleration": ("coast_deceleration", -1),
    "brake.acceleration": ("brake_deceleration", -1),
    "rise.acceleration": ("gravity_rise", -1),
    "fall.acceleration": ("gravity_fall", -1),
    "takeoff.speed": ("jump_speed", 1),
    "cruise.speed": ("run_speed", 1),
    "speed-up.goal": ("run_speed", 1),
    "speed-up.rate": ("smoothing_rate", 1),
    "coast.rate": ("stop_rate", 1),
    "dash.speed": ("dash_speed", 1),
    "dash time.seconds": ("dash_time", 1),
}
BASICS = [
    {"at": 0.5, "until": 2.0, "move_x": 1.0}, {"at": 3.5, "until": 5.0, "move_x": 1.0},
    {"at": 5.0, "until": 6.5, "move_x": -1.0}, {"at": 8.0, "until": 8.9, "jump": 1.0},
]  # fmt: skip


@quick(5)
@pytest.mark.parametrize("keep", some([60, 144], 144))
@pytest.mark.parametrize(
    "mistake", [m for m in FINDABLE if m not in {"dt-clamped", "timer-in-frames"}]
)
def test_the_cure_works(mistake, keep):
    movement = {"factor-per-frame": "smoothing", "first-order-factor": "smoothing"}.get(
        mistake, "constant"
    )
    p = {"ground_movement": movement, "mistakes": mistake, "terminal_speed": 60.0,
         "smoothing_rate": 7.0, "stop_rate": 6.0}  # fmt: skip
    drill = {"length": 10.0, "input": BASICS}
    broken = frame_rates(group(p, drill=drill), keep=keep)
    cured = {**p, "mistakes": ""}
    for name, value in causes(broken)[mistake].corrected.items():
        if name in CURED:
            parameter, sign = CURED[name]
            cured[parameter] = sign * value
    after = frame_rates(group(cured, drill=drill), keep=keep)
    assert not causes(after)
    assert "breaks" not in {row.verdict for row in after.rows}
    kept, now = (
        {row.name: next(v for v in row.values if v.rate == keep) for row in one.rows}
        for one in (broken, after)
    )
    for name, one in kept.items():  # a metric of the motion is no better than its resolution
        assert (one.value is None) == (now[name].value is None), name
        if one.value is not None:
            slack = 1e-3 * abs(one.value) + one.resolution + 1e-6
            assert now[name].value == pytest.approx(one.value, abs=slack), name


@pytest.mark.parametrize("order", ["semi-implicit", "explicit"])
def test_midpoint_integration_keeps_the_apex_after_its_retuned_takeoff(order):
    drill = {"length": 10.0, "input": BASICS}
    before = frame_rates(group({"integrator": order}, drill=drill))
    speed = float(
        causes(before, notes=True)["integration-order"].fix.split("takeoff speed of ")[1].split()[0]
    )
    after = frame_rates(group({"integrator": "trapezoid", "jump_speed": speed}, drill=drill))
    one, other = (
        next(v.value for row in result.rows if row.name == "jump.apex_height" for v in row.values
             if v.rate == 60)
        for result in (before, after)
    )  # fmt: skip
    assert one == pytest.approx(other, rel=1e-3)
    assert not causes(after, notes=True)


def test_effects_are_told_with_their_cause_and_not_again():
    result = frame_rates(group(drawn(1, mistakes="gravity-per-frame")))
    (cause,) = causes(result).values()
    assert {"jump.apex_height", "jump.air_time"} <= set(cause.metrics)
    assert all(row.causes == ("gravity-per-frame",) for row in result.rows if row.beyond)
    kinds = {record["kind"] for record in result.to_records()}
    assert kinds == {"metric", "constant", "cause"}
    told = next(r for r in result.to_records() if r["kind"] == "cause")
    assert "·dt" in told["fix"]
    assert told["verdict"] == "breaks"
    rise = next(r for r in result.to_records() if r["name"] == "rise.acceleration")
    assert rise["exponent"] == pytest.approx(1.0)
    assert rise["cause"] == "gravity-per-frame"


def test_what_no_cause_explains_is_unexplained_with_its_order():
    takes = group({"jump_speed": 13.0}, drill={"length": 10.0, "input": BASICS})
    odd = [
        replace(take, columns={**take.columns, "y": take.numbers("y") * (60 / rate) ** 0.8,
                               "vy": take.numbers("vy") * (60 / rate) ** 0.8})
        for take, rate in zip(takes, RATES, strict=True)
    ]  # fmt: skip
    found = causes(frame_rates(odd))
    assert set(found) == {"unexplained"}
    assert "jump.apex_height ∝ dt^+0.80" in found["unexplained"].evidence


def test_controllers_without_timers_get_both_readings():
    p = {"mistakes": "all-in-frames", "terminal_speed": 60.0}
    found = causes(frame_rates(group(p, drill={"length": 10.0, "input": BASICS})))
    assert set(found) == {"all-in-frames"}
    assert "acceleration-per-frame" in found["all-in-frames"].other


@quick(2)
@pytest.mark.parametrize("mistake", ["", *(m for m in FINDABLE if m != "dt-clamped")])
def test_one_take_with_uneven_times_lets_suspect(mistake):
    movement = SHOWN_ON.get(mistake, "constant")
    jumps = [{"at": 9.0 + k, "until": 9.3 + k, "jump": 1.0} for k in range(3)]
    dashes = [{"at": 13.0 + k, "until": 13.1 + k, "dash": 1.0} for k in range(6)]
    drill = {
        "length": 20.0,
        "floor": [{"x": -900, "height": 0}],
        "input": [*BASICS[:3], *jumps, *dashes],
    }
    values = drawn(3, movement, mistakes=mistake)
    result = frame_rates([simulate(values, drill, jitter=0.25, seed=6)])
    assert {c.name for item in result.suspicions for c in item.causes} == {mistake} - {""}
    assert not result.failed
    assert result.unsure == bool(mistake)
    assert all(c.confidence == "high" for item in result.suspicions for c in item.causes)


def test_one_even_take_says_what_to_look_for():
    (item,) = frame_rates([simulate({}, frame_rate=60)]).suspicions
    assert item.even
    told = {one.what: one for one in item.forecasts}
    assert told["time to top speed"].per_frame[0] == pytest.approx(0.4)
    assert told["ideal apex"].per_second == pytest.approx([13**2 / 80] * 5)


# closed forms of the forms, at any two rates
@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(("before", "after"), [(60, 144), (60, None), (None, 30), (30, 30)])
def test_retime_there_and_back_changes_nothing(kind, before, after):
    there = retime("c", kind, 0.86, before, after)
    assert retime("c", kind, there.result, after, before).result == pytest.approx(0.86)


@pytest.mark.parametrize(
    ("kind", "value", "before", "after", "result"),
    [
        ("factor", 0.86, 60, 144, 0.86 ** (60 / 144)), ("factor", 0.86, 60, None, -60 * np.log(0.86)),
        ("share", 0.14, 60, 30, 1 - 0.86**2), ("speed", 4.0, 60, None, 240.0),
        ("acceleration", 0.5, 60, None, 1800.0), ("gain", 0.4, 60, 120, 0.2),
        ("timer", 11, 60, None, 11 / 60), ("timer", 0.5, None, 60, 30.0),
    ],
)  # fmt: skip
def test_retime_is_in_the_closed_forms(kind, value, before, after, result):
    assert retime("c", kind, value, before, after).result == pytest.approx(result)


@pytest.mark.parametrize(
    ("kind", "value", "before"),
    [
        ("factor", 1.2, 60),
        ("factor", 0, 60),
        ("share", 1.0, 60),
        ("odd", 1, 60),
        ("factor", -1, None),
    ],
)
def test_retime_refuses_what_has_no_such_form(kind, value, before):
    with pytest.raises(UsageError):
        retime("c", kind, value, before, None)


def test_kinds_are_told_by_names():
    names = ["run_speed", "gravity_fall", "friction", "lerp_share", "coyote_time", "mass"]
    assert [kind_of(name) for name in names] == [
        "speed", "acceleration", "factor", "share", "timer", None,
    ]  # fmt: skip


def test_framerate_and_retime_on_the_command_line(kickback, tmp_path):
    rates = [part for rate in ("30", "60", "144") for part in ("--rate", rate)]
    kickback("simulate", "--mistake", "gravity-per-frame", *rates, "-o", "takes", status=0)
    _, out, _ = kickback("framerate", "takes", "--keep", "144", "--figure", "f.svg", status=1)
    assert "gravity-per-frame: gravity is added once per frame" in out
    assert "rise −= 96·dt (rise)" in out
    assert "at 144 frames/s nothing changes" in out
    assert "gravity-per-frame: gravity is added" in (tmp_path / "f.svg").read_text()
    junit = kickback("framerate", "takes", "--format", "junit", status=1)[1]
    assert 'name="default gravity-per-frame"' in junit
    records = json.loads(kickback("framerate", "takes", "--format", "json", status=1)[1])
    assert {record["kind"] for record in records} == {"metric", "constant", "cause"}
    assert (
        "names 2 rates for 3 takes"
        in kickback("framerate", "takes", "--rates", "30,60", status=2)[2]
    )
    assert "whose times say" in kickback("framerate", "takes", "--rates", "144,60,30", status=2)[2]
    assert (
        "must be .png or .svg" in kickback("framerate", "takes", "--figure", "a.gif", status=2)[2]
    )
    one = kickback("framerate", "takes/default-60.jsonl", status=0)[1]
    assert "if per frame" in one
    assert "9.049" in kickback("retime", "0.86", "--kind", "factor", "--from", "60", status=0)[1]
    (tmp_path / "p.toml").write_text("[values]\nrun_speed = 4.0  # quick\nmass = 2\n")
    _, out, _ = kickback("retime", "p.toml", "--from", "60", "-o", "q.toml", status=0)
    assert "left as they are: mass" in out
    assert (tmp_path / "q.toml").read_text() == "[values]\nrun_speed = 240.0  # quick\nmass = 2\n"
    for wrong, text in (
        (("0.86",), "say what the number is"), (("p.toml", "--kind", "mas=speed"), "no parameter 'mas'"),
        (("p.toml", "--from", "fast"), "a frame rate such as 60"), (("no.toml",), "no such parameter file"),
    ):  # fmt: skip
        assert text in kickback("retime", *wrong, status=2)[2]
