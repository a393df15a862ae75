"""Cars by other hands: how a wheel turns them, what rolls beside a push, and what lacks its step."""

import numpy as np
import pytest
from benchmarks.cars import car_of, drive, hands

from conftest import quick, take_of
from kickback import measure, recover_laws
from kickback.framerate.analyse import frame_rates
from kickback.judging.compare import compare
from kickback.metrics.by_speed import by_speed

PLAIN = {"body": "along", "grip": 0.0, "drag": 0.6, "quadratic": 0.0, "rolling": 0.0, "top": 0.0,
         "order": 0, "kept": True, "wheel": 0.0, "turn": "yaw", "yaw": 90.0, "curvature": 9.0,
         "full": 4.0, "half": 25.0, "lock": 30.0}  # fmt: skip
PRINTED = {None: {}, "fine": {"t": 6, "dt": 6, "else": 4}, "coarse": {"t": 3, "dt": 3, "else": 2}}


def car(**own):
    return car_of(np.random.default_rng(5))._replace(**{**PLAIN, **own})


def driven(one, rate=60, uneven=0.0, printed=None, bad=(), hand=0):
    rng = np.random.default_rng([7, hand])
    held = hands(rng)
    steps = rng.uniform(1 - uneven, 1 + uneven, 30 * rate) / rate
    columns = drive(one, steps, held, frozenset(bad))
    digits = PRINTED[printed]
    if digits:
        columns = {n: np.round(c, digits.get(n, digits["else"])) for n, c in columns.items()}
    return take_of(columns, view="top")


def laws(take):
    return {str(law.phase): law for law in recover_laws(take)}


def near(law, **wanted):
    """Whether a law has these constants, and no others of its own, within four standard errors."""
    told = {one.name: one for one in law.constants if one.name not in {"factor", "exponent"}}
    return set(told) == set(wanted) and all(
        abs(told[n].value - v) <= 4 * told[n].stderr + 1e-3 * abs(v) for n, v in wanted.items()
    )


TURNS = {
    "yaw": {"yaw_rate": 90.0},
    "curvature": {"curvature": 9.0},
    "capped": {"yaw_rate": 90.0, "capped_speed": 10.0},
    "full": {"yaw_rate": 90.0, "full_speed": 14.0},
    "half": {"yaw_rate": 90.0, "half_speed": 25.0},
    "lock": {"curvature": 9.0, "lock": 30.0},
}


@quick(4)
@pytest.mark.parametrize("wheel", [0.0, 7.0])
@pytest.mark.parametrize("turn", TURNS)
@pytest.mark.parametrize(
    ("uneven", "printed"), [(0.0, None), (0.2, None), (0.2, "fine"), (0.1, "coarse")]
)
def test_how_a_wheel_turns_is_told_with_what_delays_it(uneven, printed, turn, wheel):
    found = laws(driven(car(turn=turn, wheel=wheel, full=14.0), 60, uneven, printed))
    wanted = dict(TURNS[turn])
    if not wheel:  # at full lock or straight these are the same
        wanted = {{"capped_speed": "full_speed"}.get(n, n): v for n, v in wanted.items()}
        wanted.pop("lock", None)
        assert "steer response" not in found
    else:
        assert near(found["steer response"], rate=wheel)
        assert found["steer response"].clock == ("second" if uneven else "even")
        which = "alike here" if turn == "yaw" else "the wheel goes after"
        assert which in found["steer response"].reason
    assert near(found["steer"], **wanted)
    assert found["steer"].clock == ("second" if uneven else "even")


@pytest.mark.parametrize(("turn", "power"), [("yaw", 1.0), ("curvature", 0.0)])
def test_radii_are_held_over_the_speed_and_the_quickest_are_told(turn, power):
    found = measure(driven(car(turn=turn), uneven=0.1, printed="fine"))
    row = found["steer.radius_power"]
    assert abs(row.value - power) <= row.resolution < 0.1
    radius, shown = found["steer.radius"], found["steer.radius"].occurrences
    speeds = shown.given["speed"]
    assert radius.n < len(speeds)
    assert "other speeds with --each" in radius.reason
    true = speeds[speeds >= 0.9 * speeds.max()] / np.radians(90) if power else 1 / np.radians(9)
    assert abs(radius.value - np.median(true)) <= radius.resolution < 0.1 * radius.value
    bins = by_speed(found.rows)
    assert bins[0].high <= bins[-1].low
    for one in bins:
        inside = shown.value[(speeds >= one.low) & (speeds < one.high)]
        assert one.counts.get("steer.radius", 0) == len(inside)
        assert not len(inside) or one.values["steer.radius"] == np.median(inside)


