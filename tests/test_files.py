"""Reading and writing: round trips, foreign logs, and refusals with a place."""

import gzip
import json
import subprocess
import sys
from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import PROGRAM, quick, take_of
from kickback.errors import InputError, UsageError
from kickback.files import csv_text, json_lines, json_quick
from kickback.files.mapping import parse_mapping
from kickback.files.options import ReadLimits, ReadOptions
from kickback.files.parquet import encode_parquet
from kickback.files.read import find_takes, read_take, take_from_bytes
from kickback.files.write import encode_take, write_take
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from truth.recurrence import during, play, steps

finite = st.floats(-1e6, 1e6, allow_nan=False).map(lambda value: value + 0.0)
words = st.text(st.characters(codec="utf-8", exclude_categories=("C",)), max_size=8).map(str.strip)


@st.composite
def takes(draw):
    """Draw takes with positions, extra columns, words, and header keys of all kinds."""
    n = draw(st.integers(2, 12))
    columns = {"t": np.cumsum(draw(st.lists(st.floats(1e-3, 1.0), min_size=n, max_size=n)))}
    for name in draw(st.sets(st.sampled_from(["x", "y", "vx", "vy", "camera_y", "stamina"]))) | {
        "x",
        "y",
    }:
        columns[name] = np.array(draw(st.lists(finite, min_size=n, max_size=n)))
    for name in draw(st.sets(st.sampled_from(["touch_ground", "in_jump"]))):
        columns[name] = np.array(
            draw(st.lists(st.sampled_from([0.0, 1.0]), min_size=n, max_size=n))
        )
    if draw(st.booleans()):
        columns["event"] = np.array(draw(st.lists(words, min_size=n, max_size=n)), dtype=np.str_)
    header = {"up": draw(st.sampled_from(["+y", "-y"])), "notes": draw(words)}
    if draw(st.booleans()):
        header["extra"] = {"level": draw(words), "wind": [1, {"gust": draw(finite)}]}
    return take_of(columns, **header)


@settings(max_examples=120, deadline=None)
@given(
    takes(),
    st.lists(st.sampled_from(["jsonl", "csv", "parquet"]), min_size=1, max_size=4),
    st.booleans(),
)
def test_round_trips_lose_nothing(take, encodings, zipped):
    again = take
    for encoding in encodings:
        data = encode_take(again, encoding)
        zipped &= encoding != "parquet"
        again = take_from_bytes(gzip.compress(data) if zipped else data, f"take.{encoding}")
    assert again.header.to_mapping() == take.header.to_mapping()
    assert list(again.columns) == list(take.columns)
    assert again.derived == take.derived
    for name in take.columns:
        assert np.array_equal(again.columns[name], take.columns[name]), name


def test_up_is_turned_back_on_writing():
    take = take_of(
        {"t": np.array([1.0, 2.0]), "x": np.zeros(2), "y": np.array([5.0, 7.0])}, up="-y"
    )
    assert list(take.numbers("y")) == [-5.0, -7.0]
    assert b"2.0,0.0,7.0" in encode_take(take, "csv")


@pytest.mark.parametrize(
    ("header", "columns", "t", "derived"),
    [
        ({}, {"t": [1.0, 1.5, 2.25]}, [1.0, 1.5, 2.25], {"dt"}),
        ({}, {"dt": [0.5, 0.25, 0.25]}, [0.5, 0.75, 1.0], {"t"}),
        ({"frame_rate": 2}, {}, [0.5, 1.0, 1.5], {"t", "dt"}),
        ({}, {"t": [1.0, 2.0, 3.0], "dt": [1.0, 0.5, 0.5]}, [1.0, 2.0, 3.0], set()),
    ],
)
def test_the_time_base_is_derived_and_marked(header, columns, t, derived):
    rows = len(t)
    arrays = {name: np.array(values) for name, values in columns.items()}
    take = take_of(arrays | {"x": np.zeros(rows), "y": np.zeros(rows)}, **header)
    assert list(take.numbers("t")) == t
    assert take.derived == derived
    assert take.numbers("dt")[1:] == pytest.approx(columns.get("dt", np.diff(t, prepend=0))[1:])


