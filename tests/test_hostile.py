"""What strangers, broken senders and web pages can send: nothing of it ends anything else."""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import quick, some
from kickback.errors import UsageError
from kickback.files.read import read_take
from kickback.project.settings import Settings
from kickback.record.admission import speaks_http
from kickback.record.hub import Hub
from kickback.record.ledger import Finished, Ledger
from kickback.record.limits import Limits
from kickback.record.pipe import FileSource
from kickback.record.placeholders import PLACEHOLDERS, filled
from kickback.record.seats import WAITING
from kickback.record.take_file import TakeFile, recover
from kickback.workflows import reviewing
from test_record import ARRAYS, HEADER, Stream, frames, lines, rows
from test_recorder import DEADLINE, Recorder, record, tcp, until, web  # noqa: F401 - a fixture

HUGE = "9" * 309
LONGER = "9" * 5000


def text(line):
    return line.encode() + b"\n"


@pytest.mark.parametrize("digits", [HUGE, LONGER])
@pytest.mark.parametrize(
    "line",
    [
        '{{"kickback": 1, "frame_rate": {0}, "columns": ["t", "x", "y"]}}',
        '{{"kickback": 1, "parameters": {{"name": "a", "values": {{"g": {0}}}}}, "columns": ["t", "x", "y"]}}',
        '{{"kickback": {0}, "columns": ["t", "x", "y"]}}',
        "[{0}, 1, 0]",
        '{{"t": {0}, "x": 1, "y": 0}}',
        '{{"t": 1, "x": [{0}], "y": 0}}',
        '{{"sent": {0}, "dropped": {0}}}',
        '{{"end": true, "sent": {0}, "dropped": -{0}}}',
        "{0},1,0",
    ],
)
def test_numbers_beyond_all_range_cost_one_line_at_most(tmp_path, line, digits):
    recorder = Stream(tmp_path).feed(
        text(line.format(digits)), lines(ARRAYS, *rows(5), {"end": True})
    )
    assert recorder.done[-1].frames == 5
    assert len(read_take(recorder.done[-1].path)) == 5
    assert not recorder.done[-1].lost
    whole = Stream(tmp_path / "b").feed(
        lines(ARRAYS, *rows(4)), text(line.format(digits)), lines(*rows(3, 0.1))
    )
    assert sum(item.frames for item in whole.done) in {4, 7, 8}


@pytest.mark.parametrize("piece", [3, 1 << 20])
@pytest.mark.parametrize(
    "request_line",
    [
        b"POST / HTTP/1.1",
        b"POST /" + b"a" * 3000 + b" HTTP/1.1",
        b"POST /" + b"a" * 70_000 + b" HTTP/1.1",
        b"GET /",
        b"\r\n\r\nOPTIONS * HTTP/1.1",
        b"x-own /a HTTP/1.1",
        b"PRI * HTTP/2.0",
    ],
)
def test_whatever_begins_like_http_is_refused(tmp_path, request_line, piece):
    recorder = Stream(tmp_path, enter=str)
    body = request_line + b"\r\nAccept: text/html, */*\r\n\r\nt,x,y\n" + lines(ARRAYS, *rows(5))
    recorder.feed(*(body[at : at + piece] for at in range(0, len(body), piece)))
    assert recorder.session.rejected
    assert not recorder.done
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize(
    "first",
    [
        b'{"kickback": 1, "notes": "POST / HTTP/1.1"}',
        b'[1, "GET / HTTP/1.1", 0]',
        b'# {"kickback": 1, "notes": "x HTTP/1.1"}',
        b"t,x,y",
        b"POSTURE,t",
    ],
)
def test_what_is_no_request_is_none(first):
    assert not speaks_http(first)


