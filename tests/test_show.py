"""Numbers and records as people and other programs read them."""

import json

import pytest

from kickback.show.numbers import Units, plain
from kickback.show.records import as_csv, as_json, as_junit, as_markdown
from kickback.show.tables import few
from kickback.takes.quantities import LENGTH, SPEED, TIME


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (0, "0"),
        (1e-15, "0"),
        (8.0, "8.000"),
        (0.18, "0.1800"),
        (12.3456, "12.35"),
        (1234.5, "1234"),
        (-0.5, "-0.5000"),
        (0.000123, "0.0001230"),
        (1e-6, "1e-06"),
        (3e9, "3e+09"),
        (float("inf"), "inf"),
    ],
)
def test_numbers_have_four_digits(value, text):
    assert plain(value) == text


@pytest.mark.parametrize(
    ("value", "unit", "text", "also"),
    [
        (0.25, TIME.within("m"), "0.2500 s", "15.0 f"),
        (3.0, LENGTH.within("m"), "3.000 m", "1.50 tiles"),
        (3.0, LENGTH.within("px"), "3.000 px", ""),
        (3.0, SPEED.within("m"), "3.000 m/s", ""),
        (None, LENGTH.within("m"), "—", ""),
    ],
)
def test_times_are_also_frames_and_lengths_tiles(value, unit, text, also):
    units = Units(reference_rate=60, tile=(2.0, "m"))
    assert units.show(value, unit) == text
    assert units.also(value, unit) == also
    assert (
        units.note([SPEED.within("m"), LENGTH.within("m")])
        == "f: frames at 60 frames/s; tiles of 2 m"
    )
    assert units.note([LENGTH.within("px"), TIME.within("m")]) == "f: frames at 60 frames/s"


def test_records_stay_readable_whatever_is_in_them():
    records = [
        {"a": float("nan"), "b": 'x "y", z|', "c": None},
        {"a": 0.1 + 0.2, "b": "é", "c": True},
    ]
    assert json.loads(as_json(records)) == [
        {"a": None, "b": 'x "y", z|', "c": None},
        {"a": 0.1 + 0.2, "b": "é", "c": True},
    ]
    assert as_csv(records).splitlines() == [
        "a,b,c",
        ',"x ""y"", z|",',
        "0.30000000000000004,é,True",
    ]
    assert as_markdown(records).splitlines()[2:] == [
        '|  | x "y", z\\| |  |',
        "| 0.3 | é | True |",
    ] or (as_markdown(records).splitlines()[2] == '| nan | x "y", z\\| |  |')
    assert as_json([]) == "[]"
    assert as_csv([]) == as_markdown([]) == ""


def test_junit_escapes_its_texts():
    text = as_junit("suite <1>", [("a & b", "fine", None), ("c", "worse", 'said "no"')])
    assert 'name="suite &lt;1&gt;" tests="2" failures="1"' in text
    assert 'message="said &quot;no&quot;"' in text


@pytest.mark.parametrize(
    ("names", "text"),
    [
        (["run.a", "run.b"], "run.a, run.b"),
        (["jump.a", "jump.b", "jump.c", "jump.d"], "jump.*"),
        (["jump.a", "jump.b", "jump.c", "jump.d", "run.a"], "jump.*, run.a"),
        ([f"hop.{c} (one)" for c in "abcd"] + ["hop.a (two)"], "hop.* (one), hop.a (two)"),
    ],
)
def test_long_lists_of_names_fold_into_groups(names, text):
    assert few(names) == text