def csv_bytes(take=None):
    return encode_take(take or simulate(frame_rate=30), "csv")


def same_columns(one, other):
    assert list(one.columns) == list(other.columns)
    assert all(np.array_equal(one.columns[name], other.columns[name]) for name in one.columns)


def objects_of(take, *, end=False):
    """Return a take as JSON Lines of objects."""
    names = list(take.columns)
    rows = zip(*(take.columns[name].tolist() for name in names), strict=True)
    lines = [json.dumps({"kickback": 1, "length_unit": "m", "frame_rate": take.header.frame_rate})]
    lines += [json.dumps(dict(zip(names, row, strict=True))) for row in rows]
    return "\n".join([*lines, *(['{"end": true}'] if end else [])]).encode() + b"\n"


@pytest.mark.parametrize("encoding", ["csv", "jsonl", "objects", "ended objects"])
def test_the_quick_and_the_careful_way_agree(monkeypatch, encoding):
    take = simulate(frame_rate=144)
    if "objects" in encoding:
        data, name = objects_of(take, end="ended" in encoding), "a.jsonl"
    else:
        data, name = encode_take(take, encoding), f"a.{encoding}"
    careful = take_from_bytes(data, name)
    quick = []
    for module in (csv_text, json_lines):
        monkeypatch.setattr(module, "LARGE", 10)
    real = json_quick.plain_columns
    monkeypatch.setattr(json_quick, "plain_columns", lambda table: quick.append(1) or real(table))
    again = take_from_bytes(data, name)
    same_columns(again, careful)
    assert again.header.to_mapping() == careful.header.to_mapping()
    assert quick or encoding == "csv"


@pytest.mark.parametrize(
    "change",
    [
        lambda rows: [*rows[:50], rows[50].replace(b",", b",x", 1), *rows[51:]],
        lambda rows: [*rows[:50], rows[50].rpartition(b",")[0], *rows[51:]],
        lambda rows: [
            *rows[:50],
            b"",
            *rows[50:70],
            rows[70].replace(b",", b",nan,", 1),
            *rows[71:],
        ],
    ],
    ids=["text", "ragged", "blank line"],
)
def test_the_quick_way_names_the_same_line(monkeypatch, change):
    data = b"\n".join(change(csv_bytes().split(b"\n")))
    sentences = []
    for large in (10, 10**9):
        monkeypatch.setattr(csv_text, "LARGE", large)
        with pytest.raises(InputError) as error:
            take_from_bytes(data, "a.csv")
        sentences.append(str(error.value))
    assert sentences[0] == sentences[1]
    assert "line" in sentences[0]


@pytest.mark.parametrize("encoding", ["csv", "jsonl", "csv.gz", "jsonl.gz"])
@pytest.mark.parametrize("cut", [1, 7, 40, 300])
def test_a_cut_off_file_gives_its_whole_frames(tmp_path, encoding, cut):
    plain = encoding.removesuffix(".gz")
    data = encode_take(simulate(frame_rate=30), plain)
    path = tmp_path / f"take.{encoding}"
    path.write_bytes(data[:-cut] if plain == encoding else gzip.compress(data[:-cut]))
    whole = take_from_bytes(data, f"x.{plain}")
    take = read_take(path)
    rows = data[:-cut].count(b"\n") - (2 if plain == "csv" else 1)
    last_is_whole = data[:-cut].endswith(b"]")
    assert len(take) == rows + last_is_whole if plain == "jsonl" else len(take) >= rows
    assert all(np.array_equal(take.columns[n], whole.columns[n][: len(take)]) for n in take.columns)
    if len(take) == rows:
        assert "cut off and was left out" in take.warnings[0]


