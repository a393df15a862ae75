"""Dependence on the frame rate: scaling, verdicts and groups."""

from functools import lru_cache

import numpy as np
import pytest
from scipy.special import stdtrit

from conftest import quick, some, take_of
from kickback.framerate.analyse import frame_rates
from kickback.framerate.groups import group_takes
from kickback.framerate.scaling import _student, scaling
from kickback.judging.budgets import parse_budget
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.parameters import MISTAKES
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.table import analyse
from kickback.takes.header import ParameterSet
from truth.recurrence import THETA, during, play, steps

RATES = np.array([30.0, 60.0, 144.0])
DRILL = drill_from_mapping(
    {
        "name": "basics",
        "length": 10.0,
        "input": [
            {"at": 0.5, "until": 2.0, "move_x": 1},
            {"at": 3.5, "until": 5.0, "move_x": 1},
            {"at": 5.0, "until": 6.5, "move_x": -1},
            {"at": 8.0, "until": 9.5, "jump": True},
        ],
    },
    "basics",
)


@lru_cache
def played(values, rate):
    return simulate(ParameterSet(name="brisk", values=dict(values)), DRILL, frame_rate=rate)


def takes(values, rates=RATES):
    return [played(tuple(values.items()), rate) for rate in rates]


def verdicts(result):
    return {row.name: row.verdict for row in result.rows}


@pytest.mark.parametrize("power", [-2, -1, -0.5, 0, 0.3, 1])
@pytest.mark.parametrize("rates", [RATES, RATES[1:], np.array([20.0, 30, 60, 120, 240])])
def test_an_exact_power_is_found_with_a_narrow_interval(power, rates):
    found = scaling(rates, 3.0 * rates**power, np.zeros(len(rates)))
    assert found.exponent == pytest.approx(power, abs=1e-9)
    assert found.low == pytest.approx(power, abs=1e-6)
    assert found.high == pytest.approx(power, abs=1e-6)


def test_the_limit_is_the_straight_line_at_no_step():
    assert scaling(RATES, 2.1 - 0.7 / RATES, np.zeros(3)).limit == pytest.approx(2.1)


def test_resolution_widens_the_interval():
    exact = scaling(RATES, np.full(3, 2.0), np.zeros(3))
    coarse = scaling(RATES, np.full(3, 2.0), np.full(3, 0.5))
    assert exact.high - exact.low < 1e-9
    assert coarse.high - coarse.low > 0.3


def test_student_s_points_are_those_of_the_distribution():
    assert all(_student(n) == pytest.approx(stdtrit(n, 0.975), abs=1e-3) for n in range(1, 60))


@pytest.mark.parametrize("value", [[0.0, 1.0, 2.0], [1.0, -1.0, 1.0], [0.0, 0.0, 0.0]])
def test_no_exponent_for_zero_or_mixed_signs(value):
    assert scaling(RATES, np.array(value), np.zeros(3)).exponent is None


@quick(2)
@pytest.mark.parametrize("movement", ["constant", "smoothing"])
@pytest.mark.parametrize("integrator", THETA)
@pytest.mark.parametrize(
    "rates", some([(30, 60, 144), (60, 144), (20, 30, 60, 120, 240)], (60, 144))
)
def test_correct_code_passes_without_any_setting(rates, integrator, movement):
    result = frame_rates(takes({"integrator": integrator, "ground_movement": movement}, rates))
    assert not result.failed, [row for row in result.rows if row.beyond]
    assert "breaks" not in verdicts(result).values()


BROKEN = {
    "acceleration-per-frame": {"run.time_to_90", "coast.stop_distance", "turn.time"},
    "dt-twice": {"run.time_to_90", "coast.stop_distance", "turn.time"},
    "gravity-per-frame": {"jump.apex_height", "jump.air_time", "jump.time_to_apex"},
    "position-per-frame": {"run.top_speed", "coast.stop_distance", "jump.apex_height"},
    "impulse-times-dt": {"jump.takeoff_speed", "jump.apex_height", "jump.air_time"},
    "factor-per-frame": {"run.time_to_90", "coast.stop_time", "coast.stop_distance"},
    "all-in-frames": {"run.top_speed", "run.time_to_90", "jump.air_time"},
}


@quick(2)
@pytest.mark.parametrize("mistake", BROKEN)
@pytest.mark.parametrize("integrator", some(THETA, "explicit"))
def test_a_missing_time_step_breaks_what_it_moves(mistake, integrator):
    movement = "smoothing" if mistake == "factor-per-frame" else "constant"
    values = {"mistakes": mistake, "integrator": integrator, "ground_movement": movement}
    result = frame_rates(takes(values))
    broken = {name for name, verdict in verdicts(result).items() if verdict == "breaks"}
    assert result.failed
    assert broken >= BROKEN[mistake], verdicts(result)
    if mistake in {"gravity-per-frame", "impulse-times-dt"}:
        assert not any(name.startswith(("run", "coast", "brake", "turn")) for name in broken)


