"""Whatever a file holds: nothing unprintable leaves the program, and every format stays sound."""

import csv
import io
import json
import re
from xml.etree import ElementTree as ET

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import some
from kickback.cli.main import COMMANDS, main
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.simulate import simulate
from kickback.show.records import as_csv, as_junit, as_markdown
from kickback.show.tables import absent_groups
from kickback.show.visible import as_line, in_json, visible

NASTY = (
    "\x1b]0;a\x07[/x] [bold]$\\frac{$|`\n=1+1\nkickback: all is well\r\t",
    "\x1b[2J\x1b]0;title\x07\x1b]52;c;YQ==\x07",
    "\x9b31m\u202e\u2028\u200b\ufeff\x7f\x00",
)


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("plain ± → ö 速い", "plain ± → ö 速い"),
        ("a\x1b[2Jb", "a\\x1b[2Jb"),
        ("a\x9b\u202e\x7f", "a\\x9b\\u202e\\x7f"),
        ("a\nb\tc", "a\nb\tc"),
        ("\ud800", "\\ud800"),
    ],
)
def test_what_is_not_printable_is_shown(text, shown):
    assert visible(text) == shown
    assert as_line(text) == shown.replace("\n", "\\n").replace("\t", " ")


@given(st.text())
def test_json_means_the_same_and_shows_everything(text):
    told = in_json(json.dumps([text], ensure_ascii=False))
    assert json.loads(told) == [text]
    assert told.isprintable()


@pytest.mark.parametrize(
    ("cell", "written"),
    [
        ("=1+1", "'=1+1"),
        ("+a", "'+a"),
        ("-a", "'-a"),
        ("@a", "'@a"),
        ("\t=a", "' =a"),
        (-1.5, "-1.5"),
        ("a=1", "a=1"),
    ],
)
def test_no_cell_is_a_formula(cell, written):
    [_, row] = csv.reader(io.StringIO(as_csv([{"a": cell, "b": 1}])))
    assert row == [written, "1"]


def hostile(folder, word):
    """Write takes that hold a word wherever words can be; returns their names."""
    names = []
    for rate in (30, 60):
        take = simulate({}, standard_drill(), frame_rate=rate)
        columns = {**{name: column.tolist() for name, column in take.columns.items()}}
        columns["dt"] = [1000 * dt for dt in columns["dt"]]  # something to find
        columns |= {
            word: [1.5] * len(take),
            "state": [word] * len(take),
            "event": [word] * len(take),
        }
        header = {
            "kickback": 1, "subject": word, "length_unit": word or "m", "drill": word, "notes": word, "probe": word,
            "recorded_at": word, "parameters": {"name": word, "values": {word: 1.5, "other": word}}, word: word, "columns": list(columns),
        }  # fmt: skip
        clean = (
            re.sub(r"[/\x00\ud800-\udfff]", "-", word)[:20].encode()[:60].decode(errors="ignore")
        )
        names.append(f"{clean}-{rate}.jsonl")
        rows = zip(*columns.values(), strict=True)
        (folder / names[-1]).write_text(
            "".join(json.dumps(line) + "\n" for line in (header, *map(list, rows)))
        )
    (folder / "set.toml").write_text(
        f"[values]\nrun_speed = 8\n{json.dumps(word)} = 1\n", encoding="utf-8", errors="replace"
    )
    with (folder / "log.csv").open("w", newline="", encoding="utf-8", errors="replace") as file:
        writer = csv.writer(file)
        writer.writerow(["time", "pos_x", "pos_y", "jump", word.strip() or "w"])
        writer.writerows(
            [n / 60, n / 10, abs(n % 60 - 30) / 10, n % 60 < 3, n / 3] for n in range(200)
        )
    (folder / "raw.txt").write_text(word, encoding="utf-8", errors="replace")
    (folder / "bad.toml").write_text(
        f"[values]\n{json.dumps(word)} = 1\n", encoding="utf-8", errors="replace"
    )
    return [str(folder / name) for name in names]


