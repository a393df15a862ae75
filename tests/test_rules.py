"""Small rules of the parts, each against what it says in closed form."""

import json

import numpy as np
import pytest

from conftest import take_of
from kickback.causes.cause import Term
from kickback.causes.clamped import _POWERS, _common_share
from kickback.causes.constants import ConstantRow
from kickback.causes.evidence import told
from kickback.causes.table import CAUSES
from kickback.files.csv_text import _without_cut_line
from kickback.files.guess import guess_mapping
from kickback.files.mapping import parse_mapping
from kickback.files.options import ReadLimits, ReadOptions
from kickback.files.read import _project_mapping, raw_table
from kickback.framerate.analyse import frame_rates
from kickback.framerate.single import _suspected
from kickback.judging.compare import compare
from kickback.kinds.examining import examine
from kickback.kinds.foot.effects import takeoff_for_midpoint
from kickback.kinds.foot.laws.recover import _agree
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.families.moments import IMPULSE
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.families.table import choices_of
from kickback.laws.fitter import Fitter
from kickback.laws.keys import PhaseKey
from kickback.laws.observations import Observations, Stretch
from kickback.laws.record import Constant, Law
from kickback.laws.select import select
from kickback.laws.steps import Steps
from kickback.laws.stretches import _unsettled
from kickback.motion.between import _first_order, _linear, _per_frame
from kickback.motion.grids import fitted_speed, printed
from kickback.motion.options import Options
from kickback.record.addresses import Scheme
from kickback.record.ledger import Finished, Ledger
from kickback.record.session import Session
from kickback.takes.quantities import ACCELERATION, SPEED
from kickback.takes.record import replace
from truth.recurrence import during, play, steps

RUN = during((0.5, 3.0, 1))


def findings(columns, **header):
    return examine(take_of(columns, **header))


@pytest.mark.parametrize(
    ("long", "said"),
    [(2.05, "1 frame is missing"), (2.15, None), (3.0, "2 frames are missing"),
     (3.3, "a frame of 55 ms among ones of 16.7 ms at 1.05")],
)  # fmt: skip
def test_what_a_long_frame_is(long, said):
    columns = play(steps(60, 3), RUN, during())
    columns["t"] = columns["t"] + np.where(np.arange(len(columns["t"])) >= 60, (long - 1) / 60, 0)
    columns["dt"] = np.full(len(columns["t"]), 1 / 60)
    found = [item.message for item in findings(columns) if item.code in {"frames-dropped", "hitch"}]
    assert len(found) == (said is not None)
    assert said is None or said in found[0]


@pytest.mark.parametrize(
    ("after", "wraps"), [(6.0, True), (6.5, True), (7.0, False), (-6.0, False)]
)
def test_a_wrap_goes_on_as_before(after, wraps):
    step = np.concatenate((np.full(100, 6.0), [-580.0], np.full(90, after)))
    columns = {"t": np.arange(1, 192) / 60, "x": np.cumsum(step), "y": np.zeros(191)}
    found = {item.code for item in findings(columns)}
    assert ("screen-wrap" in found) == wraps
    assert ("teleport" in found) != wraps


@pytest.mark.parametrize(
    ("names", "up", "view"),
    [
        ("t,X,Y,Z", "+y", "3d"),
        ("t,X,Y", "+y", "side"),
        ("t,X,Z", "+z", "side"),
        ("t,X", "+y", "side"),
    ],
)
def test_which_way_a_guess_takes_for_up(names, up, view):
    data = f"{names}\n0,1,2,3\n0.1,2,4,7\n0.2,4,5,9\n".encode()
    if names.count(",") < 3:
        data = "\n".join(line.rsplit(",", 3 - names.count(","))[0] if at else line
                         for at, line in enumerate(data.decode().split("\n"))).encode()  # fmt: skip
    header = guess_mapping(raw_table(data, "a.csv", ReadLimits())).header
    assert (header["up"], header["view"]) == (up, view)


