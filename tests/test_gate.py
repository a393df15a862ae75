"""Baselines and the gate: what is accepted, what may pass, and what a build server is told."""

import json
import shutil
import subprocess
import sys
import time
from types import SimpleNamespace
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from conftest import PROGRAM, take_of
from kickback.errors import InputError
from kickback.files.write import write_take
from kickback.kinds.table import all_metrics
from kickback.project.baselines import from_text, to_text
from kickback.takes.header import ParameterSet
from kickback.workflows import running
from kickback.workflows.accepting import read_baseline
from kickback.workflows.running import RunPlan
from truth.recurrence import during, play, steps

MOVES = (during((0.5, 2, 1)), during((3, 3.14, 1), (4, 4.6, 1)))


def write(path, rate=60, name="hero", drill="basics", late=0.0, **values):
    """Write a take of a game's loop, its moves a little late where hands played it."""
    moves = [lambda time, own=own: own(time - late) for own in MOVES]
    columns = play(steps(rate, 6), *moves, theta=0.5, cut=0.5, **values)
    take = take_of(
        columns, drill=drill, parameters=ParameterSet(name=name, values=values), frame_rate=rate
    )
    path.parent.mkdir(parents=True, exist_ok=True)
    write_take(take, path)
    return path


@pytest.fixture
def feel(tmp_path, kickback):
    """Return the program in a folder with a project, accepted takes and a build."""
    (tmp_path / "kickback.toml").write_text('[budgets]\n"jump.apex_height" = "5 %"\n')
    for rate in (60, 144):
        write(tmp_path / f"old/hero-{rate}.csv", rate, v0=13.0)
    kickback("accept", "old", "--because", "first", status=0)
    return kickback


def verdicts(out):
    return {(row["metric"], row["frame_rate"]): row["verdict"] for row in json.loads(out)}


def test_a_baseline_is_text_that_reads_well(tmp_path, feel):
    text = (tmp_path / "baseline.json").read_text()
    data = json.loads(text)
    assert data["accepted"][0]["because"] == "first"
    assert list(data["exercises"]) == ["subject hero basics 144/s", "subject hero basics 60/s"]
    one = data["exercises"]["subject hero basics 60/s"]
    assert one["parameters"] == {"v0": 13.0}
    assert one["constants"]["takeoff.speed"]["value"] == 13.0
    assert list(one["metrics"]) == sorted(one["metrics"])
    lines = [line for line in text.splitlines() if '"jump.apex_height"' in line]
    assert len(lines) == 2
    assert all("resolution" in line and "hold" in line for line in lines)
    assert to_text(read_baseline(tmp_path / "baseline.json")) == text
    feel("accept", "old", "--because", "again", status=0)
    again = (tmp_path / "baseline.json").read_text().splitlines()
    new = [line for line in again if line not in text.splitlines()]
    assert any("again" in line for line in new)
    assert len(new) <= 2


def test_accepting_shows_the_difference_and_takes_some_alone(tmp_path, feel):
    write(tmp_path / "new/hero-60.csv", v0=14.0, slow=20.0)
    _, out, err = feel("accept", "new", "--only", "coast", "--because", "ice", status=0)
    assert "coast.stop_distance" in out
    assert "jump.apex_height" not in out
    assert "because ice" in err
    data = json.loads((tmp_path / "baseline.json").read_text())
    metrics = data["exercises"]["subject hero basics 60/s"]["metrics"]
    assert metrics["jump.apex_height"]["value"] == pytest.approx(13**2 / 80, rel=0.01)
    assert metrics["coast.stop_distance"]["value"] == pytest.approx(8**2 / 40, rel=0.01)
    assert len(data["exercises"]) == 2


@pytest.mark.parametrize(
    ("v0", "status", "word"), [(13.0, 0, "same"), (13.1, 0, "moved"), (13.4, 1, "regressed")]
)
def test_a_build_passes_or_does_not(tmp_path, feel, v0, status, word):
    for rate in (60, 144):
        write(tmp_path / f"new/hero-{rate}.csv", rate, v0=v0)
    _, out, _ = feel("gate", "new", "--format", "json", status=status)
    assert verdicts(out)["jump.apex_height", 60.0] == word
    assert verdicts(out)["coast.stop_time", 144.0] == "same"
    _, out, _ = feel("gate", "new", status=status)
    assert out.startswith("May pass: none of" if not status else "May not pass: ")
    assert ("v0 13 → 13.4" in out) is bool(status)
    _, out, _ = feel("gate", "new", "--format", "markdown", status=status)
    assert out.startswith("**May")
    assert ("| jump.apex_height | " in out.split("<details>")[0]) is bool(status)


def test_what_nobody_wrote_a_budget_for_may_move_by_two_percent(tmp_path, feel):
    for rate in (60, 144):
        write(tmp_path / f"near/hero-{rate}.csv", rate, slow=32.5)
        write(tmp_path / f"far/hero-{rate}.csv", rate, slow=33.0)
    near = feel("gate", "near", "--only", "coast", "--format", "json", status=0)[1]
    far = feel("gate", "far", "--only", "coast", "--format", "json", status=1)[1]
    assert verdicts(near)["coast.stop_time", 60.0] == "moved"
    assert verdicts(far)["coast.stop_time", 60.0] == "regressed"


