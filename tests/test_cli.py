"""The built program on files in a temporary folder: output, exit status, sentences."""

import csv
import io
import json
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from click.testing import CliRunner

from conftest import quick
from kickback.cli.main import COMMANDS, group, main
from kickback.errors import KickbackError
from kickback.files.write import encode_take, write_take
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.models import simulate as simulate_kind
from kickback.kinds.table import KINDS
from kickback.takes.header import ParameterSet

DRILL = drill_from_mapping(
    {
        "name": "basics",
        "length": 8.0,
        "input": [
            {"at": 0.5, "until": 2.0, "move_x": 1},
            {"at": 3.0, "until": 5.0, "move_x": 1},
            {"at": 5.5, "until": 6.5, "jump": True},
        ],
    },
    "basics",
)


def played(rate=60, name="brisk", **values):
    return simulate(ParameterSet(name=name, values=values), DRILL, frame_rate=rate)


TAKES = {
    "brisk-30.jsonl": played(30),
    "brisk-60.jsonl": played(60),
    "brisk-60.csv": played(60),
    "floaty-60.csv": played(60, "floaty", gravity_rise=26.0, gravity_fall=26.0),
    "slip-30.csv": played(30, "slip", mistakes="gravity-per-frame"),
    "slip-60.csv": played(60, "slip", mistakes="gravity-per-frame"),
}
GOOD = encode_take(TAKES["brisk-60.csv"], "csv").split(b"\n")


@pytest.fixture
def kickback(program):
    return program


@pytest.fixture
def folder(tmp_path):
    for name, take in TAKES.items():
        write_take(take, tmp_path / name)
    return tmp_path


def changed(row, change):
    return b"\n".join([*GOOD[:row], change(GOOD[row]), *GOOD[row + 1 :]])


BAD_FILES = {
    "empty.csv": (b"", "empty.csv: is empty"),
    "binary.csv": (bytes(range(256)) * 8, "binary.csv: is a binary file"),
    "header.csv": (
        b"# {broken\n" + b"\n".join(GOOD[1:]),
        "header.csv, line 1: the header is not JSON",
    ),
    "ragged.csv": (
        changed(50, lambda row: row + b",1"),
        "ragged.csv, line 51: 11 values where there are 10",
    ),
    "text.csv": (changed(50, lambda row: b"a" + row), "text.csv, line 51, column t: 't' is 'a0."),
    "nan.csv": (changed(50, lambda row: row.replace(row.split(b",")[2], b"nan")), "is NaN"),
    "back.csv": (
        changed(50, lambda _: GOOD[5]),
        "back.csv, line 51, column t: time runs backwards",
    ),
    "one.csv": (b"\n".join(GOOD[:3]) + b"\n", "one.csv: a take needs at least two frames"),
    "foreign.csv": (b"time,px,py\n1,2,3\n2,3,4\n", "foreign.csv: no column 'x' for the position"),
}


@quick(2)
@pytest.mark.parametrize("name", BAD_FILES)
def test_a_bad_take_is_one_sentence_and_status_2(kickback, tmp_path, name):
    data, sentence = BAD_FILES[name]
    (tmp_path / name).write_bytes(data)
    _, out, err = kickback("measure", name, status=2)
    assert out == ""
    assert err.count("\n") == 1
    assert sentence in err
    assert (tmp_path / name).read_bytes() == data


