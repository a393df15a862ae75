"""A projectile against plain loops and a physics library: rule, flight, spread, aim, and causes."""

import json

import numpy as np
import pytest
from benchmarks.shots import fire, gun_of, shoot

from conftest import quick, some, take_of, without
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.models import simulate
from kickback.kinds.shot.aim import Flight, aim, path
from kickback.kinds.shot.model.drills import DRILLS, drill_from_mapping
from kickback.kinds.shot.model.parameters import MISTAKES
from kickback.kinds.shot.phases import shot_events
from kickback.kinds.shot.picture import shot_picture
from kickback.kinds.table import analyse, kind_of
from kickback.motion.options import Options
from truth.bodies import thrown_in_pybullet
from truth.shot import lobs

RATES = (30, 60, 144)
PRINTED = {"t": 5, "dt": 5, "x": 3, "y": 3, "z": 3, "vx": 3, "vy": 3, "vz": 3}


def shots(fps=60, *, jitter=0.0, printed=False, length=12, **own):
    dt = np.full(length * fps, 1 / fps)
    dt = dt * np.random.default_rng(3).uniform(1 - jitter, 1 + jitter, len(dt))
    columns = lobs(dt, **own)
    if printed:
        columns = {n: np.round(c, PRINTED[n]) if n in PRINTED else c for n, c in columns.items()}
    return columns


def flare(columns, **header):
    return take_of(columns, view="3d" if "z" in columns else "side", **header)


def laws(take):
    return {str(law.phase): law for law in recover_laws(take)}


@pytest.mark.parametrize("places", [None, 3])
@pytest.mark.parametrize("shows_launch", [True, False])
@pytest.mark.parametrize("order", ["new speed", "old speed", "mean speed"])
def test_shots_whose_rows_end_at_the_hit_are_flights_of_their_own(order, shows_launch, places):
    gun = gun_of(np.random.default_rng(3))._replace(order=order, shows_launch=shows_launch)
    for uneven in (0.0, 0.1):
        columns, truth = fire(gun, np.random.default_rng(4), 60, uneven)
        if places:
            columns = {n: np.round(c, places + 2 * (n == "t")) for n, c in columns.items()}
        told = measure(take_of(columns, kind="shot", extra={"ground": 0.0}))
        assert len(told["shot.range"].occurrences.value) == 6
        for name, value in truth.items():
            row = told[f"shot.{name}"]
            assert abs(row.value - value) <= row.resolution + 1e-3 * value, name
    down = columns | {"y": -columns["y"], "vy": -columns["vy"]}
    by_option = measure(take_of(down, kind="shot", up="-y"), options=Options(ground=0.0))
    assert by_option["shot.range"].value == pytest.approx(told["shot.range"].value)
    for untold in (
        take_of(columns, kind="shot"),
        take_of(columns, kind="shot", extra={"ground": "low"}),
    ):
        row = measure(untold)["shot.range"]
        assert row.value is None
        assert "'ground'" in row.reason
    assert (
        measure(take_of(columns, kind="shot", extra={"ground": -5.0}))["shot.range"].value is None
    )