@pytest.mark.parametrize("over", [True, False])
def test_junk_becomes_no_column_names(tmp_path, over):
    """Over a network names need one that we know; in a pipe the first row says which they were."""
    recorder = Stream(tmp_path, **({"enter": str} if over else {}))
    recorder.feed(
        b"Host: a, b\nloading, please wait\nt,x,y\none, two, three\n1,2,3\n2,2,3\nt,x,y\n3,2,3\n"
    )
    [take] = recorder.done
    assert list(read_take(take.path).columns)[:1] == ["t"]
    assert take.frames == 3
    assert recorder.ledger.refused == 3


@pytest.mark.parametrize(
    ("names", "kept"),
    [
        (["t", "x", "y", "x"], ["t", "x", "y", "x-2"]),
        (["t", "", "x", "y"], ["t", "column-2", "x", "y"]),
    ],
)
def test_empty_and_doubled_names_are_told_apart_and_said(tmp_path, names, kept):
    recorder = Stream(tmp_path).feed(
        lines({**HEADER, "columns": names}, [1, 1, 2, 3], [2, 1, 2, 3])
    )
    assert json.loads(recorder.done[0].path.read_text().splitlines()[0])["columns"] == kept
    assert any("empty or doubled" in said for said in recorder.said)


BOM = b"\xef\xbb\xbf"


@pytest.mark.parametrize("datagrams", [False, True])
def test_a_byte_order_mark_is_no_part_of_a_line(tmp_path, datagrams):
    first, rest = lines(ARRAYS), lines(*rows(3), {"end": True})
    recorder = Stream(tmp_path, datagrams=datagrams).feed(BOM + first, BOM + rest)
    assert recorder.done[0].frames == 3
    assert not recorder.ledger.refused


@pytest.mark.parametrize(
    ("factor", "unit", "seconds"),
    [
        (1000, "milliseconds", 400 / 60),
        (1e6, "microseconds", 400 / 60),
        (150, "milliseconds", 1.0),
        (100, "", 40000 / 60),
        (1, "", 400 / 60),
    ],
)
def test_times_in_another_unit_are_said_once_and_end_no_take(tmp_path, factor, unit, seconds):
    recorder = Stream(tmp_path).feed(lines(ARRAYS, *([factor * t, x, y] for t, x, y in rows(400))))
    [take] = recorder.done
    assert take.frames == 400
    assert take.seconds == pytest.approx(seconds, rel=0.01)
    told = [said for said in recorder.said if "in every frame" in said]
    assert len(told) == bool(unit)
    assert all(unit in said for said in told)


def test_a_pause_after_the_first_frame_is_no_unit(tmp_path):
    recorder = Stream(tmp_path).feed(lines(ARRAYS, [0.0, 0, 0], *rows(50, 9.0), *rows(50, 20.0)))
    assert [item.ended_by for item in recorder.done] == ["a pause", "the sender left"]
    assert not recorder.said


def test_the_same_sentence_is_a_sum(tmp_path):
    ledger = Ledger(folder=tmp_path)
    for number in range(10_000):
        ledger.say(f"udp {number}", f"refused: {number}", kind="refused")
    ledger.say("disk", "full")
    assert [event.text for event in ledger.taken()] == ["refused: 0", "full"]
    ledger.sum_up()
    assert not ledger.taken()
    ledger.sum_up(ahead=1.1)
    assert [event.text for event in ledger.taken()] == ["refused: 9999 (and 9,998 more like this)"]
    for number in range(10_000):  # words that a stranger chooses
        ledger.say("udp", f"word {number}")
    assert len(ledger.taken()) < 100


def test_headers_count_as_bytes_on_disk(tmp_path):
    header = {**ARRAYS, "notes": "x" * 5000}
    recorder = Stream(tmp_path, limits=Limits(disk=20_000))
    recorder.feed(*(lines(header, [1, 0, 0], {"end": True}) for _ in range(20)))
    assert len(recorder.done) == 3
    assert sum(path.stat().st_size for path in tmp_path.iterdir()) < 20_500


