"""A game as parameters of the model: read off plain loops and bodies of physics libraries."""

import json
import tomllib

import numpy as np
import pytest

from conftest import quick, some, take_of, without
from kickback import fit, measure, simulate
from kickback.errors import InputError
from kickback.kinds.foot.fit.fitting import FOOT_FITTING
from kickback.kinds.foot.fit.replay import play_again, steps_of_both
from kickback.kinds.foot.fit.world import world_of
from kickback.kinds.foot.model.exercises import edges_drill, moves_drill
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.table import analyse
from kickback.tuning.fit.divergence import held_against
from truth.moves import moves
from truth.physics import physics_take
from truth.recurrence import during, play, steps

MOVE = during((0.4, 2.0, 1), (2.9, 4.4, -1), (4.4, 4.9, 1), (5.6, 8.2, 1))
JUMP = during((6.0, 6.6, 1), (7.1, 7.22, 1), (9.0, 9.9, 1))
TRUE = {
    "run_speed": 8.0, "ground_acceleration": 60.0, "coast_deceleration": 50.0,
    "brake_deceleration": 60.0, "gravity_rise": 40.0, "gravity_fall": 50.0, "jump_speed": 13.0,
    "release_cut": 0.45,
}  # fmt: skip
CORE = {"apex_height", "air_time", "time_to_apex", "stop_distance", "stop_time", "top_speed",
        "time_to_top_speed", "time_to_90", "distance"}  # fmt: skip


def printed(columns, digits):
    return columns if digits is None else {k: np.round(v, digits) for k, v in columns.items()}


@quick(3)
@pytest.mark.parametrize("fps", some([30, 60, 144], 30))
@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("digits", [None, 3])
def test_numbers_come_back_within_their_errors_and_play_alike(digits, jitter, fps):
    columns = moves(steps(fps, 11, jitter, seed=1), MOVE, JUMP, cut=0.45, g_fall=50.0,
                    air_accel=25.0)  # fmt: skip
    found = fit([take_of(printed(columns, digits))])
    assert found.fits
    numbers = {one.name: one for one in found.numbers}
    assert numbers["integrator"].value == "semi-implicit"
    # what is never seen, and not needed, is not had
    assert {found.values[one] for one in ("dash_speed", "coyote_time", "jump_buffer")} == {0.0}
    for name, value in TRUE.items():
        one = numbers[name]
        assert abs(one.value - value) <= max(4.5 * one.stderr, 1e-8 * value), name
        assert one.stderr <= 0.02 * value
    largest = max(row.largest for row in found.divergence)
    assert largest <= (1e-9 if digits is None else 1.2e-3 if not jitter else 0.2)


@quick(2)
@pytest.mark.parametrize("library", ["pymunk", "box2d"])
def test_bodies_of_physics_libraries_keep_their_metrics_at_other_rates(library):
    def body(rate):
        return take_of(physics_take(library, rate, MOVE, JUMP, 11, top=8.0, accel=60.0, slow=50.0,
                                    v0=13.0, g=40.0))  # fmt: skip

    found = fit([body(60)])
    assert found.fits
    full = checked_values(found.values, "test")
    for rate in (30, 60, 144):
        take = analyse(body(rate))
        played = [FOOT_FITTING.play(motion, [full]) for motion in take.motions]
        rows = held_against(take, rate, played).metrics
        core = [row for row in rows if row.metric.split(".")[1] in CORE]
        assert len(core) >= 12
        assert max(row.share for row in core) <= 0.01


@quick(3)
@pytest.mark.parametrize(
    ("law", "mistake"), [("exact", ""), ("first-order", "first-order-factor"),
                         ("per-frame", "factor-per-frame")],
)  # fmt: skip
def test_what_the_frame_rates_show_is_fitted_too(law, mistake):
    takes = [
        take_of(play(steps(rate, 11), MOVE, JUMP, law=law, cut=0.5), name=f"at {rate}")
        for rate in (30, 60, 144)
    ]
    found = fit(takes)
    assert " ".join(found.mistakes) == mistake
    assert found.fits
    assert found.values["smoothing_rate"] == pytest.approx(9.0, abs=1e-6)
    rates = sorted({row.rate for row in found.divergence})
    assert rates == pytest.approx([30, 60, 144])
    assert max(row.largest for row in found.divergence) < 1e-5


