"""Comparing parameter sets: budgets and verdicts, like with like, noise, and why it moved."""

import re
from functools import lru_cache

import numpy as np
import pytest

import kickback
from conftest import take_of
from kickback.errors import InputError
from kickback.judging.budgets import budget_for, parse_budget, parse_target
from kickback.judging.chain import chain_of
from kickback.judging.compare import compare
from kickback.judging.differing import first_difference
from kickback.judging.noise import corrected, interval, more_takes
from kickback.judging.repeating import repeats_of
from kickback.judging.samples import cells_of, fingerprint
from kickback.judging.summary import in_words
from kickback.judging.verdicts import VERDICTS, Change, Rules, judged
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.table import all_metrics, analyse
from kickback.takes.amounts import Scales
from kickback.takes.header import ParameterSet
from kickback.takes.quantities import ACCELERATION, FRAMES, LENGTH, SPEED, TIME, Unit
from kickback.takes.record import replace
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
        (8.0 + 1e-7, None, None, "changed"),
        (8.3, None, None, "changed"),
        (8.3, "5 %", None, "moved"),
        (8.0 + 1e-10, "5 %", None, "same"),
        (8.3, "0.2 m/s", None, "regressed"),
        (8.15, "2 %", None, "moved"),
        (8.17, "2 %", None, "regressed"),
        (8.3, {"up": "2 %", "down": "10 %"}, None, "regressed"),
        (7.7, {"up": "2 %", "down": "10 %"}, None, "moved"),
        (7.0, {"up": "2 %"}, None, "moved"),
        (8.3, {"at_least": "8.2 m/s"}, None, "met"),
        (8.3, {"at_least": "8.4 m/s"}, None, "missed"),
        (8.3, {"at_most": "8.2 m/s"}, None, "missed"),
        (8.3, {"at_most": "9 m/s", "up": "1 %"}, None, "regressed"),
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
        budgets={"run.top_speed": parse_budget(budget)} if budget else {},
        targets={"run.top_speed": target} if target else {},
    )
    row = row_of(result, "run.top_speed")
    assert row.verdict == verdict
    assert row.change == pytest.approx(speed - 8.0)
    assert row.change_relative == pytest.approx((speed - 8.0) / 8.0)
    assert result.failed is (verdict in {"regressed", "missed"})
    assert {v.name for v in VERDICTS} >= {row.verdict}


@pytest.mark.parametrize(
    ("text", "unit", "amount"),
    [
        ("10 ms", TIME, 0.01),
        ("3 frames", TIME, 0.05),
        ("2 tiles", LENGTH, 1.0),
        ("0.1 m", LENGTH, 0.1),
        ("16 px", LENGTH, 0.5),
        ("4 tiles/s", SPEED, 2.0),
        ("2 tiles/frame", SPEED, 60.0),
        ("64 px/s²", ACCELERATION, 2.0),
        ("1 m/s^2", ACCELERATION, 1.0),
        ("0", SPEED, 0.0),
        ("2 frames", FRAMES, 2.0),
    ],
)
def test_amounts_are_brought_to_the_metric_s_unit(text, unit, amount):
    scales = Scales(reference_rate=60, lengths={"m": 1.0, "tile": 0.5, "px": 1 / 32})
    budget = parse_budget(text, "", scales)
    assert budget.fits(unit)
    assert budget.allowance(9.0, Unit(unit, "m")).up == pytest.approx(amount)
    assert parse_target(text, "", scales).within(Unit(unit, "m")) == pytest.approx(amount)
    milli = Unit(unit, "m", milli=True)
    assert parse_target(text, "", scales).within(milli) == pytest.approx(
        amount * 1000 if text != "0" else 0
    )


@pytest.mark.parametrize(
    ("text", "unit"),
    [("10 ms", LENGTH), ("0.1 m", SPEED), ("3", TIME), ("5 m/s", LENGTH), ("1 deg", TIME)],
)
def test_an_amount_of_another_dimension_is_none(text, unit):
    assert not parse_budget(text).fits(unit)
    with pytest.raises(InputError, match="is no amount in"):
        parse_budget(text).allowance(1.0, Unit(unit, "m"))


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("2 bananas", "no unit 'bananas'; there is: %, s, ms, frames, deg, km, m"),
        ("-1 m", "not below zero"),
        ({"upp": "1 %"}, "a budget has no 'upp'; did you mean 'up'"),
        ({}, "must say something"),
        ("much", 'a budget is "5 %"'),
        (True, 'a budget is "5 %"'),
        ("5 % m", "no unit '% m'"),
        ("1..2", "no unit '.2'"),
    ],
)
def test_budgets_that_make_no_sense(text, sentence):
    with pytest.raises(InputError, match=f"^here: .*{re.escape(sentence)}"):
        parse_budget(text, "here")