BAD_CALLS = [
    (("measure", "nowhere.csv"), "nowhere.csv: no such file or folder"),
    (("measure", "brisk-60.csv", "--map", "m.toml"), "has no column 'tt'"),
    (("measure", "brisk-60.csv", "--only", "jump.apex_hight"), "did you mean 'jump.apex_height'"),
    (("measure", "brisk-60.csv", "--format", "xml"), "'xml' is not one of"),
    (("measure", "brisk-60.csv", "--project", "none.toml"), "no such project file"),
    (("measure",), "missing argument 'TAKES...'"),
    (("measur", "brisk-60.csv"), "no command 'measur'; did you mean 'measure'?"),
    (
        ("metrics", "jump.apex_hight"),
        "no metric 'jump.apex_hight'; did you mean 'jump.apex_height'",
    ),
    (
        ("simulate", "p.toml"),
        "p.toml, line 2: unknown parameter 'run_sped'; did you mean 'run_speed'",
    ),
    (("simulate", "--drill", "d.toml"), "d.toml, input 1: unknown key 'leap'"),
    (("simulate", "--mistake", "no-dt"), "unknown mistake 'no-dt'"),
    (("simulate", "--rate", "fast"), "'fast' is not a valid float"),
    (
        ("simulate", "-o", "brisk-60.csv"),
        "brisk-60.csv: the file exists already; --force replaces it",
    ),
    (("compare", "brisk-60.csv", "px.csv"), "length units differ, m in brisk-60 and px in px"),
    (("compare", "brisk-60.csv", "brisk-60.csv", "--keep"), "--keep keeps what --repeats finds"),
    (("compare", "brisk-60.csv", "--repeats", "--figure", "a.png"), "--repeats has neither"),
    (("gate", "brisk-60.csv", "--into", "runs"), "TAKES are there already"),
    (("compare", "brisk-60.csv"), "compare needs a base and one more"),
    (("plot", "brisk-60.csv", "-o", "a.gif"), "a.gif: the ending must be .png or .svg"),
    (("convert", "brisk-60.csv", "-o", "a.txt"), "a.txt: the ending must be one of .jsonl, .csv"),
    (("convert", "brisk-60.csv", "brisk-30.jsonl", "-o", "a.csv"), "2 takes do not fit one file"),
    (("record", "tape"), "tape: no such file; a source is - (a pipe), a file, tcp, udp or ws"),
    (("inspect", "*.none"), "*.none: no file fits the pattern"),
]


@pytest.mark.parametrize(("call", "sentence"), BAD_CALLS, ids=lambda value: " ".join(value)[:40])
def test_a_bad_call_is_a_sentence_and_status_2(folder, monkeypatch, capsys, call, sentence):
    """Run in this process, for time; the bad takes above go through the built program."""
    monkeypatch.chdir(folder)
    (folder / "m.toml").write_text('[columns]\nt = "tt"\nx = "x"\n')
    (folder / "p.toml").write_text("[values]\nrun_sped = 3\n")
    (folder / "d.toml").write_text("[[input]]\nat = 0\nuntil = 1\nleap = 1\n")
    (folder / "px.csv").write_bytes(
        b"\n".join(GOOD).replace(b'"length_unit":"m"', b'"length_unit":"px"')
    )
    before = sorted(path.name for path in folder.iterdir())
    with pytest.raises(SystemExit) as stop:
        main(list(call))
    captured = capsys.readouterr()
    assert stop.value.code == 2
    assert captured.out == ""
    assert sentence in captured.err
    assert sum(not line.startswith("kickback: warning") for line in captured.err.splitlines()) == 1
    assert sorted(path.name for path in folder.iterdir()) == before


def run(*arguments):
    """Run the program in this process; returns its exit status and standard output."""
    result = CliRunner().invoke(group, [str(item) for item in arguments], catch_exceptions=True)
    if result.exception and not isinstance(result.exception, SystemExit | KickbackError):
        raise result.exception
    return result.exit_code, result.stdout


@pytest.fixture
def here(folder, monkeypatch):
    monkeypatch.chdir(folder)
    monkeypatch.setenv("COLUMNS", "160")
    return folder


