"""A case on either side of each threshold: what is just enough, and what is just not."""

import numpy as np
import pytest

from conftest import take_of
from kickback.causes.clamped import Pace
from kickback.causes.constants import ConstantRow
from kickback.causes.evidence import _speed_power
from kickback.files.guess import guess_mapping
from kickback.files.options import ReadLimits
from kickback.files.read import raw_table
from kickback.framerate.analyse import frame_rates
from kickback.framerate.judge import _breaks
from kickback.judging.compare import compare_cells
from kickback.judging.samples import cells_of
from kickback.judging.verdicts import Rules
from kickback.kinds.examining import examine
from kickback.kinds.foot.contact import cleaned_contact
from kickback.kinds.foot.flights import find_flights
from kickback.kinds.foot.inputs import recorded_inputs
from kickback.kinds.foot.model.exercises import moves_drill
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.measuring import measure
from kickback.kinds.table import all_metrics, analyse
from kickback.laws.exact import fit_steps, split_by_speed
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.families.table import choices_of
from kickback.laws.keys import PhaseKey
from kickback.laws.observations import Observations, Stretch
from kickback.laws.select import select
from kickback.laws.steps import Steps
from kickback.laws.stretches import _unsettled
from kickback.metrics.metric import select_metrics
from kickback.motion.clock import EVEN, clock_of
from kickback.motion.grids import Printed, printed, shared
from kickback.motion.options import Options
from kickback.motion.pieces import find_breaks
from kickback.record.lines import many_frames
from kickback.takes.numeric import even_share, median, root_between, typical
from kickback.takes.quantities import (
    ACCELERATION,
    ANGLE,
    LENGTH,
    PER_TIME,
    RATIO,
    SPEED,
    TIME,
    Unit,
)
from truth.recurrence import during, play, steps

RUN = during((0.5, 3.0, 1))
STILL = during()


def run_of(seconds=4.0, rate=60, jumps=STILL, **how):
    return play(steps(rate, seconds), RUN, jumps, **how)


def codes(columns, options=None, **header):
    return [item.code for item in examine(take_of(columns, **header), options)]


@pytest.mark.parametrize(("share", "found"), [(0.05, True), (0.15, False)])
def test_a_flag_that_is_seldom_on_disagrees(share, found):
    columns = run_of(jumps=during((1.0, 1.3, 1)))
    columns["touch_ground"] = (np.arange(len(columns["t"])) < share * 200).astype(float)
    assert ("contact-disagrees" in codes(columns)) == found


@pytest.mark.parametrize(
    ("missing", "found"), [(0, []), (1, ["frames-dropped"]), (3, ["frames-dropped"])]
)
def test_one_frame_that_is_missing_is_a_gap(missing, found):
    columns = run_of()
    keep = np.ones(len(columns["t"]), dtype=bool)
    keep[220 : 220 + missing] = False
    assert codes({name: c[keep] for name, c in columns.items()}) == found


@pytest.mark.parametrize(("long", "found"), [(1.4, []), (2.4, []), (2.7, ["hitch"])])
def test_a_frame_of_more_than_two_and_a_half_is_a_hitch(long, found):
    columns = {n: c for n, c in run_of().items() if n != "dt"}
    columns["t"] = columns["t"] + np.where(np.arange(240) >= 220, (long - 1) / 60, 0.0)
    assert codes(columns) == found


@pytest.mark.parametrize(("times", "leaps"), [(2.5, []), (2.9, []), (6.0, [100])])
def test_a_step_alone_in_its_size_is_a_leap(times, leaps):
    x = np.cumsum(np.where(np.arange(200) == 100, times, 1.0))
    take = take_of({"t": np.arange(1, 201) / 60, "x": x, "y": 0 * x})
    assert find_breaks(take).tolist() == leaps


