"""Wishes to parameters: exact in the model, and in a plain loop that shares nothing with it."""

import json
import tomllib

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback import measure
from kickback.errors import UsageError
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.foot.wishes import FOOT_WISHES
from kickback.tuning.solve.search import newton
from kickback.tuning.solve.shots import solve_shot
from kickback.tuning.solve.solve import solve
from truth.recurrence import THETA, during, play, steps

RATES = (30, 60, 144)


def loop(values, fps):
    """Return what the plain loop does with solved values: a held leap, a run and a stop."""
    theta = THETA[values["integrator"]]
    own = {"theta": theta, "v0": values["jump_speed"], "g": values["gravity_rise"],
           "g_fall": values["gravity_fall"], "top": values["run_speed"],
           "accel": values["ground_acceleration"], "slow": values["coast_deceleration"]}  # fmt: skip
    move, jump = during((0.5, 4.0, 1)), during((7.0, 9.5, 1))
    return play(steps(fps, 10), move, jump, **own)


@quick(2)
@pytest.mark.parametrize("fps", RATES)
@pytest.mark.parametrize("order", some(THETA, "semi-implicit", "explicit"))
def test_a_leap_is_exact_in_the_loop_for_each_order_and_rate(order, fps):
    wishes = {"jump.apex_height": 2.3, "jump.time_to_apex": 0.37}
    found = solve({"integrator": order}, wishes, rate=fps, rates=[fps])
    assert found.solved
    assert max(one.residual for one in found.got) <= 1e-9
    columns = loop(found.values, fps)
    assert columns["y"].max() == pytest.approx(2.3, rel=1e-9)
    assert found.values["gravity_fall"] == found.values["gravity_rise"]  # they were one before


def test_stops_and_starts_are_exact_in_the_loop():
    wishes = {"coast.stop_distance": 0.6, "run.time_to_90": 0.25, "run.top_speed": 7.0}
    found = solve({"integrator": "explicit"}, wishes, rates=[60])
    assert found.solved
    columns = loop(found.values, 60)
    assert columns["vx"].max() == pytest.approx(7.0, rel=1e-9)
    measured = measure(take_of(columns))
    for name, value in wishes.items():
        assert measured[name].value == pytest.approx(value, rel=1e-9)
    at_90 = 0.9 * 7.0 / found.values["ground_acceleration"]
    assert at_90 == pytest.approx(0.25, rel=1e-9)


@quick(2)
@pytest.mark.parametrize(
    ("movement", "wish", "knob"),
    [
        ("smoothing", {"run.time_to_90": 0.4}, "smoothing_rate"),
        ("smoothing", {"coast.stop_time": 0.5}, "stop_rate"),
        ("friction", {"run.top_speed": 9.0}, "ground_acceleration"),
        ("constant", {"turn.time": 0.4}, "brake_deceleration"),
        ("constant", {"dash.distance": 2.5}, "dash_speed"),
        ("constant", {"jump.gravity_ratio": 1.4}, "gravity_fall"),
    ],
)
def test_each_kind_of_movement_has_parameters_of_its_own(movement, wish, knob):
    found = solve({"ground_movement": movement}, wish, rates=[60])
    assert found.solved
    assert next(iter(found.changed)) == knob
    assert found.got[0].residual <= 1e-9


def test_wishes_that_exclude_each_other_are_told_with_each_way_out():
    wishes = {"jump.apex_height": 2.0, "jump.time_to_apex": 0.4}
    found = solve({}, wishes, keep=["gravity_rise"], rates=[60])
    assert not found.solved
    assert not found.changed
    conflict = found.conflict
    assert set(conflict.wishes) == set(wishes)
    assert (set(conflict.knobs), conflict.kept) == (
        {"jump_speed", "gravity_rise"},
        ("gravity_rise",),
    )
    ways = {one.name: one for one in conflict.choices}
    assert ways["gravity_rise"].becomes == pytest.approx(25.0)  # 2h/t²
    assert ways["jump.apex_height"].becomes == pytest.approx(40.0 * 0.4**2 / 2)
    assert ways["jump.time_to_apex"].becomes == pytest.approx((2 * 2.0 / 40.0) ** 0.5, rel=1e-3)
    both = solve({}, {**wishes, "run.top_speed": 6.0}, rates=[60])
    assert both.solved
    three = solve({}, {"coast.stop_time": 0.2, "coast.stop_distance": 0.5, "run.top_speed": 8.0},
                  rates=[60])  # fmt: skip
    assert set(three.conflict.wishes) >= {"coast.stop_time", "coast.stop_distance"}


def test_a_kept_parameter_that_would_not_be_enough_is_said_to_be(kickback, tmp_path):
    (tmp_path / "own.toml").write_text("[values]\n")
    wishes = ("coast.stop_time=0.2 s", "coast.stop_distance=0.5 m", "run.top_speed=7 m/s")
    call = ["solve", "own.toml", *(f"--wish={one}" for one in wishes)]
    out = kickback(*call, "--keep", "coast_deceleration", status=1)[1]
    assert "coast_deceleration, kept at 32.00: it would not be enough to free it" in out


