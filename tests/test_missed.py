"""What a take may trip a conclusion over, each beside a clean counterpart that stays silent."""

import numpy as np
import pytest

from conftest import take_of, without
from kickback.kinds.examining import examine
from kickback.motion.options import Options
from truth.moves import moves
from truth.recurrence import during, steps

DT = steps(60, 10)
RUN = during((0.2, 4.0, 1), (4.4, 8.2, -1))
TWO = during((1, 1.5, 1), (5, 5.5, 1))


def still(_):
    return 0


def codes(columns, **options):
    header = {"length_unit": "m"}
    return {one.code for one in examine(take_of(columns, **header), Options(**options))}


def changed(columns, **by):
    return {**columns, **{name: change(columns) for name, change in by.items()}}


def over_and_over(fall):
    presses = during(*((1 + 0.2 * k, 1.1 + 0.2 * k, 1) for k in range(6)), (6, 6.4, 1))
    return moves(DT, still, presses, air=(13.0,) * 8, g_fall=fall)


def hanging(seconds):
    """Walk off a ledge and stay there for a while."""
    out = {
        name: column.copy()
        for name, column in moves(DT, during((0.2, 9, 1)), still, ledge=6.0).items()
    }
    start = int(np.argmax(out["touch_ground"] == 0))
    many = round(60 * seconds)
    index = np.insert(np.arange(len(DT)), start, np.full(many, start - 1))[: len(DT)]
    for name in ("y", "vy"):
        out[name] = out[name][index]
    out["touch_ground"] = np.where((np.arange(len(DT)) >= start) & (np.arange(len(DT)) < start + many),
                                   0.0, out["touch_ground"][index])  # fmt: skip
    return out


def stuck(seconds):
    columns = moves(DT, still, during((1, 1.5, 1)))
    flag, jump = columns["touch_ground"].copy(), columns["in_jump"].copy()
    flag[150 : 150 + round(60 * seconds)] = 0.0
    jump[165:170] = jump[180:185] = 1.0
    return changed(columns, touch_ground=lambda _: flag, in_jump=lambda _: jump)


def seam(passes):
    """Be stopped at a place of a floor that is run over at another time, or at a wall."""
    there = during((0.2, 2.0, 1), (2.5, 4.5, -1), (5.5, 7.5, 1))
    columns = moves(DT, there, still)
    x, v = columns["x"].copy(), columns["vx"].copy()
    row = int(np.argmax((x > 5.0) & (columns["t"] > 5)))
    slow = np.minimum(60.0 / 60 * np.arange(1, 9), 8.0)
    v[row : row + 8] = slow
    x[row:] = x[row - 1] + np.cumsum(v[row:]) / 60
    if not passes:
        keep = columns["t"] > 4.6
        columns = {name: column[keep] for name, column in columns.items()}
        return {**columns, "x": x[keep], "vx": v[keep]}
    return {**columns, "x": x, "vx": v}


def under_a_ceiling(seconds):
    columns = moves(DT, still, TWO)
    y, v = columns["y"].copy(), columns["vy"].copy()
    top = int(np.argmax(y > 1.0))
    many = round(60 * seconds)
    if not many:
        return columns
    y[top : top + many], v[top : top + many] = y[top], 0.0
    for row in range(top + many, len(y)):
        v[row] = v[row - 1] - 40 / 60
        y[row] = y[row - 1] + v[row] / 60
        if y[row] <= 0:
            break
    y[row : row + 60], v[row : row + 60] = 0.0, 0.0
    touch = columns["touch_ground"].copy()
    touch[top:row], touch[row : row + 60] = 0.0, 1.0
    return {**columns, "y": y, "vy": v, "touch_ground": touch}