def test_timers_dashes_and_jumps_in_the_air_are_fitted():
    values = {"dash_speed": 20.0, "dash_time": 0.15, "dash_cooldown": 0.6, "air_jumps": 1.0}
    found = fit([simulate(values, moves_drill())])
    assert found.fits
    numbers = {one.name: one for one in found.numbers}
    assert numbers["dash_speed"].value == 20.0
    low, high = numbers["dash_time"].between
    assert low <= 0.15 <= high + 1e-9
    assert numbers["air_jumps"].value == 1.0
    names = {name for one in found.unread for name in one.names}
    assert {"hold_time", "wall_jump_speed"} <= names


def test_slowing_in_the_air_and_a_limited_rise_are_fitted():
    move = during((0.4, 2.0, 1), (2.6, 3.05, 1), (4.0, 4.4, -1), (5.0, 6.0, 1))
    jump = during((3.0, 3.6, 1), (4.3, 4.42, 1), (5.7, 5.78, 1))
    found = fit([take_of(moves(steps(60, 7.5), move, jump, cut_to=4.0))])
    assert found.fits
    wanted = {"air_deceleration": 50.0, "release_speed": 4.0, "release_cut": 1.0}
    assert {name: found.values[name] for name in wanted} == pytest.approx(wanted, abs=1e-6)


@pytest.mark.parametrize("cut", [1.0, 0.7])
def test_a_number_that_nothing_moves_is_left_out_and_no_cut_is_told_from_one(cut):
    jump = during((3.0, 3.6, 1), (4.6, 4.72, 1))
    found = fit([take_of(moves(steps(60, 7), during((0.4, 1.6, 1)), jump, cut=cut))])
    assert found.fits
    numbers = {one.name: one for one in found.numbers}
    assert found.values["release_cut"] == pytest.approx(cut, abs=1e-6)
    assert numbers["release_cut"].stderr < 0.01
    assert "air_acceleration" not in found.values  # it never pushed in the air
    names = {name for one in found.unread for name in one.names}
    assert {"air_acceleration", "terminal_speed"} <= names


def test_falls_with_the_stick_held_down_are_fitted():
    values = {"fast_fall": 1.7, "terminal_speed": 14.0}
    found = fit([simulate(values, edges_drill())])
    assert found.fits
    assert {name: found.values[name] for name in values} == pytest.approx(values, rel=1e-6)


def test_a_motion_without_a_rule_is_said_not_to_fit():
    columns = play(steps(30, 8), MOVE, JUMP)
    columns["x"] = columns["x"] + 0.5 * np.sin(columns["t"] * 1.7)
    columns["vx"] = columns["vx"] + 0.85 * np.cos(columns["t"] * 1.7)
    found = fit([take_of(columns)])
    assert not found.fits
    assert any(not row.within and row.largest > 0.3 for row in found.divergence)


def test_a_number_of_nothing_has_a_value():
    columns = moves(steps(60, 8), MOVE, JUMP)
    columns |= {"vx": 0 * columns["vx"], "x": 0 * columns["x"]}
    found = fit([take_of(columns)])
    assert all(np.isfinite(one.value) for one in found.numbers if not isinstance(one.value, str))
    assert all(np.isfinite(one) for one in found.values.values() if not isinstance(one, str))


def test_a_single_jump_that_the_model_does_not_make_is_apart():
    jump = during((6.0, 6.6, 1), (7.1, 7.22, 1), (9.0, 9.9, 1))
    columns = moves(steps(60, 30), MOVE, jump)  # a hop of a quarter of a second in half a minute
    columns["in_jump"][round(7.1 * 60) : round(7.3 * 60)] = 0.0
    found = fit([take_of(columns)])
    assert not found.fits
    assert {row.column for row in found.divergence if not row.within} == {"y", "vy"}
    assert np.mean(columns["y"] > 0) < 0.08


def test_lengths_stay_in_the_unit_of_the_takes(kickback, tmp_path):
    columns = play(steps(60, 10), MOVE, JUMP, top=256.0, accel=1280.0, slow=1024.0, v0=416.0,
                   g=1280.0)  # fmt: skip
    header = '# {"length_unit": "px", "frame_rate": 60}\n'
    rows = [",".join(columns), *(",".join(map(repr, row)) for row in
                                 np.stack([*columns.values()], axis=1).tolist())]  # fmt: skip
    (tmp_path / "own.csv").write_text(header + "\n".join(rows) + "\n")
    kickback("fit", "own.csv", "-o", "px.toml", status=0)
    assert 'length_unit = "px"' in (tmp_path / "px.toml").read_text()
    kickback("simulate", "px.toml", "-o", "again.jsonl", status=0)
    rows = json.loads(kickback("measure", "again.jsonl", "--format", "json", status=0)[1])
    top = next(row for row in rows if row["metric"] == "run.top_speed")
    assert (top["unit"], top["value"]) == ("px/s", pytest.approx(256.0))
    wish = ("--wish", "jump.apex_height=64 px", "--keep", "gravity_rise")
    out = kickback("solve", "px.toml", *wish, status=0)[1]
    assert "64.00" in out
    assert "px" in out


