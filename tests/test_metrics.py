"""The catalogue, the records, and what is said where a metric cannot be had."""

import numpy as np
import pytest

import kickback
from conftest import take_of
from kickback.errors import UsageError
from kickback.kinds.measuring import measure
from kickback.kinds.table import KINDS, all_metrics
from kickback.metrics.metric import select_metrics
from truth.recurrence import during, play, steps

CORE = [
    "run.top_speed",
    "run.highest_speed",
    "run.time_to_90",
    "run.time_to_top_speed",
    "coast.stop_time",
    "coast.stop_distance",
    "brake.stop_time",
    "brake.stop_distance",
    "reverse.time_to_zero",
    "reverse.time_to_top_speed",
    "turn.time",
    "jump.takeoff_speed",
    "jump.apex_height",
    "jump.time_to_apex",
    "jump.air_time",
    "jump.distance",
    "jump.landing_speed",
    "hop.takeoff_speed",
    "hop.apex_height",
    "hop.time_to_apex",
    "hop.air_time",
    "hop.distance",
    "hop.landing_speed",
    "fall.terminal_speed",
    "input.latency",
]
FIELDS = [
    "take",
    "subject",
    "parameters",
    "frame_rate",
    "metric",
    "value",
    "unit",
    "resolution",
    "n",
    "reason",
]


def test_the_core_names_are_in_the_catalogue_once():
    names = [metric.name for metric in all_metrics()]
    assert set(CORE) <= set(names)
    assert len(names) == len(set(names))


@pytest.mark.parametrize("metric", all_metrics(), ids=lambda metric: metric.name)
def test_every_metric_explains_itself(metric):
    assert metric.definition.endswith(".")
    assert metric.formula
    assert metric.title
    assert str(metric.unit("px")) in {
        "px",
        "px/s",
        "px/s²",
        "px/s³",
        "s",
        "frames",
        "ms",
        "deg",
        "deg/s",
        "1/s",
        "1/px",
        "",
    }


@pytest.mark.parametrize(
    ("names", "count"),
    [
        ((), len(all_metrics())),
        (("jump",), 22),
        (("jump.apex_height",), 1),
        (("turn", "coast"), 12),
        (("turn,coast",), 12),
        (("jump", "jump.drop"), 22),
    ],
)
def test_metrics_are_chosen_by_name_and_group(names, count):
    assert len(select_metrics(all_metrics(), names)) == count


@pytest.mark.parametrize(
    ("name", "hint"),
    [
        ("jump.apex_hight", "'jump.apex_height'"),
        ("jmup", "did you mean 'jump'"),
        ("zzz", "there is: "),
    ],
)
def test_an_unknown_metric_names_the_nearest(name, hint):
    with pytest.raises(UsageError, match=hint):
        select_metrics(all_metrics(), [name])


STILL = during()
PUSH = during((0.5, 2.0, 1))


def take(move=STILL, jump=STILL, seconds=3.0, **options):
    return take_of(play(steps(60, seconds), move, jump, theta=0.5, **options))


