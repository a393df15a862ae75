"""A camera beside its subject, against plain loops: its rule, its lag, and what it shows."""

import numpy as np
import pytest

from conftest import some, take_of, without
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.exercises import plane_drill, standard_drill
from kickback.kinds.foot.model.simulate import simulate
from truth.camera import follow
from truth.moves import moves
from truth.recurrence import during

RATES = (30, 60, 144)


def filmed(fps=60, *, jitter=0.0, digits=None, up=None, **own):
    """Return a run, back, and a jump, with a camera 2 over it; ``up``: its rules up and down."""
    dt = np.full(10 * fps, 1 / fps)
    dt = dt * np.random.default_rng(3).uniform(1 - jitter, 1 + jitter, len(dt))
    columns = moves(dt, during((1, 3, 1), (4.5, 6.5, -1)), during((7.5, 8, 1)))
    columns["camera_x"] = follow(columns["x"], dt, **own)
    columns["camera_y"] = follow(columns["y"], dt, **{**own, "offset": 2.0, **(up or {})})
    if digits is None:
        return columns
    return {
        n: np.round(c, digits[0] if n in {"t", "dt"} else digits[1]) for n, c in columns.items()
    }


def rules(columns):
    return {str(law.phase): law for law in recover_laws(take_of(columns)) if "camera" in law.track}


@pytest.mark.parametrize("rate", some(RATES, 60))
@pytest.mark.parametrize(
    ("own", "clock"),
    [({}, "second"), ({"factor": 0.9}, "frame"), ({"first_order": True}, "first-order")],
)
def test_the_rule_of_a_camera_is_read_from_even_uneven_and_printed_takes(own, clock, rate):
    for jitter in (0.0, 0.3):
        found = rules(filmed(rate, jitter=jitter, rate=5.0, **own))
        along, up = found["camera along"], found["camera up"]
        told = "even" if jitter == 0 else clock
        assert (along.clock, up.clock) == (told, told)
        if "factor" in own:
            assert along.value("factor") == pytest.approx(0.9, rel=1e-6)
        elif jitter or clock == "second":
            assert along.value("rate") == pytest.approx(5.0, rel=1e-6)
        assert along.value("offset") == pytest.approx(0, abs=1e-6)
        assert up.value("offset") == pytest.approx(2, abs=1e-6)
    printed = rules(filmed(rate, jitter=0.3, digits=(4, 3), rate=5.0, **own))["camera along"]
    assert printed.clock in {clock, "even"}
    if printed.clock == clock:
        name, value = ("factor", 0.9) if "factor" in own else ("rate", 5.0)
        constant = printed.constant(name)
        assert abs(constant.value - value) <= 4 * constant.stderr


@pytest.mark.parametrize(
    ("own", "wanted"),
    [
        ({"dead": 0.75}, {"camera.dead_zone": 1.5}),
        ({"ahead": 0.4}, {"camera.look_ahead": None, "camera.dead_zone": None}),
        ({"rate": 7.0}, {"camera.lag_time": None, "camera.dead_zone": None}),
    ],
)
def test_dead_zones_and_looking_ahead_are_told(own, wanted):
    own = {"rate": 6.0} | own
    columns = filmed(144, **own)
    found = measure(take_of(columns))
    kept = np.exp(-own["rate"] / 144)
    lag = kept / (1 - kept) / 144 - own.get("ahead", 0.0)  # of the recurrence c += (p − c)(1 − f)
    if "dead" not in own:
        name = "camera.look_ahead" if lag < 0 else "camera.lag_distance"
        row = found[name]
        assert abs(row.value - abs(lag) * 8.0) <= row.resolution + 1e-6
    for metric, value in wanted.items():
        if value is not None:
            assert found[metric].value == pytest.approx(value, rel=1e-6)
        elif metric == "camera.dead_zone":
            assert found[metric].value is None
    if "ahead" in own:
        assert rules(columns)["camera along"].value("ahead") == pytest.approx(0.4, rel=1e-6)


def carried(places, half):
    """Return where a camera is that the ends of a band carry along, and nothing else moves."""
    out = [places[0]]
    for place in places[1:]:
        out.append(min(max(out[-1], place - half), place + half))
    return np.array(out)