def test_the_ground_is_where_it_stood():
    columns = moves(steps(60, 9), during((0.5, 6.0, 1)), lambda _: 0, ledge=12.0)
    world = world_of(analyse(take_of(columns)).whole)
    assert world.floor.heights.tolist() == pytest.approx([0.0, -4.0])
    assert world.floor.edges[1] == pytest.approx(12.0, abs=0.15)
    stuck = moves(steps(60, 6), during((0.5, 5.0, 1)), lambda _: 0, walls=(9.0,))
    motion = analyse(take_of(stuck)).whole
    assert world_of(motion).floor.edges[-1] == pytest.approx(9.0, abs=1e-6)
    values = {"ground_acceleration": 60.0, "coast_deceleration": 50.0,
              "integrator": "semi-implicit"}  # fmt: skip
    played = play_again(motion, [checked_values(values, "test")])
    assert np.max(np.abs(played.model["x"][:, 0] - played.own["x"])) < 1e-6


def test_rounded_times_and_steps_together_are_nearer_than_either():
    exact = moves(steps(60, 8, 0.3), MOVE, JUMP)
    motion = analyse(take_of(printed(exact, 3))).whole
    times = np.cumsum(steps_of_both(motion)) - motion.dt[0] + motion.t[0]
    both = np.std(times - exact["t"])
    assert both < 0.8 * np.std(motion.t - exact["t"])
    assert both < 0.8 * np.std(np.cumsum(motion.take.numbers("dt")) - exact["t"])


@pytest.mark.parametrize(
    ("takes", "sentence"),
    [
        (lambda c: [take_of(without(c, "in_move_x", "in_jump"))], "no inputs were recorded"),
        (lambda c: [take_of(c), take_of(c, length_unit="px")], "its 'length_unit' is 'px'"),
        (lambda c: [take_of(c), take_of(c, kind="shot")], "of the kind 'shot'"),
        (lambda _: [simulate({}, kind="vehicle")], "takes of 'foot' can be fitted"),
    ],
)
def test_takes_that_cannot_be_fitted_are_refused(takes, sentence):
    with pytest.raises(InputError, match=sentence):
        fit(takes(play(steps(60, 8), MOVE, JUMP)))


def test_the_command_fits_writes_and_plays_on(kickback, tmp_path):
    kickback("simulate", "--drill", "standard", "-o", "own.jsonl", "--rate", "60", status=0)
    call = ("fit", "own.jsonl", "-o", "params/mine.toml")
    _, out, err = kickback(*call, status=0)
    assert "The model plays these takes as the game does" in out
    assert "params/mine.toml: written" in err
    text = (tmp_path / "params" / "mine.toml").read_text()
    assert "gravity_rise = 40.0 # ± " in text
    assert "# left out, not played in these takes: " in text
    values = tomllib.loads(text)["values"]
    assert values["jump_speed"] == 13.0
    assert "the file exists already" in kickback(*call, status=2)[2]
    play_on = ("simulate", "params/mine.toml", "--rate", "30", "-o", "again")
    assert "again/mine-30.jsonl: " in kickback(*play_on, status=0)[1]
    out = kickback(*play_on, "--set", "gravity_rise=44", status=0)[1]
    assert "what that changes at 30 frames/s (mine-changed-30)" in out
    line = next(row for row in out.splitlines() if row.strip().startswith("jump.apex_height"))
    own = [measure(simulate({**values, "gravity_rise": g}, frame_rate=30)) for g in (40.0, 44.0)]
    before, after = (one["jump.apex_height"].value for one in own)
    assert line.split()[1:3] == [f"{before:.4g}", f"{after:.4g}"]
    rows = json.loads(kickback("fit", "own.jsonl", "--format", "json", status=0)[1])
    kinds = {"parameter", "unread", "taken for none", "column", "metric"}
    assert {row["kind"] for row in rows} == kinds
    gone = {row["name"] for row in rows if row["kind"] == "taken for none"}
    assert gone == {"dash_speed", "coyote_time", "jump_buffer"}
    assert "dash_speed = 0.0 # m/s; taken for none: not played in these takes" in text
    assert gone.isdisjoint(row["name"] for row in rows if row["kind"] == "unread")
    for broken, said in (("44", "NAME=VALUE"), ("gravity_ris=4", "did you mean 'gravity_rise'")):
        assert said in kickback(*play_on, "--force", "--set", broken, status=2)[2]
