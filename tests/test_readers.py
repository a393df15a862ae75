"""What a file may cost, and what a writer may touch."""

import contextlib
import json
import os
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from pyarrow import parquet
from tools.fuzz import KINDS, attempt

import kickback as library
from conftest import quick, some, take_of
from kickback.cli.main import main
from kickback.errors import InputError
from kickback.files import atomic
from kickback.files.atomic import write_new
from kickback.files.names import distinct_stems, file_stem
from kickback.files.raw import LONGEST_WORD
from kickback.files.read import read_take, take_from_bytes
from kickback.motion.grids import fitted_speed

FRAMES = [(f"{n / 60:.5f}", f"{n / 10:.2f}") for n in range(1, 20_001)]


def lines_of(cell):
    return {
        "csv": "t,x,y,event\n"
        + "".join(f"{t},{x},0,{cell(n)}\n" for n, (t, x) in enumerate(FRAMES)),
        "jsonl": "".join(
            f'{{"t":{t},"x":{x},"y":0,"event":"{cell(n)}"}}\n' for n, (t, x) in enumerate(FRAMES)
        ),
    }


@pytest.mark.parametrize("encoding", ["csv", "jsonl"])
def test_a_long_word_is_kept_once_and_cut_with_a_note(encoding):
    text = lines_of(lambda n: "w" * 20_000 if n == 7 else "jump")[encoding]
    take = take_from_bytes(text.encode(), f"a.{encoding}")
    words = take.columns["event"]
    assert len(words[7]) == LONGEST_WORD
    assert words.nbytes <= 8 * len(words)
    assert len({id(word) for word in words}) == 2
    assert any("1 words of 'event' are cut to 1000 characters" in said for said in take.warnings)
    plain = take_from_bytes(
        lines_of(lambda n: "w" * LONGEST_WORD)[encoding]
        .replace(f'"event":"{"w" * 3}', '"event":"www')[: 4 * LONGEST_WORD * 9]
        .encode()
        .rpartition(b"\n")[0],
        f"a.{encoding}",
    )
    assert not plain.warnings


def test_words_of_a_parquet_file_are_there_once():
    count = 100_000
    words = pa.DictionaryArray.from_arrays(
        pa.array(np.zeros(count, dtype="int32")), pa.array(["z" * 30_000])
    )
    sink = pa.BufferOutputStream()
    columns = {
        "t": np.arange(count) / 60.0,
        "x": np.zeros(count),
        "y": np.zeros(count),
        "event": words,
    }
    parquet.write_table(pa.table(columns), sink)
    take = take_from_bytes(
        sink.getvalue().to_pybytes(), "a.parquet"
    )  # 3 GB of words, were each its own
    assert len({id(word) for word in take.columns["event"]}) == 1


@pytest.mark.parametrize(
    ("frames", "refused"),
    [
        (
            [{"t": n, "x": 0, "y": 0, f"key{n}": "a" * 60} for n in range(60_000)],
            "more than 1000 columns",
        ),
        (
            [{"t": n, "x": 0, "y": 0, f"key{n % 900}": 1} for n in range(30_000)],
            "unpacks to more than 64 MB",
        ),
        ([{"t": n, "x": 0, "y": 0, f"key{n % 90}": 1} for n in range(3_000)], ""),
    ],
)
def test_the_limits_hold_before_a_table_is_built(frames, refused):
    data = b"".join(json.dumps(frame).encode() + b"\n" for frame in frames)
    with pytest.raises(InputError, match=refused) if refused else contextlib.nullcontext():
        assert len(take_from_bytes(data, "a.jsonl").columns) == 94


@pytest.mark.parametrize("size", [100, 400_000])
def test_cells_inside_of_others_are_columns_by_their_path(size):
    """In a small file and in one that is read block by block."""
    frames = [
        {"t": n / 60, "body": {"pos": [n, -n], "on": n % 2 == 0}, "keys": ["left"], "x": 1, "y": 0}
        for n in range(max(2, size // 90))
    ]
    take = take_from_bytes(
        b"".join(json.dumps(frame).encode() + b"\n" for frame in frames), "a.jsonl"
    )
    assert take.numbers("body.pos.1").tolist() == [-n for n in range(len(frames))]
    assert take.numbers("body.on")[:2].tolist() == [1.0, 0.0]
    assert set(take.columns["keys"]) == {"['left']"}


BIG = "".join(f"{n / 60:.6f},{n / 7:.6f},0,{n % 3}\n" for n in range(1, 150_000))


@quick(2)
@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda text: text + "zz,1,2,3\n", "line 150001, column t: 't' is 'zz'"),
        (lambda text: text + "1,1,2\n", "line 150001: 3 values where there are 4 columns"),
        (
            lambda text: text.replace("\n", "\nloading\n", 3),
            "3 lines that are no frames were skipped, the first at line 2",
        ),
        (lambda text: text.replace(",", ";").replace(".", ","), ""),
        (lambda text: text.replace(",1\n", ',"1"\n'), ""),
    ],
)
def test_a_large_file_is_read_in_blocks_and_names_its_lines(change, said):
    text = change("t,x,y,n\n" + BIG)
    assert len(text) > 4_000_000
    if said.startswith("line"):
        with pytest.raises(InputError, match=said):
            take_from_bytes(text.encode(), "a.csv")
        return
    take = take_from_bytes(text.encode(), "a.csv")
    assert len(take) == 149_999
    assert take.numbers("x")[-1] == pytest.approx(149_999 / 7, abs=1e-6)
    assert said in " ".join(take.warnings)


