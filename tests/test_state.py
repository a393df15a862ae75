"""Labels beside a motion: how many, how late, which speeds they follow, and where they are wrong."""

import numpy as np
import pytest

from conftest import quick, take_of
from kickback import measure, recover_laws
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.exercises import moves_drill
from kickback.kinds.models import simulate
from kickback.kinds.table import analyse
from truth.moves import moves
from truth.recurrence import during


def speeds(fps=60, jitter=0.2):
    """Columns of runs that begin and end at different paces: each has one of its own."""
    n = 16 * fps
    dt = np.full(n, 1 / fps) * np.random.default_rng(3).uniform(1 - jitter, 1 + jitter, n)
    t = np.cumsum(dt)
    pace = [8, 20, 5, 12]
    v = np.zeros(n)
    for k, a in enumerate(pace):
        since = t - (0.5 + 4 * k)
        up, down = np.clip(a * since, 0, 6), np.clip(6 - a * (since - 2), 0, 6)
        v = np.where(since >= 0, np.minimum(up, down), v)
    x = np.cumsum(v * dt)
    return {"t": t, "dt": dt, "x": x, "y": 0 * x, "vx": v, "vy": 0 * x,
            "in_move_x": (v > 0) * 1.0, "touch_ground": np.ones(n)}  # fmt: skip


def labelled(columns, *, begins=3.0, ends=1.5, late=0, flicker=()):
    v, found, now = np.abs(columns["vx"]), [], "idle"
    for row in range(len(v)):
        seen = v[max(row - late, 0)]
        now = "run" if seen >= begins else "idle" if seen < ends else now
        found.append("spin" if row in flicker else now)
    return np.array(found, dtype=object)


@quick(2)
@pytest.mark.parametrize("late", [0, 1, 3])
@pytest.mark.parametrize("printed", [False, True])
def test_the_speeds_that_labels_follow_are_told_and_how_late(late, printed):
    columns = speeds()
    if printed:
        columns = {n: np.round(c, 3) if n[0] in "vxy" else c for n, c in columns.items()}
    take = take_of({**columns, "state": labelled(columns, late=late)})
    (law,) = [one for one in recover_laws(take) if one.track == "state"]
    assert str(law.phase) == "state run over idle"
    for name, value in (("begins", 3.0), ("ends", 1.5)):
        one = law.constant(name)
        assert abs(one.value - value) <= 4 * one.stderr
        assert one.stderr < 0.1
    delay = measure(take)["state.delay"]
    assert delay.value == pytest.approx(late / 60, rel=0.05)


@pytest.mark.parametrize("late", [0, 2, 5, 7])
def test_labels_that_follow_the_ground_are_late_by_frames(late):
    columns = moves(
        np.full(600, 1 / 60), during(), during((1, 1.1, 1), (3, 3.3, 1), (5, 5.2, 1), (7, 7.2, 1))
    )
    seen = np.concatenate((np.ones(late), columns["touch_ground"]))[: len(columns["t"])]
    take = take_of({**columns, "state": np.where(seen > 0, "ground", "up").astype(object)})
    row = measure(take)["state.delay"]
    if late > 6:  # later than any label is: of something else
        assert row.value is None
        return
    assert row.value == pytest.approx(late / 60, abs=1e-9)
    assert (row.reason is None) == (late == 0)


def test_a_label_after_that_of_a_landing_is_not_late():
    columns = moves(
        np.full(600, 1 / 60), during(), during(*((t, t + 0.1, 1) for t in (1, 3, 5, 7)))
    )
    ground = columns["touch_ground"] > 0.5
    landed = np.flatnonzero(np.diff(ground.astype(int), prepend=1) > 0)
    names = np.where(ground, "idle", "up").astype(object)
    for row in landed:
        names[row : row + 5] = "land"
    row = measure(take_of({**columns, "state": names}))["state.delay"]
    assert row.value == 0
    assert row.occurrences.value.max() == 0


def test_changes_that_are_alike_tell_no_delay():
    dt = np.full(720, 1 / 60)
    columns = moves(dt, during((1, 3, 1), (5, 7, -1), (9, 11, 1)), during())
    take = take_of({**columns, "state": labelled(columns, late=2)})
    (law,) = [one for one in recover_laws(take) if one.track == "state"]
    assert "alike" in law.reason
    assert "alike" in measure(take)["state.delay"].reason