def test_takes_that_were_played_by_hand_are_held_against_the_baseline(tmp_path, feel):
    for rate in (60, 144):
        write(tmp_path / f"new/hero-{rate}.csv", rate, late=0.011, v0=13.0)
        write(tmp_path / f"bad/hero-{rate}.csv", rate, late=0.011, v0=14.0)
    _, out, _ = feel("gate", "new", "--format", "json", status=0)
    assert verdicts(out)["hop.apex_height", 60.0] == "same"
    _, out, _ = feel("gate", "bad", "--format", "json", status=1)
    assert verdicts(out)["jump.apex_height", 60.0] == "regressed"


def test_a_lost_move_and_a_rate_that_was_not_played_fail(tmp_path, feel):
    write(tmp_path / "new/hero-60.csv")
    _, out, _ = feel("gate", "new", status=1)
    assert "exercise (144 frames/s): lost" in out
    columns = play(steps(60, 6), MOVES[0], theta=0.5)
    take = take_of(columns, drill="basics", parameters=ParameterSet(name="hero", values={}))
    write_take(take, tmp_path / "new" / "hero-144.csv")
    shutil.rmtree(tmp_path / "old")
    write(tmp_path / "old/hero-60.csv")
    feel("accept", "old", "--baseline", "one.json", status=0)
    _, out, _ = feel(
        "gate", "new/hero-144.csv", "--baseline", "one.json", "--format", "json", status=1
    )
    lost = {row["metric"] for row in json.loads(out) if row["verdict"] == "lost"}
    assert {"jump.apex_height", "hop.air_time"} <= lost


def test_frame_rates_and_errors_are_part_of_the_verdict(tmp_path, feel):
    for rate in (60, 144):
        write(tmp_path / f"new/hero-{rate}.csv", rate, k=9, law="per-frame")
    feel("accept", "new", "--baseline", "same.json", status=0)
    _, out, _ = feel("gate", "new", "--baseline", "same.json", status=1)
    assert "(hero over the frame rate): breaks" in out
    assert "metrics" not in out.splitlines()[0]
    columns = dict(play(steps(60, 6), *MOVES))
    columns["t"] = np.where(np.arange(360) == 200, columns["t"] - 1.0, columns["t"])
    (tmp_path / "back.csv").write_text(
        "t,x,y\n"
        + "".join(f"{t},{x},{y}\n" for t, x, y in zip(*(columns[n] for n in "txy"), strict=True))
    )
    assert "back.csv" in feel("gate", "back.csv", status=2)[2]


@pytest.mark.parametrize(
    ("wish", "status"), [('{ at_least = "2 m" }', 0), ('{ at_least = "2.2 m" }', 1)]
)
def test_what_a_metric_must_be_needs_no_baseline(tmp_path, kickback, wish, status):
    (tmp_path / "kickback.toml").write_text(f'[budgets]\n"jump.apex_height" = {wish}\n')
    write(tmp_path / "new/hero.csv", v0=13.0)
    _, out, err = kickback("gate", "new", status=status)
    assert "no baseline" in err
    assert "without a baseline" in out


def test_a_report_names_cases_alike_from_run_to_run(tmp_path, feel):
    odd = "he\x01ro|<&>"
    write(tmp_path / "odd/hero.csv", name=odd)
    feel("accept", "odd", "--baseline", "odd.json", status=0)
    suites = []
    for v0 in (13.0, 14.5):
        write(tmp_path / "odd/hero.csv", name=odd, v0=v0)
        code, out, _ = feel("gate", "odd", "--baseline", "odd.json", "--format", "junit")
        suite = ET.fromstring(out)
        assert int(suite.get("failures")) > 0 if code else suite.get("failures") == "0"
        suites.append([case.get("name") for case in suite.findall("testcase")])
    assert suites[0] == suites[1]
    assert len(set(suites[0])) == len(suites[0])


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("{", "is no baseline"),
        ("[1]", "is no baseline: 'kickback accept' writes one"),
        ('{"kickback_baseline": 1, "length_unit": "m"}', "is no whole baseline"),
        ('{\n<<<<<<< ours\n"a": 1\n', "line 2: two versions stand in the baseline"),
    ],
)
def test_a_broken_baseline_is_a_sentence(tmp_path, feel, text, sentence):
    (tmp_path / "bad.json").write_text(text)
    _, _, err = feel("gate", "old", "--baseline", "bad.json", status=2)
    assert "bad.json" in err
    assert sentence in err
    assert feel("accept", "old", "--baseline", "bad.json")[0] == 2
    assert (tmp_path / "bad.json").read_text() == text