@pytest.mark.parametrize(
    ("datagrams", "parts", "frames_saved"),
    [
        (True, [lines(*rows(2)), lines({**ARRAYS, "token": "wick"}, *rows(3))], 3),
        (
            True,
            [lines({"take": "a", "sent": 0}, {**ARRAYS, "take": "a", "token": "wick"}, *rows(3))],
            3,
        ),
        (
            True,
            [lines({**ARRAYS, "token": "soot"}), lines({**ARRAYS, "token": "wick"}, *rows(3))],
            3,
        ),
        (True, [lines({"token": "wick", "t": 1, "x": 2, "y": 0})] * 3, 0),
        (
            False,
            [
                lines({"token": "wick", "t": 1, "x": 2, "y": 0}),
                lines({**ARRAYS, "token": "wick"}, *rows(3)),
            ],
            0,
        ),
        (False, [b"\n \n", lines({**ARRAYS, "token": "wick"}, *rows(3))], 3),
    ],
)
def test_a_later_header_admits_over_udp_only(tmp_path, datagrams, parts, frames_saved):
    recorder = Stream(tmp_path, token="wick", datagrams=datagrams).feed(*parts)
    assert sum(item.frames for item in recorder.done) == frames_saved
    assert not any(b"wick" in path.read_bytes() for path in tmp_path.iterdir())
    assert len(recorder.session.replies) <= 1


def hub_of(folder, **how):
    return Hub(Ledger(folder=folder, **how))


def test_what_a_followed_file_holds_at_the_end_is_read(tmp_path):
    log, hub = tmp_path / "game.log", hub_of(tmp_path / "takes")
    log.write_bytes(lines(HEADER, *frames(10)))
    hub.add(FileSource(log, follow=True))
    hub.round(0)
    with log.open("ab") as more:
        more.write(lines(*frames(5, 10 / 60)))
    hub.round(0)
    log.write_bytes(lines(HEADER, *frames(3)))  # and it begins again
    hub.close("the end")
    takes = sorted((tmp_path / "takes").rglob("*.jsonl"))
    assert sorted(len(read_take(path)) for path in takes) == [3, 15]


def test_strangers_take_no_known_senders_place(tmp_path):
    hub, gone = hub_of(tmp_path, limits=Limits(connections=2)), []
    known = [hub.stream(f"k{n}", lambda: None, guarded=True) for n in range(2)]
    for stream in known:
        stream.session.feed(lines(ARRAYS, *rows(2)))
    for number in range(3 * WAITING):
        hub.stream(f"s{number}", lambda n=number: gone.append(n), guarded=True).session.feed(b" ")
    assert gone == list(range(2 * WAITING))  # the oldest first
    assert len(hub.streams) == 2 + WAITING
    late = hub.stream("late", lambda: None, guarded=True)
    late.session.feed(lines(ARRAYS))
    assert "the limit of 2 connections is met" in late.session.rejected
    known[0].session.cut("its end")
    known[0].heard -= 20  # silent for long, with no take open: it makes room
    later = hub.stream("later", lambda: None, guarded=True)
    later.session.feed(lines(ARRAYS, *rows(2)))
    assert not later.session.rejected
    assert known[0] not in hub.streams
    hub.close("the end")


def test_a_pipe_keeps_its_place_whoever_else_has_one(tmp_path):
    hub, gone = hub_of(tmp_path, limits=Limits(connections=1)), []
    own = [hub.stream(f"pipe {n}", lambda n=n: gone.append(n)) for n in range(3)]
    for number in range(2 * WAITING):
        hub.stream(f"s{number}", lambda: None, guarded=True)
    assert set(own) <= set(hub.streams)
    assert not gone
    hub.close("the end")