def test_times_flicker_contradictions_and_what_never_was():
    columns = speeds()
    rows = (100, 230)
    states = labelled(columns, begins=0.5, ends=0.3, flicker=rows)
    take = take_of({**columns, "state": states}, extra={"states": ["idle", "run", "spin", "fly"]})
    found = measure(take)
    assert found["state.count"].value == 3
    assert "never: fly" in found["state.count"].reason
    assert found["state.flicker"].value == 2
    codes = {one.code for one in examine(take)}
    assert "state-flicker" in codes
    assert "state-contradicts" not in codes
    assert found["state.contradictions"].value == 0
    wrong = np.where(columns["vx"] > 3, "idle", "run").astype(object)
    told = take_of({**columns, "state": wrong})
    assert measure(told)["state.contradictions"].value > 0.4
    assert "state-contradicts" in {one.code for one in examine(told)}
    two = labelled(columns, begins=0.5, ends=0.3, flicker=(100, 101))
    assert measure(take_of({**columns, "state": two}))["state.flicker"].value == 0


def test_labels_a_camera_and_uneven_frames_are_drawn_beside_the_motion():
    columns = speeds()
    columns |= {"camera_x": columns["x"] - 1.0, "state": labelled(columns)}
    analysis = analyse(take_of(columns))
    rows = [one.name for one in analysis.phases if one.track == "state"]
    assert set(rows) == {"idle", "run"}
    picture = analysis.kind.showing.picture(analysis.whole, analysis.events)
    drawn = {curve.label: curve for curve in picture.curves}
    assert drawn["x on screen"].y == pytest.approx(np.ones(len(columns["t"])))
    assert drawn["frame time"].strip
    even = analyse(take_of(speeds(jitter=0.0)))
    curves = even.kind.showing.picture(even.whole, even.events).curves
    assert not {"frame time", "x on screen"} & {curve.label for curve in curves}
    assert not [one for one in even.phases if one.track == "state"]


def test_feet_slide_by_what_the_stride_misses():
    columns = speeds()
    states = np.where(columns["vx"] >= 6, "run", "idle").astype(object)
    for length, wanted in ((3.0, 0.0), (2.4, 0.2)):
        extra = {"stride": {"run": {"length": length, "time": 0.5}}}
        row = measure(take_of({**columns, "state": states}, extra=extra))["state.foot_slide"]
        assert row.value == pytest.approx(wanted, abs=1e-9)
    assert "stride" in measure(take_of({**columns, "state": states}))["state.foot_slide"].reason


@quick(2)
@pytest.mark.parametrize("fps", [30, 60, 144])
@pytest.mark.parametrize("fault", ["", "state-flicker", "state-contradicts"])
def test_labels_of_the_model_are_read_and_their_faults_found(fault, fps):
    values = {"label_run": 3.0, "label_idle": 1.0, "mistakes": fault}
    take = simulate(values, moves_drill(), kind="foot", frame_rate=fps)
    assert {one.code for one in examine(take)} == ({fault} if fault else set())
    laws = {str(one.phase): one for one in recover_laws(take)}
    if fault == "state-flicker":  # a label that comes and goes at one speed has no threshold
        assert "state run over idle" not in laws
        return
    law = laws["state run over idle"]
    for name, value in ({"begins": 3.0} | ({} if fault else {"ends": 1.0})).items():
        one = law.constant(name)
        assert abs(one.value - value) <= 4 * one.stderr, (name, one.value)
    assert "state" not in simulate({}, moves_drill(), kind="foot", frame_rate=fps)


@pytest.mark.parametrize(("pace", "wrong"), [(0.45, False), (0.55, True)])
def test_a_still_label_contradicts_from_half_the_top_speed_on(pace, wrong):
    columns = speeds(jitter=0.0)
    top = columns["vx"].max()
    words = np.where(columns["vx"] > pace * top, "run", "idle").astype(object)
    slow = np.flatnonzero(columns["vx"] > 0)[0]
    assert words[slow] == "idle"
    codes = {one.code for one in examine(take_of(columns | {"state": words}))}
    assert ("state-contradicts" in codes) == wrong
