"""A vehicle against plain loops and a physics library: forces, grip, steering, tilt, and causes."""

import json

import numpy as np
import pytest

from conftest import quick, some, take_of, without
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.models import model_named, simulate
from kickback.kinds.table import KINDS, kind_of
from kickback.kinds.vehicle.model.drills import drill_from_mapping, dunes_drill, flats_drill
from kickback.kinds.vehicle.model.parameters import MISTAKES
from truth.bodies import sled_in_pymunk
from truth.vehicle import align, cos, drive, sin

RATES = (30, 60, 144)
THROTTLE = [(0.5, 6, 1), (12, 15, -1), (16.5, 18, 1), (18.1, 22, 1)]
STEER = [(19.5, 21.5, 1), (22.5, 23.5, -1)]
BRAKES = [(26, 28, 1)]
PRINTED = {"t": 5, "dt": 5, "heading": 2, "x": 3, "y": 3, "vx": 3, "vy": 3}


def sled(fps=60, *, jitter=0.0, printed=False, throttle=THROTTLE, steer=STEER, length=30, **own):
    """Return columns of a drive: out, coast, back, out again with two turns, and a brake."""
    dt = np.full(length * fps, 1 / fps)
    dt = dt * np.random.default_rng(3).uniform(1 - jitter, 1 + jitter, len(dt))
    columns = drive(dt, throttle, steer, BRAKES, **own)
    if printed:
        columns = {n: np.round(c, PRINTED[n]) if n in PRINTED else c for n, c in columns.items()}
    return columns


def above(columns, **header):
    return take_of(columns, view="top", **header)


def laws(take):
    return {str(law.phase): law for law in recover_laws(take)}


FORCES = [
    ({"engine": 12.0, "top": 14.0}, "constant-acceleration", "constant-acceleration", {}),
    ({"linear": 0.8}, None, "friction", {"rate": 0.8}),
    ({"quadratic": 0.06}, "resistance", "resistance", {"quadratic": 0.06}),
    ({"linear": 0.4, "quadratic": 0.03}, "resistance", "resistance",
     {"rate": 0.4, "quadratic": 0.03}),
    ({"rolling": 1.5, "quadratic": 0.04}, "resistance", "resistance",
     {"rolling": 1.5, "quadratic": 0.04}),
    ({"rolling": 1.5, "linear": 0.5}, None, "resistance", {"rolling": 1.5, "rate": 0.5}),
]  # fmt: skip


@quick(2)
@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(
    ("own", "pushed", "free", "constants"),
    [FORCES[0], FORCES[1], FORCES[3], *(pytest.param(*FORCES[k], marks=pytest.mark.long)
                                        for k in (2, 4, 5))],
)  # fmt: skip
def test_forces_and_resistances_are_told_apart(own, pushed, free, constants, fps):
    for jitter, printed in ((0.3, False), (0.0, True), (0.3, True)):
        take = above(sled(fps, jitter=jitter, printed=printed, steer=[], **own))
        found = laws(take)
        coast, push = found.get("coast"), found["speed-up"]
        if own.get("top") and not own.get("rolling"):
            assert push.value("acceleration") == pytest.approx(12, rel=2e-3 if printed else 1e-9)
            assert found["cruise"].value("speed") == pytest.approx(14, abs=1e-3)
            continue
        assert coast.law == free, (jitter, printed)
        for name, value in constants.items():
            one = coast.constant(name)
            assert abs(one.value - value) <= 4 * one.stderr + 1e-6 * value, (name, jitter, printed)
        assert pushed is None or push.law == pushed


@quick(2)
@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(
    ("own", "clock", "value"),
    [
        ({"grip": 5.0}, "second", 5.0),
        ({"grip_factor": 0.92}, "frame", None),
        ({"grip": 5.0, "yaw_rate": 8.0}, "second", 5.0),
        ({"grip": 3.0, "by_speed": 6.0}, "second", 3.0),
    ],
)
def test_grip_is_read_while_it_turns_and_after(own, clock, value, fps):
    for printed in (False, True):
        found = laws(above(sled(fps, jitter=0.3, printed=printed, linear=0.8, **own)))["grip"]
        assert (found.law, found.clock) == ("friction", clock)
        if value is None:
            one = found.constant("factor")
            assert abs(one.value - 0.92) <= 4 * one.stderr + 1e-9
        else:
            one = found.constant("rate")
            assert abs(one.value - value) <= 4 * one.stderr + 1e-6
    gripping = laws(above(sled(fps, grip_factor=0.0)))["grip"]
    assert gripping.law == "none"
    assert "no slide" in gripping.reason