def test_a_rounded_top_speed_is_known_to_its_blur_over_the_plateau():
    columns = play(steps(60, 4), RUN, during())
    take = take_of({"t": columns["t"], "x": np.round(columns["x"] * 64), "y": np.zeros(240)})
    short, long = (
        measure(take, ["run.top_speed"], Options(plateau_time=time))["run.top_speed"].resolution
        for time in (0.2, 0.4)
    )
    assert long == pytest.approx(short / 2, rel=1e-6)


def row(sort, value, phase="speed-up", part="", rates=(30.0, 60.0, 120.0), family=None, name=None):
    return ConstantRow(
        phase=PhaseKey(base=phase, part=part), role=UP, constant=name or sort, sort=sort,
        unit=ACCELERATION.within("m"), family=family or CONSTANT_ACCELERATION,
        rate=np.array(rates), frame=1 / np.array(rates), value=np.asarray(value, dtype=float),
        stderr=np.zeros(len(value)),
    )  # fmt: skip


def test_what_shows_a_cause_is_said_once():
    terms = [Term(row=row("acceleration", [10, 20, 40]), power=1)]
    assert told(CAUSES[0], terms, "said").evidence == "said"
    assert "∝ rate^+1" in told(CAUSES[0], terms).evidence
    takes = [simulate({"mistakes": "gravity-per-frame"}, frame_rate=r) for r in (30, 60, 144)]
    [record] = [one for one in frame_rates(takes).to_records()
                if one["kind"] == "cause" and one["verdict"] == "breaks"]  # fmt: skip
    assert "∝ rate" in record["reason"]


@pytest.mark.parametrize(
    ("sorts", "found"),
    [(("acceleration", "rate"), True), (("acceleration", "acceleration"), False),
     (("acceleration", "speed"), False)],
)  # fmt: skip
def test_a_slow_game_is_shown_by_two_sorts_of_constants(sorts, found):
    rates = np.array([10.0, 30.0, 60.0])
    rows = [row(sort, [5, 10, 10], part=str(at), rates=rates) for at, sort in enumerate(sorts)]
    other = row("gravity", [1, 2], rates=(30.0, 60.0))
    share = _common_share([*rows, other], _POWERS)
    assert (share is not None) == found
    if found:
        assert share[0] == pytest.approx(rates)
        assert share[1] == pytest.approx([0.5, 1, 1])
        assert share[2] == pytest.approx([20, 30, 60])


def test_the_takeoff_that_keeps_the_highest_frame():
    rates, g, v, keep, theta = np.array([30.0, 60.0, 120.0]), 40.0, 13.0, 60.0, 1.0
    rows = [
        row("speed", [v] * 3, phase="takeoff", family=IMPULSE, name="speed", rates=rates),
        row("gravity", [-g] * 3, phase="rise", name="acceleration", rates=rates),
    ]
    found = takeoff_for_midpoint(rows, theta, keep)
    h, n = 1 / keep, np.arange(1, 200)
    wanted = np.max(v * n * h - g * h * h * n * (n + 1) / 2)
    assert np.max(found * n * h - g * h * h * n * n / 2) == pytest.approx(wanted, rel=1e-9)
    assert found < v


def law(**constants):
    made = tuple(Constant(name=name, value=value, unit=SPEED.within("m"), stderr=error)
                 for name, (value, error) in constants.items())  # fmt: skip
    return Law(take="a", role=ACROSS, phase=PhaseKey(base="rest"), start=0.0, end=1.0, axis="x",
               family=CONSTANT_ACCELERATION, constants=made)  # fmt: skip


def test_the_range_of_an_exponent_is_two_errors_either_way():
    found = _suspected(CAUSES[0], [law(exponent=(0.9, 0.05))])
    assert (found.low, found.high) == pytest.approx((0.8, 1.0))


@pytest.mark.parametrize(
    ("other", "error", "same"), [(10.0, 0.0, True), (10.5, 0.0, False), (10.5, 1.0, True)]
)
def test_two_rises_agree_within_their_errors(other, error, same):
    one, two = law(acceleration=(10.0, error)), law(acceleration=(other, error))
    assert _agree(one, two) == same


@pytest.mark.parametrize(("name", "port"), [("a1", 80), ("tcp", 0), ("tcp", 65536), ("", 80)])
def test_a_source_without_a_name_or_a_port_fails_at_once(name, port):
    with pytest.raises(TypeError, match="incomplete"):
        Scheme(name=name, port=port, make=print)
    Scheme(name="tcp", port=80, make=print)