def test_measure_shows_a_take_with_units_resolution_and_count(kickback, folder):
    _, out, err = kickback("measure", "brisk-60.csv", status=0)
    assert err == ""
    rows = {
        line.split()[0]: line
        for line in out.splitlines()
        if line.startswith((" run", " jump", " coast"))
    }
    assert rows["run.top_speed"].split()[1:3] == ["8.000", "m/s"]
    assert rows["run.time_to_90"].split()[1:5] == ["0.1800", "s", "10.8", "f"]
    assert "3.33e-07 s" in rows["run.time_to_90"]
    assert rows["coast.stop_time"].split()[-1] == "2"
    assert "dash, air_dash, platform, camera, state (--only GROUP says why)" in " ".join(
        out.split()
    )
    assert "run.overshoot" not in out
    _, every, _ = kickback("measure", "brisk-60.csv", "--all", status=0)
    assert "run.overshoot" in every
    _, why, _ = kickback("measure", "brisk-60.csv", "--only", "dash.duration,turn.time", status=0)
    assert "dash.duration: no dash button was recorded" in why


def test_measure_shows_several_takes_side_by_side(here):
    _, out = run("measure", "brisk-60.csv", "floaty-60.csv", "--only", "jump.air_time")
    line = next(line for line in out.splitlines() if line.startswith(" jump.air_time"))
    assert line.split()[1:3] + line.split()[5:7] == ["0.6500", "s", "1.000", "s"]


@pytest.mark.parametrize("source", ["csv", "jsonl"])
def test_measure_reads_a_pipe(kickback, source):
    data = encode_take(TAKES["brisk-60.csv"], source)
    _, out, _ = kickback(
        "measure", "-", "--only", "run.top_speed", "--format", "json", stdin=data, status=0
    )
    assert json.loads(out)[0]["value"] == pytest.approx(8.0)


@pytest.mark.parametrize("each", [(), ("--each",)])
def test_records_as_json_csv_and_markdown_agree(here, each):
    outputs = {
        how: run("measure", "brisk-60.csv", "--format", how, *each)[1]
        for how in ("json", "csv", "markdown")
    }
    records = json.loads(outputs["json"])
    table = list(csv.DictReader(io.StringIO(outputs["csv"])))
    markdown = outputs["markdown"].splitlines()
    assert len(records) == len(table) == len(markdown) - 2
    assert list(records[0]) == list(table[0])
    for record, row in zip(records, table, strict=True):
        assert row["metric"] == record["metric"]
        assert row["value"] == ("" if record["value"] is None else repr(record["value"]))
    if each:
        coasts = [record for record in records if record["metric"] == "coast.stop_time"]
        assert [round(record["start"], 6) for record in coasts] == [2.0, 5.0]


def test_each_occurrence_is_shown_with_its_times(here):
    _, out = run("measure", "brisk-60.csv", "--each", "--only", "coast.stop_time")
    assert [line.split()[2:6] for line in out.splitlines() if line.startswith(" coast")] == [
        ["2.000", "s", "2.247", "s"],
        ["5.000", "s", "5.247", "s"],
    ]


@pytest.mark.parametrize(
    ("arguments", "status"),
    [
        (("framerate", "brisk-30.jsonl", "brisk-60.jsonl"), 0),
        (("framerate", "slip-*.csv"), 1),
        (("framerate", "slip-*.csv", "--only", "run"), 0),
        (("framerate", "brisk-30.jsonl", "brisk-60.jsonl", "--only", "turn", "--strict"), 0),
        (("compare", "brisk-60.csv", "brisk-60.jsonl"), 0),
        (("compare", "brisk-60.csv", "floaty-60.csv"), 0),
        (("compare", "brisk-60.csv", "floaty-60.csv", "--project", "wish.toml"), 1),
        (("compare", "brisk-60.csv", "floaty-60.csv", "--only", "run"), 0),
    ],
)
@pytest.mark.parametrize("how", ["text", "json", "junit"])
def test_verdicts_have_an_exit_status_in_every_format(here, arguments, status, how):
    (here / "wish.toml").write_text('[budgets]\n"jump.apex_height" = "20 %"\n')
    code, out = run(*arguments, "--format", how)
    assert code == status
    if how == "json":
        bad = {"breaks", "drifts", "regressed", "lost"}
        assert status == 0 or {row["verdict"] for row in json.loads(out)} & (bad | {"cannot-tell"})
    if how == "junit" and "--strict" not in arguments:
        suite = ET.fromstring(out)
        assert (int(suite.get("failures")) > 0) is (status == 1)
        assert int(suite.get("tests")) == len(suite.findall("testcase"))