def test_a_gzip_file_cut_in_half_still_gives_frames(tmp_path):
    path = tmp_path / "take.csv.gz"
    data = gzip.compress(csv_bytes())
    path.write_bytes(data[: len(data) // 2])
    assert len(read_take(path)) > 20


@pytest.mark.parametrize(
    ("text", "frames"),
    [
        ("t,x,y\n1,0,0\n2,0,0\n3,0,0", 3),
        ("t,x,y\n1,0,0.25\n2,0,0.25\n3,0,0.2", 2),
        ("t,x,y\n1,0,0.25\n2,0,0.25\n3,0", 2),
        ("t,x,y\n1,0,0.25\n2,0,0.25\n3,0,0.25\n", 3),
        ("t;x;y\n1,5;0;0\n2,5;0;0\n", 2),
        ("t\tx\ty\n1\t0\t0\n2\t0\t0\n", 2),
        ("\ufefft,x,y\r\n1,0,0\r\n2,0,0\r\n", 2),
        ('"t","x","y","note"\n1,0,0,"a, b"\n2,0,0,"c"\n', 2),
        ("# {}\n\nt,x,y\n1,0,0\n\n2,0,0\n", 2),
        ('{"t":1,"x":0,"y":0}\n{"t":2,"x":0,"y":0}', 2),
        ('{"kickback":1,"columns":["t","x"]}\n[1,0]\n[2,0]\n{"end":true}\n', 2),
        ('{"t":1,"x":0,"subject":"sled"}\n{"t":2,"x":0,"subject":"sled","event":"bump"}\n', 2),
    ],
)
def test_what_is_accepted(text, frames):
    assert len(take_from_bytes(text.encode(), "log.txt")) == frames


REFUSED = [
    ("", "is empty"),
    ("\0\1\2", "is a binary file"),
    ("t,x,y\n\xff".encode("latin-1"), "not UTF-8"),
    ("t,x,y\n", "holds no frames"),
    ("t,x,y\n1,0,0\n", "at least two frames, this one has 1"),
    ("# {oops\nt,x,y\n1,0,0\n", "line 1: the header is not JSON"),
    ("# [1]\nt,x,y\n1,0,0\n", "must be a JSON object"),
    ("t,x,y\n1,0,0\n2,0\n3,0,0\n", "line 3: 2 values where there are 3 columns"),
    ("t,x,y\n1,0,0\n2,zero,0\n3,0,0\n", "line 3, column x: 'x' is 'zero', which is no number"),
    ("t,x,y\n1,0,0\n2,,0\n3,0,0\n", "line 3, column x: 'x' is empty"),
    ("t,x,y\n1,0,0\n2,nan,0\n3,0,0\n", "line 3, column x: 'x' is NaN"),
    ("t,x,y\n1,0,0\n2,0,inf\n3,0,0\n", "line 3, column y: 'y' is infinite"),
    ("t,x,y\n1,0,0\n0.5,0,0\n", "line 3, column t: time runs backwards: 0.5 s after 1 s"),
    ("t,x,y\n1,0,0\n1,0,0\n", "time stands still"),
    ("dt,x,y\n1,0,0\n-1,0,0\n", "column dt: the time step is -1 s"),
    ("x,y\n1,0\n1,0\n", "no column 't' or 'dt' and no frame_rate"),
    ("t,pos_x,pos_y\n1,0,0\n2,0,0\n", "no column 'x' for the position; did you mean 'pos_x'?"),
    ("t,x,x\n1,0,0\n", "two columns are named 'x'"),
    ("t,,y\n1,0,0\n", "column 2 has no name"),
    ("1,2,3\n4,5,6\n", "numbers where the column names should be"),
    ("t,x,in_jump\n1,0,0\n2,0,2\n", "column in_jump: 'in_jump' must be 0 or 1, not 2"),
    ('# {"kickback": 1}\nt,x\n1,0\n# {"kickback": 1}\nt,x\n1,0\n', "a second header"),
    ('{"kickback": 1, "view": "below"}\n{"t":1,"x":0}\n', "'view' is 'below' but must be one of"),
    ('{"kickback": 2}\n{"t":1,"x":0}\n', "format version 2; this program reads version 1"),
    ('{"kickback": 1, "frame_rate": "60"}\n{"t":1,"x":0}\n', "'frame_rate' must be a number"),
    ('{"kickback": 1, "parameters": 3}\n{"t":1,"x":0}\n', "'parameters' must be an object"),
    ('{"t":1,"x":0}\n{"t":2,"x":}\n{"t":3,"x":0}\n', "line 2: is not JSON"),
    ('{"t":1,"x":0}\n{"t":2,"x":NaN}\n{"t":3,"x":0}\n', "line 2: holds NaN or Infinity"),
    ('{"t":1,"x":0}\n[2,0]\n', "line 2: expected an object"),
    ("[1,0]\n[2,0]\n", "no 'columns' list"),
    (
        '{"kickback":1,"columns":["t","x"]}\n[1,0]\n[2]\n',
        "line 3: 1 values where the header lists 2",
    ),
    ('{"kickback":1,"columns":["t","t"]}\n[1,0]\n', "names a column twice"),
    ('{"t":1,"x":0}\n{"t":2}\n', "line 2, column x: 'x' is empty"),
    ('{"t":1,"x":0,"subject":"a"}\n{"t":2,"x":0,"subject":"b"}\n', "frames of several subjects"),
    ("t,x,subject\n1,0,a\n1,0,b\n", "frames of several subjects (a, b); split them"),
    ('t,x,y\n1,0,0\n2,0,"0\n3,0,0\n', "line 4, column y: 'y' is '0 3,0,0', which is no number"),
    ('t,x,y\n1,0,0\n"so it began\n2,0,0\n3,0,0\n', "line 3: a quotation mark that is not closed"),
    ('{"t":1,"x":0}\n{"end":1}\n{"t":2,"x":0}\n', "lines after the end"),
]


@pytest.mark.parametrize(("text", "sentence"), REFUSED)
def test_what_is_refused(text, sentence):
    data = text if isinstance(text, bytes) else text.encode()
    with pytest.raises(InputError) as error:
        take_from_bytes(data, "log.txt")
    assert sentence in str(error.value)
    assert str(error.value).startswith("log.txt")
    assert "\n" not in str(error.value)


@settings(max_examples=200, deadline=None)
@given(
    st.binary(max_size=300),
    st.integers(0, 4000),
    st.sampled_from(["csv", "jsonl", "parquet", "csv.gz"]),
)
def test_junk_gives_clean_errors_only(junk, at, encoding):
    base = encode_take(simulate(frame_rate=1), encoding.removesuffix(".gz"))
    base = gzip.compress(base, mtime=0) if encoding.endswith("gz") else base
    at %= len(base)
    for data in (junk, base[:at] + junk + base[at:], base[:at] + junk + base[at + len(junk) :]):
        with suppress(InputError):
            take_from_bytes(data, f"junk.{encoding}")


def lines(*rows):
    return "\n".join(rows).encode() + b"\n"


FRAMES = ["t,x,y", "1,0,0", "2,0.5,0", "3,1,0"]
OBJECTS = ['{"t":1,"x":0}', '{"t":2,"x":0.5}', '{"t":3,"x":1}']


@pytest.mark.parametrize(
    ("data", "skipped", "first"),
    [
        (
            lines("Harbour build 12", "loading, please wait", *FRAMES),
            2,
            "line 1: 'Harbour build 12'",
        ),
        (lines(*FRAMES[:2], "[12:04] saved", *FRAMES[2:], "bye"), 2, "line 3: '[12:04] saved'"),
        (lines(*FRAMES[:2], "one, two, three", *FRAMES[2:]), 1, "line 3: 'one, two, three'"),
        (lines("start", '# {"subject": "sled"}', *FRAMES), 1, "line 1: 'start'"),
        (lines("start", *OBJECTS[:2], "[INFO] saved", OBJECTS[2]), 2, "line 1: 'start'"),
        (lines(*OBJECTS[:1], "42", '"saved"', *OBJECTS[1:]), 2, "line 2: '42'"),
        (lines("t x y", "1 0 0", "hello", "2  1 0", "3 2 0"), 1, "line 3: 'hello'"),
        (lines("t;x;y", "1;0,5;0", "hello", "2;1,5;0", "3;2,5;0"), 1, "line 3: 'hello'"),
    ],
)
def test_text_between_frames_is_skipped_counted_and_refused_when_strict(data, skipped, first):
    take = take_from_bytes(data, "log.txt")
    assert len(take) == 3
    assert f"log.txt: {skipped} lines" in take.warnings[0] or skipped == 1
    assert first in take.warnings[0]
    with pytest.raises(InputError, match="--strict refuses text"):
        take_from_bytes(data, "log.txt", options=ReadOptions(strict=True))


def parquet_of(rows, columns):
    table = {f"c{n}": np.zeros(rows) for n in range(columns)}
    return encode_parquet({"kickback": 1}, list(table), list(table.values()))


TOO_MUCH = {
    "a gzip bomb": (lambda: gzip.compress(b"t,x\n" + b"1,1\n" * 25_000_000, 6), "unpacks to more than 64 MB"),
    "a bomb of zeros": (lambda: gzip.compress(bytes(500_000_000), 1), "unpacks to more than"),
    "a Parquet bomb": (lambda: parquet_of(10_000_000, 3), "unpacks to more than"),
    "a long line": (lambda: b"t,x\n" + b"1" * 100_000_000, "line 2: a line of more than 8 MB"),
    "a long JSON line": (lambda: b'{"a":"' + b"1" * 100_000_000 + b'"}\n', "line 1: a line of more than 8 MB"),
    "many columns": (lambda: lines(",".join(f"c{n}" for n in range(10_000)), ",".join(["1"] * 10_000)), "more than 1000 columns"),
    "many JSON columns": (lambda: lines(json.dumps({f"c{n}": n for n in range(10_000)})), "more than 1000 columns"),
    "new columns all the time": (lambda: lines(*(json.dumps({f"c{n}": n}) for n in range(10_000))), "more than 1000 columns"),
    "many listed columns": (lambda: lines(json.dumps({"kickback": 1, "columns": [f"c{n}" for n in range(10_000)]}), json.dumps([0] * 10_000)), "more than"),
    "many Parquet columns": (lambda: parquet_of(2, 5000), "more than 1000 columns"),
    "many header keys": (lambda: lines("# " + json.dumps({f"k{n}": 0 for n in range(300_000)}), *FRAMES), "more than 10000 keys"),
    "a million header keys": (lambda: lines("# " + json.dumps({f"k{n}": 0 for n in range(1_000_000)}), *FRAMES), "line 1: a line of more than 8 MB"),
    "many keys inside": (lambda: lines(json.dumps({"kickback": 1, "a": [{"b": list(range(300_000))}]}), *OBJECTS), "more than 10000 keys"),
}  # fmt: skip


PEAK = """
import resource, subprocess, sys
done = subprocess.run(sys.argv[1:], capture_output=True, text=True)
print(done.returncode, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)
sys.stderr.write(done.stderr)
"""


@quick(3)
@pytest.mark.parametrize("what", TOO_MUCH)
def test_what_could_exhaust_memory_is_refused(tmp_path, what):
    make, sentence = TOO_MUCH[what]
    path = tmp_path / "big.bin"
    path.write_bytes(make())
    # in a small process of its own: a child's peak counts what its parent held when it began
    call = [sys.executable, "-c", PEAK, PROGRAM, "inspect", path]
    done = subprocess.run(call, capture_output=True, text=True, check=True)
    status, peak = map(int, done.stdout.split())
    assert (status, done.stderr.count("\n")) == (2, 1)
    assert sentence in done.stderr
    assert "kickback.toml" in done.stderr
    assert 1024 * peak < 350e6 + 4 * path.stat().st_size


@pytest.mark.parametrize(
    ("data", "limits"),
    [
        (lines(",".join(["t", "x", *(f"c{n}" for n in range(40))]), *(",".join(["1"] * 42).replace("1", str(k), 1) for k in (1, 2))), {"columns": 50}),
        (gzip.compress(lines("t,x,state", *(f"{k},0,{'a' * 3000}" for k in range(700)))), {"unpacked_mb": 3.0}),
        (lines("t,x,state", "1,0," + "a" * 30_000, "2,0,b"), {"line_mb": 0.04}),
    ],
    ids=["columns", "unpacked_mb", "line_mb"],  # what is packed holds the time of packing
)  # fmt: skip
def test_limits_can_be_raised(data, limits):
    low = {name: value / 3 if name != "columns" else 20 for name, value in limits.items()}
    with pytest.raises(InputError, match=next(iter(limits))):
        take_from_bytes(data, "log.csv", options=ReadOptions(limits=ReadLimits(**low)))
    assert (
        len(take_from_bytes(data, "log.csv", options=ReadOptions(limits=ReadLimits(**limits)))) >= 2
    )


MAPPING = {
    "header": {"length_unit": "px", "up": "-y", "subject": "lamplighter"},
    "columns": {
        "t": {"from": "time_ms", "scale": 0.001},
        "x": "pos.0",
        "y": {"from": "pos.1", "offset": 16},
        "vx": {"from": "state.vel", "per_frame": True},
        "in_move_x": ["keys.right", {"from": "keys.left", "scale": -1}],
        "in_jump": {"from": "held", "has": "jump"},
        "touch_ground": {"from": "air", "invert": True},
    },
}
FOREIGN = [
    {
        "time_ms": 20 * n,
        "pos": [2 * n, -16 - n],
        "state": {"vel": 2},
        "held": ["jump"][: n % 2],
        "keys": {"right": n > 2, "left": n <= 2},
        "air": n > 3,
    }
    for n in range(6)
]


def foreign(rows=None, rows_table=None):
    mapping = parse_mapping({**MAPPING, **({"rows": rows_table} if rows_table else {})}, "m.toml")
    text = "\n".join(json.dumps(row) for row in rows or FOREIGN)
    return take_from_bytes(text.encode(), "log.jsonl", mapping)


def test_a_mapping_turns_nested_json_into_our_columns():
    take = foreign()
    assert take.header.subject == "lamplighter"
    expected = {
        "t": [0, 0.02, 0.04, 0.06, 0.08, 0.1],
        "x": [0, 2, 4, 6, 8, 10],
        "y": [0, 1, 2, 3, 4, 5],
        "vx": [100] * 6,
        "in_move_x": [-1, -1, -1, 1, 1, 1],
        "in_jump": [0, 1, 0, 1, 0, 1],
        "touch_ground": [1, 1, 1, 1, 0, 0],
    }
    for name, values in expected.items():
        assert take.numbers(name) == pytest.approx(values), name


@pytest.mark.parametrize(
    ("rows", "moved"),
    [
        ({"stamp": "start"}, {"t"}),
        ({"state": "before"}, {"x", "y", "vx", "touch_ground"}),
        ({"velocity": "before"}, {"vx"}),
        ({"state": "before", "contact": "after"}, {"x", "y", "vx"}),
        ({"stamp": "start", "position": "before"}, {"t", "x", "y"}),
    ],
)
def test_rows_that_mean_another_moment_are_moved(rows, moved):
    plain, take = foreign(), foreign(rows_table=rows)
    assert len(take) == 5
    assert "1 frame left out at the end" in take.warnings[0]
    for name in ("t", "x", "y", "touch_ground", "in_move_x", "in_jump"):
        part = plain.numbers(name)[1:] if name in moved else plain.numbers(name)[:-1]
        assert take.numbers(name) == pytest.approx(part), name


STATE = ["x", "vx", "touch_ground", "heading", "pitch", "ground_pitch", "camera_x",
         "camera_heading", "state"]  # fmt: skip


@pytest.mark.parametrize(
    ("rows", "stays"),
    [
        ({"state": "before"}, set()),
        ({"state": "before", "heading": "after", "label": "after"}, {"heading", "state"}),
        ({"state": "before", "camera": "after"}, {"camera_x", "camera_heading"}),
        ({"pitch": "before", "ground_pitch": "before"}, {*STATE} - {"pitch", "ground_pitch"}),
    ],
)
def test_all_of_a_state_moves_with_its_row_but_what_is_said_to_differ(rows, stays):
    columns = {"t": "t", "in_throttle": "in_throttle", **{name: name for name in STATE}}
    lines = [",".join(columns), *(",".join([str(k), *[str(k % 2)] * (len(columns) - 2), f"w{k}"])
                                  for k in range(3))]  # fmt: skip
    mapping = parse_mapping({"columns": columns, "rows": rows}, "m.toml")
    take = take_from_bytes("\n".join([*lines, ""]).encode(), "a.csv", mapping)
    for name in STATE:
        late = 0 if name in stays else 1
        wanted = [f"w{k}" if name == "state" else k % 2 for k in (late, late + 1)]
        assert list(take.columns[name]) == wanted, name
    assert list(take.numbers("in_throttle")) == [0, 1]


def test_an_input_spelt_nearly_as_ours_is_kept_and_said():
    mapping = parse_mapping({"columns": {"t": "t", "x": "x", "in_jmup": "j"}}, "m.toml")
    take = take_from_bytes(b"t,x,j\n1,0,0\n2,0,1\n", "a.csv", mapping)
    assert list(take.numbers("in_jmup")) == [0, 1]
    assert "'in_jmup' is none of our columns" in take.warnings[0]
    assert "did you mean 'in_jump'" in take.warnings[0]


def test_a_stamp_at_the_start_needs_no_drop_where_the_step_is_known():
    mapping = parse_mapping(
        {"columns": {"t": "t", "dt": "dt", "x": "x"}, "rows": {"stamp": "start"}}, "m.toml"
    )
    take = take_from_bytes(b"t,dt,x\n0,1,0\n1,1,0\n2,2,0\n", "a.csv", mapping)
    assert list(take.numbers("t")) == [1, 2, 4]


@pytest.mark.parametrize(
    ("cell", "value"), [("jump", 1), ("left+jump", 1), ("left|duck", 0), ("", 0)]
)
def test_names_of_held_keys_in_one_cell(cell, value):
    mapping = parse_mapping(
        {"columns": {"t": "t", "x": "x", "in_jump": {"from": "k", "has": "jump"}}}, "m.toml"
    )
    take = take_from_bytes(f"t,x,k\n1,0,{cell}\n2,0,{cell}\n".encode(), "a.csv", mapping)
    assert list(take.numbers("in_jump")) == [value, value]


@pytest.mark.parametrize("word", ["1", "true", "True", "yes", "ON"])
def test_truth_in_words(word):
    take = take_from_bytes(f"t,x,in_jump\n1,0,{word}\n2,0,no\n".encode(), "a.csv")
    assert list(take.numbers("in_jump")) == [1, 0]


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"colums": {}}, "unknown table 'colums'; did you mean 'columns'?"),
        ({"columns": {"touch_groud": "t"}}, "did you mean 'touch_ground'"),
        ({"columns": {"t": 3}}, "must be a column's name or"),
        ({"columns": {"t": {"scale": 2}}}, "needs 'from'"),
        (
            {"columns": {"t": {"from": "a", "sclae": 2}}},
            "unknown key 'sclae'; did you mean 'scale'?",
        ),
        ({"columns": {"t": {"from": "a", "scale": "2"}}}, "'scale' must be a number"),
        ({"columns": {"t": {"from": "a", "invert": 1}}}, "'invert' must be true or false"),
        ({"columns": {"t": {"from": "a", "above": "b"}}}, "'above' must be a number, not 'b'"),
        ({"columns": {"t": {"from": "a", "has": 1}}}, "'has' must be a word"),
        ({"rows": {"stamp": "middle"}}, "'stamp' must be end or start"),
        ({"rows": {"state": "later"}}, "'state' must be after or before"),
        ({"rows": {"stemp": "end"}}, "unknown key 'stemp'; did you mean 'stamp'"),
        ({"header": 3}, "'header' must be a table"),
    ],
)
def test_mappings_that_make_no_sense(change, sentence):
    with pytest.raises(InputError) as error:
        parse_mapping({**MAPPING, **change}, "m.toml")
    assert sentence in str(error.value)
    assert str(error.value).startswith("m.toml")