@quick(2)
@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(
    ("own", "constant", "value", "rate"),
    [
        ({"yaw": 90.0}, "yaw_rate", 90.0, None),
        ({"by_speed": 6.0}, "curvature", 6.0, None),
        ({"yaw": 90.0, "yaw_rate": 9.0}, "yaw_rate", 90.0, 9.0),
        ({"by_speed": 6.0, "yaw_rate": 9.0}, "curvature", 6.0, 9.0),
    ],
)
def test_the_wheel_turns_by_the_time_or_by_the_way(own, constant, value, rate, fps):
    for jitter, printed in ((0.0, False), (0.3, False), (0.3, True)):
        columns = sled(fps, jitter=jitter, printed=printed, linear=0.8, grip=4.0, **own)
        found = laws(above(columns))
        one = found["steer"].constant(constant)
        assert abs(one.value - value) <= 4 * one.stderr + 1e-6 * value
        if rate is None:
            assert "steer response" not in found
        else:
            told = found["steer response"].constant("rate")
            assert abs(told.value - rate) <= 4 * told.stderr + 1e-6


def test_one_uneven_take_shows_what_lacks_its_time_step():
    plain = {"jitter": 0.3, "linear": 0.8}
    quadratic = {"linear": 0.0, "quadratic": 0.06, "per_frame": ("quadratic",)}
    for own, cause in (
        ({"per_frame": ("engine",)}, "acceleration-per-frame"),
        ({"per_frame": ("yaw",)}, "steering-per-frame"),
        ({"factor": 0.985}, "factor-per-frame"),
        ({"first_order": True}, "first-order-factor"),
        ({"grip_factor": 0.92}, "factor-per-frame"),
        (quadratic, "acceleration-per-frame"),
    ):
        (item,) = frame_rates([above(sled(**{**plain, **own}))]).suspicions
        assert {one.name for one in item.causes} == {cause}, own
    (item,) = frame_rates([above(sled(**plain))]).suspicions
    assert not item.causes
    assert "coast" in item.read


CLOSED = [
    # a linear resistance k against a push a: the goal a/k, ln times over k
    ({"linear": 1.2, "push_last": True}, lambda h: {
        "drive.top_speed": 12 * h / (1 - np.exp(-1.2 * h)),
        "drive.time_to_90": np.log(10) / 1.2,
        "drive.distance_to_top_speed": 12 / 1.2**2 * (np.log(100) - 0.99),
        "drive.coast_time": np.log(100) / 1.2,
        "drive.half_time": np.log(2) / 1.2,
    }),
    # a quadratic one: √(a/q), artanh over √(aq), 1/(q·v0) to half the speed
    ({"quadratic": 0.08, "push_last": True}, lambda h: {
        "drive.top_speed": np.sqrt(12 / 0.08),
        "drive.time_to_90": np.arctanh(0.9) / np.sqrt(12 * 0.08),
        "drive.distance_to_top_speed": np.log(1 / (1 - 0.99**2)) / 2 / 0.08,
        "drive.half_time": 1 / 0.08 / np.sqrt(12 / 0.08),
    }),
    # constant ones: v/a, v²/2a less half a step of the speed
    ({"rolling": 3.0, "top": 14.0}, lambda h: {
        "drive.top_speed": 14.0,
        "drive.time_to_90": 0.9 * 14 / 9,
        "drive.time_to_top_speed": 0.99 * 14 / 9,
        "drive.coast_time": 0.99 * 14 / 3,
    }),
    # turning at once: ω, v/ω, and a slide ln(20)/k after
    ({"top": 14.0, "grip": 6.0, "yaw": 90.0}, lambda h: {
        "steer.yaw_rate": 90.0,
        "steer.slip_angle": np.degrees(np.arctan(
            np.sin(np.pi / 2 * h) * np.exp(-6 * h)
            / (np.cos(np.pi / 2 * h) * (1 - np.exp(-6 * h) * np.cos(np.pi / 2 * h))
               + np.exp(-6 * h) * np.sin(np.pi / 2 * h) ** 2))),
        "steer.slide_time": np.log(20) / 6,
        "steer.recovery_time": np.log(sin(90 * h) * np.exp(-6 * h) / np.tan(np.radians(5))
                                      / (1 - cos(90 * h) * np.exp(-6 * h))) / 6,
    }),
    ({"linear": 0.8, "yaw": 90.0, "yaw_rate": 7.0}, lambda h: {
        "steer.time_to_yaw_rate": np.log(10) / 7,
        "steer.return_time": np.log(10) / 7,
    }),
]  # fmt: skip