@pytest.mark.parametrize(("extra", "leaps"), [(0.0, []), (1.4, []), (1.6, [100])])
def test_a_step_beyond_its_velocity_is_a_leap(extra, leaps):
    """By half again of the highest speed's step, here 1."""
    speed = np.linspace(20, 60, 200)
    x = np.cumsum(speed) / 60
    x[100:] += extra
    take = take_of({"t": np.arange(1, 201) / 60, "x": x, "y": 0 * x, "vx": speed, "vy": 0 * x})
    assert find_breaks(take).tolist() == leaps


@pytest.mark.parametrize(("frames", "found"), [(4, False), (6, True)])
def test_vertical_speed_that_grows_on_the_ground(frames, found):
    columns = run_of()
    columns["vy"] = columns["vy"].copy()
    columns["vy"][100 : 100 + frames] = -0.1 * np.arange(1, frames + 1)
    assert ("speed-on-ground" in codes(columns)) == found


@pytest.mark.parametrize(("seconds", "found"), [(0.25, False), (0.36, True)])
def test_hanging_in_the_air_is_odd_from_a_third_of_a_second(seconds, found):
    n, fall = np.arange(300), 100 + round(60 * seconds)
    drop = np.maximum(0, n - fall) / 60
    y = 10 - 15 * drop**2
    columns = {
        "t": (n + 1) / 60,
        "x": n * 0.1,
        "y": np.maximum(y, 0),
        "touch_ground": 1.0 * ((n < 100) | (y <= 0)),
    }
    assert ("no-fall" in codes(columns)) == found


@pytest.mark.parametrize(
    ("offset", "levels", "found"),
    [(0.03, 0, False), (0.07, 0, True), (0.3, 0.01, True), (0.3, 0.06, False)],
)
def test_ground_off_the_tiles(offset, levels, found):
    columns = run_of(jumps=during((1.0, 1.3, 1)))
    y = columns["y"] + offset
    y[columns["t"] > 2.5] += levels
    y[columns["t"] > 3.0] -= np.minimum(20 * (columns["t"][columns["t"] > 3.0] - 3.0) ** 2, 2.0)
    flag = columns["touch_ground"] * ((columns["t"] < 3.0) | (columns["t"] > 3.34))
    columns = {**columns, "y": y, "touch_ground": flag}
    assert ("probe-centre" in codes(columns, Options(tile=1.0))) == found


@pytest.mark.parametrize(
    ("amount", "level"), [(0.09, 0), (0.11, 1), (0.94, 1), (0.96, 2), (-0.96, -2), (-0.11, -1)]
)
def test_how_far_a_stick_is_pressed(amount, level):
    columns = {"t": np.arange(1, 5) / 60, "x": np.zeros(4), "y": np.zeros(4)}
    inputs = recorded_inputs(take_of({**columns, "in_move_x": np.full(4, amount)}))
    assert inputs.move.tolist() == [level] * 4


@pytest.mark.parametrize(("frames", "filled"), [(1, True), (2, True), (3, False)])
def test_a_gap_of_a_frame_or_two_on_the_ground_is_flicker(frames, filled):
    touch = np.ones(60, dtype=bool)
    touch[20 : 20 + frames] = False
    assert cleaned_contact(touch, np.zeros(60), np.arange(1, 61) / 60).all() == filled


@pytest.mark.parametrize(("first", "jump"), [(0.0, False), (1e-12, False), (0.02, True)])
def test_a_flight_that_begins_upward_is_a_jump(first, jump):
    y = np.array([0, 0, first, 2 * first, -1, -2, -3, -3], dtype=float)
    flights = find_flights(np.array([1, 1, 0, 0, 0, 0, 0, 1], dtype=bool), y)
    assert flights.jump.tolist() == [jump]


@pytest.mark.parametrize(("spread", "even"), [(0.5 * EVEN, True), (2 * EVEN, False)])
def test_frames_are_even_up_to_a_millionth(spread, even):
    t = np.cumsum(np.where(np.arange(50) == 20, 1 + spread, 1.0)) / 60
    take = take_of({"t": t, "x": t, "y": t})
    assert clock_of(take, Printed(), Printed()).even == even