@pytest.mark.parametrize(
    ("text", "cut"),
    [("t,x\n0,10\n1,20\n2,30\n3,4", True), ("t,x\n0,10\n1,20\n2,30\n3,40", False),
     ("t,x\n0,10\n1,20\n2,30\n  ", False), ("t,x", False)],
)  # fmt: skip
def test_a_last_line_that_is_cut(text, cut):
    kept, said = _without_cut_line(text.encode(), "a.csv")
    assert bool(said) == cut
    assert kept == (text.rpartition("\n")[0] + "\n" if cut else text).encode()


@pytest.mark.parametrize(("header", "used"), [({}, True), ({"mapping": "b"}, False), (None, True)])
def test_a_log_that_names_a_mapping_keeps_it(header, used):
    columns = {"x": "px", "t": "time"}
    options = ReadOptions(project_mapping=parse_mapping({"columns": columns}, "the project"))
    text = "time,px\n0,1\n1,2\n"
    if header is not None:
        text = f"#kickback {json.dumps({'kickback': 1, **header})}\n{text}"
    table = raw_table(b"time,px\n0,1\n1,2\n", "a.csv", ReadLimits())
    table = table if header is None else type(table)(
        source="a", header=header, columns=table.columns, lines=table.lines)  # fmt: skip
    assert (_project_mapping(table, options) is not None) == used


@pytest.mark.parametrize("span", [0.5, 2.0])
def test_a_steady_speed_in_rounded_positions_is_known_to_its_ends(span):
    t = np.linspace(0, span, 100)
    stretch = Stretch(v=np.full(100, 3.0), dt=np.diff(t, prepend=t[0]), p=3 * t)
    data = Observations.noisy([stretch], 1e-3, t[1], 1e-3)
    found = select(data, choices_of([CONSTANT_SPEED], data))
    assert found.stderr["speed"] == pytest.approx(3**0.5 * 1e-3 / span)


def test_speeds_between_frames_follow_their_law():
    tv = np.array([0.0, 0.02, 0.03, 0.05])
    i, rest = np.array([2]), np.zeros(1)
    h = tv[3:] - tv[2:3]
    line = 2 + 3 * tv
    assert _linear(tv, line, i, h, rest)[0] == pytest.approx(line[3:])
    frames = 8 - 5 * 0.7 ** np.arange(4)
    assert _per_frame(tv, frames, i, h, rest)[0] == pytest.approx(frames[3:])
    first = [1.0]
    for step in np.diff(tv):
        first.append(first[-1] + (8 - first[-1]) * 6 * step)
    first = np.array(first)
    assert _first_order(tv, first, i, h, rest)[0] == pytest.approx(first[3:])


def test_a_goal_is_known_as_well_as_it_is_said():
    """Of many takes with noise the goals spread as far as their stated errors."""
    rng, found = np.random.default_rng(4), []
    clean = 8 * (1 - 0.9 ** np.arange(12))
    for _ in range(400):
        v0 = clean[:-1]
        v1 = clean[1:] + rng.normal(0, 0.02, 11)
        step = np.full(11, 1 / 60)
        data = Observations.exact(
            Steps(v0=v0, v1=v1, dt=step, row=np.arange(11), usual=1 / 60), 0.0
        )
        fit = Fitter(data, SMOOTHING.models[0]).fit()
        found.append((fit.value("goal"), fit.stderr[0]))
    goals, errors = np.array(found).T
    assert np.median(errors) == pytest.approx(np.std(goals), rel=0.25)


@pytest.mark.parametrize(("datagrams", "takes"), [(False, 2), (True, 1)])
def test_a_header_that_comes_again(tmp_path, datagrams, takes):
    ledger = Ledger(folder=tmp_path)
    session = Session("test", ledger, datagrams=datagrams)
    header = {"kickback": 1, "subject": "lamplighter", "frame_rate": 60, "take": "a"}
    frames = [{"t": (n + 1) / 60, "x": n, "y": 0} for n in range(8)]
    for part in (header, *frames[:4], header, *frames[4:]):
        line = json.dumps(part).encode() + b"\n"
        (session.feed_datagram if datagrams else session.feed)(line)
    session.end()
    assert sum(isinstance(event, Finished) for event in ledger.events) == takes


