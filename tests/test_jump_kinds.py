"""Kinds of jumps, cuts, clamps and timers: like is measured with like, and a bound is a bound."""

import numpy as np
import pytest

from conftest import take_of
from kickback.kinds.examining import examine
from kickback.kinds.foot.throws import JUMP_GROUPS
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from truth.moves import moves
from truth.recurrence import during, play, steps

DT = steps(60, 10)
LONG = ((1, 1.6, 1), (5, 5.6, 1))
SHORT = ((3, 3.1, 1), (7, 7.1, 1))
CUTS = {
    "factor": {"cut": 0.5},
    "speed": {"cut_to": 4.0},
    "gravity": {"g_let_go": 90.0},
    "sustained": {"hold": 0.2, "g_hold": 0.0, "jump": 10.0},
    "sustained under less gravity": {"hold": 0.25, "g_hold": 12.0, "jump": 10.0},
}
FORMS = {
    "exact": lambda c: c,
    "printed": lambda c: {n: np.round(v, 3) if n in "xyvxvy" else v for n, v in c.items()},
    "no velocity": lambda c: {n: v for n, v in c.items() if n not in {"vx", "vy"}},
    "pixels": lambda c: {
        n: np.round(32 * v) if n in "xy" else v for n, v in c.items() if n not in {"vx", "vy"}
    },
}


def still(_):
    return 0


def jumps(*spans, move=still, **own):
    return moves(DT, move, during(*sorted(spans)), **own)


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("cut", CUTS)
def test_a_hop_is_any_jump_that_is_ended_early(cut, form):
    columns = jumps(*LONG, *SHORT, **CUTS[cut])
    found = measure(take_of(FORMS[form](columns)))
    size = 32 if form == "pixels" else 1
    for group, at in (("jump", LONG), ("hop", SHORT)):
        rows = [(columns["t"] > a) & (columns["t"] < a + 1.5) for a, _, _ in at]
        apex = np.median([columns["y"][row].max() for row in rows])
        top = np.median([columns["t"][row][columns["y"][row].argmax()] - a + 0.5 / 60
                         for row, (a, _, _) in zip(rows, at, strict=True)])  # fmt: skip
        assert found[f"{group}.apex_height"].n == 2
        assert found[f"{group}.apex_height"].value == pytest.approx(
            size * apex, abs=1e-9 + size / 32
        )
        assert found[f"{group}.time_to_apex"].value == pytest.approx(
            top, abs=(1.1 + size / 32) / 60
        )
        thrown = columns["vy"][columns["vy"] > 0][0] * size
        assert found[f"{group}.takeoff_speed"].value == pytest.approx(thrown, rel=0.05)


@pytest.mark.parametrize(
    ("cut", "release"),
    [(name, name in {"factor", "speed"}) for name in CUTS],
)
def test_a_cut_is_told_where_letting_go_changes_the_speed(cut, release):
    phases = {str(row.phase) for row in recover_laws(take_of(jumps(*LONG, *SHORT, **CUTS[cut])))}
    assert ("release" in phases) == release
    assert ("hold" in phases) == cut.startswith("sustained")


@pytest.mark.parametrize("rate", [30, 144])
@pytest.mark.parametrize("digits", [(3, 3), (6, 2), (17, 17)])
@pytest.mark.parametrize(("cut", "value"), [("cut", 0.5), ("cut_to", 4.0)])
def test_a_clamp_is_no_factor_however_it_is_printed(cut, value, digits, rate):
    holds = np.linspace(0.05, 0.25, 8)
    presses = during(*((0.5 + k, 0.5 + k + hold, 1) for k, hold in enumerate(holds)))
    columns = moves(steps(rate, 9, 0.2), still, presses, **{cut: value})
    printed = {n: np.round(c, digits[n not in {"t", "dt"}]) for n, c in columns.items()}
    (constant,) = recover_laws(take_of(printed))["release"].constants
    assert constant.name == {"cut": "factor", "cut_to": "speed"}[cut]
    assert abs(constant.value - value) <= 3 * constant.stderr + 1e-6
    assert constant.stderr < 0.03 * value


