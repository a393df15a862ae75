"""The tables of encodings, formats and sources, dialects, senders, and what is not installed."""

import ast
import importlib.util
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from kickback.cli.main import COMMANDS
from kickback.errors import UsageError
from kickback.files import encodings
from kickback.files.dialect import dialect_of
from kickback.files.options import ReadLimits
from kickback.files.read import take_from_bytes
from kickback.files.write import encode_take
from kickback.kinds.foot.model.simulate import simulate
from kickback.record.addresses import SCHEMES, Scheme, source_of
from kickback.show.formats import FORMATS, Format, format_named
from kickback.workflows.demo import walk_named, walks
from kickback.workflows.senders import LANGUAGES, copy_senders

TAKE = simulate(frame_rate=30)


@pytest.mark.parametrize("encoding", encodings.ENCODINGS, ids=lambda one: one.name)
def test_each_encoding_tells_its_own_and_loses_nothing(encoding):
    data = encode_take(TAKE, encoding.name)
    assert encodings.encoding_of_content(data, "stdin") is encoding
    read = take_from_bytes(data, f"run.{encoding.name}")
    assert all(np.array_equal(read.columns[n], c) for n, c in TAKE.columns.items() if n != "dt")


def test_names_and_endings_follow_from_the_table():
    assert encodings.NAMES == ("jsonl", "csv", "jsonl.gz", "csv.gz", "parquet")
    assert encodings.SUFFIXES[-1] == ".parquet"
    with pytest.raises(KeyError):
        encodings.encoding_of_name("xls")
    with pytest.raises(KeyError):
        format_named("xls")
    assert [one.name for one in FORMATS if one.verdicts_only] == ["junit"]
    assert [one.port for one in SCHEMES.values()] == [7425, 7425, 7426]


@pytest.mark.parametrize(
    "what",
    [
        lambda: encodings.Encoding(name=".x", packed=True, tells=None, read=None, write=None),
        lambda: Format(name="", write=str),
        lambda: Format(name="x", write=None),
        lambda: Scheme(name="tcp7", port=1, make=None),
        lambda: Scheme(name="sctp", port=0, make=None),
        lambda: Scheme(name="sctp", port=65_536, make=None),
    ],
)
def test_an_incomplete_entry_fails_when_it_is_made(what):
    with pytest.raises(TypeError, match=r"incomplete|ending"):
        what()


@pytest.mark.parametrize(("port", "fine"), [(65_535, True), (65_536, False)])
def test_a_port_has_an_end(port, fine):
    if fine:
        assert source_of(f"tcp:{port}").address.endswith(str(port))
    else:
        with pytest.raises(UsageError, match="between 0 and 65535"):
            source_of(f"tcp:{port}")


@pytest.mark.parametrize(
    ("names", "sample", "delimiter", "comma"),
    [
        ("t,x,y", "0.1,2,3", ",", False),
        ("t;x;y", "0,1;2;3", ";", True),
        ("t;x;y", "0.1;2;3", ";", False),
        ("t;x;y", "0,1;2.5;3", ";", False),
        ("t\tx", "1,5\t2", "\t", True),
        ("t|x", "1|2", "|", False),
        ("t x y", "1 2 3", " ", False),
        ("t", "1", ",", False),
        ("t;x", "", ";", True),
    ],
)
def test_a_dialect_is_told_from_names_and_rows(names, sample, delimiter, comma):
    dialect = dialect_of(names, sample)
    assert (dialect.delimiter, dialect.decimal_comma) == (delimiter, comma)
    cell = "2,5" if comma else "2.5"
    assert dialect.value(cell) == 2.5
    assert dialect.value("left") == "left"
    assert dialect.numeric(cell)
    assert not dialect.numeric("2,,5")


@pytest.mark.parametrize("language", LANGUAGES, ids=lambda one: one.name)
def test_a_sender_is_copied_beside_a_game(kickback, tmp_path, language):
    kickback("senders", "--copy", language.name, "--into", "game", status=0)
    names = {path.name for path in (tmp_path / "game").iterdir()}
    assert names == {language.sender, *language.examples}
    _, _, err = kickback("senders", "--copy", language.name, "--into", "game", status=2)
    assert "exists already; --force replaces it" in err
    assert language.sender in kickback("senders", status=0)[1]


def test_nothing_is_copied_where_one_name_is_wrong(tmp_path):
    with pytest.raises(UsageError, match="no sender for 'lau'; did you mean 'lua'"):
        copy_senders(["c", "lau"], tmp_path)
    assert not list(tmp_path.iterdir())


def test_the_python_sender_runs_on_3_8():
    old = next(iter(sorted(Path.home().glob(".pyenv/versions/3.8.*/bin/python"))), None)
    if old is None:
        source = (Path(__file__).parents[1] / "src/kickback/record/sender.py").read_text()
        ast.parse(source, feature_version=(3, 8))
        assert "from __future__ import annotations" in source
        return
    code = (
        "import io, kickback_sender as k; out = io.BytesIO()\n"
        "r = k.Recorder(out, ['t', 'x']); r.frame(0.1, 2); r.close(); print(out.getvalue().decode())"
    )
    folder = Path(__file__).parents[1] / "senders"
    done = subprocess.run([old, "-c", code], cwd=folder, capture_output=True, text=True, check=True)
    assert "[0.1,2]" in done.stdout


def test_walks_are_short_and_call_what_there_is():
    for walk in walks():
        assert 1 <= len(walk.steps) <= 12
        assert all(step.arguments[0] in COMMANDS for step in walk.steps)
    with pytest.raises(UsageError, match="no walk 'tuor'; did you mean 'tour'"):
        walk_named("tuor")


WITHOUT = (
    "import sys\nsys.modules['pyarrow'] = sys.modules['pandas'] = None\n"
    "from kickback.cli import main\nmain(sys.argv[1:])"
)


def test_what_is_not_installed_is_named_in_a_sentence(tmp_path):
    def run(*arguments):
        return subprocess.run(
            [sys.executable, "-c", WITHOUT, *arguments],
            cwd=tmp_path,
            capture_output=True,
            text=True,
            check=False,
        )

    (tmp_path / "run.csv").write_bytes(encode_take(TAKE, "csv"))
    (tmp_path / "run.parquet").write_bytes(encode_take(TAKE, "parquet"))
    assert run("measure", "run.csv").returncode == 0
    done = run("measure", "run.parquet")
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "pip install 'kickback[large]'" in done.stderr


def test_a_large_file_is_read_without_the_quick_reader_too(monkeypatch):
    rows = 120_000
    t = np.arange(1, rows + 1) / 60
    lines = b"".join(b"%.6f,%.6f,%.6f,%.6f\n" % (a, a, 0.0, 1.0) for a in t.tolist())
    data = b"t,x,y,vx\n" + lines
    assert len(data) > 4_000_000
    quick = take_from_bytes(data, "run.csv")
    monkeypatch.setattr(importlib.util, "find_spec", lambda _: None)
    monkeypatch.setattr("kickback.files.arrow.find_spec", lambda _: None)
    slow = encodings.encoding_of_content(data, "run.csv").read(data, "run.csv", ReadLimits(), False)
    assert slow.warnings == (
        "run.csv: large files are read several times as quickly with 'kickback[large]'",
    )
    assert not quick.warnings
    assert np.array_equal(np.array(slow.columns["x"], dtype=float), quick.columns["x"])