@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(("own", "wanted"), CLOSED)
def test_metrics_are_those_of_the_closed_forms(own, wanted, fps):
    long = {"throttle": [(0.5, 10, 1), (20, 32, 1)], "steer": [(28, 30, 1)], "length": 34}
    for jitter, printed in ((0.0, False), (0.0, True), (0.25, True)):
        take = above(sled(fps, jitter=jitter, printed=printed, **long, **own))
        found = measure(take)
        for metric, value in wanted(1 / fps).items():
            row = found[metric]
            assert row.value is not None, (metric, row.reason)
            # a step's own share of the change: forces act in turns, and a row ends a frame
            slack = abs(value) * 1.5 / fps if metric != "drive.top_speed" else 0.02 * value
            slack = 0.0 if own.get("top") and "slip" not in metric and not jitter else slack
            assert abs(row.value - value) <= row.resolution + slack + 1e-6, metric


@pytest.mark.parametrize("held", [0.05, 0.15, 0.3, 0.5, 0.9])
@pytest.mark.parametrize("printed", [False, True])
def test_a_limit_that_ends_a_push_is_the_top_speed_and_nothing_is_foretold(held, printed):
    throttle = [(0.5, 0.5 + 14 / 9 + held, 1)]
    for fps in (30, 144):
        take = above(sled(fps, throttle=throttle, steer=[], rolling=3.0, top=14.0, printed=printed))
        row = measure(take)["drive.top_speed"]
        assert row.value is None or abs(row.value - 14.0) <= row.resolution, fps
        assert row.value is not None or held < 0.2, fps


@pytest.mark.parametrize("kind", ["vehicle", "shot"])
def test_drills_show_every_metric_that_is_no_detail(kind):
    model = model_named(kind)
    rows = [
        row
        for drill in model.drills.values()
        for row in measure(model.simulate({}, drill(), frame_rate=60))
        if not row.detail and row.group in {"drive", "steer", "tilt", "shot"}
    ]
    shown = {row.metric for row in rows if row.value is not None}
    assert {row.metric for row in rows} == shown


def test_what_a_take_does_not_show_has_a_reason():
    short = measure(above(sled(throttle=[(0.5, 1.5, 1)], steer=[], linear=0.3)))
    assert "hold the throttle longer" in short["drive.top_speed"].reason
    assert "another pedal" in measure(above(sled(linear=0.05)))["drive.coast_time"].reason
    blind = without(sled(linear=0.8), "heading")
    found = measure(above(blind))
    assert found["steer.yaw_rate"].reason == "no heading was recorded"
    assert found["drive.top_speed"].value == pytest.approx(14.9, abs=0.2)
    assert "no throttle" in measure(above(without(sled(), "in_throttle")))["drive.top_speed"].reason


def test_headings_turn_round_with_an_axis_that_points_down():
    columns = sled(linear=0.8)
    down = {**columns, "y": -columns["y"], "vy": -columns["vy"], "heading": -columns["heading"]}
    there = measure(take_of(down, view="top", up="-y"), "steer")
    here = measure(above(columns), "steer")
    for one, other in zip(here, there, strict=True):
        assert one.value == (other.value and pytest.approx(other.value, rel=1e-9)), one.metric


@pytest.mark.parametrize("factor", [None, 0.85])
def test_a_body_goes_after_the_slope(factor):
    dt = np.full(600, 1 / 60) * np.random.default_rng(2).uniform(0.7, 1.3, 600)
    t = np.cumsum(dt)
    slope = np.interp(t, [0, 2, 3, 5, 5.01, 10], [0, 0, 20, 20, -10, -10])
    columns = {
        "t": t, "dt": dt, "x": 5 * t, "y": 0 * t, "in_throttle": np.ones(600),
        "pitch": align(slope, dt, 8.0, factor=factor), "ground_pitch": slope,
        "touch_ground": np.ones(600),
    }  # fmt: skip
    for digits in (None, 2):
        shown = columns if digits is None else {
            n: np.round(c, 2) if "pitch" in n else c for n, c in columns.items()
        }  # fmt: skip
        take = take_of(shown)
        law = laws(take)["tilt"]
        assert (law.law, law.clock) == ("alignment", "frame" if factor else "second")
        name, value = ("factor", factor) if factor else ("rate", 8.0)
        assert law.value(name) == pytest.approx(value, rel=1e-6 if digits is None else 0.01)
        lag = measure(take)["tilt.lag_time"]
        rate = -np.log(factor) * 60 if factor else 8.0
        assert abs(lag.value - 1 / rate) <= lag.resolution


