"""How shots are fired and aimed: bursts, cooldowns, targets that move, leads, what bends a path."""

import json
import math

import numpy as np
import pytest

from conftest import some, take_of
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.kinds.models import simulate
from kickback.kinds.shot.aim import Flight, aim, arrival, path
from kickback.motion.options import Options
from truth.shot import lobs, steered, volley

RATES = (30, 60, 144)
TIMED = {"t": 5, "dt": 5}


def steps(fps, seconds, jitter=0.0):
    dt = np.full(round(seconds * fps), 1 / fps)
    return dt * np.random.default_rng(1).uniform(1 - jitter, 1 + jitter, len(dt))


def due(dt, waits, first=0.5):
    """Return the frames in which a timer that keeps what it overshoots fires, wait after wait."""
    left, out, waits = first, [], iter(waits)
    for h in dt.tolist():
        left -= h
        out.append(left <= 1e-12)
        left += next(waits) if out[-1] else 0.0
    return np.array(out)


def bursts(inside, after, many, times=40):
    return [after if (k + 1) % many == 0 else inside for k in range(times * many)]


@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize(("jitter", "printed"), [(0.0, False), (0.3, False), (0.3, True)])
def test_bursts_are_told_from_the_wait_after_them(jitter, printed, fps):
    dt = steps(fps, 12, jitter)
    fires = due(dt, bursts(0.15, 0.7, 3))
    columns = volley(dt, fires) | {"in_fire": np.ones(len(dt))}
    if printed:
        columns = {n: np.round(c, TIMED.get(n, 3)) for n, c in columns.items()}
    found = measure(take_of(columns, view="top", kind="shot"))
    assert found["shot.burst"].value == 3
    for metric, value in (("shot.cadence", 0.15), ("shot.cooldown", 0.7)):
        row = found[metric]
        assert abs(row.value - value) <= row.resolution + 1e-4, (metric, row.value)
    laws = {str(law.phase): law for law in recover_laws(take_of(columns, view="top", kind="shot"))}
    for phase, value in (("cadence", 0.15), ("cooldown", 0.7)):
        low, high = laws[phase].constant("seconds").between
        assert low - 1e-4 <= value <= high + 1e-4, phase


@pytest.mark.parametrize(("after", "burst"), [(0.20, None), (0.24, 3)])
def test_a_burst_is_a_wait_half_as_long_again(after, burst):
    dt = steps(144, 12)
    columns = volley(dt, due(dt, bursts(0.15, after, 3))) | {"in_fire": np.ones(len(dt))}
    row = measure(take_of(columns, view="top", kind="shot"))["shot.burst"]
    assert row.value == burst
    assert burst or "one pace" in row.reason


def test_a_cooldown_lies_between_presses_that_fail_and_those_that_work():
    dt = steps(60, 10)
    held = np.zeros(len(dt))
    fires, last = np.zeros(len(dt), dtype=bool), -9.0
    for k in range(30, len(dt) - 2, 15):  # a tap each quarter of a second
        held[k : k + 2] = 1
        if (k / 60 - last) >= 0.6:
            fires[k], last = True, k / 60
    found = measure(take_of(volley(dt, fires) | {"in_fire": held}, view="top"))
    row = found["shot.cooldown"]
    assert (row.value - row.resolution, row.value + row.resolution) == pytest.approx((0.5, 0.75))
    assert found["shot.cadence"].value is None
    assert "under one press" in found["shot.cadence"].reason
    calm = measure(take_of(volley(dt, due(dt, [2.0] * 9)) | {"in_fire": due(dt, [2.0] * 9) * 1.0},
                           view="top"))  # fmt: skip
    assert "too soon" in calm["shot.cooldown"].reason


@pytest.mark.parametrize("mistake", ["", "timer-in-frames"])
def test_both_timers_of_a_burst_are_held_against_the_rates(mistake):
    drill = {"kind": "shot", "name": "b", "view": "3d", "length": 12.0,
             "input": [{"at": 0.5, "until": 11.5, "fire": 1.0}]}  # fmt: skip
    values = {"burst": 3.0, "cadence": 0.2013, "cooldown": 0.8117, "mistakes": mistake}
    takes = [simulate(values, drill, kind="shot", frame_rate=rate) for rate in RATES]
    found = [cause for _, cause in frame_rates(takes).causes if cause.verdict != "note"]
    assert [one.name for one in found] == ([mistake] if mistake else [])
    if found:
        assert {term.row.name for term in found[0].terms} == {"cadence.seconds", "cooldown.seconds"}