@pytest.mark.parametrize(("share", "rhythm"), [(0.1, True), (0.3, False)])
def test_most_frames_alike_make_a_rhythm(share, rhythm):
    long = np.arange(100) % 10 < 10 * share
    t = np.cumsum(np.where(long, 1.3, 1.0)) / 60
    assert clock_of(take_of({"t": t, "x": t, "y": t}), Printed(), Printed()).rhythmic == rhythm


@pytest.mark.parametrize(("pace", "wanted"), [(0.997, None), (0.98, 0.98)])
def test_game_time_that_is_slower_than_the_wall_clock(pace, wanted):
    t = np.arange(1, 101) / 60
    take = take_of({"t": t, "dt": np.full(100, pace / 60), "x": t, "y": t})
    found = clock_of(take, Printed(), Printed()).pace()
    assert found is None if wanted is None else found == pytest.approx(wanted)


@pytest.mark.parametrize("grid", [1000.0, 1.0, 0.25, 0.01, 1e-6])
@pytest.mark.parametrize("shift", [0.0, 0.37])
def test_a_printed_grid_is_told_at_every_scale(grid, shift):
    rng = np.random.default_rng(3)
    smooth = np.cumsum(rng.uniform(2, 3, 400)) * grid * 0.7
    assert printed(np.round(smooth / grid) * grid).grid == pytest.approx(grid)
    assert printed(smooth + shift * grid).grid == 0
    exact = Printed(grid=0.0, lattice=2 * grid)
    assert shared({"x": Printed(grid=grid, lattice=grid), "y": exact}) == {"x": grid, "y": grid}
    fine = Printed(grid=0.0, lattice=grid / 2)
    assert shared({"x": Printed(grid=grid, lattice=grid), "y": fine}) == {"x": grid, "y": 0.0}


@pytest.mark.parametrize(
    ("values", "middle"), [([3.0], 3.0), ([1.0, 4.0], 2.5), ([5.0, 1.0, 2.0], 2.0)]
)
def test_the_middle_of_values(values, middle):
    assert median(np.array(values)) == typical(np.array(values)) == middle
    assert len(even_share(np.zeros(50_000))) == 50_000
    assert len(even_share(np.zeros(100_000))) == 50_000


def ramp(n=12, change=0.5):
    v = 1 + change * np.arange(n + 1)
    return Steps(v0=v[:-1], v1=v[1:], dt=np.full(n, 1 / 60), row=np.arange(1, n + 1), usual=1 / 60)


@pytest.mark.parametrize(("many", "law"), [(3, "none"), (4, "constant-acceleration")])
def test_four_steps_tell_a_law(many, law):
    assert fit_steps(ramp().between(0, many), 0.0).law == law


@pytest.mark.parametrize(("noise", "law"), [(1e-4, "none"), (2e-2, "constant-acceleration")])
def test_steps_within_their_noise_follow_a_law(noise, law):
    exact = ramp()
    bent = Steps(v0=exact.v0, v1=exact.v1 + 0.01 * (-1) ** np.arange(12), dt=exact.dt,
                 row=exact.row, usual=exact.usual)  # fmt: skip
    assert fit_steps(bent, noise).law == law


@pytest.mark.parametrize(("near", "far", "told"), [(0.2, 0.5, True), (0.5, 0.2, False)])
def test_a_lighter_rule_near_the_apex_is_split_off(near, far, told):
    v = [6.0]
    while v[-1] > -3:
        v.append(v[-1] - (near if abs(v[-1]) < 1.5 else far))
    v = np.array(v)
    n = len(v) - 1
    every = Steps(v0=v[:-1], v1=v[1:], dt=np.full(n, 1 / 60), row=np.arange(1, n + 1), usual=1 / 60)
    split = split_by_speed(every, 0.0)
    assert (split is not None) == told
    if split is not None:
        quick, slow, speed, many, few = split
        assert quick.values["acceleration"] == pytest.approx(-60 * far)
        assert slow.values["acceleration"] == pytest.approx(-60 * near)
        assert 1.0 < speed < 2.0
        assert many + few == n