@pytest.mark.parametrize("digits", [None, (5, 3)])
@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("half", [0.0, 1.5])
def test_a_band_whose_ends_carry_a_camera_along_is_told_and_is_no_frame_late(half, jitter, digits):
    columns = filmed(jitter=jitter, digits=digits, rate=5.0)
    columns["camera_x"] = np.round(carried(columns["x"], half), 12 if digits is None else 3)
    take = take_of(columns)
    zone = measure(take)["camera.dead_zone"]
    assert (zone.value is not None) == bool(half)
    assert not half or zone.value == pytest.approx(2 * half, abs=zone.resolution + 1e-9)
    assert ("in a band 3.000 m wide" in rules(columns)["camera along"].reason) == bool(half)
    assert "camera-late" not in {item.code for item in examine(take)}


def test_a_camera_that_never_moves_has_neither_lag_nor_band():
    columns = filmed(rate=5.0)
    columns["camera_x"], columns["camera_y"] = 0 * columns["x"] + 5, 0 * columns["x"] + 2
    found = measure(take_of(columns))
    assert found["camera.lag_time"].value is None
    assert found["camera.dead_zone"].reason == "the camera never moves"
    assert rules(columns).get("camera along") is None or not rules(columns)["camera along"].family


def test_up_and_down_may_have_rates_of_their_own():
    found = rules(filmed(rate=5.0, up={"up_rate": 2.0}))
    assert found["camera up rising"].value("rate") == pytest.approx(2.0)
    assert found["camera up falling"].value("rate") == pytest.approx(5.0)


@pytest.mark.parametrize(("late", "jitter"), [(True, 0.0), (True, 0.2), (False, 0.0), (False, 0.2)])
def test_a_camera_a_frame_late_is_found_and_no_other(late, jitter):
    for digits in (None, (4, 3)):
        take = take_of(filmed(jitter=jitter, digits=digits, rate=5.0, late=late))
        assert {item.code for item in examine(take)} == ({"camera-late"} if late else set())


def test_a_camera_that_is_fixed_or_follows_no_known_rule_is_said_to():
    fixed = filmed(rate=5.0)
    fixed["camera_x"] = fixed["x"] + 3.0
    assert "nothing is smoothed" in rules(fixed)["camera along"].reason
    wild = filmed(rate=5.0)
    wild["camera_x"] = wild["camera_x"] + np.sin(7 * wild["t"])
    law = rules(wild)["camera along"]
    assert law.law == "none"
    assert "no smoothing" in law.reason
    assert measure(take_of(without(fixed, "camera_x", "camera_y")))["camera.lag_time"].value is None


def test_a_camera_shows_a_share_of_a_bounce_and_may_lose_its_subject():
    columns = filmed(rate=5.0)
    still = {**columns, "camera_y": 0 * columns["y"] + 2.0}
    assert measure(take_of(still))["camera.bounce_share"].value == 0
    with_it = {**columns, "camera_y": columns["y"] + 2.0}
    assert measure(take_of(with_it))["camera.bounce_share"].value == pytest.approx(1)
    offset = measure(take_of(columns))["camera.largest_offset"].value
    wide = {"view_size": [2.2 * offset, 40.0]}
    assert measure(take_of(columns, extra=wide))["camera.out_of_view"].value == 0
    narrow = {"view_size": [1.8 * offset, 40.0]}
    assert measure(take_of(columns, extra=narrow))["camera.out_of_view"].value > 0
    swung = {**columns, "camera_x": columns["camera_x"] + 0.0}
    at = np.flatnonzero((columns["t"] > 3.4) & (columns["t"] < 3.6))
    swung["camera_x"][at] += 0.5
    assert measure(take_of(swung))["camera.overshoot"].value > 0.1


@pytest.mark.parametrize(
    "drill", [standard_drill(), *some([plane_drill("3d"), plane_drill("top")])]
)
@pytest.mark.parametrize("mistake", ["", "factor-per-frame", "first-order-factor"])
def test_a_smoothing_by_the_frame_is_a_cause_of_its_own(drill, mistake):
    values = {"camera_rate": 5.0, "mistakes": mistake}
    result = frame_rates([simulate(values, drill, frame_rate=rate) for rate in RATES])
    causes = [cause for _, cause in result.causes if cause.verdict != "note"]
    assert [cause.name for cause in causes] == ([mistake] if mistake else [])
    if mistake:
        assert {term.row.of for term in causes[0].terms} >= {"camera along"}
        assert "camera.lag_time" in causes[0].metrics
        assert "exp(−" in causes[0].fix