def calls_on(takes, folder):
    """Return a call of each command, and of each of its formats, on takes."""
    first, second = takes
    bad = str(folder / "bad.toml")
    out = str(folder / "out")
    yield ["demo", str(folder / first[-20:-6] / "demo"), "--walk", first[-9:]]
    yield ["new", out, "--from", first]
    yield ["new", out, "--from", str(folder / "log.csv")]
    yield ["measure", str(folder / "log.csv"), "--map", str(folder / "out" / "log.map.toml")]
    yield ["new", out, "--from", bad]
    yield ["record", first, "--into", out]
    yield ["record", "-", "--run", "sh -c 'cat raw.txt >&2; exit 3'", "--into", out]
    yield ["retime", bad, "--from", "60", "--kind", f"{first[-20:]}=speed"]
    yield ["retime", str(folder / "set.toml"), "--from", "60", "--kind", "run_speed=speed"]
    yield ["simulate", bad, "-o", out]
    yield ["fit", first, second, "--name", first[-12:]]
    yield ["solve", bad, "--wish", f"{first[-12:]}=4 m"]
    yield ["solve", str(folder / "set.toml"), "--wish", first[-12:], "--keep", first[-12:]]
    yield ["reach", bad]
    yield ["reach", str(folder / "set.toml"), "--by", first[-12:], "--across", first[-12:]]
    yield ["sweep", bad, "-o", out]
    yield ["sweep", str(folder / "set.toml"), "--vary", f"{first[-12:]}=1..2"]
    yield ["senders", "--copy", first[-12:]]
    yield ["metrics", first[-12:]]
    yield ["plot", first, second, "-o", str(folder / "a.svg"), "--force"]
    yield ["framerate", first, second, "--figure", str(folder / "b.png"), "--force"]
    yield ["convert", first, second, "-o", out, "--as", "csv", "--force"]
    yield ["compare", first, second, "--figure", str(folder / "c.png"), "--force"]
    yield ["accept", first, "-o", str(folder / "kept.json"), "--because", bad]
    yield ["gate", second, "--baseline", bad]
    for how in ("text", "json", "csv", "markdown", "junit"):
        yield ["gate", second, "--baseline", str(folder / "kept.json"), "--format", how]
        for command in ("inspect", "measure", "law"):
            yield [command, first, "--format", how]
        yield ["inspect", first, "--columns", "--format", how]
        yield ["framerate", first, second, "--format", how]
        yield ["compare", first, second, "--format", how]


def checked(call, capsys):
    with pytest.raises(SystemExit) as stop:
        main(call)
    out, err = capsys.readouterr()
    assert stop.value.code in {0, 1, 2}, (call, err)
    for text in (out, err):
        odd = {mark for mark in text if not mark.isprintable()} - {"\n", "\t"}
        assert not odd, (call, odd)
    assert not any(line.startswith("kickback: all is well") for line in err.splitlines())
    if call[-2:] == ["--format", "json"] and out:
        json.loads(out)
    if call[-2:] == ["--format", "junit"] and out:
        ET.fromstring(out)
    if call[-2:] == ["--format", "csv"] and out:
        assert not [cell for row in csv.reader(io.StringIO(out)) for cell in row
                    if cell[:1] in {"=", "@", "+"}]  # fmt: skip


@pytest.mark.parametrize("word", some(NASTY, NASTY[0]))
def test_nothing_unprintable_leaves_any_command(tmp_path, capsys, monkeypatch, word):
    folder = tmp_path / "inside"
    folder.mkdir()
    monkeypatch.chdir(folder)
    seen = set()
    for call in calls_on(hostile(folder, word), folder):
        checked(call, capsys)
        seen.add(call[0])
    assert seen == set(COMMANDS)
    assert list(tmp_path.iterdir()) == [folder]


@pytest.mark.long
@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(word=st.text(min_size=1, max_size=30))
def test_nothing_unprintable_leaves_any_command_whatever_the_word(tmp_path_factory, capsys, word):
    folder = tmp_path_factory.mktemp("words")
    for call in calls_on(hostile(folder, word), folder):
        checked(call, capsys)


def test_reports_take_what_xml_and_markdown_forbid():
    text = "".join(map(chr, range(0x120))) + "\ufffe\ud800]]>"
    report = as_junit(text, [(text, text, text), (text, text, None)])
    assert len(ET.fromstring(report)) == 2
    assert len(as_markdown([{"a": text}]).splitlines()) == 3


def test_groups_that_lack_one_thing_are_named_once():
    jump, cut = "no such jump in the take", "no jump was cut short"
    lacking = [("air_jump", jump), ("air_jump", "else"), ("wall", "no wall"), ("air_hop", jump)]
    assert absent_groups(lacking) == ["air_jump", "wall"]
    assert absent_groups([("air_jump", jump), ("air_hop", cut)]) == ["air_jump", "air_hop"]