def test_releases_that_changed_nothing_are_not_averaged_in():
    late = (8.3, 8.58, 1)  # let go of below the speed that letting go sets
    laws = recover_laws(take_of(jumps(*LONG, *SHORT, (9.2, 9.35, 1), late, cut_to=4.0)))
    assert laws["release"].value("speed") == pytest.approx(4.0, rel=1e-6)


RUN = during((0.2, 9, 1))
KINDS = {
    "double": (
        jumps((1, 1.2, 1), (1.35, 1.9, 1), (4, 4.2, 1), (4.4, 4.8, 1), (7, 7.6, 1), air=(9.0,)),
        {"jump": 3, "air_jump": 2},
        {"air_jump.takeoff_speed": 9 - 40 / 60, "air_jump.apex_height": 0.939},
    ),
    "triple": (
        jumps((1, 1.2, 1), (1.35, 1.6, 1), (1.8, 2.2, 1), (7, 7.6, 1), air=(9.0, 7.0)),
        {"jump": 2, "air_jump": 1, "second_air_jump": 1},
        {"second_air_jump.takeoff_speed": 7 - 40 / 60},
    ),
    "on the way up, for a little more": (
        jumps((1, 1.05, 1), (1.1, 1.7, 1), (4, 4.2, 1), (4.4, 4.8, 1), air=(9.6,)),
        {"jump": 1, "air_jump": 2},  # an apex that a throw came before is none
        {"air_jump.takeoff_speed": 9.6 - 40 / 60},
    ),
    "on the way up, for less than it has": (
        jumps((1, 1.05, 1), (1.1, 1.7, 1), (4, 4.2, 1), (4.4, 4.8, 1), air=(7.6,)),
        {"jump": 1, "air_jump": 2},
        {"air_jump.takeoff_speed": 7.6 - 40 / 60},
    ),
    "on the way up, for nothing": (
        jumps((1, 1.05, 1), (1.1, 1.7, 1), (4, 4.2, 1), (4.4, 4.8, 1)), {"jump": 2}, {},
    ),
    "let go of in the air": (
        jumps((1, 1.2, 1), (1.35, 1.4, 1), (4, 4.2, 1), (4.4, 4.8, 1), air=(9.0,), cut=0.5),
        {"hop": 2, "air_jump": 1, "air_hop": 1},
        {"air_hop.takeoff_speed": 9 - 40 / 60, "air_hop.apex_height": 0.508},
    ),
    "in the air, shortly after a ledge": (
        jumps((0.6, 0.7, 1), (1.85, 1.9, 1), move=RUN, ledge=12.0, coyote=0.05, air=(9.0,)),
        {"jump": 1, "coyote_jump": 0, "air_jump": 1},
        {},
    ),
    "after a ledge": (
        jumps((1.12, 1.6, 1), (4, 4.6, 1), move=RUN, ledge=6.0, coyote=0.2),
        {"jump": 1, "coyote_jump": 1},
        {"coyote_jump.drop": 3.689},
    ),
    "off a wall": (
        jumps((1, 1.3, 1), (1.5, 1.8, 1), (1.95, 2.2, 1), (5, 5.5, 1),
              move=during((0.2, 1.6, 1), (1.6, 2.2, -1), (2.2, 3, 1)), walls=(8.5, 5.5),
              wall_jump=12.0),
        {"jump": 2, "wall_jump": 1},
        {"wall_jump.air_time": 0.583},
    ),
    "out of a dash": (
        moves(DT, RUN, during((1.1, 1.6, 1), (4, 4.6, 1)), during((1, 1.1, 1), (2.5, 2.6, 1)),
              dash=24.0, cooldown=0.5),
        {"jump": 1, "dash_jump": 1},
        {},
    ),
    "a rebound": (jumps(*LONG, bounce=0.5), {"jump": 2}, {"jump.air_time": 0.633}),
    "a bounce pad": (
        jumps(*LONG) | {"in_jump": 0 * DT},
        {},
        {},
    ),
    "a slide": (
        jumps((1, 1.6, 1), (6, 6.6, 1), move=during((0.2, 5, 1)), walls=(8.0,), slide=3.0, jump=16.0),
        {"jump": 1},
        {"jump.apex_height": 3.067},
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", KINDS)
def test_unlike_jumps_are_never_pooled(name):
    columns, counts, values = KINDS[name]
    found = measure(take_of(columns))
    for group in JUMP_GROUPS:
        assert found[f"{group}.apex_height"].n == counts.get(group, 0), group
    for metric, value in values.items():
        assert found[metric].value == pytest.approx(value, abs=2e-3)
        assert "unlike" not in (found[metric].reason or "")


@pytest.mark.parametrize("drop", [(), ("touch_side",), ("vx", "vy", "touch_side")])
@pytest.mark.parametrize(("until", "found"), [(5, False), (1.6, True)])
def test_a_slow_slide_down_a_wall_is_no_fall_without_gravity(drop, until, found):
    columns = jumps((1, 1.6, 1), move=during((0.2, 5, 1)), walls=(8.0,), slide=1.0, jump=16.0)
    columns["in_move_x"] = np.where(columns["t"] < until, columns["in_move_x"], 0.0)
    if found:  # the same fall with no wall that anything tells of
        columns = columns | {"touch_side": 0 * columns["t"]}
    take = take_of({name: one for name, one in columns.items() if name not in drop})
    assert ("constant-fall" in {one.code for one in examine(take)}) == found


def test_a_wall_slide_has_a_law_of_its_own():
    laws = recover_laws(take_of(KINDS["a slide"][0]))
    assert laws["wall slide speed"].value("speed") == pytest.approx(-3)
    assert laws["fall"].value("acceleration") == pytest.approx(-40)
    assert not [row for row in laws if str(row.phase) == "terminal"]


@pytest.mark.parametrize(
    ("presses", "phase", "between"),
    [
        (((1.12, 1.6, 1),), "coyote", (0.13, np.inf)),
        (((1.12, 1.6, 1), (3.0, 3.2, 1)), "coyote", (0.13, np.inf)),
    ],
)
def test_a_bound_is_told_as_a_bound(presses, phase, between):
    laws = recover_laws(take_of(jumps(*presses, move=RUN, ledge=6.0, coyote=0.2)))
    seconds = laws[phase].constant("seconds")
    assert seconds.between == pytest.approx(between, abs=0.01)
    assert seconds.open
    record = next(one for one in laws[phase].to_records() if one["constant"] == "seconds")
    assert record["value"] is None
    assert record["reason"].startswith("more than 0.1333 s")


def test_an_ignored_press_bounds_a_cooldown():
    columns = moves(DT, RUN, still, during((2.5, 2.6, 1), (2.7, 2.8, 1)), dash=24.0, cooldown=0.5)
    assert recover_laws(take_of(columns))["cooldown"].constant("seconds").open
    again = moves(DT, RUN, still, during((2.5, 2.6, 1), (2.7, 2.8, 1), (3.2, 3.3, 1)), dash=24.0,
                  cooldown=0.5)  # fmt: skip
    seconds = recover_laws(take_of(again))["cooldown"].constant("seconds")
    assert not seconds.open
    assert seconds.between[0] < 0.5 < seconds.between[1]


def test_no_hold_is_told_of_a_air_jump():
    columns, _, _ = KINDS["double"]
    assert not [row for row in recover_laws(take_of(columns)) if str(row.phase) == "hold"]


@pytest.mark.parametrize("library_sinks", [0.05, 0.2])
def test_level_ground_is_level_also_where_bodies_sink_in(library_sinks):
    drop = measure(take_of(jumps(*LONG, sink=library_sinks)))["jump.drop"]
    assert drop.value == pytest.approx(0, abs=1e-9)
    assert drop.resolution >= library_sinks - 1e-9


def test_a_middle_of_unlike_drops_is_not_exact():
    columns = jumps((0.45, 1, 1), (4, 4.6, 1), move=during((0.2, 1.4, 1)), ledge=3.0)
    drop = measure(take_of(columns))["jump.drop"]
    assert "unlike" in drop.reason
    assert drop.resolution == pytest.approx(drop.spread / 2)


@pytest.mark.parametrize("theta", [0.0, 0.5, 1.0])
def test_laws_foretell_the_apex_that_is_measured_at_the_same_rate(theta):
    take = take_of(play(DT, still, during(*LONG), theta=theta))
    told = {one.what: one.value for one in recover_laws(take).consequences}
    apex = measure(take)["jump.apex_height"]
    assert told["apex at 60 frames/s"] == pytest.approx(
        apex.value, abs=40 / 60**2 / 8 + 1e-6
    )  # between frames