def test_a_length_that_nothing_converts_is_said():
    with pytest.raises(InputError, match=r"'2 px' cannot be brought to m: \[units\]"):
        parse_budget("2 px").allowance(1.0, Unit(LENGTH, "m"))


def test_the_most_particular_budget_counts():
    budgets = {
        name: parse_budget(text)
        for name, text in {
            "jump": "5 %", "jump.*": "4 %", "jump.a*": "3 %", "jump.air_time": "1 %",
            "hop": "10 ms", "*.distance": "2 %",
        }.items()
    }  # fmt: skip
    for metric, dimension, text in (
        ("jump.air_time", TIME, "1 %"),
        ("jump.apex_height", LENGTH, "3 %"),
        ("jump.drop", LENGTH, "4 %"),
        ("hop.distance", LENGTH, "2 %"),
        ("hop.air_time", TIME, "10 ms"),
        ("hop.apex_height", LENGTH, None),
        ("coast.stop_time", TIME, None),
    ):
        found = budget_for(budgets, metric, dimension)
        assert (found.text if found else None) == text, metric


@pytest.mark.parametrize("drill", [None, "roofs"])
def test_lost_and_new_metrics(drill):
    jumper, runner = (
        take_of(play(steps(60, 4), during((0.5, 2, 1)), jump), name=name, drill=drill)
        for name, jump in (("jumper", during((3, 3.5, 1))), ("runner", during()))
    )
    if drill is None:  # other hands, free to play something else
        for sides in ((jumper, runner), (runner, jumper)):
            row = row_of(compare(*([one] for one in sides)), "jump.apex_height")
            assert row.verdict == "cannot-tell"
            assert "may not have been played so: no jump in the take" in row.reason
            assert not row.fails
        return
    lost = row_of(compare([jumper], [runner]), "jump.apex_height")
    assert (lost.verdict, lost.reason) == ("lost", "no jump in the take")
    assert not compare([jumper], [runner]).failed
    asked = {"jump": parse_budget("5 %")}
    assert compare([jumper], [runner], budgets=asked).failed
    assert row_of(compare([runner], [jumper], budgets=asked), "jump.apex_height").verdict == "new"
    some = row_of(compare([jumper, runner], [runner], budgets=asked), "jump.apex_height")
    assert (some.verdict, some.fails) == ("cannot-tell", False)
    assert some.reason.startswith("not every take of the drill shows it")
    assert not compare([runner], [jumper], budgets=asked).failed


@pytest.mark.parametrize(
    ("machines", "asked", "verdict"),
    [
        ((None, None), False, "cannot-tell"),
        (("here", "there"), False, "cannot-tell"),
        (("here", "here"), False, "changed"),
        ((None, None), True, "regressed"),
    ],
)
def test_frame_times_are_the_machines(machines, asked, verdict):
    budgets = {"smoothness.frame_time_95": parse_budget("1 %")} if asked else {}
    sides = [
        take_of(play(steps(60, 4, jitter), during((0.5, 2, 1))), machine=machine)
        for jitter, machine in zip((0.05, 0.3), machines, strict=True)
    ]
    found = compare(sides[:1], sides[1:], budgets=budgets)
    assert row_of(found, "smoothness.frame_time_95").verdict == verdict


@pytest.mark.parametrize(("shift", "verdict"), [(0, "changed"), (1, "same")])
def test_only_equal_inputs_are_compared_exactly(shift, verdict):
    """A change within the resolution counts only where nothing else can explain it."""
    sides = [
        take_of(play(steps(60, 4), during(), during((1 + late / 60, 2, 1)), v0=v0, theta=0.5))
        for v0, late in ((13.0, 0), (13.000002, shift))
    ]
    row = row_of(compare([sides[0]], [sides[1]]), "jump.air_time")
    assert row.verdict == verdict
    assert (row.high - row.low > 0) is bool(shift)