@pytest.mark.parametrize(
    ("recorded", "metric", "reason"),
    [
        (take(), "run.top_speed", "no full input on the ground held its speed"),
        (take(), "run.time_to_90", "no full press from rest on the ground"),
        (take(), "coast.stop_time", "the input was never let go while moving"),
        (take(), "brake.stop_distance", "no opposite or brake input while moving"),
        (take(), "turn.time", "no full press against the motion on the ground"),
        (take(), "jump.apex_height", "no jump in the take"),
        (take(), "fall.terminal_speed", "no fall held its speed"),
        (take(), "input.latency", "no press from rest was followed by motion"),
        (take(PUSH, seconds=2.1), "coast.stop_time", "the take ends before the subject stops"),
        (
            take(during((0.5, 0.6, 1))),
            "run.top_speed",
            "no full input on the ground held its speed",
        ),
        (
            take(during((0.5, 0.6, 1), (0.7, 0.8, 1))),
            "run.time_to_90",
            "no full input on the ground",
        ),
        (take(during((0.5, 2.0, 0.5))), "run.top_speed", "no full input on the ground"),
        (take(during((0.5, 2.0, 0.5))), "run.time_to_90", "no full press from rest"),
        (
            take(during((0.5, 2.0, 1), (2.1, 3.0, 1))),
            "coast.stop_time",
            "another input came before",
        ),
        (take(PUSH, during((2.1, 2.5, 1))), "coast.stop_time", "left the ground before it stopped"),
        (
            take(during((0.5, 0.6, 1), (0.6, 2.5, -1))),
            "turn.time",
            "no full press against the motion at",
        ),
        (take(jump=during((1, 2, 1))), "jump.distance", "no jump moved sideways"),
        (take(jump=during((1, 2, 1))), "hop.apex_height", "no jump was cut short"),
        (take(jump=during((1, 1.1, 1)), cut=0.5), "jump.apex_height", "every jump was cut short"),
        (
            take(jump=during((2.5, 2.8, 1))),
            "jump.air_time",
            "the take ends before the subject is down",
        ),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_a_missing_value_has_its_reason(recorded, metric, reason):
    found = measure(recorded)[metric]
    assert found.value is None
    assert found.resolution is None
    assert found.n == 0
    assert reason in found.reason


def test_partial_and_full_presses_are_kept_apart():
    found = measure(take(during((0.5, 2.0, 0.5), (3.0, 4.5, 1)), seconds=6))
    assert found["run.top_speed"].occurrences.value == pytest.approx([8.0])
    assert found["run.time_to_90"].n == 1


def test_a_stick_that_takes_some_frames_still_counts_as_full():
    columns = play(steps(60, 4), PUSH, theta=0.5)
    row = int(np.argmax(columns["in_move_x"]))
    columns["in_move_x"][row : row + 3] = [0.3, 0.6, 0.9]
    assert measure(take_of(columns))["run.time_to_90"].n == 1


def test_stops_from_top_speed_come_first():
    moves = during((0.5, 0.55, 1), (1.5, 3.0, 1))
    found = measure(take(moves, seconds=5))["coast.stop_distance"]
    assert found.n == 1
    assert found.reason is None
    only_slow = measure(take(during((0.5, 0.55, 1)), seconds=2))["coast.stop_distance"]
    assert only_slow.reason == "not from top speed"


def test_unlike_occurrences_are_said():
    presses = during((0.5, 1.5, 1), (2.5, 2.6, 1), (3.5, 3.7, 1))
    found = measure(take(STILL, presses, seconds=6, cut=0.5))["hop.apex_height"]
    assert found.n == 2
    assert "unlike occurrences" in found.reason
    assert found.spread == pytest.approx(float(np.ptp(found.occurrences.value)))


@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("delay", [0, 1, 3])
def test_latency_counts_frames_and_milliseconds(rate, delay):
    columns = play(steps(rate, 6), PUSH, during((4, 4.5, 1)), theta=1.0)
    for name in ("in_move_x", "in_jump"):
        columns[name] = np.roll(columns[name], -delay)
    found = measure(take_of(columns))
    assert found["input.latency"].value == delay
    assert found["input.latency"].n == 2
    assert found["input.latency_time"].value == pytest.approx(1000 * (delay + 1) / rate)


def test_an_order_that_moves_late_has_a_frame_of_latency():
    columns = play(steps(60, 4), PUSH, theta=0.0)
    assert measure(take_of(columns))["input.latency"].value == 1


def test_records_are_flat_with_stable_names():
    measured = measure(take(PUSH, seconds=4))
    records = measured.to_records()
    assert all(list(record) == FIELDS for record in records)
    assert [record["metric"] for record in records] == [
        one.name for one in KINDS[0].measuring.metrics
    ]
    each = measured.to_records(each=True)
    assert all(list(record) == [*FIELDS, "start", "end", "at_speed"] for record in each)
    coast = next(record for record in each if record["metric"] == "coast.stop_time")
    assert coast["start"] == pytest.approx(2.0)
    assert coast["end"] - coast["start"] == pytest.approx(coast["value"])
    with pytest.raises(KeyError):
        measured["jump.wings"]


def test_the_library_works_as_the_readme_says():
    measured = kickback.measure(kickback.simulate({"run_speed": 6.0}), only=["run"])
    frame = measured.to_frame()
    assert list(frame.columns) == FIELDS
    assert frame.set_index("metric").loc["run.top_speed", "value"] == pytest.approx(6.0)
    assert len(measured.to_frame(each=True)) >= len(measured)
    leap = kickback.simulate(drill={"input": [{"at": 0.5, "until": 1.0, "jump": True}]})
    assert leap.to_frame()["y"].max() == pytest.approx(13.0**2 / 80, rel=0.01)
    with pytest.raises(AttributeError, match="no attribute 'juggle'"):
        _ = kickback.juggle
    assert all(getattr(kickback, name) is not None for name in kickback.__all__)