def test_a_wish_that_holds_already_excludes_nothing():
    wishes = {"run.top_speed": 8.0, "coast.stop_distance": 0.6}
    found = solve({}, wishes, keep=["run_speed"], rates=[60])
    assert found.solved
    assert list(found.changed) == ["coast_deceleration"]
    assert solve({}, {"run.top_speed": 8.0}, keep=["run_speed"], rates=[60]).solved
    other = solve({}, wishes | {"run.top_speed": 8.1}, keep=["run_speed"], rates=[60])
    assert other.conflict.wishes == ("run.top_speed",)


def test_what_cannot_be_had_is_brought_nearest():
    found = solve({}, {"hop.lowest_height": 0.2, "run.time_to_90": 0.3}, rates=[60])
    assert found.nearest
    lowest, quick = found.got
    assert lowest.solved > 0.2
    assert quick.residual <= 1e-9  # the other wish is fulfilled all the same


def test_rounded_numbers_are_measured_again():
    wishes = {"jump.apex_height": 2.1, "jump.time_to_apex": 0.37}
    found = solve({}, wishes, digits=1, rates=[60])
    assert all(found.values[name] == round(found.values[name], 1) for name in found.changed)
    for one in found.got:
        assert one.residual <= 1e-9
        assert 1e-6 < abs(one.rounded / one.wanted - 1) < 0.02
        assert one.by_rate[60] == one.rounded


@pytest.mark.parametrize(
    ("wishes", "keep", "sentence"),
    [
        ({}, [], "nothing is wished for"),
        ({"jump.apex": 2.0}, [], "did you mean 'jump.apex_height'"),
        ({"jump.apex_height": -1.0}, [], "a wish is above 0"),
        ({"jump.apex_height": float("nan")}, [], "a wish is above 0"),
        ({"jump.apex_height": 2.0}, ["jumpspeed"], "no parameter 'jumpspeed'"),
    ],
)
def test_wishes_that_are_none_are_refused(wishes, keep, sentence):
    with pytest.raises(UsageError, match=sentence):
        solve({}, wishes, keep=keep)
    with pytest.raises(UsageError, match="for the kind 'foot', not 'vehicle'"):
        solve({}, {"drive.top_speed": 3.0}, kind="vehicle")


def test_the_search_goes_to_roots_of_powers_and_stops_at_limits():
    def metrics(sets):
        return np.array([[one["v"] ** 2 / (2 * one["g"]), one["v"] / one["g"]] for one in sets])

    found = newton(metrics, {"v": 1.0, "g": 500.0}, np.array([2.0, 0.4]), {})
    assert found.solved
    assert found.values == pytest.approx({"v": 10.0, "g": 25.0}, rel=1e-9)
    limited = newton(metrics, {"v": 1.0, "g": 500.0}, np.array([2.0, 0.4]), {"v": 8.0})
    assert not limited.solved
    assert limited.values["v"] <= 8.0 + 1e-12


def polyline(values, elevation, speed, fps, seconds=4.0):
    """Return a shot's path in plain steps: push, drag, move; the order says which speed moves."""
    theta, h = THETA[values.get("integrator", "trapezoid")], 1 / fps
    v, place, rows = speed * np.exp(1j * np.deg2rad(elevation)), 0j, [0j]
    for _ in range(round(seconds * fps)):
        old = v
        v = v - 1j * values.get("gravity", 22.0) * h
        place += h * ((1 - theta) * old + theta * v)
        rows.append(place)
    return np.array(rows)


@pytest.mark.parametrize("order", some(THETA, "explicit"))
@pytest.mark.parametrize("target", some([(20.0, 4.0), (15.0, -6.0), (9.0, 9.0)], (15.0, -6.0)))
def test_shots_pass_through_their_target_in_plain_steps(target, order):
    values = {"integrator": order}
    found = solve_shot(values, target)
    assert len(found.ways) == 2
    for way in found.ways:
        assert way.residual <= 1e-9
        path = polyline(values, way.elevation, way.speed, 60)
        at = np.interp(target[0], path.real, path.imag)
        assert at == pytest.approx(target[1], abs=1e-9 * abs(complex(*target)))
        again = solve_shot(values, target, angle=way.elevation).ways[0]
        assert again.speed == pytest.approx(24.0, rel=1e-9)
    d, h = target
    assert found.least_speed == pytest.approx((22.0 * (h + np.hypot(h, d))) ** 0.5)


@pytest.mark.parametrize(
    "drag", some([{"linear_drag": 0.4}, {"quadratic_drag": 0.02}], {"linear_drag": 0.4})
)
def test_shots_with_drag_hit_in_the_model(drag):
    assert max(one.residual for one in solve_shot(drag, (11.0, 2.0)).ways) <= 1e-9
    (way,) = solve_shot(drag, (11.0, 2.0), angle=40.0, rates=(30.0, 144.0)).ways
    assert way.residual <= 1e-9
    assert 1e-4 < abs(way.misses[30.0]) < 0.5