@pytest.mark.parametrize(
    ("source", "sentence"),
    [
        ("pos.7", "has no column 'pos.7'; did you mean 'pos.1' or 'pos.0'?"),
        ("tiem_ms", "did you mean 'time_ms'?"),
    ],
)
def test_a_mapped_column_that_is_not_there(source, sentence):
    mapping = parse_mapping({"columns": {"t": source, "x": "pos.0"}}, "m.toml")
    with pytest.raises(InputError) as error:
        take_from_bytes(json.dumps(FOREIGN[0]).encode(), "log.jsonl", mapping)
    assert sentence in str(error.value)


def test_a_foreign_log_gives_the_metrics_of_the_take_behind_it():
    columns = play(steps(60, 8), during((0.5, 3, 1)), during((5, 6, 1)), theta=0.5, g=38.0)
    lines = ["ms;x;y;vx;vy;right;up;floor"]
    lines += [
        ";".join(
            f"{value:.12g}".replace(".", ",")
            for value in (
                1000 * columns["t"][n],
                32 * columns["x"][n],
                -32 * columns["y"][n] - 16,
                32 * columns["vx"][n] / 60,
                -32 * columns["vy"][n] / 60,
                columns["in_move_x"][n],
                columns["in_jump"][n],
                columns["touch_ground"][n],
            )
        )
        for n in range(len(columns["t"]))
    ]
    mapping = parse_mapping(
        {
            "header": {"up": "-y", "length_unit": "px"},
            "columns": {
                "t": {"from": "ms", "scale": 0.001},
                "x": "x",
                "y": {"from": "y", "offset": 16},
                "vx": {"from": "vx", "per_frame": True},
                "vy": {"from": "vy", "per_frame": True},
                "in_move_x": "right",
                "in_jump": "up",
                "touch_ground": "floor",
            },
        },
        "m.toml",
    )
    found = measure(take_from_bytes("\n".join(lines).encode() + b"\n", "log.csv", mapping))
    wanted = measure(take_of(columns))
    for row in wanted:
        if row.value is not None:
            scale = 32 if row.unit.dimension.length else 1
            assert found[row.metric].value == pytest.approx(scale * row.value, rel=1e-5, abs=1e-6)