def test_other_calls_that_make_no_sense(tmp_path, feel):
    assert "no [gate] with a 'run'" in feel("gate", status=2)[2]
    assert "no such baseline" in feel("gate", "old", "--baseline", "none.json", status=2)[2]
    write_take(take_of(play(steps(60, 6), *MOVES), length_unit="px"), tmp_path / "px.csv")
    assert "is in m, the takes are in px" in feel("gate", "px.csv", status=2)[2]
    assert "the baseline is in m, the takes are in px" in feel("accept", "px.csv", status=2)[2]


GAME = """
import json, sys
sys.path.insert(0, {tests!r})
from truth.recurrence import during, play, steps
JUMP = {jump}
if JUMP is None:
    sys.exit("no such level")
rate = float(sys.argv[1])
columns = play(steps(rate, 5), during((0.5, 2, 1)), during((3, 3.6, 1)), theta=0.5, v0=JUMP)
print(json.dumps({{"kickback": 1, "length_unit": "m", "frame_rate": rate}}))
names = list(columns)
for row in zip(*columns.values()):
    print(json.dumps(dict(zip(names, row))))
"""


def write_game(folder, tests, jump):
    (folder / "game.py").write_text(GAME.format(tests=str(tests), jump=jump))


@pytest.fixture
def game(tmp_path, request):
    """Return a folder with a game that prints its frames, and a project that runs it."""
    tests = request.path.parent
    write_game(tmp_path, tests, 13.0)
    run = f"{sys.executable} game.py {{rate}}"
    (tmp_path / "kickback.toml").write_text(
        f'[gate]\nrun = {run!r}\nrates = [60]\nsources = ["-"]\ntimeout = 30\n'
    )
    return tests


def test_the_gate_runs_the_game(tmp_path, program, game):
    program("gate", "--into", "runs", status=0)
    program("accept", "runs", status=0)
    _, out, _ = program("gate", "--at-once", 2, status=0)
    assert out.startswith("May pass")
    assert "TAKES are there already" in program("gate", "runs", "--at-once", 2, status=2)[2]
    write_game(tmp_path, game, 14.0)
    program("gate", status=1)
    write_game(tmp_path, game, None)
    for arguments, status in (((), 2), (("--unable-status", "125"), 125)):
        _, _, err = program("gate", *arguments, status=status)
        assert "the game could not be run" in err


def test_what_a_game_writes_as_it_ends_is_read():
    """It writes all of its frames and ends just after a look that found nothing."""
    stream = SimpleNamespace(heard=time.monotonic() - 5, session=SimpleNamespace(open_takes=()))
    game, looks = SimpleNamespace(running=True), []

    def pump():
        looks.append(game.running)
        game.running = False
        if len(looks) == 1:
            return []
        stream.heard = time.monotonic() if len(looks) == 2 else stream.heard
        return ["a take"] if len(looks) == 2 else []

    hub = SimpleNamespace(streams=[stream], ledger=SimpleNamespace(gap=1.0))
    takes = []
    rounds = running._received(
        RunPlan(command="game"), game, SimpleNamespace(hub=hub, pump=pump), takes
    )
    assert all(item is None for item in rounds)
    assert takes == ["a take"]


@pytest.mark.long
def test_a_bisecting_search_finds_the_commit(tmp_path, program, game):
    """Ten commits, one of which breaks the jump, and one that does not run."""

    def git(*arguments):
        own = ("-c", "user.name=Mara", "-c", "user.email=mara@example.org")
        return subprocess.run(
            [shutil.which("git"), *own, *arguments],
            cwd=tmp_path,
            capture_output=True,
            text=True,
            check=True,
        ).stdout

    git("init", "-q")
    program("gate", "--into", "runs", status=0)
    program("accept", "runs", status=0)
    shutil.rmtree(tmp_path / "runs")
    for number in range(10):
        jump = None if number == 4 else 13.0 if number < 6 else 13.8
        write_game(tmp_path, game, jump)
        (tmp_path / "notes.txt").write_text(f"{number}\n")
        git("add", "-A")
        git("commit", "-qm", f"build {number}")
    git("bisect", "start", "HEAD", "HEAD~9")
    out = git("bisect", "run", str(PROGRAM), "gate", "--unable-status", "125")
    first = out.split(" is the first bad commit")[0].split()[-1]
    assert git("log", "-1", "--format=%s", first).strip() == "build 6"


def test_a_baseline_keeps_what_several_takes_say(tmp_path, feel):
    for number in range(4):
        write(tmp_path / f"many/hero-{number}.csv", late=0.003 * number, v0=13.0 + 0.01 * number)
    feel("accept", "many", "--baseline", "many.json", status=0)
    kept = from_text((tmp_path / "many.json").read_text(), "many.json", all_metrics())
    apex = kept.cells[0].samples["jump.apex_height"]
    assert len(apex.readings) == 4
    assert kept.cells[0].noise["jump.apex_height"] > 0
    broken = (tmp_path / "many.json").read_text().replace('"resolution"', '"revolution"')
    with pytest.raises(InputError, match="is no whole baseline"):
        from_text(broken, "x", all_metrics())