@pytest.mark.parametrize(("shaken", "exact"), [(0.0, True), (1e-4, False)])
def test_repeats_of_equal_inputs_are_exact_where_the_game_is(shaken, exact):
    columns = take().columns
    other = columns | {"vy": columns["vy"] * (1 + shaken), "y": columns["y"] * (1 + shaken)}
    again = [
        take_of(one, name=str(k), drill="d") for k, one in enumerate((columns, columns, other))
    ]
    row = row_of(compare([take_of(columns, drill="d")], again), "jump.apex_height")
    assert (row.high == row.low) is exact
    assert row.verdict == "same"


def test_a_budget_finer_than_the_resolution_cannot_be_judged():
    coarse = []
    for v0, hold in ((400.0, 2.0), (401.0, 2.1)):
        columns = play(steps(60, 8), during(), during((1, hold, 1)), v0=v0, g=1300.0)
        kept = {name: columns[name] for name in ("t", "in_jump")}
        rounded = {name: np.round(columns[name]) for name in ("x", "y")}
        coarse.append(take_of(kept | rounded))
    result = compare([coarse[0]], [coarse[1]], budgets={"jump.air_time": parse_budget("0.1 %")})
    row = row_of(result, "jump.air_time")
    assert row.verdict == "cannot-tell"
    assert "a higher rate would tell" in row.reason
    assert result.unsure
    assert not result.failed


def scripted(seed, *, hold=0.14, coast_at=2.0, v0=13.0, k=None, rate=60, jitter=0.0):
    """Return a take with a run, a coast, a hop and a jump, each a little another time."""
    rng = np.random.default_rng(seed)
    late = rng.uniform(-0.03, 0.03, 4)
    move = during((0.5 + late[0], coast_at + late[1], 1))
    jump = during((3 + late[2], 3 + late[2] + hold, 1), (4.5 + late[3], 5.2, 1))
    dt = steps(rate, 7, jitter, seed)
    law = {} if k is None else {"law": "exact", "k": k}
    return take_of(play(dt, move, jump, v0=v0, cut=0.5, **law), name=f"take-{seed}")


def test_hops_are_compared_at_one_hold():
    """Held longer a hop is higher: not the game has changed, but how it was played."""
    base = scripted(1, hold=0.12)
    longer = compare([base], [scripted(2, hold=0.2)], budgets={"hop": parse_budget("2 %")})
    assert row_of(longer, "hop.apex_height").verdict == "cannot-tell"
    assert "hold" in row_of(longer, "hop.apex_height").reason
    assert not longer.failed
    alike = compare([base], [scripted(3, hold=0.12)], budgets={"hop": parse_budget("2 %")})
    assert row_of(alike, "hop.apex_height").verdict in {"same", "cannot-tell"}
    stronger = compare(
        [base], [scripted(4, hold=0.12, v0=15)], budgets={"hop.landing_speed": parse_budget("2 %")}
    )
    assert row_of(stronger, "hop.landing_speed").verdict == "regressed"


@pytest.mark.parametrize(("coast_at", "known"), [(0.62, False), (2.0, True)])
def test_stops_are_compared_from_one_speed(coast_at, known):
    """A coast from half the speed is shorter: only like entries tell."""
    budgets = {"coast.stop_distance": parse_budget("2 %")}
    result = compare([scripted(1)], [scripted(2, coast_at=coast_at)], budgets=budgets)
    row = row_of(result, "coast.stop_distance")
    assert row.verdict == ("same" if known else "cannot-tell")


def test_several_takes_a_side_are_brought_to_one_play():
    holds = [0.1, 0.12, 0.14, 0.16, 0.18, 0.2]
    base = [scripted(k, hold=hold, jitter=0.2) for k, hold in enumerate(holds)]
    again = [scripted(20 + k, hold=hold + 0.01, jitter=0.2) for k, hold in enumerate(holds)]
    row = row_of(compare(base, again), "hop.apex_height")
    assert row.verdict == "same"
    assert "brought to hold 0.1" in row.reason
    higher = [scripted(40 + k, hold=h, v0=13.65, jitter=0.2) for k, h in enumerate(holds)]
    budgets = {"jump.apex_height": parse_budget("4 %"), "hop.apex_height": parse_budget("20 %")}
    result = compare(base, higher, budgets=budgets)
    assert row_of(result, "jump.apex_height").verdict == "regressed"
    assert row_of(result, "hop.apex_height").verdict == "moved"
    assert row_of(result, "jump.apex_height").change_relative == pytest.approx(0.1025, abs=0.02)