def test_framerate_answers_first_and_worst_first(here):
    _, out = run("framerate", "slip-30.csv", "slip-60.csv", "--only", "jump,run")
    lines = [line for line in out.splitlines() if line.strip()]
    assert lines[0] == "slip at 30, 60 frames/s"
    assert "metrics do not hold" in lines[1]
    assert lines[2].startswith("gravity-per-frame: ")
    first = next(line for line in lines if line.startswith(" jump."))
    assert first.split()[-1] == "breaks"
    assert not any(line.startswith(" run.") for line in lines[: lines.index(first)])


def test_compare_lists_what_changed(here):
    (here / "wish.toml").write_text('[budgets]\njump = "20 %"\n')
    _, out = run("compare", "brisk-60.csv", "floaty-60.csv", "--project", "wish.toml")
    assert out.splitlines()[0] == "brisk → floaty"
    assert out.splitlines()[1].startswith("jumps 54 % higher, jumps 54 % longer; runs")
    assert "gravity_rise 40 → 26: rise.acceleration" in " ".join(out.split())
    assert ["gravity_rise", "40", "26"] in [line.split() for line in out.splitlines()]
    apex = next(line for line in out.splitlines() if line.startswith(" jump.apex_height"))
    assert "+1.139 m" in apex
    assert "+53.9%" in apex
    assert apex.split()[-1] == "regressed"


def test_budgets_come_from_the_project(here):
    (here / "kickback.toml").write_text('[budgets]\njump = "60 %"\n')
    assert run("compare", "brisk-60.csv", "floaty-60.csv")[0] == 0
    (here / "strict.toml").write_text('[budgets]\n"jump.apex_height" = "1 %"\n')
    assert run("compare", "brisk-60.csv", "floaty-60.csv", "--project", "strict.toml")[0] == 1


def test_the_project_s_mapping_reads_the_game_s_own_logs(here):
    (here / "kickback.toml").write_text('[mapping.columns]\nt = "time"\nx = "px"\n')
    (here / "log.csv").write_text("time,px\n" + "".join(f"{n / 10},{n}\n" for n in range(30)))
    _, out = run(
        "measure", "log.csv", "brisk-60.csv", "--only", "run.highest_speed", "--format", "json"
    )
    assert [round(row["value"], 6) for row in json.loads(out)] == [10.0, 8.0]


def test_inspect_names_columns_phases_and_events(here):
    _, out = run("inspect", "brisk-60.csv")
    for text in (
        "480 frames",
        "480, 8.00 s at 60 frames/s",
        "drill        basics",
        "2 coast",
        "1 takeoff",
        "the game's own velocity after the update",
        "speed reported, ground contact recorded",
    ):
        assert text in out or text == "480 frames"
    records = json.loads(run("inspect", "brisk-60.csv", "--format", "json")[1])
    assert records == []
    records = json.loads(run("inspect", "brisk-60.csv", "--format", "json", "--columns")[1])
    assert [row["column"] for row in records][:4] == ["t", "dt", "x", "y"]


def test_derived_columns_and_inferred_phases_are_marked(here):
    (here / "bare.csv").write_text(
        "t,x,y\n" + "".join(f"{n / 60},{max(0, n - 20) * 0.1},0\n" for n in range(60))
    )
    _, out = run("inspect", "bare.csv")
    assert "the time step that the update used (derived)" in out
    assert "~speed-up" in out or "~cruise" in out
    assert "~ inferred from the motion" in out