@pytest.mark.long
def test_targets_that_move_are_led():
    led = solve_shot({}, (15.0, 2.0), moves=(3.0, -0.5)).ways[0]
    assert led.target == pytest.approx((15 + 3 * led.flight_time, 2 - 0.5 * led.flight_time))


def test_what_no_shot_reaches_is_said(kickback, tmp_path):
    (tmp_path / "own.toml").write_text("[values]\nlaunch_speed = 20.0\ngravity = 20.0\n")
    far = solve_shot({"launch_speed": 20.0, "gravity": 20.0}, (30.0, 0.0))
    assert not far.ways
    nearest = min(
        float(np.min(np.abs(polyline({"gravity": 20.0}, angle, 20.0, 240) - 30.0)))
        for angle in np.arange(30.0, 60.0, 0.25)
    )
    assert far.beyond == pytest.approx(nearest, rel=0.01)
    assert far.least_speed == pytest.approx((20.0 * 30.0) ** 0.5)
    assert not solve_shot({}, (20.0, 40.0), angle=30.0).ways  # its line passes below
    assert solve_shot({"linear_drag": 2.0}, (500.0, 0.0)).least_speed is not None
    out = " ".join(kickback("solve", "own.toml", "--target", "30,0", status=1)[1].split())
    assert "is out of reach: the nearest that a shot comes is" in out
    assert "the least speed that reaches it is 24.49 m/s" in out
    out = kickback("solve", "own.toml", "--target", "12,1", "-o", "new.toml", status=0)[1]
    assert "exactly at 60 frames/s" in out
    new = tomllib.loads((tmp_path / "new.toml").read_text())["values"]
    assert new["elevation"] < 45
    rows = json.loads(kickback("solve", "own.toml", "--target", "12,1", "--format", "json",
                              status=0)[1])  # fmt: skip
    assert [row["residual"] <= 1e-9 for row in rows] == [True, True]
    for call, said in ((("--target", "12"), "--target is ACROSS,UP"),
                       (("--target", "-12,1"), "a target lies ahead"),
                       (("--target", "12,1", "--keep", "gravity"), "wishes are for another call"),
                       (("--target", "12,1", "--angle", "95"), "95")):  # fmt: skip
        assert said in kickback("solve", "own.toml", *call, status=2)[2]


def test_all_knobs_are_parameters_and_each_drill_shows_its_metric():
    values = checked_values({}, "test")
    for one in FOOT_WISHES.wishes:
        assert set(one.knobs) <= values.keys()
        assert any(FOOT_WISHES.works(one.metric, name, values) for name in one.knobs)


def test_the_command_solves_and_writes(kickback, tmp_path):
    (tmp_path / "own.toml").write_text(
        '# mine\nname = "own"\n[values]\njump_speed = 13.0  # off the ground\ngravity_rise = 40.0\n'
    )
    (tmp_path / "kickback.toml").write_text('length_unit = "m"\n')
    (tmp_path / "wishes.toml").write_text('[wishes]\n"jump.apex_height" = "2 m"\n')
    call = ("solve", "own.toml", "--wishes", "wishes.toml", "--wish", "jump.time_to_apex=24 frames",
            "--digits", "2")  # fmt: skip
    out = kickback(*call, "-o", "new.toml", status=0)[1]
    assert "All wishes are fulfilled at 60 frames/s." in out
    text = (tmp_path / "new.toml").read_text()
    assert text.startswith('# mine\nname = "own"')
    assert "# off the ground" in text
    assert tomllib.loads(text)["values"] == {
        "jump_speed": 10.0, "gravity_rise": 25.0, "gravity_fall": 25.0
    }  # fmt: skip
    assert "the file exists already" in kickback(*call, "-o", "new.toml", status=2)[2]
    out = kickback(*call, "--keep", "gravity_rise", status=1)[1]
    assert "exclude each other" in out
    assert "gravity_rise, kept at 40.00: at 25.00 all wishes are fulfilled" in " ".join(out.split())
    kickback(*call, "--write", status=0)
    assert tomllib.loads((tmp_path / "own.toml").read_text())["values"]["jump_speed"] == 10.0
    rows = json.loads(kickback(*call, "--format", "json", status=0)[1])
    assert {row["kind"] for row in rows} == {"parameter", "wish", "at rate"}
    for wrong, said in (("jump.apex_height", "--wish is METRIC=AMOUNT"),
                        ("jump.apex_height=2 s", "is in 's', the metric in m"),
                        ("jump.apex_height=2 ells", "no unit 'ells'")):  # fmt: skip
        assert said in kickback("solve", "own.toml", "--wish", wrong, status=2)[2]
