"""A character that moves over a plane: its runs, turns, limits and rules, in any view."""

import numpy as np
import pytest

from conftest import quick, some, take_of, without
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.exercises import plane_drill
from kickback.kinds.foot.model.parameters import MISTAKES
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.foot.roles import ASIDE
from kickback.kinds.table import analyse
from kickback.show.figures.canvas import save_figure
from kickback.show.figures.motion import motion_figure
from kickback.workflows.plotting import plot_data
from truth.bodies import plane_body
from truth.plane import over_plane, turn_truth

STICKS = (
    (0.5, 2.0, (1, 0)), (2.0, 3.0, (-1, 0)), (4.0, 5.0, (1, 1)), (5.5, 6.5, (0, -1)),
    (6.5, 7.5, (1, 0)), (7.5, 8.5, (1, 1)), (8.5, 9.5, (-1, -1)), (10.0, 11.0, (-1, 1)),
)  # fmt: skip


PARTS = {45: "eighth", 90: "quarter", 180: "half"}


def stick_at(time):
    return next((stick for a, b, stick in STICKS if a <= time < b), (0, 0))


def steps(rate, jitter=0.3, seconds=11.5):
    dt = np.full(round(seconds * rate), 1 / rate)
    return dt * np.random.default_rng(rate).uniform(1 - jitter, 1 + jitter, len(dt))


def printed(columns, digits=2):
    return {name: np.round(c, 4 if name in {"t", "dt"} else digits) for name, c in columns.items()}


def spun(columns, degrees, mirrored=False):
    """Return a take whose world is turned against its input."""
    turn = np.exp(1j * np.deg2rad(degrees))
    out = dict(columns)
    for a, b in (("x", "z"), ("vx", "vz")):
        value = columns[a] + 1j * columns[b]
        value = (np.conj(value) if mirrored else value) * turn
        out |= {a: value.real, b: value.imag}
    return out


def plane_take(columns, **header):
    return take_of(columns, view="3d", up="+y", **header)


@quick(4)
@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("rule", ["length", "axis", "smooth"])
@pytest.mark.parametrize("limit", ["length", "axis"])
def test_turns_take_as_long_as_their_rule_says(rule, limit, jitter, rate):
    columns = over_plane(steps(rate, jitter), stick_at, rule=rule, limit=limit)
    found = measure(plane_take(columns), only="plane,run,turn")
    wide = 1.0 if limit == "length" else np.sqrt(2)
    assert found["run.diagonal_ratio"].value == pytest.approx(wide, rel=2e-4)
    assert found["plane.straight_speed"].value == pytest.approx(8, rel=2e-4)
    assert found["plane.diagonal_speed"].value == pytest.approx(8 * wide, rel=2e-4)
    turned = 45 if rule != "axis" or limit == "axis" else None  # else the goal is not on 45 degrees
    for angle, top in ((90, 8.0), (turned, 8.0 * wide)):
        if angle is None:
            continue
        entry = 8 * (1 if rule != "smooth" else 1 - np.exp(-10))
        if rule == "axis" and angle == 45:
            continue
        wanted = turn_truth(rule, angle, entry, top)
        row = found[f"turn.{PARTS[angle]}_time"]
        assert abs(row.value - wanted) <= max(0.02 / rate, row.resolution)


@pytest.mark.parametrize("rate", [30, 144])
@pytest.mark.parametrize("rule", ["length", "smooth"])
def test_a_plane_measures_runs_as_a_side_view_does(rule, rate):
    """The same presses along one axis: every number of runs and stops is the same."""

    def level(time):
        return (stick_at(time)[0], 0)

    columns = over_plane(steps(rate), level, rule=rule)
    side = without(columns, "z", "vz", "in_move_y")
    ours, theirs = measure(plane_take(columns)), measure(take_of(side | {"y": 0 * side["x"]}))
    for name, row in theirs.by_metric().items():
        of_runs = name.partition(".")[0] in {"run", "coast", "brake", "reverse", "turn", "input"}
        if of_runs and row.reason != ASIDE.missing:
            assert ours[name].n == row.n, name
            value = None if row.value is None else pytest.approx(row.value, rel=1e-9)
            assert ours[name].value == value, name


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda c: c, "the ground's"),
        (lambda c: spun(c, 30), "turned by 30 degrees"),
        (lambda c: spun(c, -90), "turned by -90 degrees"),
        (lambda c: spun(c, 0, mirrored=True), "the second the other way"),
        (lambda c: printed(spun(c, 130), 3), "turned by 130 degrees"),
    ],
)
@pytest.mark.parametrize("rule", ["length", "added"])
def test_the_angle_between_input_and_world_is_read_and_stated(change, words, rule):
    columns = over_plane(steps(60), stick_at, rule=rule)
    straight = measure(plane_take(columns))
    take = plane_take(change(columns))
    found = measure(take)
    assert words in analyse(take).whole.sources
    for name in ("run.top_speed", "turn.quarter_time", "coast.stop_distance", "turn.time"):
        row = found[name]
        assert abs(row.value - straight[name].value) <= max(1e-6, 1.5 * row.resolution), name