@pytest.mark.parametrize("fps", some(RATES, 60))
@pytest.mark.parametrize("side", [1, -1])
def test_a_lead_is_that_of_the_triangle(side, fps):
    v, u, where = 30.0, 8.0, complex(20.0, -5.0 * side)
    dt = steps(fps, 3)
    fires = np.arange(len(dt)) == fps // 2
    t = np.cumsum(dt)
    target = where + 1j * side * u * (t - (fps // 2) / fps)  # where it is when the shot begins
    line = np.angle(where)
    wanted = math.degrees(math.asin(u * math.cos(line) / v))
    for ahead in (0.0, wanted):
        azimuth = math.degrees(line) + side * ahead
        columns = volley(dt, fires, speed=v, azimuth=azimuth) | {
            "in_fire": fires * 1.0, "target_x": target.real, "target_y": target.imag}  # fmt: skip
        found = measure(take_of(columns, view="top"))
        assert found["shot.lead"].value == pytest.approx(ahead, abs=1e-6)
        assert found["shot.lead_needed"].value == pytest.approx(wanted, rel=1e-6)
    still = measure(take_of(columns, view="top"), options=Options(target=(20.0, 3.0)))
    assert "does not move" in still["shot.lead"].reason
    slow = measure(take_of(columns | {"target_x": 20 + 60 * t}, view="top"))
    assert slow["shot.lead_needed"].value is None
    assert "no shot of that speed" in slow["shot.lead_needed"].reason


def test_what_moves_is_hit_where_it_has_gone_to():
    dt, u = steps(144, 4), -3.0
    t = np.cumsum(dt)
    extra = {"muzzle": [0.0, 1.0]}
    moving = {"target_x": 16 + u * t, "target_y": np.full(len(t), 3.0)}
    first = measure(take_of(lobs(dt, every=9.0) | moving, extra=extra))
    for elevation in ("low", "high"):
        angle = first[f"shot.{elevation}_elevation"].value
        again = measure(take_of(lobs(dt, every=9.0, elevation=angle) | moving, extra=extra))
        assert again["shot.miss"].value < 0.03
    assert first["shot.miss"].value > 0.5


def test_a_target_is_in_the_axes_of_the_log():
    columns = lobs(steps(60, 8), every=9.0)
    up = measure(
        take_of(columns, extra={"muzzle": [0.0, 1.0]}), options=Options(target=(12.0, 3.0))
    )
    turned = columns | {"y": -columns["y"], "vy": -columns["vy"]}
    down = measure(take_of(turned, up="-y", extra={"muzzle": [0.0, -1.0]}),
                   options=Options(target=(12.0, -3.0)))  # fmt: skip
    for metric in ("shot.miss", "shot.low_elevation", "shot.launch_speed"):
        assert down[metric].value == pytest.approx(up[metric].value), metric


@pytest.mark.parametrize(
    ("linear", "quadratic"), [(0.0, 0.0), (0.5, 0.0), (0.0, 0.03), (0.5, 0.03)]
)
@pytest.mark.parametrize("gravity", [0.0, 20.0])
def test_a_shot_arrives_when_its_path_is_there(gravity, linear, quadratic):
    flight = Flight(24.0, gravity, linear, quadratic)
    d, up = (9.0, 3.0) if gravity else (9.0, 0.0)
    time = np.linspace(0, 2, 20_001)
    elevation = aim(flight, d, up).elevations[0]
    v, step = np.array(24.0 * np.exp(1j * np.radians(elevation))), time[1]
    place = [0j]
    for _ in time[1:]:  # the middle of each small step
        half = v + step / 2 * (-1j * gravity - (linear + quadratic * abs(v)) * v)
        place.append(place[-1] + step * half)
        v = v + step * (-1j * gravity - (linear + quadratic * abs(half)) * half)
    x = np.array(place).real
    assert arrival(flight, elevation, d, up) == pytest.approx(np.interp(d, x, time), rel=1e-4)
    if gravity:
        assert np.interp(d, *path(flight, elevation, time)) == pytest.approx(up, abs=2e-3)


@pytest.mark.parametrize(("far", "hits"), [(23.9 / 0.8, True), (24.1 / 0.8, False)])
def test_drag_alone_ends_a_straight_shot(far, hits):
    found = aim(Flight(24.0, 0.0, 0.8), far, 0.0)
    assert bool(found.elevations) == hits
    assert found.beyond == pytest.approx(max(far - 30.0, 0.0))


TARGET = np.array([30.0, -8.0, 5.0])


def homing(place, v):
    line, way = (TARGET - place) / np.linalg.norm(TARGET - place), v / np.linalg.norm(v)
    return 20 * (line - line.dot(way) * way)


def lift(_, v):
    return 0.4 * np.cross(v, [0, 0, 1.0])


def thrust(_, v):
    return 6 * v / np.linalg.norm(v)


@pytest.mark.parametrize(
    ("force", "said"), [(homing, "homing"), (lift, "lift"), (thrust, "another rule")]
)
@pytest.mark.parametrize("digits", [None, 3])
def test_what_neither_gravity_nor_drag_explains_is_measured(digits, force, said):
    columns = steered(np.full(110, 1 / 60), force)
    if digits:
        columns = {n: np.round(c, TIMED.get(n, digits)) for n, c in columns.items()}
    extra = {"target": TARGET[[0, 2, 1]].tolist()}
    take = take_of(columns, view="3d", extra=extra)
    law = {str(one.phase): one for one in recover_laws(take)}["flight"]
    assert law.law == "none"
    assert law.reason.endswith(said) or f": {said}" in law.reason
    if force is lift:
        size = 0.4 * np.hypot(15.0, 2.0)  # it turns about the upright: its size stays
        assert law.misfit * 60 == pytest.approx(size, rel=0.02)


def test_shots_that_are_a_subject_each_spread_together(kickback, tmp_path):
    scatter = [-3.0, 1.0, 2.0, 0.0, 4.0, -4.0]
    names = ("t", "x", "y", "z", "vx", "vy", "vz")
    rows = [",".join((*names, "subject", "in_fire"))]
    for k, azimuth in enumerate(scatter):
        columns = lobs(steps(60, 2.5), every=9.0, azimuth=azimuth)
        rows += [
            ",".join(f"{columns[name][i]:.5f}" for name in names) + f",bolt-{k},1"
            for i in range(len(columns["t"]))
        ]
    kickback("record", "-", stdin="\n".join(rows).encode(), status=0)
    out = kickback("measure", "takes", "--only", "shot.spread", "--format", "json", status=0)[1]
    (row,) = [one for one in json.loads(out) if one["take"] == "6 takes"]
    one = measure(take_of(lobs(steps(60, 20), scatter=scatter, azimuth=0.0), view="3d"))
    assert row["value"] == pytest.approx(one["shot.spread"].value, rel=0.05)
    assert "6 shots" in row["reason"]