@pytest.mark.parametrize("spoken", [True, False])
def test_a_column_tells_shots_apart_and_pauses_between_them_are_nobodys_fault(spoken):
    columns, _ = fire(gun_of(np.random.default_rng(3)), np.random.default_rng(4), 60, 0.0)
    new = np.diff(columns["t"], prepend=0) > 0.2
    columns["shot"] = np.cumsum(new).astype(float)
    if not spoken:  # the places alone: no speed shows a launch
        columns = without(columns, "vx", "vy")
    take = take_of(columns)
    assert kind_of(take).name == "shot"
    found = measure(take)
    assert found["shot.launch_angle"].n == 6
    assert found["shot.cadence"].value is None
    assert not {one.code for one in examine(take)} & {"hitch", "screen-wrap", "teleport"}
    if spoken:
        motion = analyse(take).whole
        drawn = shot_picture(motion, shot_events(motion))
        assert np.isnan(drawn.curves[0].y).sum() == 5
        launched = next(one.t for one in drawn.curves[1].marks if one.name == "launch")
        rows = np.flatnonzero(np.concatenate(([True], new[1:])))
        assert np.all(np.abs(launched - columns["t"][rows]) <= 1.01 / 60)
        assert max(float(np.diff(one.t).max()) for one in drawn.paths.items) < 0.02
    turned = {**columns, "shot": np.zeros(len(new))}
    turned["shot"][len(new) // 2 + 20 :] = 1  # parts a flight where nothing else does
    assert measure(take_of(turned, kind="shot"))["shot.launch_angle"].n == 7


@pytest.mark.parametrize(
    ("uneven", "shows_launch"), [(0.1, True), (0.1, False), (0.0, True), (0.0, False)]
)
def test_uneven_frames_tell_whether_a_first_row_is_the_launch(uneven, shows_launch):
    gun = gun_of(np.random.default_rng(3))._replace(shows_launch=shows_launch)
    columns, truth = fire(gun, np.random.default_rng(4), 60, uneven)
    columns["dt"] = np.diff(columns["t"], prepend=columns["t"][0] - 1 / 60)
    if not uneven:  # even ones whose times have six digits, so that they differ in the last
        columns = {n: np.array([float(f"{x:.6g}") for x in c]) for n, c in columns.items()}
    row = measure(take_of(columns, kind="shot", extra={"ground": 0.0}))["shot.launch_speed"]
    assert abs(row.value - truth["launch_speed"]) <= row.resolution
    assert (row.resolution < 0.01) == (uneven > 0 and shows_launch)


HELD = {"": "even", "cadence in frames": "frame", "cadence rounded": "rounded"}


@pytest.mark.parametrize("bad", HELD)
def test_held_fire_shows_whose_its_cadence_is(bad):
    gun = gun_of(np.random.default_rng(3))
    for printed in (False, True):
        columns = shoot(gun, np.random.default_rng(8), 60, 0.2, bad)
        if printed:
            columns = {n: np.round(c, 5 if n in {"t", "dt"} else 3) for n, c in columns.items()}
        take = take_of(columns)
        law = laws(take)["cadence"]
        assert law.clock == HELD[bad], printed
        low, high = law.constant("seconds").between
        assert low <= 0.37 <= high
        named = {one.name for item in frame_rates([take]).suspicions for one in item.causes}
        assert named == {"frame": {"timer-in-frames"}, "rounded": {"cadence-rounded"}}.get(
            HELD[bad], set())  # fmt: skip


def test_shots_that_are_the_same_to_the_last_digit_are_one():
    gun = gun_of(np.random.default_rng(3))._replace(linear=0.0, quadratic=0.0154, speed=12.0)
    columns = shoot(gun, np.random.default_rng(8), 144, 0.0)
    columns = {n: np.round(c, 4 if n in {"t", "dt"} else 2) for n, c in columns.items()}
    law = laws(take_of(columns))["flight"]
    for name, value in {"acceleration": -gun.gravity, "quadratic": gun.quadratic}.items():
        one = law.constant(name)
        assert abs(one.value - value) <= 4 * one.stderr, name


@pytest.mark.parametrize(("bad", "cause"), [("drag", "acceleration-per-frame"),
                                            ("gravity", "gravity-per-frame"),
                                            ("launch", "impulse-times-dt")])  # fmt: skip
def test_of_several_forces_that_which_lacks_its_step_is_named(bad, cause):
    gun = gun_of(np.random.default_rng(3))._replace(linear=0.0, quadratic=0.02)
    for rates in ((60,), (30, 144)):
        takes = [take_of(shoot(gun, np.random.default_rng(8), r, 0.1, bad)) for r in rates]
        found = frame_rates(takes)
        named = {one.name for _, one in found.causes}
        named |= {one.name for item in found.suspicions for one in item.causes}
        assert named - {"integration-order"} == {cause}, rates


DRAGS = [
    ({}, "constant-acceleration", {}),
    ({"linear": 0.4}, "drive", {"rate": 0.4}),
    ({"quadratic": 0.02}, "resistance", {"quadratic": 0.02}),
]


@quick(2)
@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(("own", "family", "constants"), DRAGS)
def test_gravity_and_drag_are_told_from_exact_uneven_and_printed_takes(own, family, constants, fps):
    for jitter, printed, blind in (
        (0.0, False, False), (0.3, False, False), (0.3, True, False), (0.0, True, True),
        (0.3, True, True),
    ):  # fmt: skip
        columns = shots(fps, jitter=jitter, printed=printed, theta=1.0, **own)
        if blind:
            columns = without(columns, "vx", "vy")
        law = laws(take_of(columns))["flight"]
        assert law.law == family, (jitter, printed, blind, law.reason)
        for name, value in {"acceleration": -20.0, **constants}.items():
            one = law.constant(name)
            assert abs(one.value - value) <= 4 * one.stderr + 1e-6 * abs(value), (name, jitter)


def test_what_is_no_flight_of_a_known_rule_is_said():
    columns = shots(60, length=6)
    turned = np.sin(3 * columns["t"]) * 2
    columns["vy"] = columns["vy"] + turned * (columns["touch_ground"] == 0) * (columns["vy"] != 0)
    columns["y"] = columns["y"] + np.cumsum(turned / 60) * 0
    law = laws(
        take_of(without(columns, "y") | {"y": columns["y"] + 0.3 * np.sin(5 * columns["t"])})
    )
    assert law["flight"].law == "none"
    assert "neither gravity nor drag" in law["flight"].reason


@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize("azimuth", [None, 30.0])
def test_a_flight_without_drag_is_that_of_its_closed_form(azimuth, fps):
    v, g, high = 20.0, 20.0, 1.0
    up, along = v * np.sin(np.radians(50)), v * np.cos(np.radians(50))
    time = (up + np.sqrt(up**2 + 2 * g * high)) / g
    wanted = {
        "shot.launch_speed": v, "shot.launch_angle": 50.0, "shot.gravity": g,
        "shot.flight_time": time, "shot.range": along * time, "shot.apex_height": up**2 / 2 / g,
        "shot.time_to_apex": up / g, "shot.impact_speed": np.sqrt(v**2 + 2 * g * high),
        "shot.impact_angle": np.degrees(np.arctan2(np.sqrt(up**2 + 2 * g * high), along)),
        "shot.cadence": 3.0, "shot.drag": 0.0,
    }  # fmt: skip
    if azimuth is not None:
        wanted["shot.launch_azimuth"] = azimuth
    for jitter, printed in ((0.0, False), (0.3, False), (0.0, True), (0.3, True)):
        columns = shots(fps, jitter=jitter, printed=printed, azimuth=azimuth, bounce=0.4)
        extra = {"muzzle": [0.0, 1.0] + ([0.0] if azimuth is not None else [])}
        found = measure(flare(columns, extra=extra))
        for metric, value in wanted.items():
            row = found[metric]
            assert row.value is not None, (metric, row.reason)
            assert abs(row.value - value) <= row.resolution + 1e-9, (metric, jitter, printed)
        assert (
            abs(found["shot.bounce_factor"].value - 0.4) <= found["shot.bounce_factor"].resolution
        )
        assert found["shot.bounce_kept"].value == pytest.approx(0.7, abs=2e-3)


def test_a_first_row_without_a_muzzle_is_known_to_a_step():
    columns = shots(60, length=12)
    told = measure(flare(columns, extra={"muzzle": [0.0, 1.0]}))["shot.launch_speed"]
    untold = measure(flare(columns))["shot.launch_speed"]
    assert told.resolution < 1e-6
    assert untold.resolution >= 0.1
    assert abs(untold.value - 20) <= untold.resolution


def test_spread_is_that_of_the_places_that_were_hit():
    scatter = [-3.0, 1.0, 2.0, 0.0, 4.0, -4.0]
    columns = shots(60, length=20, azimuth=0.0, scatter=scatter)
    row = measure(flare(columns))["shot.spread"]
    far = measure(flare(columns))["shot.range"].value
    angles = np.radians(scatter)
    places = far * np.exp(1j * angles)
    wanted = np.sqrt(np.mean(np.abs(places - places.mean()) ** 2))
    assert row.value == pytest.approx(wanted, rel=0.03)
    assert row.reason.startswith("6 shots")
    few = measure(flare(shots(60, length=5, azimuth=0.0)))["shot.spread"]
    assert few.value is None
    assert "of 3 shots" in few.reason


@pytest.mark.parametrize(("linear", "quadratic"), [(0.0, 0.0), (0.3, 0.0), (0.0, 0.015)])
def test_aimed_shots_hit_and_what_is_out_of_reach_is_said(linear, quadratic):
    flight = Flight(24.0, 20.0, linear, quadratic)
    time = np.linspace(0, 4, 2_001)
    for d, up in ((10.0, 3.0), (15.0, -4.0), (12.0, 0.0)):
        found = aim(flight, d, up)
        assert len(found.elevations) == 2
        assert found.beyond == 0
        for elevation in found.elevations:
            x, y = path(flight, elevation, time)
            assert float(np.min(np.hypot(x - d, y - up))) < 0.03
        low, high = found.elevations
        x, y = path(flight, (low + high) / 2, time)
        assert np.interp(d, x, y) > up  # between them it goes over the target
    far = aim(flight, 60.0, 5.0)
    assert far.elevations == ()
    tried = [np.hypot(*(one - off for one, off in zip(path(flight, e, time), (60.0, 5.0), strict=True)))
             for e in np.linspace(20, 50, 31)]  # fmt: skip
    assert far.beyond == pytest.approx(min(float(one.min()) for one in tried), abs=0.02)
    if not linear and not quadratic:
        reach = 24.0**2 / 20
        assert len(aim(flight, reach * 0.999, 0.0).elevations) == 2
        assert aim(flight, reach * 1.001, 0.0).elevations == ()
        assert aim(flight, 10.0, 3.0).least_speed == pytest.approx(
            np.sqrt(20 * (3 + np.hypot(3, 10))))  # fmt: skip
        assert aim(Flight(5.0, 0.0), 10.0, 10.0).elevations == (pytest.approx(45.0),)


def test_a_miss_is_told_with_what_would_have_hit():
    columns = shots(144, length=12)
    take = flare(columns, extra={"muzzle": [0.0, 1.0]})
    found = measure(take, options=Options(target=(12.0, 3.0)))
    low = found["shot.low_elevation"].value
    hit = measure(flare(shots(144, length=12, elevation=low), extra={"muzzle": [0.0, 1.0]}),
                  options=Options(target=(12.0, 3.0)))  # fmt: skip
    assert hit["shot.miss"].value < 0.02
    assert found["shot.miss"].value > 1
    assert np.hypot(found["shot.miss_along"].value, found["shot.miss_up"].value) == pytest.approx(
        found["shot.miss"].value, rel=1e-6)  # fmt: skip
    assert "no target" in measure(take)["shot.miss"].reason


def group(mistake, drill="lob", **values):
    values = {"linear_drag": 0.4, "cadence": 2.013, **values, "mistakes": mistake}
    return [
        simulate(values, DRILLS[drill](), kind="shot", frame_rate=rate) for rate in RATES
    ]  # fmt: skip


def causes(result):
    return {cause.name for _, cause in result.causes if cause.verdict != "note"}


@quick(5)
@pytest.mark.parametrize("mistake", ["", *sorted(set(MISTAKES) - {"integration-order"})])
def test_each_mistake_is_found_and_nothing_else(mistake):
    drag = 1.5 if "factor" in mistake else 0.4
    found = causes(frame_rates(group(mistake, linear_drag=drag)))
    assert found == ({mistake} if mistake else set())


def test_one_uneven_take_shows_what_lacks_its_time_step():
    for own, cause in (
        ({"per_frame": ("gravity",)}, "gravity-per-frame"),
        ({"per_frame": ("position",)}, "position-per-frame"),
        ({"factor": 0.99}, "factor-per-frame"),
        ({"linear": 0.4, "first_order": True}, "first-order-factor"),
    ):
        (item,) = frame_rates([take_of(shots(60, jitter=0.3, theta=1.0, **own))]).suspicions
        assert cause in {one.name for one in item.causes}, own
    (item,) = frame_rates([take_of(shots(60, jitter=0.3, linear=0.4))]).suspicions
    assert not item.causes


def codes(take):
    return {one.code for one in examine(take)}


def test_a_look_finds_late_launches_and_those_from_behind():
    assert codes(simulate({}, DRILLS["lob"]())) == set()
    assert codes(simulate({"mistakes": "spawned-behind"}, DRILLS["lob"]())) == {"spawned-behind"}
    assert "spawn-late" in codes(simulate({"mistakes": "spawn-late"}, DRILLS["lob"]()))
    assert "spawn-late" in codes(flare(shots(60, late=True, taps=True)))
    assert "spawn-late" not in codes(flare(shots(60, taps=True)))


def test_launches_may_be_noted_as_events():
    columns = without(shots(60), "in_fire")
    rows = np.flatnonzero((np.diff(columns["vy"], prepend=0.0) > 8) & (columns["vy"] > 10))
    words = np.full(len(columns["t"]), "", dtype=object)
    words[rows] = "shot"
    take = take_of({**columns, "event": words}, kind="shot")
    assert measure(take)["shot.cadence"].value == pytest.approx(3.0, abs=1e-6)


@pytest.mark.parametrize("printed", [False, True])
def test_a_ball_of_a_physics_library_gives_back_its_constants(printed):
    columns = thrown_in_pybullet(speed=18.0, elevation=45.0, gravity=9.81, damping=0.1)
    if printed:
        columns = {n: np.round(c, PRINTED[n]) if n in PRINTED else c for n, c in columns.items()}
    take = flare(columns, kind="shot", up="+z")
    law = laws(take)["flight"]
    assert law.law == "resistance"  # its bodies drag with the speed and with its square
    rel = 3e-3 if not printed else 0.02
    for name, value in (("acceleration", -9.81), ("rate", 0.1), ("quadratic", 0.1)):
        assert law.value(name) == pytest.approx(value, rel=rel)
    speed = measure(take)["shot.launch_speed"]
    assert abs(speed.value - 18) <= speed.resolution + 0.02


def test_the_program_plays_measures_and_aims(program, tmp_path):
    (tmp_path / "flare.toml").write_text('name = "flare"\n[values]\nlaunch_speed = 26.0\n')
    program("simulate", "flare.toml", "--drill", "lob", "-o", "takes", status=0)
    call = ("measure", "takes/flare-60.jsonl", "--target", "20,5", "--format", "json")
    found = {row["metric"]: row["value"] for row in json.loads(program(*call, status=0)[1])}
    assert found["shot.launch_speed"] == pytest.approx(26.0)
    assert 0 < found["shot.low_elevation"] < found["shot.high_elevation"] < 90
    assert "12.5,3" in program("measure", "takes/flare-60.jsonl", "--target", "here", status=2)[2]
    assert "--target" in program("measure", "takes/flare-60.jsonl", "--target", "1", status=2)[2]
    assert kind_of(simulate({"muzzle_height": 2.0})).name == "shot"


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        ({"view": "top", "input": [{"at": 0, "until": 1, "fire": 1}]}, "'view' is 'top'"),
        ({"target": [1], "input": [{"at": 0, "until": 1, "fire": 1}]}, "list of 2 numbers"),
        ({"target": ["a", 1], "input": [{"at": 0, "until": 1, "fire": 1}]}, "must be a number"),
    ],
)
def test_a_drill_that_makes_no_sense_is_one_sentence(data, sentence):
    with pytest.raises(Exception, match=sentence):
        drill_from_mapping(data, "drill")