@pytest.mark.parametrize(("drift", "settled"), [(0.0, True), (0.002, True), (0.01, False)])
def test_a_speed_settles_where_its_last_third_stays(drift, settled):
    rng = np.random.default_rng(5)
    v = np.concatenate((np.linspace(0, 8, 30), 8 + drift * np.arange(60)))
    found = _unsettled(v + rng.normal(0, 0.05, 90), 0.05)
    assert (found is not None) == settled
    if settled:
        assert 25 <= found <= 45


@pytest.mark.parametrize(("left", "fine"), [(1.0, True), (1.6, False)])
def test_what_is_left_of_a_path_is_no_more_than_its_noise(left, fine):
    rng = np.random.default_rng(1)
    t = np.arange(200) / 60
    p = 5 * t + rng.normal(0, 0.1 * left, 200)
    stretch = Stretch(v=np.full(200, 5.0), dt=np.diff(t, prepend=t[0]), p=p)
    data = Observations.noisy([stretch], 0.1, 1 / 60, 0.1)
    assert (select(data, choices_of([CONSTANT_SPEED], data)).family is CONSTANT_SPEED) == fine


@pytest.mark.parametrize(
    ("p", "low", "high", "breaks"),
    [(0.49, 0.4, 0.6, False), (0.5, 0.26, 0.7, True), (0.6, 0.24, 0.9, False), (-1.0, -1.2, -0.26, True),
     (-1.0, -1.2, -0.24, False), (None, None, None, False)],
)  # fmt: skip
def test_an_exponent_breaks_from_a_half_and_clear_of_a_quarter(p, low, high, breaks):
    assert _breaks(p, low, high) == breaks


def test_what_a_frame_more_would_change():
    h, v0, g, top = 1 / 60, 12.0, 40.0, 8.0
    columns = play(
        steps(60, 4), during((0.2, 4, 1)), during((2, 2.6, 1)), theta=0.5, v0=v0, g=g, top=top
    )
    slack = {row.metric: row.frame_shift for row in measure(take_of(columns))}
    wanted = {
        "jump.takeoff_speed": g * h, "jump.apex_height": v0 * h, "jump.time_to_apex": h,
        "jump.air_time": h, "jump.distance": top * h, "jump.landing_speed": g * h,
        "jump.flight_time": h, "jump.drop": v0 * h, "run.time_to_90": h,
    }  # fmt: skip
    for name, value in wanted.items():
        assert slack[name] == pytest.approx(value, rel=0.05), name


@pytest.mark.parametrize("keep", [60, 90, 240])
def test_a_cure_keeps_the_feel_at_rates_that_no_take_has(keep):
    takes = [simulate({"mistakes": "acceleration-per-frame"}, frame_rate=r) for r in (30, 60, 144)]
    [(_, cause)] = [
        one for one in frame_rates(takes, keep=keep).causes if one[1].verdict == "breaks"
    ]
    assert cause.corrected["speed-up.acceleration"] == pytest.approx(40 * keep / 60, rel=1e-6)
    assert cause.corrected["brake.acceleration"] == pytest.approx(-64 * keep / 60, rel=1e-6)


def test_a_slow_game_is_told_by_its_slow_rates():
    pace = Pace(rate=np.array([20.0, 60.0]), pace=np.array([0.5, 1.0]), knee=40.0)
    assert pace.text == "the game runs at 50% of its pace at 20 frames/s: slow below 40 frames/s"


def test_a_dash_in_rounded_positions_ends_after_its_peak():
    take = simulate({}, moves_drill(), frame_rate=60)
    pixels = {
        n: np.round(64 * c) if n in "xy" else c for n, c in take.columns.items() if n[0] != "v"
    }
    exact, rough = analyse(take).whole.dashes, analyse(take_of(pixels)).whole.dashes
    many = len(exact)
    assert rough.press[:many].tolist() == exact.press.tolist()
    assert np.all(rough.stop > rough.press)
    assert np.all(np.abs(rough.stop[:many] - exact.stop) <= 24)