def test_a_grid_is_that_of_all_values():
    p = np.cumsum(np.random.default_rng(1).integers(1, 9, 200)) * 0.25
    assert printed(p).lattice == 0.25
    p[150] += 0.03
    assert printed(p).lattice in {0.0, 0.01}


def test_a_fitted_speed_belongs_to_the_middle_of_its_window():
    t = 5 + np.cumsum(np.tile([0.01, 0.02], 20))
    slope, at = fitted_speed(3 * t, t, 2, np.zeros(40, dtype=int))
    assert slope == pytest.approx(3)
    assert at[2:-2] == pytest.approx([t[i - 2 : i + 3].mean() for i in range(2, 38)])


@pytest.mark.parametrize(("ticks", "dropped"), [(3, True), (1, False)])
def test_ticks_tell_a_gap_from_a_hitch(ticks, dropped):
    columns = {name: values for name, values in play(steps(60, 3), RUN, during()).items()
               if name != "dt"}  # fmt: skip
    late = np.arange(len(columns["t"])) >= 60
    columns["t"] = columns["t"] + np.where(late, 2 / 60, 0)
    columns["tick"] = np.arange(len(late)) + np.where(late, ticks - 1, 0.0)
    assert ("frames-dropped" in {item.code for item in findings(columns)}) == dropped


def test_one_take_against_itself_leaves_no_doubt():
    take = simulate({}, frame_rate=60)
    result = compare([take], [take])
    assert not result.unsure
    assert not result.failed
    row = result.rows[0]
    assert replace(result, rows=[replace(row, verdict="cannot-tell")]).unsure


def test_a_speed_limit_was_read_from_the_frames_at_it():
    take = simulate({"run_speed": 7.0}, frame_rate=60)
    columns = {name: np.round(values, 3) if name in "xy" else values
               for name, values in take.columns.items() if name[0] != "v"}  # fmt: skip
    fast = np.count_nonzero(np.abs(np.diff(take.numbers("x"))) > 6.99 / 60)
    [limit] = [law for law in recover_laws(take_of(columns)) if law.law == "clamp"]
    assert 0.3 * fast <= limit.frames <= fast
    assert limit.value("speed") == pytest.approx(7, rel=0.001)


@pytest.mark.parametrize(("short", "settled"), [(0.9e-3, 0), (1.1e-3, 30)])
def test_a_speed_within_a_thousandth_of_its_last_is_settled(short, settled):
    v = np.concatenate((np.full(30, 8 * (1 - short)), np.full(60, 8.0)))
    assert _unsettled(v, 1e-12) == settled


def test_a_side_of_several_takes_is_its_middle_one():
    base, *others = (simulate({"run_speed": speed}, frame_rate=60) for speed in (8, 9, 7, 8))
    rows = {row.metric: row for row in compare([base], others).rows}
    assert rows["run.top_speed"].candidate == pytest.approx(8)


def test_a_terminal_speed_begins_where_the_fall_reaches_it():
    v = np.concatenate((np.zeros(30), np.maximum(-40 / 60 * np.arange(1, 73), -12), np.zeros(30)))
    columns = {"t": np.arange(1, 133) / 60, "x": np.zeros(132), "y": 20 + np.cumsum(v) / 60,
               "vx": np.zeros(132), "vy": v, "touch_ground": (v == 0).astype(float)}  # fmt: skip
    measured = measure(take_of(columns), ["fall.terminal_speed"])["fall.terminal_speed"]
    assert measured.value == pytest.approx(12)
    reached = columns["t"][np.flatnonzero(columns["vy"] <= -12 + 1e-9)[0]]
    assert measured.occurrences.start[0] == pytest.approx(reached, abs=2 / 60)


def test_words_are_no_stick():
    data = b"time,X,Y,move_name,move\n0,1,2,left,0\n0.1,2,4,up,0.5\n0.2,4,5,down,1\n"
    assert guess_mapping(raw_table(data, "a.csv", ReadLimits())).columns["in_move_x"] == "move"