@pytest.mark.parametrize("step", [1e-3, 1e-5, 1e-7, 1e-9])
def test_a_window_in_seconds_costs_no_more_than_the_take(step):
    """Positions in whole pixels at absurd rates: once a window of these never ended."""
    n = 4000
    take = take_of(
        {"t": np.arange(1, n + 1) * step, "x": np.round(np.linspace(0, 300, n)), "y": np.zeros(n)}
    )
    began = time.process_time()
    library.measure(take)
    assert time.process_time() - began < 20


def test_a_wide_window_still_gives_the_slope():
    t = np.arange(4000) / 4000
    slope, at = fitted_speed(np.round(640 * t), t, 700, np.zeros(4000, dtype=int))
    assert slope[800:-800] == pytest.approx(640, rel=2e-3)
    assert at[800:-800] == pytest.approx(t[800:-800])


# ---------------------------------------------------------------- writers


@pytest.mark.parametrize(
    ("name", "stem"),
    [
        ("brisk-59.94", "brisk-59.94"),
        ("../../x", "x"),
        ("/etc/passwd", "etc-passwd"),
        ("..\\a:b", "a-b"),
        ("\x1b[2J", "[2J"),
        ("...", "take"),
        ("ü" * 300, "ü" * 100),
    ],
)
def test_names_in_files_carry_no_path(name, stem):
    assert file_stem(name) == stem
    assert distinct_stems([name, name]) == [stem, f"{stem}-2"]


def test_no_name_leads_out_of_the_output_folder(kickback, tmp_path):
    (tmp_path / "set.toml").write_text('name = "../../x"\n[values]\nrun_speed = 8.0\n')
    kickback("simulate", "set.toml", "-o", "out/here", status=0)
    for name in ("a", "b"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "run.csv").write_text("t,x,y\n1,0,0\n2,0,0\n")
    kickback("convert", tmp_path / "a/run.csv", tmp_path / "b/run.csv", "-o", "conv", status=0)
    found = {str(path.relative_to(tmp_path)) for path in tmp_path.rglob("*") if path.is_file()}
    converted = {path for path in found if path.startswith("conv/")}
    assert found - converted == {"set.toml", "out/here/x-60.jsonl", "a/run.csv", "b/run.csv"}
    assert len(converted) == 2
    assert not list(tmp_path.parent.glob("x-60*"))


def test_of_two_writers_one_wins_and_nothing_is_left(tmp_path):
    """Without leave to replace, the loser is told; with it, the file is one of both, whole."""
    for replace in (False, True):
        path, told, data = (
            tmp_path / f"{replace}.csv",
            [],
            [bytes([65 + n]) * 200_000 for n in range(8)],
        )

        def write(content, path=path, told=told, replace=replace):
            try:
                write_new(path, content, replace=replace)
            except InputError as error:
                told.append(str(error))

        threads = [threading.Thread(target=write, args=(content,)) for content in data]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert path.read_bytes() in data
        assert len(told) == (0 if replace else 7)
        assert all("exists already" in text for text in told)
    assert sorted(item.name for item in tmp_path.iterdir()) == ["False.csv", "True.csv"]


def test_a_writer_follows_no_link_and_leaves_nothing_when_it_fails(tmp_path, monkeypatch):
    target = tmp_path / "precious"
    target.write_text("precious")
    (tmp_path / "a.csv").symlink_to(target)
    (tmp_path / "a.csv.part").symlink_to(target)
    with pytest.raises(InputError, match="exists already"):
        write_new(tmp_path / "a.csv", b"new")
    write_new(tmp_path / "a.csv", b"new", replace=True)
    assert (tmp_path / "a.csv").read_text() == "new"
    assert target.read_text() == "precious"
    monkeypatch.setattr(
        atomic,
        "take_name",
        lambda *_: (_ for _ in ()).throw(OSError(28, "No space left on device")),
    )
    with pytest.raises(InputError, match="No space left"):
        write_new(tmp_path / "b.csv", b"new")
    assert {item.name for item in tmp_path.iterdir()} == {"precious", "a.csv", "a.csv.part"}