def test_a_fault_in_one_stream_ends_it_alone(tmp_path):
    hub, closed = hub_of(tmp_path), []
    one = hub.stream("one", lambda: closed.append("one"))
    other = hub.stream("other", lambda: closed.append("other"))
    for stream in (one, other):
        stream.session.feed(lines(ARRAYS, *rows(3)))
    hub.turn(one, lambda: 1 // 0)
    hub.turn(other, lambda: other.session.feed(lines(*rows(2, 1.0))))
    assert closed == ["one"]
    hub.close("the end")
    assert sorted(len(read_take(path)) for path in tmp_path.iterdir()) == [3, 5]
    said = [event.text for event in hub.ledger.events if hasattr(event, "text")]
    assert any("a fault of the recorder (ZeroDivisionError)" in text for text in said)


def test_broken_handshakes_and_strangers_leave_the_recorder_whole(record):  # noqa: F811
    recorder = record("tcp:0", "udp:0", "ws:0", "--token", "wick")
    upgrade = b"GET / HTTP/1.1\r\nHost: x\r\nUpgrade: websocket\r\nConnection: Upgrade\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\nSec-WebSocket-Version: 13\r\n"
    two = upgrade + b"Origin: http://localhost\r\nOrigin: http://example.org\r\n\r\n"
    foreign = upgrade + b"Origin: http://example.org\r\n\r\n" + b"\x81\x05hello" * 10
    for junk in (two, foreign, b"GET / HTTP/1.1\r\n\r\n" + b"x" * 5000, b"\0" * 3000 + b"\r\n"):
        with tcp(recorder.port("ws"), junk) as sock:
            sock.settimeout(DEADLINE)
            while sock.recv(65536):
                continue
    strangers = [tcp(recorder.port(), b" ") for _ in range(40)]
    for _ in range(60):
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as udp:
            udp.sendto(b"x", ("127.0.0.1", recorder.port("udp")))
    take = lines({**ARRAYS, "token": "wick"}, *rows(5), {"end": True})
    with tcp(recorder.port(), take), web(recorder.port("ws")) as page:
        page.send(take.decode())
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as udp:
            udp.sendto(take, ("127.0.0.1", recorder.port("udp")))
            recorder.saved(3)
    for sock in strangers:
        sock.close()
    assert recorder.close() == 0
    assert len(recorder.err.splitlines()) < 40


def test_a_link_in_the_folder_is_not_followed(tmp_path):
    outside = tmp_path / "outside.txt"
    outside.write_text("precious\n")
    folder = tmp_path / "takes"
    folder.mkdir()
    (folder / "x.open.jsonl").symlink_to(outside)
    os.mkfifo(folder / "y.open.jsonl")
    os.link(outside, folder / "z.open.jsonl")
    (folder / ".writable").write_text("mine")
    assert recover(folder) == []
    recorder = Recorder(tmp_path, "-", "--quiet")
    recorder.process.wait(DEADLINE)
    recorder.close()
    assert outside.read_text() == "precious\n"
    assert (folder / ".writable").read_text() == "mine"


def test_a_take_that_has_its_name_already_loses_the_open_one(tmp_path):
    path = tmp_path / "a.open.jsonl"
    path.write_bytes(lines(ARRAYS, *rows(3)))
    os.link(path, tmp_path / "a.jsonl")
    assert recover(tmp_path) == []
    assert [item.name for item in tmp_path.iterdir()] == ["a.jsonl"]


def test_a_damaged_open_take_is_kept_and_said(tmp_path):
    path = tmp_path / "a.open.jsonl"
    path.write_bytes(lines(ARRAYS, *rows(30)) + b"\0" * 4096 + b"\n" + lines(*rows(5, 1.0)))
    [left] = recover(tmp_path)
    assert (left.frames, left.damaged) == (35, 1)
    take = read_take(left.path)
    assert len(take) == 35
    assert any("no frame" in warning for warning in take.warnings)


def test_names_of_takes_cost_the_same_in_a_full_folder(tmp_path, monkeypatch):
    """What there is already is asked by name, never listed."""
    (tmp_path / "run.csv").write_text("")
    monkeypatch.setattr(Path, "iterdir", None)
    monkeypatch.setattr(Path, "glob", None)
    asked = []
    exists = os.path.lexists
    monkeypatch.setattr("os.path.lexists", lambda path: asked.append(path) or exists(path))
    files = [TakeFile(tmp_path, "run", b"{}\n") for _ in range(50)]
    assert [file.path.name for file in files[:2]] == ["run-2.open.jsonl", "run-3.open.jsonl"]
    assert len(asked) < 6 * 52
    for file in files:
        file.finish({})


# ---------------------------------------------------------------- games that it starts

VALUES = {
    **dict.fromkeys(PLACEHOLDERS, "v"),
    "name": "brisk-60",
    "parameters": "$(touch x) '\"`\\.toml",
    "drill": "{name}",
}


@pytest.mark.parametrize(
    ("words", "becomes"),
    [
        (["game", "--to={rate}", "{parameters}"], ["game", "--to=v", VALUES["parameters"]]),
        (["game", "{drill}{name}"], ["game", "{name}brisk-60"]),
        (["sh", "-c", "game '{name}'"], ["sh", "-c", "game 'brisk-60'"]),
        (["game", "{unknown} {"], ["game", "{unknown} {"]),
    ],
)
def test_values_go_in_once_as_arguments(words, becomes):
    assert filled(words, VALUES) == becomes


@pytest.mark.parametrize("quotes", ["{}", "'{}'", '"{}"', "a'b'{}", 'a"b\\""\'{}\''])
@pytest.mark.parametrize(
    "value", [VALUES["parameters"], "a b", "'; touch x; '", '"$(touch x)"', "`touch x`", "a\\"]
)
def test_a_shell_gets_values_as_words(tmp_path, quotes, value):
    before = {"a'b'{}": "ab", 'a"b\\""\'{}\'': 'ab"'}.get(quotes, "")
    script = "printf %s " + quotes.format("{parameters}")
    argv = filled(["sh", "-c", script], {**VALUES, "parameters": value})
    done = subprocess.run(argv, capture_output=True, cwd=tmp_path, check=True)
    assert done.stdout.decode() == before + value
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize(
    "words",
    [
        ["python", "-c", "print('{parameters}')"],
        ["ssh", "host", "game {parameters}"],
        ["sh", "-c", "game $(cat {parameters})"],
        ["sh", "-c", "cat <<E\n{parameters}\nE"],
    ],
)
def test_values_that_would_be_code_are_refused(words):
    with pytest.raises(UsageError, match=r"would be code .* write .\$KICKBACK_PARAMETERS."):
        filled(words, VALUES)
    assert filled(words, {**VALUES, "parameters": "params/a-b.toml"})


LAUNCHER = """
import os, subprocess, sys, time
if sys.argv[1:] != ["child"]:
    subprocess.Popen([sys.executable, __file__, "child"])
    if sys.argv[1:] != ["stay"]:
        sys.exit(0)
else:
    import signal
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    with open("pids", "a") as file:
        file.write(f"{os.getpid()}\\n")
    print('{"kickback": 1, "columns": ["t", "x", "y"]}\\n[1, 0, 0]\\n[1.1, 0, 0]\\n{"end": true}', flush=True)
time.sleep(100)
"""


def gone(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return True
    return False


@pytest.mark.parametrize(
    "how", some(["launcher", "interrupted", "hung up", "twice"], "launcher", "hung up")
)
def test_whole_games_end(tmp_path, how):
    (tmp_path / "game.py").write_text(LAUNCHER)
    run = f"{sys.executable} game.py" + (" stay" if how != "launcher" else "")
    limit = ("--timeout", 0.8) if how == "launcher" else ("--rate", 30, "--rate", 60, "--gap", 50)
    recorder = Recorder(tmp_path, "-", "--run", run, *limit, "--quiet")
    until(lambda: (tmp_path / "pids").exists() and (tmp_path / "pids").read_text().endswith("\n"))
    [pid] = map(int, (tmp_path / "pids").read_text().split())
    if how != "launcher":
        recorder.process.send_signal(signal.SIGHUP if how == "hung up" else signal.SIGINT)
    if how == "twice":
        time.sleep(0.2)
        recorder.process.send_signal(signal.SIGINT)
    assert recorder.process.wait(DEADLINE) == (2 if how == "launcher" else 1)
    recorder.close()
    until(lambda: gone(pid))


SECOND = """
import os, time
if os.environ["KICKBACK_RATE"] == "60":
    open("second", "w").close()
    time.sleep(99)
print('{"kickback": 1}\\n{"t": 1, "x": 0, "y": 0}\\n{"t": 2, "x": 0, "y": 0}')
"""


def test_an_interrupted_sweep_prints_what_it_has(tmp_path):
    (tmp_path / "game.py").write_text(SECOND)
    run = f"{sys.executable} game.py"
    recorder = Recorder(tmp_path, "-", "--run", run, "--rate", 30, "--rate", 60, "--quiet")
    until((tmp_path / "second").exists)
    recorder.process.send_signal(signal.SIGINT)
    assert recorder.process.wait(DEADLINE) == 1
    recorder.close()
    assert "run-30" in recorder.out.split("result")[1]


@quick(2)
@pytest.mark.parametrize(
    ("arguments", "problem"),
    [
        (["-", "--gap", "nan"], "not a finite number"),
        (["-", "--gap", "inf"], "not a finite number"),
        (["--run", "game", "--rate", "nan"], "not a finite number"),
        (["--run", "game", "--timeout", "inf"], "not a finite number"),
        (["-", "--token", " "], "--token must be a word"),
        (["-", "--token", ""], "--token must be a word"),
        (["-", "--token", "a\x1b"], "--token must be a word"),
        (["--run", "game {token}"], "the token is in KICKBACK_TOKEN"),
        (["--run", "game {adress}"], "did you mean 'address'"),
    ],
)
def test_calls_that_could_do_harm_are_refused(kickback, tmp_path, arguments, problem):
    _, _, err = kickback("record", *arguments, status=2)
    assert problem in err
    assert not (tmp_path / "takes").exists()


def test_a_shell_script_may_have_braces_of_its_own(kickback, tmp_path):
    kickback(
        "record",
        "-",
        "--run",
        "sh -c 'echo t,x,y; echo 1,2,3 | awk \"{print}\"; echo 2,2,3'",
        "--quiet",
        status=0,
    )
    assert len(read_take(next(tmp_path.glob("takes/*")))) == 2


def test_takes_come_faster_than_they_are_measured_and_are_all_saved(record, tmp_path):  # noqa: F811
    recorder = Recorder(tmp_path, "tcp:0")
    take = lines(ARRAYS, *rows(20), {"end": True})
    with tcp(recorder.port(), *[take] * 120) as sock:
        sock.shutdown(socket.SHUT_WR)
        recorder.saved(120)
    recorder.close()
    assert all(len(read_take(path)) == 20 for path in recorder.takes())
    assert "not measured: takes come faster than that" in recorder.out


def test_of_a_long_take_a_part_is_measured(tmp_path, monkeypatch):
    monkeypatch.setattr(reviewing, "_MOST", 10_000)
    path = tmp_path / "a.jsonl"
    path.write_bytes(lines(ARRAYS, *rows(2000), {"end": True}))
    for encoding, measures in (("jsonl", True), ("csv", True), ("jsonl", False)):
        reviewer = reviewing.Reviewer(tmp_path, encoding, Settings(), None, measures=measures)
        reviewer.add(Finished(path=path, frames=2000, ended_by="its end"))
        [review] = reviewer.close()
        assert (review.take is not None and len(review.take) < 500) == measures
        assert ("of 2000 frames the first" in review.note) == measures
        assert ("too long to be converted" in review.note) == (encoding == "csv")
        assert path.exists()