@pytest.mark.parametrize(
    ("apart", "spread", "takes", "verdict"),
    [
        (0.0, 0.001, 8, "same"),
        (0.1, 0.001, 8, "regressed"),
        (0.012, 0.02, 8, "cannot-tell"),
        (0.0, 0.0, 3, "same"),
        (0.1, 0.001, 3, "regressed"),
        (0.04, 0.05, 3, "cannot-tell"),
    ],
)
def test_intervals_over_takes_are_held_against_the_budget(apart, spread, takes, verdict):
    rng = np.random.default_rng(5)
    sides = [middle + spread * rng.standard_normal(takes) for middle in (1.0, 1.0 + apart)]
    found = interval(*sides, metrics=20, located=0.0)
    after = 1.0 + found.change
    change = Change(1.0, after, found.low, found.high, 1.0, after, 0.0, found.p < 0.05)
    rules = Rules(budgets={"jump.air_time": parse_budget("2 %")})
    result = judged(change, "jump.air_time", Unit(TIME), rules)
    assert result.verdict == verdict
    if verdict == "cannot-tell":
        more = more_takes(takes, found, 0.02)
        assert more is None or more > 0


def test_a_bootstrap_covers_and_a_test_is_corrected():
    rng = np.random.default_rng(2)
    inside = 0
    for _ in range(60):
        a, b = rng.normal(1, 0.1, 9), rng.normal(1.1, 0.1, 9)
        found = interval(a, b, metrics=1, located=0.0)
        inside += found.low <= 0.1 <= found.high
    assert inside >= 52
    assert corrected([]) == []
    assert corrected([0.01, 0.04, 0.03]) == pytest.approx([0.03, 0.04, 0.04])


def test_rates_are_never_pooled():
    slow, quick = take(rate=30.0), take(rate=144.0)
    worse = take(rate=144.0, jump_speed=14.0)
    result = compare([slow, quick], [slow, worse], budgets={"jump": parse_budget("5 %")})
    rows = [row for row in result.rows if row.metric == "jump.apex_height"]
    assert {row.frame_rate: row.verdict for row in rows} == {30.0: "same", 144.0: "regressed"}
    assert row_of(replace(result, rows=result.worst), "jump.apex_height").frame_rate == 144.0
    alone = compare([slow, quick], [quick])
    assert list(alone.alone) == ["only in the base: 30 frames/s"]


def test_takes_are_paired_by_parameter_set_and_drill():
    sides = [[take_of(take().columns, drill=d, parameters=ParameterSet(name=n, values={}))
              for d, n in pairs] for pairs in (
        [("a", "brisk"), ("b", "brisk"), ("a", "heavy")], [("a", "brisk"), ("a", "heavy")])]  # fmt: skip
    result = compare(*sides)
    assert result.exercises == 2
    assert list(result.alone) == ["only in the base: brisk, b"]
    with pytest.raises(InputError, match="nothing on one side has a partner on the other"):
        compare(sides[0][:2], [*sides[1][1:], take_of(take().columns, drill="c")])


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"subject": "sled"}, "the sides' subjects differ: subject against sled"),
        ({"drill": "other"}, "the sides' drills differ: none against other"),
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


def test_the_first_frame_that_differs():
    base = play(steps(60, 4), during((0.5, 2, 1)), v0=13)
    other = play(steps(60, 4), during((0.5, 2, 1)), slow=30.0)
    found = first_difference(analyse(take_of(base)), analyse(take_of(other)))
    assert (found.frame, found.phase, found.inputs) == (120, "coast", False)
    assert found.columns == ("x", "vx")
    assert [frames for frames, _ in found.growth] == [0, 1, 10, 60]
    assert found.growth[-1][1] == pytest.approx(8.0**2 / 2 * (1 / 30 - 1 / 32), rel=0.05)
    late = play(steps(60, 4), during((0.6, 2, 1)))
    assert first_difference(analyse(take_of(base)), analyse(take_of(late))).inputs
    assert first_difference(analyse(take_of(base)), analyse(take_of(base))) is None