def falls_through(at):
    """Stand on a floor on both sides of a place, and sink through it there later."""
    columns = moves(DT, during((0.2, 2.0, 1), (2.5, 4.3, -1)), during((0.7, 1.0, 1)))
    y, v, flag = (columns[name].copy() for name in ("y", "vy", "touch_ground"))
    if at:
        fall = np.arange(len(DT)) - round(60 * at)
        gone = np.maximum(fall, 0) / 60
        y -= np.where(fall > 0, 20 * gone**2, 0.0)
        v -= np.where(fall > 0, 40 * gone, 0.0)
        flag[fall > 0] = 0.0
    return {**columns, "y": y, "vy": v, "touch_ground": flag}


def from_above(gravity):
    """Drive about a plane, or jump about; without a ground flag either way."""
    if gravity:
        return without(moves(DT, RUN, during((1, 1.4, 1), (3, 3.4, 1), (5, 5.4, 1), (7, 7.4, 1))),
                       "touch_ground", "touch_side", "in_dash")  # fmt: skip
    t = np.arange(1, 1200) / 60
    heading = 0.8 * t + np.sin(0.7 * t)
    vx, vy = 12 * np.cos(heading), 12 * np.sin(heading)
    return {"t": t, "x": np.cumsum(vx) / 60, "y": np.cumsum(vy) / 60, "in_throttle": 0 * t + 1}


def uneven(hitch):
    dt = steps(60, 10, 0.25, 3)
    dt[300] *= hitch
    return moves(dt, RUN, TWO)


def before_the_limit(scale):
    """Log the speed before its limit was applied; or in other units."""
    columns = moves(DT, RUN, still)
    more = np.where(np.abs(columns["vx"]) > 7.99, 1.0, 0.0) * np.sign(columns["vx"])
    return {**columns, "vx": columns["vx"] * scale + (more if scale == 1 else 0.0)}


FOUND = {
    "jump-in-air": (over_and_over(40.0), moves(DT, still, during((1, 1.2, 1), (1.35, 1.9, 1)), air=(9.0,))),
    "jump-in-air, quick falls": (over_and_over(160.0), moves(DT, still, TWO, g_fall=160.0)),
    "no-fall": (hanging(1.0), hanging(0.0)),
    "contact-stuck": (stuck(2.0), stuck(0.3)),
    "seam-stop": (seam(True), seam(False)),
    "landing-bounce": (moves(DT, still, TWO, bounce=0.5), moves(DT, still, TWO)),
    "ceiling-hang": (under_a_ceiling(0.4), under_a_ceiling(0.0)),
    "fell-through": (falls_through(3.0), falls_through(0)),
    "view-unlikely": (from_above(False), from_above(True)),
    "hitch": (uneven(6.0), uneven(1.5)),
    "velocity-scale": (before_the_limit(32.0), before_the_limit(1.0)),
}  # fmt: skip


@pytest.mark.parametrize("name", FOUND)
def test_it_is_found_and_its_counterpart_is_silent(name):
    code = name.partition(",")[0]
    wrong, clean = FOUND[name]
    assert code in codes(wrong)
    assert not codes(clean) - {"hitch"} if name != "hitch" else code not in codes(clean)


def test_presses_that_a_stuck_flag_swallowed_are_counted():
    (told,) = [one for one in examine(take_of(stuck(2.0))) if one.code == "contact-stuck"]
    assert "2 s on ground that it stood on, and 2 presses of jump did nothing" in told.message


def test_every_occurrence_is_counted():
    presses = during(*((0.3 + 0.7 * k, 0.35 + 0.7 * k, 1) for k in range(13)))
    many = moves(steps(60, 60), still, lambda t: presses(t % 10), bounce=0.6)
    assert sum(one.code == "landing-bounce" for one in examine(take_of(many))) > 20


@pytest.mark.parametrize(
    ("levels", "found"), [((0.4,), False), ((0.5,), True), ((0.4, -3.6), True)]
)
def test_one_level_alone_is_off_the_tiles_only_by_half_of_one(levels, found):
    ledge = 6.0 if len(levels) > 1 else None  # to a floor that is 4 lower
    columns = moves(DT, RUN if ledge else still, TWO, ledge=ledge)
    assert ("probe-centre" in codes({**columns, "y": columns["y"] + levels[0]}, tile=1.0)) == found