def test_a_cameras_heading_turns_the_input():
    columns = over_plane(steps(60), stick_at)
    heading = np.repeat([0.0, 50.0, 120.0, 200.0], len(columns["t"]) // 4 + 1)[: len(columns["t"])]
    wanted = over_plane(
        steps(60),
        lambda time: _turned(stick_at(time), heading[np.searchsorted(columns["t"], time + 1e-9)]),
    )
    seen = wanted | {name: columns[name] for name in ("in_move_x", "in_move_y")}
    take = plane_take(seen | {"camera_heading": heading})
    assert "with the camera's heading" in analyse(take).whole.sources
    found = measure(take)
    assert found["run.top_speed"].value == pytest.approx(8)
    assert found["coast.stop_time"].value == pytest.approx(0.99 * 8 / 50, abs=1e-4)


def _turned(stick, degrees):
    way = complex(*stick) * np.exp(1j * np.deg2rad(degrees))
    return way.real, way.imag


@pytest.mark.parametrize(
    ("own", "law", "constants"),
    [
        ({"rule": "length"}, "toward-by-length", {"acceleration": 60}),
        ({"rule": "axis"}, "toward-by-axis", {"acceleration": 60}),
        ({"rule": "axis", "limit": "axis"}, "toward-by-axis", {"acceleration": 60}),
        ({"rule": "smooth"}, "vector-smoothing", {"rate": 10}),
        ({"rule": "added"}, "add-and-cap", {"acceleration": 60, "speed": 8}),
        ({"rule": "heading"}, "turn-rate", {"rate": np.rad2deg(10)}),
    ],
)
@pytest.mark.parametrize("form", ["even", "uneven", "printed"])
def test_the_rule_of_turns_is_told(own, law, constants, form):
    columns = over_plane(steps(60, 0.0 if form == "even" else 0.3), stick_at, **own)
    rows = recover_laws(plane_take(printed(columns) if form == "printed" else columns))
    veer = rows["veer"]
    assert veer.law == law
    for name, value in constants.items():
        assert veer.value(name) == pytest.approx(value, rel=0.02 if form == "printed" else 1e-6)
    limit = rows["limit"]
    assert limit.law == f"limit-by-{own.get('limit', 'length')}"


@pytest.mark.parametrize("ratio", ["length", "axis"])
def test_a_diagonal_that_is_too_fast_is_found(ratio):
    take = plane_take(printed(over_plane(steps(60), stick_at, limit=ratio)))
    codes = [item.code for item in examine(take)]
    assert ("diagonal-faster" in codes) == (ratio == "axis")
    assert [code for code in codes if code != "diagonal-faster"] == []


def test_a_take_from_above_needs_no_height():
    columns = over_plane(steps(60), stick_at)
    flat = without(columns, "z", "vz") | {"y": -columns["z"], "vy": -columns["vz"]}
    above = take_of(flat, view="top", up="-y")
    found, same = measure(above), measure(plane_take(columns))
    assert found["turn.quarter_time"].value == pytest.approx(same["turn.quarter_time"].value)
    assert found["jump.apex_height"].reason == "the take has no height"
    side = measure(take_of(without(flat, "in_move_y")))["turn.quarter_time"]
    assert side.reason == "the take has one ground axis: nothing turns in it"


def test_without_inputs_no_turn_is_told():
    columns = without(over_plane(steps(60), stick_at), "in_move_x", "in_move_y")
    found = measure(plane_take(columns))
    assert found["run.top_speed"].value == pytest.approx(8)
    assert found["turn.quarter_time"].reason == "no input was recorded: nothing tells when it turns"


@quick(2)
@pytest.mark.parametrize("view", ["3d", "top"])
@pytest.mark.parametrize(
    ("own", "law", "ratio"),
    [
        ({}, "toward-by-length", 1.0),
        ({"plane_movement": "axis"}, "toward-by-axis", 1.0),
        ({"mistakes": "diagonal-faster"}, "toward-by-length", np.sqrt(2)),
        ({"ground_movement": "smoothing"}, "vector-smoothing", 1.0),
    ],
)
def test_the_built_in_character_goes_over_a_plane(view, own, law, ratio):
    take = simulate(own, plane_drill(view))
    found = measure(take)
    assert found["run.diagonal_ratio"].value == pytest.approx(ratio, rel=1e-4)
    assert found["dash.peak_speed"].value == pytest.approx(18)
    assert found["dash.duration"].value == pytest.approx(11 / 60)
    assert (found["jump.apex_height"].value is None) == (view == "top")
    assert recover_laws(take)["veer"].law == law
    assert {item.code for item in examine(take)} == ({"diagonal-faster"} if ratio > 1 else set())


SHOWN_ON = {"factor-per-frame": "smoothing", "first-order-factor": "friction"}


@quick(6)
@pytest.mark.parametrize("view", some(["3d", "top"], "top"))
@pytest.mark.parametrize("mistake", ["", *MISTAKES])
def test_causes_are_told_over_a_plane(mistake, view):
    if view == "top" and mistake == "gravity-per-frame":
        return  # nothing falls
    own = {"ground_movement": SHOWN_ON.get(mistake, "constant"), "mistakes": mistake}
    takes = [simulate(own, plane_drill(view), frame_rate=rate) for rate in (30, 60, 144)]
    result = frame_rates(takes)
    found = {cause.name for _, cause in result.causes if cause.verdict != "note"}
    assert found == {mistake} - {"", "integration-order"}


@quick(2)
@pytest.mark.parametrize("library", ["bullet", "pymunk"])
@pytest.mark.parametrize("limit", ["length", "axis"])
def test_bodies_of_physics_libraries_over_a_plane(library, limit):
    takes = [plane_body(library, rate, stick_at, limit=limit) for rate in (60, 144)]
    view = {"bullet": {"view": "3d", "up": "+z"}, "pymunk": {"view": "top"}}[library]
    for columns in (*takes, printed(takes[0], 3)):
        take = take_of(columns, **view)
        found, rows = measure(take), recover_laws(take)
        wide = np.sqrt(2) if limit == "axis" else 1.0
        ratio = found["run.diagonal_ratio"]
        assert ratio.value == pytest.approx(wide, abs=ratio.resolution + 1e-3)
        assert rows["limit"].law == f"limit-by-{limit}"
        assert rows["veer"].value("acceleration") == pytest.approx(60, rel=0.01)
        turn = found["turn.quarter_time"]
        wanted = turn_truth("length", 90, 8.0, 8.0)
        assert turn.value == pytest.approx(wanted, abs=turn.resolution + 0.5 / take.frame_rate)
        codes = {item.code for item in examine(take)}
        assert codes == ({"diagonal-faster"} if limit == "axis" else set())


def test_ways_over_the_ground_are_drawn():
    for view in ("3d", "top"):
        data = plot_data(analyse(simulate({}, plane_drill(view))))
        figure = motion_figure([data, data])
        titles = [axes.get_title(loc="left") for axes in figure.axes]
        assert "over the ground, presses as arrows" in titles
        assert "turns, from press" in titles
        assert ("jumps, from takeoff" in titles) == (view == "3d")
        assert len(data.picture.turns.items) == 4
        assert save_figure(figure, "png")[:4] == b"\x89PNG"


@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("rate", [30, 144])
def test_the_radius_of_a_turn_at_full_speed(rate, jitter):
    """A direction that turns by 10 rad/s at 8 units/s goes round a circle of 0.8 units."""
    columns = over_plane(steps(rate, jitter), stick_at, rule="heading")
    found = measure(plane_take(columns), only="turn.radius")["turn.radius"]
    assert found.value == pytest.approx(0.8, abs=1e-6 + found.resolution)
    assert found.resolution < 0.1