def group(mistakes, drill, **values):
    values = {**values, "mistakes": mistakes}
    return [simulate(values, drill, kind="vehicle", frame_rate=rate) for rate in RATES]


def causes(result):
    return {cause.name for _, cause in result.causes if cause.verdict != "note"}


@quick(5)
@pytest.mark.parametrize("mistake", ["", *sorted(set(MISTAKES) - {"integration-order"})])
@pytest.mark.parametrize("place", some(["flats", "dunes"], "flats"))
def test_each_mistake_is_found_and_nothing_else(mistake, place):
    drag = {"linear_drag": 0.6, "quadratic_drag": 0.03}
    drill, values = (flats_drill(), {}) if place == "flats" else (dunes_drill(), drag)
    shown = {mistake} - ({"steering-per-frame"} if drill.view == "side" else set()) - {""}
    assert causes(frame_rates(group(mistake, drill, **values))) == shown


def test_the_cure_of_a_quadratic_drag_names_its_square():
    found = frame_rates(group("acceleration-per-frame", dunes_drill(), quadratic_drag=0.05,
                              linear_drag=0.0))  # fmt: skip
    fix = next(cause.fix for _, cause in found.causes if cause.name == "acceleration-per-frame")
    assert "speed −= 0.05" in fix
    assert "·speed·|speed|·dt" in fix


def codes(take):
    return {one.code for one in examine(take)}


def test_a_look_finds_what_wheels_should_not_do():
    assert codes(simulate({}, flats_drill())) == set()
    assert codes(simulate({}, dunes_drill())) == set()
    assert "drives-in-air" in codes(simulate({"mistakes": "drives-in-air"}, dunes_drill()))
    assert "wheel-reversed" in codes(simulate({"mistakes": "wheel-reversed"}, flats_drill()))
    assert "slides-on" in codes(simulate({"grip_rate": 2.5}, flats_drill()))
    columns = sled(linear=0.8)
    columns["touch_ground"] = (columns["t"] < 19.8) * 1.0
    assert "steers-in-air" in codes(above(columns))
    columns["touch_ground"] = np.ones(len(columns["t"]))
    assert "steers-in-air" not in codes(above(columns))


def test_a_heading_that_counts_otherwise_is_told_and_read(program, tmp_path):
    plain = sled(linear=0.8)
    assert "heading-unlike" not in codes(above(plain))
    for how, heading in (
        ("radians = true", np.radians(plain["heading"])),
        ("scale = -1, offset = 90", 90 - plain["heading"]),
    ):
        shown = examine(above({**plain, "heading": heading}))
        (one,) = [item for item in shown if item.code == "heading-unlike"]
        assert how in one.message
        names = {
            "heading": "yaw",
            "in_throttle": "gas",
            "in_steer": "steering",
            "in_brake": "brakes",
        }
        log = {names.get(n, n): c for n, c in {**plain, "heading": heading}.items() if n != "dt"}
        np.savetxt(tmp_path / "log.csv", np.array([*log.values()]).T, "%.4f", ",",
                   header=",".join(log), comments="")  # fmt: skip
        program("new", ".", "--from", "log.csv", "--force", status=0)
        out = program("measure", "log.csv", "--map", "log.map.toml", "--format", "json", status=0)[
            1
        ]
        found = {row["metric"]: row["value"] for row in json.loads(out)}
        assert found["steer.yaw_rate"] == pytest.approx(90, rel=1e-3)
        text = (tmp_path / "log.map.toml").read_text()
        assert 'from = "yaw"' in text
        assert how.split(" =")[0] in text


@pytest.mark.parametrize("printed", [False, True])
def test_a_sled_of_a_physics_library_gives_back_its_constants(printed):
    columns = sled_in_pymunk(engine=20.0, damping=0.3, grip=5.0, yaw=100.0)
    if printed:
        columns = {n: np.round(c, PRINTED[n]) if n in PRINTED else c for n, c in columns.items()}
    take = above(columns)
    found = laws(take)
    assert found["coast"].value("rate") == pytest.approx(-np.log(0.3), rel=3e-3)
    push = found["speed-up"]  # the library damps first: v·f + a·h
    f = np.exp(np.log(0.3) / 60)
    assert push.value("goal") == pytest.approx(20.0 / 60 / (1 - f), rel=3e-3)
    assert found["grip"].value("rate") == pytest.approx(5.0 - np.log(0.3), rel=0.01)
    top = measure(take)["drive.top_speed"]
    assert abs(top.value - 20.0 / 60 / (1 - f)) <= top.resolution + 1e-3