def test_metrics_are_listed_and_explained(here):
    _, out = run("metrics")
    assert "jump.apex_height" in out
    assert "coast.stop_distance" in out
    _, one = run("metrics", "jump.apex_height")
    assert "formula   max(y) − y(takeoff)" in one
    assert "unit      L (L: the take's length unit)" in one
    _, few = run("metrics", "buffer", "--format", "json")
    assert [row["metric"] for row in json.loads(few)] == [
        f"buffer.{part}" for part in ("window", "window_frames", "missed")
    ]


@quick(2)
@pytest.mark.parametrize("ending", ["png", "svg"])
def test_plot_draws_takes_over_each_other(here, ending):
    code, out = run("plot", "brisk-60.csv", "floaty-60.csv", "-o", f"figure.{ending}")
    data = (here / f"figure.{ending}").read_bytes()
    assert (code, out) == (0, f"figure.{ending}: 2 takes drawn\n")
    assert data.startswith({"png": b"\x89PNG", "svg": b"<?xml"}[ending])
    assert run("plot", "brisk-60.csv", "-o", f"figure.{ending}")[0] != 0
    assert run("plot", "brisk-60.csv", "floaty-60.csv", "-o", f"figure.{ending}", "--force")[0] == 0
    assert (here / f"figure.{ending}").read_bytes() == data


def test_plot_of_a_bare_log_names_what_is_inferred(here):
    (here / "bare.csv").write_text(
        "t,x\n" + "".join(f"{n / 60},{max(0, n - 20) * 0.1}\n" for n in range(60))
    )
    assert run("plot", "bare.csv")[0] == 0
    assert (here / "bare.png").exists()


def test_simulate_writes_a_take_for_each_set_and_rate(here):
    (here / "params.toml").write_text('name = "quick"\n[values]\nrun_speed = 9.0\n')
    code, out = run(
        "simulate", "params.toml", "--rate", 30, "--rate", 60, "-o", "made", "--as", "csv.gz"
    )
    assert code == 0
    assert out.splitlines() == [
        "made/quick-30.csv.gz: 360 frames, 12.0 s",
        "made/quick-60.csv.gz: 720 frames, 12.0 s",
    ]
    _, measured = run("measure", "made", "--only", "run.top_speed", "--format", "json")
    assert [row["value"] for row in json.loads(measured)] == [9.0, 9.0]
    assert [row["frame_rate"] for row in json.loads(measured)] == [30.0, 60.0]


def test_convert_keeps_everything(here):
    assert run("convert", "brisk-60.csv", "-o", "back.jsonl.gz")[0] == 0
    assert run("convert", "back.jsonl.gz", "-o", "again.csv")[0] == 0
    assert (here / "again.csv").read_bytes() == (here / "brisk-60.csv").read_bytes()


def test_new_starts_a_project(here):
    code, out = run("new", "game")
    assert code == 0
    assert "game/kickback.toml" in out
    assert "exists already, left as it is" in run("new", "game")[1]


def test_a_cut_off_file_gives_its_frames_and_a_warning(kickback, tmp_path):
    (tmp_path / "cut.csv").write_bytes(b"\n".join(GOOD)[:-40])
    _, out, err = kickback("measure", "cut.csv", "--only", "run.top_speed", status=0)
    assert "8.000 m/s" in out
    assert "warning: cut.csv, line 482: the last line is cut off and was left out" in err


def test_the_demo_walks_through_everything(kickback, tmp_path):
    _, out, err = kickback("demo", status=0)
    assert err.count("warning") == 0
    for text in (
        "$ kickback record --into live --drill drills/rooftop-basics.toml",
        "All 2 runs done.",
        "vs before",
        "$ kickback inspect takes/brisk-60.jsonl",
        "$ kickback measure takes/brisk-60.jsonl takes/floaty-60.jsonl",
        "$ kickback compare takes/brisk-60.jsonl takes/floaty-60.jsonl",
        "$ kickback accept 'takes/brisk-[0-9]*.jsonl'",
        "May pass: none of 213 checks of 3 takes",
        "May not pass: 50 of 213 checks",
        "brisk at 30, 60, 144 frames/s",
        "All 56 metrics hold.",
        "metrics do not hold",
        "(exit status 1: a build server would stop here)",
        "figures/brisk-floaty.png: 2 takes drawn",
    ):
        assert text in out
    assert (tmp_path / "demo" / "figures" / "brisk-floaty.png").stat().st_size > 20_000