def test_what_an_ended_writer_left_behind_is_removed_and_nothing_else(tmp_path):
    names = (
        ".a.csv.0123456789abcdef.part",
        ".mine.part",
        "b.part",
        ".held.csv.0123456789abcdef.part",
    )
    for name in names:
        (tmp_path / name).write_text("x")
    (tmp_path / ".link.0123456789abcdef.part").symlink_to(tmp_path / "b.part")
    with (tmp_path / names[3]).open() as held:
        atomic.lock(held.fileno())
        script = "import sys; from pathlib import Path; from kickback.files.atomic import remove_left_behind as r; r(Path(sys.argv[1]))"
        subprocess.run([sys.executable, "-c", script, tmp_path], check=True)
    assert {path.name for path in tmp_path.iterdir()} == {*names[1:], ".link.0123456789abcdef.part"}


# ---------------------------------------------------------------- faults of the program


def test_a_fault_of_the_program_is_a_sentence_with_its_own_exit_status(tmp_path, kickback):
    text = "import kickback.cli.metrics_command as c\nfrom kickback.cli.main import main\ndef boom(**_): raise KeyError('x')\nc.command.callback = boom\nmain(['metrics'])\n"
    where = {**os.environ, "TMPDIR": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", text], capture_output=True, env=where, check=False)
    assert done.returncode == 3
    said = done.stderr.decode()
    assert len(said.splitlines()) == 1
    assert "a fault of this program (KeyError); please report it with" in said
    [report] = Path(tempfile.gettempdir() if not list(tmp_path.iterdir()) else tmp_path).glob(
        "kickback-fault-*.txt"
    )
    assert "boom" in report.read_text()


# ---------------------------------------------------------------- whatever comes


@pytest.mark.parametrize("first", some(range(0, 2000, 100), 0))
@pytest.mark.parametrize("kind", KINDS)
def test_whatever_comes_ends_in_a_sentence(tmp_path, kind, first):
    """The long run is ``make fuzz``."""
    problems = [attempt(kind, seed, tmp_path) for seed in range(first, first + 40)]
    assert not any(problems), next(filter(None, problems))


CORPUS = {
    "huge-rate.jsonl": b'{"kickback":1,"frame_rate":1e308,"columns":["t","x","y"]}\n[1,0,0]\n[2,0,0]\n',
    "small-rate.jsonl": b'{"kickback":1,"frame_rate":1e-320,"columns":["t","x","y"]}\n[1,0,0]\n[2,0,0]\n',
    "far.jsonl": b"".join(b'{"t":%d,"x":1e300,"y":-1e300}\n' % n for n in range(1, 40)),
    "subnormal.jsonl": b"".join(b'{"t":%de-324,"x":1,"y":0}\n' % (5 * n) for n in range(1, 40)),
    "deep.jsonl": b'{"kickback":1,"a":'
    + b"[" * 900
    + b"]" * 900
    + b"}\n"
    + b'{"t":1,"x":0,"y":0}\n{"t":2,"x":0,"y":0}\n',
    "flat-flight.csv": b"t,x,y,touch_ground\n"
    + b"".join(b"%.4f,%.5f,0,0\n" % (n / 60, np.sin(n / 60)) for n in range(1, 300)),
    "doubled.csv": b"t,x,x,y\n1,0,0,0\n2,0,0,0\n",
    "return.csv": b"t,x,y\n1,\r2,0\n2,3,0\n",
    "nul.csv": b"t,x,y\n1,0,0\n" + b"\0" * 50 + b"\n2,0,0\n",
}


@pytest.mark.parametrize("name", CORPUS)
def test_what_once_broke_a_command_is_a_sentence(name, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    Path(name).write_bytes(CORPUS[name])
    for call in (
        ["measure"],
        ["law"],
        ["inspect"],
        ["plot", "-o", "a.png", "--force"],
        ["framerate"],
        ["convert", "-o", "out", "--force"],
    ):
        with pytest.raises(SystemExit) as stop:
            main([call[0], name, *call[1:]])
        assert stop.value.code in {0, 1, 2}, (call, capsys.readouterr().err)


def test_values_that_are_no_numbers_have_a_reason():
    n = np.arange(1, 200)
    take = take_of({"t": n / 60, "x": 1e55 * n * n, "y": 0.0 * n})
    rows = library.measure(take)
    assert all(row.value is None or np.isfinite(row.value) for row in rows)


def test_a_key_that_is_there_twice_is_said(tmp_path):
    path = tmp_path / "a.jsonl"
    path.write_bytes(b'{"kickback":1}\n{"t":1,"x":1,"y":0,"x":2}\n{"t":2,"x":3,"y":0}\n')
    take = read_take(path)
    assert any("line 2: 'x' is there twice" in text for text in take.warnings)