def test_a_clamped_step_is_caught():
    result = frame_rates(takes({"mistakes": "dt-clamped"}, (20, 60, 144)))
    assert result.failed
    assert {"run.time_to_90", "jump.air_time"} <= {row.name for row in result.rows if row.beyond}


def test_a_spread_beyond_its_budget_never_holds():
    """Where the resolution hides what the budget forbids, nobody can tell."""
    sides = [
        take_of({n: np.round(c, 1) if n in {"x", "y"} else c for n, c in columns.items()
                 if n in {"t", "x", "y", "in_jump"}}, name=f"hero-{rate}")
        for rate in (60, 120)
        for columns in [play(steps(rate, 4), during(), during((1, 2, 1)), theta=0.5)]
    ]  # fmt: skip
    rows = {
        text: next(
            row
            for row in frame_rates(sides, budgets={"jump": parse_budget(text)}).rows
            if row.name == "jump.takeoff_speed"
        )
        for text in ("0.0001 %", "50 %")
    }
    assert rows["50 %"].verdict == "steady"
    tight = rows["0.0001 %"]
    assert tight.spread > tight.budget
    assert tight.verdict == "cannot-tell"
    assert "hides a spread beyond the budget" in tight.reason


def test_every_mistake_has_a_description():
    assert all(len(text) > 20 for text in MISTAKES.values())


def test_a_written_budget_is_held_against_the_drift():
    group = takes({"integrator": "semi-implicit"})
    for share, beyond in ((0.15, False), (0.03, True)):
        result = frame_rates(group, budgets={"jump.apex_height": parse_budget(f"{share:.0%}")})
        row = next(row for row in result.rows if row.name == "jump.apex_height")
        assert (row.verdict, row.beyond) == ("drifts", beyond)
        assert row.limit == pytest.approx(13**2 / 80, rel=0.01)


def test_what_one_rate_lacks_is_said():
    columns = {
        rate: play(steps(rate, 4), during((0.5, 2, 1)), during((3, 3.5, 1))) for rate in (30, 60)
    }
    columns[30]["y"][:] = 0
    columns[30]["vy"][:] = 0
    columns[30]["touch_ground"][:] = 1
    result = frame_rates([take_of(c, name=f"run-{rate}") for rate, c in columns.items()])
    row = next(row for row in result.rows if row.name == "jump.apex_height")
    assert row.verdict == "cannot-tell"
    assert row.reason == "not at 30 frames/s: no jump in the take"
    assert [record["value"] is None for record in row.to_records()] == [True, False]
    assert result.unsure
    assert not frame_rates(takes({}, (30, 60)), only=["turn", "hop"]).unsure


def test_records_have_the_names_that_other_tools_read():
    records = frame_rates(takes({}, (30, 60))).to_records()
    assert list(records[0]) == [
        "group",
        "kind",
        "name",
        "unit",
        "rate",
        "value",
        "resolution",
        "spread",
        "limit",
        "exponent",
        "exponent_low",
        "exponent_high",
        "budget",
        "verdict",
        "cause",
        "fix",
        "reason",
    ]
    assert {record["rate"] for record in records} == {30.0, 60.0}
    assert frame_rates(takes({}, (30, 60))).to_frame().shape == (len(records), 17)


def plain(name, rate, **header):
    n = int(rate)
    columns = {"t": np.arange(1, n + 1) / rate, "x": np.zeros(n), "y": np.zeros(n)}
    return take_of(columns, name=name, **header)


@pytest.mark.parametrize(
    ("names", "groups"),
    [
        (["brisk-30", "brisk-60", "floaty-60"], ["brisk", "floaty"]),
        (["brisk_30fps", "brisk_144fps"], ["brisk"]),
        (["run at 30", "run at 60"], ["run"]),
        (["30", "60"], ["30", "60"]),
    ],
)
def test_groups_come_from_file_names_without_a_header(names, groups):
    found, said = group_takes([analyse(plain(name, 30)) for name in names])
    assert [group.name for group in found] == groups
    assert said == []


def test_one_name_with_different_values_is_kept_apart_and_said():
    sets = [ParameterSet(name="brisk", values={"gravity": g}) for g in (40.0, 40.0, 20.0)]
    found, said = group_takes([analyse(plain("a", 30, parameters=s)) for s in sets])
    assert [len(group.takes) for group in found] == [2, 1]
    assert "'brisk' stands for 2 different exercises" in said[0]


def test_a_group_at_one_rate_is_left_out_and_said():
    result = frame_rates([plain("brisk-60", 60), plain("brisk-60", 60.5)])
    assert not result.rows
    assert "a second rate would tell" in result.warnings[0]