@pytest.mark.parametrize(
    ("block", "names", "many"),
    [
        (b'{"t": 1}\n{"t": 2}\n', None, 2),
        (b'{"t": 1, "subject": "a"}\n', None, None),
        (b"[1, 2]\n[3, 4]\n", ["t", "x"], 2),
        (b"[1, 2]\n[3]\n", ["t", "x"], None),
        (b"[1, 2]\n\n", ["t", "x"], None),
        (b"[1, [2]]\n", ["t", "x"], None),
        (b"[1, 2]\n{}\n", ["t", "x"], None),
    ],
)
def test_many_plain_frames_are_read_at_once(block, names, many):
    rows = many_frames(block, names)
    assert rows is None if many is None else len(rows) == many


@pytest.mark.parametrize(
    ("unit", "text"),
    [
        (LENGTH.within("px"), "px"), (SPEED.within("m"), "m/s"), (ACCELERATION.within("m"), "m/s²"),
        (PER_TIME.within("m"), "1/s"), (RATIO.within("m"), ""), (Unit(TIME, "m", milli=True), "ms"),
        ((ANGLE / TIME).within("m"), "deg/s"), (SPEED.within("m") * TIME, "m"),
        (LENGTH.within("m") / TIME / TIME, "m/s²"), ((LENGTH**3).within("m"), "m³"),
    ],
)  # fmt: skip
def test_units_have_arithmetic(unit, text):
    assert str(unit) == text


@pytest.mark.parametrize(
    ("factor", "verdict"), [(1.0, "same"), (1.015, "moved"), (1.03, "regressed")]
)
def test_without_a_budget_two_percent_pass_the_gate(factor, verdict):
    base = simulate({"run_speed": 8.0}, frame_rate=60)
    other = simulate({"run_speed": 8.0 * factor}, frame_rate=60)
    metrics = select_metrics(all_metrics(), "run.top_speed")
    sides = [cells_of([analyse(one)], metrics) for one in (base, other)]
    result = compare_cells(*sides, metrics, Rules(gate=True))
    rows = {row.metric: row for row in result.rows}
    assert rows["run.top_speed"].verdict == verdict
    assert result.failed is (verdict == "regressed")


@pytest.mark.parametrize(
    ("names", "taken"), [("t,X,Y,wind_x", "X"), ("t,X,Y,pos_x", "pos_x"), ("t,wind_x,Y,0", "0")]
)
def test_a_bare_axis_is_a_position_where_no_column_says_so(names, taken):
    data = f"{names}\n0.0,1,2,3\n0.1,2,4,7\n0.2,4,5,9\n".encode()
    assert guess_mapping(raw_table(data, "a.csv", ReadLimits())).columns["x"] == taken


RATES = np.array([30.0, 60.0, 120.0])


@pytest.mark.parametrize(("powers", "shift"), [((1, 1), 1), ((1, 0), 0), ((0, 0), 0), ((0, 1), 0)])
def test_speeds_that_all_go_with_the_rate_lack_a_step(powers, shift):
    rows = [
        ConstantRow(
            phase=PhaseKey(base="rest", part=str(at)), role=ACROSS, constant="speed",
            sort="speed", unit=SPEED.within("m"), family=CONSTANT_SPEED, rate=RATES, frame=1 / RATES,
            value=8 * RATES**power, stderr=np.zeros(3),
        )
        for at, power in enumerate(powers)
    ]  # fmt: skip
    assert _speed_power(rows) == shift


@pytest.mark.parametrize(
    ("of", "low", "high", "wanted"),
    [
        (lambda v: v * v - 2, 0.0, 2.0, 2**0.5),
        (lambda v: 1 - v, 0.5, 3.0, 1.0),
        (lambda v: v**3 + v, -1.0, 4.0, 0.0),
    ],
)
def test_a_place_of_no_value_is_found_to_the_last_bit(of, low, high, wanted):
    found = root_between(of, low, high)
    assert found == pytest.approx(wanted, rel=4e-16, abs=1e-300)