@pytest.mark.long
def test_the_demo_keeps_what_was_edited(kickback, tmp_path):
    kickback("demo", "--walk", "camera", status=0)
    params = tmp_path / "demo" / "params" / "brisk.toml"
    params.write_text(params.read_text().replace("jump_speed = 13.0", "jump_speed = 15.0"))
    _, again, _ = kickback("demo", status=0)
    assert "15.00 m/s" in again
    assert "jump_speed = 15.0" in params.read_text()


@pytest.mark.parametrize("command", [None, *COMMANDS])
def test_every_command_has_help(command):
    code, out = run(*([command] if command else []), "--help")
    assert code == 0
    assert "Usage: " in out
    for name, text in COMMANDS.items():
        if command is None:
            assert name in out
            assert text.split(":")[0].rstrip(".")[:30] in out
    assert "\\b" not in out  # a mark that was not understood


def test_no_colour_reaches_a_pipe(kickback, folder):
    for call, status in (
        (("framerate", "slip-30.csv", "slip-60.csv"), 1),
        (("compare", "brisk-60.csv", "floaty-60.csv"), 0),
    ):
        assert "\x1b" not in kickback(*call, status=status)[1]


def test_the_version_is_told(kickback):
    assert kickback("--version", status=0)[1].startswith("kickback 0.")


def test_details_are_worked_out_where_they_are_asked_for(kickback, tmp_path):
    write_take(simulate(frame_rate=60), tmp_path / "run.jsonl")

    def metrics(*arguments):
        text = kickback("measure", "run.jsonl", "--format", "json", *arguments, status=0)[1]
        return {row["metric"] for row in json.loads(text)}

    details = {one.name for one in KINDS[0].measuring.metrics if one.detail}
    every = {one.name for one in KINDS[0].measuring.metrics}
    assert metrics("--all") == every
    assert metrics() == every - details
    assert metrics("--only", "run.overshoot") == {"run.overshoot"}
    assert "run.overshoot" in details


def test_takes_of_several_kinds_stand_in_a_table_each(kickback, tmp_path):
    for kind in ("foot", "vehicle", "shot"):
        write_take(simulate_kind(kind=kind, frame_rate=60), tmp_path / f"{kind}.jsonl")
    _, out, _ = kickback("measure", "foot.jsonl", "vehicle.jsonl", "shot.jsonl", status=0)
    tables = out.split("details with --all")
    assert len(tables) == 4
    for table, kind, metric in zip(
        tables, ("foot", "vehicle", "shot"),
        ("run.top_speed", "drive.top_speed", "shot.launch_speed"), strict=False,
    ):  # fmt: skip
        assert metric in table
        assert kind in table
    rows = json.loads(kickback("measure", ".", "--format", "json", status=0)[1])
    assert {row["take"] for row in rows} == {"foot", "vehicle", "shot"}


def test_of_a_long_take_what_goes_beside_it_waits_to_be_asked_for(kickback, tmp_path):
    for frames, shown in ((100_000, True), (100_001, False)):
        x = np.minimum(np.arange(frames) * 0.1, 50.0)
        table = np.stack((np.arange(1, frames + 1) / 60, x, np.ones(frames)), axis=1)
        path = tmp_path / f"long-{frames}.csv"
        np.savetxt(path, table, delimiter=",", header="t,x,in_move_x", comments="", fmt="%.4f")
        out = kickback("measure", path, status=0)[1]
        assert ("smoothness.frame_time_99" in out) is shown
        assert ("details, camera, state, smoothness with --all" in out) is not shown
    out = kickback("measure", path, "--only", "smoothness.frame_time_99", status=0)[1]
    assert "16.67 ms" in out
