"""Comparing parameter sets: changed parameters, changed metrics, verdicts."""

from functools import lru_cache

import numpy as np
import pytest

import kickback
from conftest import take_of
from kickback.errors import InputError
from kickback.judging.budgets import parse_budget
from kickback.judging.compare import compare
from kickback.kinds.foot.model.simulate import simulate
from kickback.takes.header import ParameterSet
from truth.recurrence import during, play, steps


@lru_cache
def take(rate=60.0, name="brisk", **values):
    return simulate(ParameterSet(name=name, values=values), frame_rate=rate)


def row_of(result, metric):
    return next(row for row in result.rows if row.metric == metric)


def test_equal_takes_are_the_same_in_everything():
    result = compare([take()], [take(name="candidate")])
    assert {row.verdict for row in result.rows} == {"same"}
    assert result.parameters == []
    assert not result.failed


def test_changed_parameters_are_listed():
    base = take_of(take().columns, parameters=ParameterSet(name="a", values={"g": 1.0, "old": 2}))
    other = take_of(
        take().columns, parameters=ParameterSet(name="b", values={"g": 1.5, "new": True})
    )
    result = compare([base], [other])
    assert [(p.name, p.base, p.candidate) for p in result.parameters] == [
        ("g", 1.0, 1.5),
        ("old", 2, None),
        ("new", None, True),
    ]
    assert (result.base, result.candidate) == ("a", "b")


@pytest.mark.parametrize(
    ("speed", "budget", "target", "verdict"),
    [
        (8.0, None, None, "same"),
        (8.0 + 1e-7, None, None, "moved"),
        (8.1, None, None, "moved"),
        (8.3, None, None, "regressed"),
        (7.5, None, None, "regressed"),
        (8.3, "5 %", None, "moved"),
        (8.3, "0.2 m/s", None, "regressed"),
        (8.3, None, 8.4, "closer"),
        (8.3, None, 7.0, "regressed"),
        (8.1, None, 7.0, "moved"),
        (8.1, "1 %", 9.0, "closer"),
    ],
)
def test_verdicts_against_budget_and_target(speed, budget, target, verdict):
    result = compare(
        [take()],
        [take(run_speed=speed)],
        only=["run.top_speed"],
        budgets={"run.top_speed": parse_budget(budget, "")} if budget else {},
        targets={"run.top_speed": target} if target else {},
    )
    row = row_of(result, "run.top_speed")
    assert row.verdict == verdict
    assert row.change == pytest.approx(speed - 8.0)
    assert row.change_relative == pytest.approx((speed - 8.0) / 8.0)
    assert result.failed is (verdict == "regressed")


def test_lost_and_new_metrics():
    jumper = take_of(play(steps(60, 4), during((0.5, 2, 1)), during((3, 3.5, 1))), name="jumper")
    runner = take_of(play(steps(60, 4), during((0.5, 2, 1))), name="runner")
    lost = row_of(compare([jumper], [runner]), "jump.apex_height")
    assert (lost.verdict, lost.reason) == ("lost", "no jump in the take")
    assert compare([jumper], [runner]).failed
    new = compare([runner], [jumper])
    assert row_of(new, "jump.apex_height").verdict == "new"
    assert not new.failed


@pytest.mark.parametrize(("drill", "verdict"), [("same drill", "moved"), (None, "same")])
def test_only_equal_drills_and_rates_are_compared_exactly(drill, verdict):
    """A change within the resolution counts only where nothing else can explain it."""
    sides = [
        take_of(play(steps(60, 4), during(), during((1, 2, 1)), v0=v0, theta=0.5), drill=drill)
        for v0 in (13.0, 13.000004)
    ]
    row = row_of(compare([sides[0]], [sides[1]]), "jump.air_time")
    assert row.verdict == verdict
    assert (row.high - row.low > 0) is (drill is None)


def test_a_budget_finer_than_the_resolution_cannot_be_judged():
    coarse = []
    for v0 in (400.0, 401.0):
        columns = play(steps(60, 8), during(), during((1, 2, 1)), v0=v0, g=1300.0)
        coarse.append(
            take_of(
                {
                    "t": columns["t"],
                    "x": np.round(columns["x"]),
                    "y": np.round(columns["y"]),
                    "in_jump": columns["in_jump"],
                }
            )
        )
    result = compare([coarse[0]], [coarse[1]], budgets={"jump.air_time": parse_budget("0.1 %", "")})
    row = row_of(result, "jump.air_time")
    assert row.verdict == "cannot-tell"
    assert "a higher rate, would tell" in row.reason
    assert not result.failed


def test_several_takes_a_side_are_taken_by_their_middle_one():
    result = compare([take(run_speed=s) for s in (7.9, 8.0, 8.4)], [take(run_speed=8.0)])
    assert row_of(result, "run.top_speed").base == pytest.approx(8.0)
    assert "3 parameter sets on one side" in result.warnings[0]


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"subject": "sled"}, "the sides' subjects differ: subject against sled"),
        ({"drill": "other"}, "the sides' drills differ: None against other"),
        ({"rate": 30}, "the sides' frame rates differ: 60 against 30 frames/s"),
    ],
)
def test_unequal_sides_are_said(change, sentence):
    rate = change.pop("rate", 60)
    sides = [play(steps(r, 4), during((0.5, 2, 1))) for r in (60, rate)]
    result = compare([take_of(sides[0])], [take_of(sides[1], **change)])
    assert list(result.warnings) == [sentence]


def test_different_length_units_are_refused():
    columns = play(steps(60, 4), during((0.5, 2, 1)))
    with pytest.raises(InputError, match="length units differ, m in one and px in other"):
        compare([take_of(columns, name="one")], [take_of(columns, name="other", length_unit="px")])


def test_records_have_the_names_that_other_tools_read():
    result = kickback.compare([take()], [take(run_speed=7.0)])
    assert list(result.to_records()[0]) == [
        "metric",
        "unit",
        "base",
        "candidate",
        "change",
        "change_relative",
        "budget",
        "low",
        "high",
        "verdict",
        "reason",
    ]
    assert len(result.to_frame()) == len(result.rows)