def test_the_kind_is_told_from_the_columns_in_every_view():
    columns = sled(length=4)
    assert kind_of(above(columns)).name == "vehicle"
    assert kind_of(above(without(columns, "in_steer"))).name == "vehicle"
    assert kind_of(above(without(columns, "in_steer", "in_throttle"))).name == "foot"
    stick = {**columns, "in_move_x": columns["in_throttle"]}
    assert kind_of(above(stick)).name == "foot"
    assert {kind.name for kind in KINDS} >= {"foot", "vehicle"}


@pytest.mark.parametrize("width", [80, 100, 200])
def test_a_long_rule_leaves_its_constants_readable(program, monkeypatch, width):
    monkeypatch.setenv("COLUMNS", str(width))
    program("simulate", "--drill", "flats", "-o", "sled.csv", status=0)
    _, out, _ = program("law", "sled.csv", status=0)
    assert "speed = speed − 30.61·dt − 1.200·speed·dt" in out
    assert "…" not in out
    assert max(len(line) for line in out.splitlines()) <= width


def test_drills_and_parameters_say_whose_they_are(program, tmp_path):
    (tmp_path / "sled.toml").write_text('name = "sled"\n[values]\nengine = 20.0\n')
    program("simulate", "sled.toml", "--drill", "flats", "-o", "takes", status=0)
    out = program("measure", "takes/sled-60.jsonl", "--format", "json", status=0)[1]
    found = {row["metric"]: row["value"] for row in json.loads(out)}
    assert found["drive.top_speed"] == pytest.approx(20 / 1.2, rel=0.02)
    text = program("law", "takes/sled-60.jsonl", status=0)[1]
    assert "heading +=" in text
    assert "sideways *= exp(−7" in text
    bad = program("simulate", "sled.toml", "--drill", "walls", status=2)[2]
    assert "unknown parameter 'engine'" in bad
    (tmp_path / "odd.toml").write_text("[[input]]\nat = 0\nuntil = 1\nthrotle = 1.0\n")
    assert "throtle" in program("simulate", "--drill", "odd.toml", status=2)[2]


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        ({"view": "side", "input": [{"at": 0, "until": 1, "steer": 1.0}]}, "nothing is steered"),
        ({"view": "top", "floor": [{"x": 0, "height": 1}], "input": [
            {"at": 0, "until": 1, "throttle": 1}]}, "level"),
        ({"view": "3d", "input": [{"at": 0, "until": 1, "throttle": 1}]}, "'view' is '3d'"),
        ({"heading": "north", "input": [{"at": 0, "until": 1, "throttle": 1}]}, "'heading'"),
        ({"input": [{"at": 0, "until": 1, "throttle": 2}]}, "between -1 and 1"),
    ],
)  # fmt: skip
def test_a_drill_that_makes_no_sense_is_one_sentence(data, sentence):
    with pytest.raises(Exception, match=sentence):
        drill_from_mapping(data, "drill")


@pytest.mark.parametrize("printed", [False, True])
def test_each_surface_has_laws_of_its_own(printed):
    dt = np.full(50 * 60, 1 / 60) * np.random.default_rng(2).uniform(0.7, 1.3, 50 * 60)
    columns = drive(
        dt, [(0.5, 6, 1), (12, 18, 1), (24, 30, 1), (36, 42, 1)],
        [(3, 4.5, 1), (15, 16.5, 1), (27, 28.5, 1), (39, 40.5, 1)],
        linear=1.0, patches=[(10, 22, 5.0, 2.0), (34, 46, 5.0, 2.0)],
    )  # fmt: skip
    if printed:
        columns = {n: c if n == "surface" else np.round(c, 5 if n in {"t", "dt"} else 3)
                   for n, c in columns.items()}  # fmt: skip
    take = take_of(columns, view="top")
    laws = {str(law.phase): law for law in recover_laws(take)}
    for phase, constants in {
        "speed-up on salt": {"acceleration": 12.0, "rate": 1.0},
        "speed-up on brine": {"acceleration": 5.0, "rate": 1.0},
        "coast on brine": {"rate": 1.0},
        "grip on salt": {"rate": 6.0},
        "grip on brine": {"rate": 2.0},
    }.items():
        for name, value in constants.items():
            one = laws[phase].constant(name)
            assert abs(one.value - value) <= 4 * one.stderr + 1e-6, (phase, name)
    found = measure(take)
    assert found["drive.top_speed"].value == pytest.approx(12.0, rel=0.02)  # that on salt
    assert any("'salt' (5" in one.message for one in examine(take))
    alone = take_of(columns | {"surface": np.full(len(dt), "salt", dtype=object)}, view="top")
    assert "surfaces-differ" not in {one.code for one in examine(alone)}