def test_repeats_tell_determinism_and_noise():
    def cell(*takes):
        return cells_of([analyse(one) for one in takes], all_metrics())[0]

    same = repeats_of(cell(take(), take()))
    assert same.deterministic
    assert {one.width for one in same.noise} == {0.0}
    shaken = take().columns | {"x": take().columns["x"] + 1e-6}
    assert repeats_of(cell(take(), take_of(shaken, name="brisk", drill=take().header.drill,
                                           parameters=take().header.parameters,
                                           subject=take().header.subject))).deterministic is False  # fmt: skip
    loose = repeats_of(cell(*(scripted(k, jitter=0.2) for k in range(6))))
    assert loose.deterministic is None
    width = next(one for one in loose.noise if one.metric == "jump.apex_height")
    assert 0.001 < width.share < 0.05


def test_noise_that_is_kept_widens_a_single_take():
    sides = [scripted(1)], [scripted(2, v0=13.3)]
    rule = {"budgets": {"jump.apex_height": parse_budget("1 %")}}
    assert row_of(compare(*sides, **rule), "jump.apex_height").verdict == "regressed"
    wide = compare(*sides, **rule, noise={"jump.apex_height": 0.2})
    assert row_of(wide, "jump.apex_height").verdict == "cannot-tell"


def chained(base, candidate, **names):
    """Return the chain of two takes whose parameters have these names and values."""
    sides = [
        take_of(columns, name=side, parameters=ParameterSet(name=side, values=values))
        for side, columns, values in zip(
            ("a", "b"), (base, candidate), names["values"], strict=True
        )
    ]
    result = compare([sides[0]], [sides[1]])
    cells = [cells_of([analyse(one)], all_metrics())[0] for one in sides]
    return result, chain_of(result, *cells)


MOVES = (during((0.5, 2, 1)), during((3, 3.6, 1)))


def test_a_chain_from_the_parameter_to_the_metric():
    base, other = (play(steps(60, 5), *MOVES, v0=v, theta=0.5) for v in (13.0, 13.8))
    values = [{"jump_speed": v, "coyote": c} for v, c in ((13.0, 0.1), (13.8, 0.2))]
    _, chain = chained(base, other, values=values)
    (link,) = chain.links
    assert link.parameter.name == "jump_speed"
    assert [one.name for one in link.constants] == ["takeoff.speed"]
    apex = next(one for one in link.metrics if one.metric == "jump.apex_height")
    assert apex.as_foretold
    assert apex.foretold == pytest.approx((13.8 / 13) ** 2 - 1)
    assert [one.name for one in chain.unseen] == ["coyote"]
    assert not chain.unexplained


@pytest.mark.parametrize(("gravity", "unseen"), [((40.0, 44.0), 0), ((None, None), 1)])
def test_what_a_law_knows_poorly_the_parameter_tells(gravity, unseen):
    # the takeoff's row may hold a step of gravity: its law is known to 0.67 m/s
    base, other = (play(steps(60, 5), *MOVES, v0=v, theta=1.0) for v in (11.0, 12.0))
    values = [
        {"jump_speed": v, **({"gravity": g} if g else {"spare": v})}
        for v, g in zip((11.0, 12.0), gravity, strict=True)
    ]
    _, chain = chained(base, other, values=values)
    (link,) = chain.links
    assert [(one.base, one.candidate) for one in link.constants] == [(11.0, 12.0)]
    told = {one.metric: one.foretold for one in link.metrics}
    assert told["jump.apex_height"] == pytest.approx((12 / 11) ** 2 - 1)
    # the code's gravity stayed what it was; of the other nothing is known
    assert len(chain.unseen) == unseen
    assert [one.name for one in chain.idle] == ["gravity"][unseen:]


def test_what_moved_without_a_parameter_is_the_code():
    base, other = (play(steps(60, 5), *MOVES, slow=s) for s in (32.0, 20.0))
    _, chain = chained(base, other, values=[{"run_speed": 8.0}] * 2)
    assert [link.parameter for link in chain.links] == [None]
    assert {one.metric for one in chain.links[0].metrics} == {
        "coast.stop_time",
        "coast.stop_distance",
    }