def test_what_rolls_in_a_take_that_coasts_rolls_in_those_that_do_not():
    one = car(drag=0.0, rolling=2.5, top=19.0)
    columns = {rate: dict(driven(one, rate, bad=("push",)).columns) for rate in (30, 60, 144)}
    for rate in (30, 60):  # the throttle is never let go in two of three
        keep = int(4 * rate)
        columns[rate] = {n: c[:keep] for n, c in columns[rate].items()}
    takes = [take_of(c, view="top") for c in columns.values()]
    assert "coast" not in laws(takes[0])
    assert laws(takes[0])["speed-up"].law == "constant-acceleration"
    told = {cause.name for _, cause in frame_rates(takes).causes}
    assert told - {"integration-order"} == {"acceleration-per-frame"}


def test_a_turning_that_follows_nothing_known_is_not_told():
    columns = dict(driven(car(), uneven=0.2).columns)
    columns["heading"] = columns["heading"] + np.cumsum(
        np.random.default_rng(1).normal(0, 0.3, len(columns["t"]))
    )
    (law,) = [
        one for one in recover_laws(take_of(columns, view="top")) if "steer" in str(one.phase)
    ]
    assert law.law == "none"
    assert "in no known way" in law.reason


@pytest.mark.parametrize(("order", "wheel"), [(0, 0.0), (1, 7.0), (2, 7.0)])
def test_what_coasting_shows_to_roll_stands_beside_a_push_and_a_brake(order, wheel):
    one = car(rolling=3.0, order=order, wheel=wheel)
    for uneven, printed in ((0.0, None), (0.2, "fine")):
        found = laws(driven(one, 60, uneven, printed))
        kept = np.exp(-0.6 / 60)
        push = one.push * (1 if order == 0 else 1 / kept)  # a push after the drag is kept whole
        for phase, force in (("speed-up", push), ("brake", -one.brake)):
            told = found[phase]
            assert told.value("rolling") == pytest.approx(3.0, rel=0.02)
            assert told.value("acceleration") == pytest.approx(force, rel=0.02)
            assert "these frames show net alone" in told.reason
            settles = [one.what for one in told.family.follows(told)]
            assert settles == (["settles at about"] if phase == "speed-up" else [])


def test_what_rolls_alone_holds_no_push_at_any_speed():
    found = laws(driven(car(rolling=3.0, drag=0.0, top=15.0)))
    assert found["speed-up"].value("net") == pytest.approx(
        found["speed-up"].value("acceleration") - 3
    )
    assert not found["speed-up"].family.follows(found["speed-up"])
    assert found["cruise"].value("speed") == pytest.approx(15.0)


@pytest.mark.parametrize("back", [3.0, 6.0])
def test_what_rolls_otherwise_forward_and_back_stands_beside_no_push(back):
    step, v, speeds, gas = 1 / 60, 0.0, [], []
    for frame in range(1800):
        phase = frame * step % 14
        gas.append(1.0 if phase < 2 else -1.0 if 7 <= phase < 9 else 0.0)
        v += gas[-1] * 10 * step
        v = np.sign(v) * max(0.0, abs(v) - (3.0 if v > 0 else back) * step)
        speeds.append(v)
    still, n = np.zeros(1800), 1800
    columns = {"t": step * np.arange(1, n + 1), "dt": np.full(n, step), "vx": np.array(speeds),
               "x": step * np.cumsum(speeds), "y": still, "vy": still, "heading": still,
               "in_throttle": np.array(gas), "in_steer": still}  # fmt: skip
    found = laws(take_of(columns, view="top"))
    net = found["speed-up"]
    assert ("rolling" in {one.name for one in net.constants}) == (back == 3.0)
    assert net.value("net" if back == 3.0 else "acceleration") == pytest.approx(7.0)


CAUSES = {
    (): set(),
    ("push",): {"acceleration-per-frame"},
    ("rolling",): {"acceleration-per-frame"},
    ("brake",): {"acceleration-per-frame"},
    ("steering",): {"steering-per-frame"},
    ("wheel",): {"factor-per-frame"},
    ("wheel first order",): {"first-order-factor"},
    ("push", "steering"): {"acceleration-per-frame", "steering-per-frame"},
}


@quick(3)
@pytest.mark.parametrize("bad", CAUSES)
@pytest.mark.parametrize("printed", [None, "fine"])
def test_mistakes_of_cars_are_named_from_drives_that_are_never_alike(printed, bad):
    one = car(rolling=3.0, drag=0.0, top=15.0, wheel=7.0)
    takes = [driven(one, rate, 0.0, printed, bad, hand=rate) for rate in (30, 60, 144)]
    found = frame_rates(takes)
    assert {cause.name for _, cause in found.causes} - {"integration-order"} == CAUSES[bad]
    assert found.failed == bool(bad) or bad == ("wheel first order",)  # that moves too little


def test_turns_at_other_speeds_are_no_change():
    one = car(turn="half", wheel=7.0)
    sides = [[driven(one, hand=hand)] for hand in (1, 2)]
    told = {row.metric for row in compare(*sides).rows if row.verdict in {"changed", "lost", "new"}}
    assert not {name for name in told if name.startswith("steer.")}
    assert measure(sides[0][0])["steer.yaw_rate"].value is not None