def test_takes_are_found_in_files_folders_and_patterns(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    take = simulate(frame_rate=10)
    for name in ("a-30.csv", "a-60.jsonl", "b-60.csv.gz"):
        write_take(take, tmp_path / "takes" / name)
    (tmp_path / "takes" / "notes.txt").write_text("no take")
    names = ["takes/a-30.csv", "takes/a-60.jsonl", "takes/b-60.csv.gz"]
    assert find_takes(["takes"]) == names
    assert find_takes(["takes/a-*"]) == names[:2]
    assert find_takes(["takes/b-60.csv.gz", "takes"]) == [names[2], *names[:2]]
    assert find_takes(["@last"]) == [names[2]]
    assert find_takes(["@previous"]) == [names[1]]
    for missing in ("nowhere", "takes/c-*"):
        with pytest.raises((InputError, UsageError), match=r"no (such )?file"):
            find_takes([missing])
    (tmp_path / "empty").mkdir()
    with pytest.raises(UsageError, match="holds no takes"):
        find_takes(["empty"])


def test_writing_refuses_other_endings_and_bad_places(tmp_path):
    take = simulate(frame_rate=10)
    with pytest.raises(UsageError, match="the ending must be one of"):
        write_take(take, tmp_path / "take.txt")
    (tmp_path / "file").write_text("")
    with pytest.raises(InputError, match="cannot be written"):
        write_take(take, tmp_path / "file" / "take.csv")