def test_another_rule_is_told_with_what_may_have_switched_it():
    base = play(steps(60, 5), *MOVES)
    other = play(steps(60, 5), *MOVES, law="exact", k=6.0)
    values = [{"movement": "constant", "rate": 9.0, "spare": 1.0},
              {"movement": "smoothing", "rate": 6.0, "spare": 2.0}]  # fmt: skip
    _, chain = chained(base, other, values=values)
    assert {one.phase for one in chain.rules} >= {"speed-up", "coast"}
    assert [one.name for one in chain.switches] == ["movement", "rate"]
    assert [one.name for one in chain.unseen] == ["spare"]


def test_one_parameter_may_hold_two_constants():
    base, other = (play(steps(60, 5), *MOVES, g=g) for g in (40.0, 30.0))
    _, chain = chained(base, other, values=[{"gravity": 40.0}, {"gravity": 30.0}])
    (link,) = chain.links
    assert {one.name for one in link.constants} == {"rise.acceleration", "fall.acceleration"}


def test_a_comparison_in_words():
    base, other = (
        play(steps(60, 5), *MOVES, slow=s, v0=v, theta=0.5)
        for s, v in ((32.0, 13.0), (20.0, 13.65))
    )
    result = compare([take_of(base)], [take_of(other)])
    words = in_words(result, all_metrics())
    assert words.startswith("slides 60 % further, jumps 10 % higher, ")
    assert words.endswith("runs and speeds up as before")


def test_records_have_the_names_that_other_tools_read():
    result = kickback.compare([take()], [take(run_speed=7.0)])
    names = "metric unit base candidate change change_relative budget low high verdict reason"
    assert list(result.to_records()[0])[:11] == names.split()
    assert len(result.to_frame()) == len(result.rows)


def test_small_sums_of_a_comparison():
    allowance = parse_budget({"up": "0.5 m", "down": "25 %"}).allowance(2.0, Unit(LENGTH, "m"))
    assert (allowance.over(1.5), allowance.over(-1.0)) == (3.0, 2.0)
    assert parse_budget("0").allowance(2.0, Unit(LENGTH, "m")).over(0.1) == float("inf")
    noise = repeats_of(
        cells_of([analyse(scripted(k, jitter=0.2)) for k in range(3)], all_metrics())[0]
    ).noise
    assert all(one.share == one.width / abs(one.value) for one in noise if one.value)
    same = compare([take()], [take(run_speed=8.001)])
    assert "faster" not in in_words(same, all_metrics())
    assert "faster" in in_words(compare([take()], [take(run_speed=8.1)]), all_metrics())


def test_inputs_that_nobody_recorded_are_not_equal():
    """Frames that last equally long are no sign of equal hands."""
    bare = [
        {name: column for name, column in play(steps(60, 6), during((0.5, stop, 1))).items()
         if not name.startswith("in_")}
        for stop in (0.55, 0.62)
    ]  # fmt: skip
    known = play(steps(60, 6), during((0.5, 2.0, 1)))
    assert fingerprint(take_of(known))
    assert fingerprint(take_of(known | {"in_move_x": 0 * known["t"]})) == ""
    assert [fingerprint(take_of(one)) for one in bare] == ["", ""]
    budgets = {"run.highest_speed": parse_budget("1 %")}
    sides = [[take_of(columns)] for columns in bare]
    assert row_of(compare(*sides, budgets=budgets), "run.highest_speed").verdict == "cannot-tell"


@pytest.mark.parametrize(("least", "verdict"), [("1 m", "met"), ("3 m", "missed")])
def test_what_a_metric_must_be_is_asked_however_it_was_played(least, verdict):
    """Of a metric that the base lacks, and of one that no two plays are alike in."""
    jumper = take_of(play(steps(60, 4), during((0.5, 2, 1)), during((3, 3.5, 1))), name="jumper")
    runner = take_of(play(steps(60, 4), during((0.5, 2, 1))), name="runner")
    budgets = {"jump.apex_height": parse_budget({"at_least": least})}
    row = row_of(compare([runner], [jumper], budgets=budgets), "jump.apex_height")
    assert (row.verdict, row.fails) == (verdict, verdict == "missed")
    wish = {"run.highest_speed": parse_budget({"at_least": least.replace("m", "m/s")})}
    slow = [play(steps(60, 4), during((0.5, 0.54 + 0.02 * k, 1))) for k in range(2)]
    walkers = [take_of(one, name=str(k)) for k, one in enumerate(slow)]
    row = row_of(compare([walkers[0]], [walkers[1]], budgets=wish), "run.highest_speed")
    assert row.verdict == verdict
