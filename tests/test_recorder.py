"""The recorder as a program: sources, limits, runs, drills, and what ends it."""

import contextlib
import json
import os
import random
import re
import resource
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest
from websockets.exceptions import InvalidStatus, WebSocketException
from websockets.sync.client import connect

import kickback as library
from conftest import PROGRAM, quick, some
from kickback.files.read import read_take
from kickback.files.write import encode_take
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.project.parameter_sets import read_drill, read_model_parameters
from kickback.record.websocket import is_local_page
from kickback.workflows import demo
from kickback.workflows.coaching import missing_parts
from kickback.workflows.demo_logs import LOG_MAPPING, foreign_log
from test_record import ARRAYS, HEADER, frames, lines, rows

DEADLINE = 120
"""Seconds after which nothing comes any more, however busy the machine."""
WORLD = Path(demo.__file__).with_name("lantern_row")
DRILL = WORLD / "drills/rooftop-basics.toml"


def until(condition):
    """Wait for something that must come."""
    end = time.monotonic() + DEADLINE
    while not condition():
        assert time.monotonic() < end
        time.sleep(0.01)


class Recorder:
    """A running ``kickback record`` and what it prints."""

    def __init__(self, folder, *arguments, **how):
        self.folder = folder
        self.process = subprocess.Popen(
            [PROGRAM, "record", *map(str, arguments)],
            cwd=folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            **{"stdin": subprocess.DEVNULL, **how},
        )
        self.err = ""
        self.out = ""
        self._threads = [
            threading.Thread(target=self._drain, args=("err", self.process.stderr)),
            threading.Thread(target=self._drain, args=("out", self.process.stdout)),
        ]
        for thread in self._threads:
            thread.start()

    def _drain(self, name, stream):
        for line in stream:
            setattr(self, name, getattr(self, name) + line.decode())

    def port(self, scheme="tcp"):
        return int(self.wait(rf"{scheme}://[^ ,]*:(\d+)")[1])

    def wait(self, pattern, where="err"):
        """Return the match of a pattern in the output, once it is there."""
        end = time.monotonic() + DEADLINE
        while time.monotonic() < end:
            found = re.search(pattern, getattr(self, where))
            if found:
                return found
            time.sleep(0.01)
        raise AssertionError((pattern, self.out, self.err))

    def saved(self, count=1):
        end = time.monotonic() + DEADLINE
        while time.monotonic() < end and self.out.count("ended by") < count:
            time.sleep(0.01)
        assert self.out.count("ended by") >= count, (self.out, self.err)
        return self.takes()

    def takes(self):
        found = [path for path in self.folder.glob("takes/*") if ".open." not in path.name]
        return sorted(found, key=lambda path: path.stat().st_mtime_ns)

    def close(self, how=signal.SIGINT):
        if self.process.poll() is None:
            self.process.send_signal(how)
        self.process.wait(DEADLINE)
        for thread in self._threads:
            thread.join()
        self.process.stdout.close()
        self.process.stderr.close()
        assert "Traceback" not in self.err, self.err
        return self.process.returncode

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.close()


@pytest.fixture
def record(tmp_path):
    """Start recorders in a folder; all are ended after the test."""
    started = []

    def start(*arguments, **how):
        started.append(Recorder(tmp_path, *arguments, "--quiet", **how))
        return started[-1]

    yield start
    for recorder in started:
        recorder.close()


def tcp(port, *parts):
    sock = socket.create_connection(("127.0.0.1", port), timeout=DEADLINE)
    for part in parts:
        sock.sendall(part)
    return sock


def web(port, **how):
    return connect(f"ws://127.0.0.1:{port}", compression=None, open_timeout=DEADLINE, **how)


def test_several_sources_at_once(record):
    recorder = record("tcp:0", "udp:0", "ws:0")
    stream = lines({**ARRAYS, "subject": "sled"}, *rows(100), {"end": True})
    with tcp(recorder.port("tcp"), stream):
        udp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        for part in (lines({**ARRAYS, "subject": "flare"}), lines(*rows(30)), lines({"end": True})):
            udp.sendto(part, ("127.0.0.1", recorder.port("udp")))
        with web(recorder.port("ws")) as page:
            page.ping("no line of the take")
            page.send(lines(ARRAYS, *rows(20)).decode())
            for row in rows(20, 20 / 60):
                page.send(json.dumps(row))
            page.send('{"end": true}')
            counts = {
                read_take(path).header.subject: len(read_take(path)) for path in recorder.saved(3)
            }
        udp.close()
    assert counts == {"sled": 100, "flare": 30, "lamplighter": 40}
    recorder.close()
    assert "refused" not in recorder.err


@pytest.mark.parametrize("existing", [True, False])
def test_a_growing_file_is_followed(record, tmp_path, existing):
    log = tmp_path / "game.log"
    if existing:
        log.write_bytes(lines(HEADER, *frames(10)))
    recorder = record("game.log", "--follow", "--gap", 5)
    if not existing:
        recorder.wait("does not exist yet")
        log.write_bytes(lines(HEADER, *frames(10)))
    recorder.wait("reading: game.log")
    with log.open("ab") as more:
        for frame in frames(20, 10 / 60):
            more.write(lines(frame))
            more.flush()
        more.write(lines({"end": True}))
    assert len(read_take(recorder.saved()[0])) == 30
    log.write_bytes(lines(HEADER, *frames(4)))  # the game starts anew
    until(lambda: any(recorder.folder.rglob("*.open.jsonl")))  # it has begun to read it
    log.write_bytes(lines(HEADER, *frames(3)))
    assert len(read_take(recorder.saved(2)[1])) == 4
    assert recorder.close() == 0
    assert [len(read_take(path)) for path in recorder.takes()] == [30, 4, 3]


def test_a_foreign_log_goes_through_a_mapping(kickback, tmp_path):
    there = library.simulate(frame_rate=60)
    mapping = tmp_path / "roof-run.map.toml"
    mapping.write_text(LOG_MAPPING)
    noisy = foreign_log(there).replace(b"\n", b"\nloading the harbour\n", 3)
    _, out, err = kickback("record", "-", "--map", mapping, "--quiet", stdin=noisy, status=0)
    take = read_take(tmp_path / out.partition(":")[0])
    assert len(take) == len(there)
    assert take.header.length_unit == "px"
    assert "3 lines refused" in err


@pytest.mark.parametrize("encoding", ["csv", "parquet", "jsonl.gz"])
def test_finished_takes_get_the_encoding_asked_for(kickback, tmp_path, encoding):
    _, out, _ = kickback(
        "record", "-", "--as", encoding, "--quiet", stdin=lines(ARRAYS, *rows(50)), status=0
    )
    assert len(read_take(tmp_path / out.partition(":")[0])) == 50
    assert [path.name.partition(".")[2] for path in tmp_path.glob("takes/*")] == [encoding]


def test_each_take_is_held_against_those_before(kickback, tmp_path):
    for name in ("brisk", "floaty", "brisk"):
        parameters = read_model_parameters(WORLD / f"params/{name}.toml")
        data = encode_take(library.simulate(parameters, read_drill(DRILL)), "jsonl")
        _, out, _ = kickback("record", "-", stdin=data, status=0)
    apex = next(line for line in out.splitlines() if "jump.apex_height" in line)
    assert re.search(r"2\.111 m .* -0\.215\d m \(-9\.\d%\) +same", apex)
    assert re.search(r"before: floaty-60-\d", out)
    assert re.search(r"last time, the same drill and parameter set: brisk-60-\d", out)


def test_a_sender_that_dies_reconnects_or_sends_nothing(record):
    recorder = record("tcp:0", "--gap", 0.5)
    tcp(recorder.port(), lines(ARRAYS, *rows(30)) + b"[0.6, 1").close()
    recorder.saved(1)
    tcp(recorder.port()).close()
    recorder.wait("left without sending a frame")
    with tcp(recorder.port(), lines(ARRAYS, *rows(10))):
        recorder.saved(2)  # by a pause, while it is connected still
    assert [len(read_take(path)) for path in recorder.takes()] == [30, 10]
    assert "the sender left; 1 refused" in recorder.out
    assert "ended by a pause" in recorder.out


def test_silent_and_slow_senders_hold_nobody_up(record):
    recorder = record("tcp:0", "--limit", "connections=1")
    silent = [tcp(recorder.port(), part) for part in (b"", b'{"kickback"', b" ") * 20]
    with tcp(recorder.port(), lines(ARRAYS, *rows(500), {"end": True})):
        recorder.saved()
        with tcp(recorder.port(), lines(ARRAYS)) as refused:
            refused.settimeout(DEADLINE)
            assert b"the limit of 1 connections is met" in refused.recv(1000)
        recorder.wait("refused: the limit of 1 connections is met")
    for sock in silent:
        sock.close()


@pytest.mark.parametrize("token", ["wrong", None])
def test_a_shared_token_keeps_others_out(record, token):
    recorder = record("tcp:0", "ws:0", "udp:0", "--token", "wick")
    header = ARRAYS if token is None else {**ARRAYS, "token": token}
    with tcp(recorder.port(), lines(header, *rows(5))) as sock:
        sock.settimeout(DEADLINE)
        assert b"token" in sock.recv(1000)
        assert sock.recv(1000) == b""
    with web(recorder.port("ws")) as page:
        page.send(lines(header, *rows(5)).decode())
        assert "token" in page.recv(timeout=DEADLINE)
    with tcp(recorder.port(), lines({**ARRAYS, "token": "wick"}, *rows(5), {"end": True})):
        recorder.saved()
    assert len(recorder.takes()) == 1


@quick(2)
@pytest.mark.parametrize(
    ("arguments", "problem"),
    [
        (["--bind", "0.0.0.0"], "needs a shared --token"),
        (["tcp://10.0.0.1:1"], "--bind 10.0.0.1 --token"),
        (["http://x"], "no source 'http://x'"),
        (["no.log"], "no such file"),
        (["-", "--limit", "rows=3"], "no limit 'rows'"),
        (["-", "--rate", "60"], "--run"),
        (["-", "--run", "'x"], "cannot be split"),
        (["-", "--at-once", "2"], "--run is missing"),
        (["tcp:0", "udp:9000", "--run", "x", "--at-once", "2"], "'udp:9000' cannot be used"),
        (["--run", "game {rate}"], "no --rate is given"),
        (["-", "--into", "/dev/null/x"], "takes cannot be saved there"),
        (["-", "--drill", "no.toml"], "no such drill file"),
        (["a.log"], "a source is - (a pipe), a file, tcp, udp or ws"),
    ],
)
def test_calls_that_make_no_sense_are_refused(kickback, arguments, problem):
    _, _, err = kickback("record", *arguments, status=2)
    assert problem in err
    assert len(err.strip().splitlines()) <= 2


def test_a_port_in_use_is_said(record, kickback):
    recorder = record("tcp:0")
    _, _, err = kickback("record", f"tcp:{recorder.port()}", status=2)
    assert "cannot be listened on" in err


@pytest.mark.parametrize(
    ("origin", "local"),
    [
        (None, True),
        ("http://localhost:8000", True),
        ("http://127.0.0.1", True),
        ("https://[::1]:3000", True),
        ("file://", True),
        ("null", False),
        ("http://localhost.example.org", False),
        ("http://127.0.0.1.example.org", False),
        ("https://example.org", False),
        ("http://example.org#http://localhost", False),
    ],
)
def test_which_pages_are_local(origin, local):
    assert is_local_page(origin) is local


def test_pages_from_elsewhere_are_turned_away_unless_named(record):
    recorder = record("ws:0", "--origin", "https://game.example.org")
    with pytest.raises(InvalidStatus) as refused:
        web(recorder.port("ws"), origin="https://elsewhere.example.org").__enter__()
    assert refused.value.response.status_code == 403
    assert recorder.wait("--origin https://elsewhere.example.org lets this one in")
    for origin in ("https://game.example.org", "http://localhost:8000"):
        with web(recorder.port("ws"), origin=origin) as page:
            page.ping()


def test_a_page_cannot_post_lines_to_the_tcp_port(record, tmp_path):
    recorder = record("tcp:0")
    body = lines(ARRAYS, *rows(5))
    with tcp(recorder.port(), b"POST / HTTP/1.1\r\nHost: x\r\n\r\n" + body) as sock:
        sock.settimeout(DEADLINE)
        assert b"speaks HTTP" in sock.recv(1000)
    assert recorder.takes() == []


@pytest.mark.parametrize("seed", some(range(6), 0, 1))
def test_junk_on_every_source_is_never_fatal(record, seed):
    recorder = record("tcp:0", "udp:0", "ws:0")
    chance = random.Random(seed)
    udp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    for _ in range(20):
        junk = chance.randbytes(chance.randrange(1, 3000))
        if chance.random() < 0.5:
            junk = lines(ARRAYS, *rows(3)) + junk
        udp.sendto(junk, ("127.0.0.1", recorder.port("udp")))
        for scheme in ("tcp", "ws"):
            try:
                tcp(recorder.port(scheme), junk).close()
            except OSError:
                continue
        try:
            with web(recorder.port("ws")) as page:
                page.send(junk)
        except (WebSocketException, OSError):
            continue
    udp.close()
    with tcp(recorder.port(), lines({**ARRAYS, "subject": "sled"}, *rows(77), {"end": True})):
        recorder.wait("sled.*: 77 frames", "out")
    assert recorder.close() == 0


KILLS = 50
AT_ONCE = 10


@pytest.mark.long
def test_nothing_that_came_a_second_ago_is_lost_to_a_kill(tmp_path):
    """Ended the hard way at random moments: what had arrived is found whole by the next start."""
    chance = random.Random(11)
    for batch in range(KILLS // AT_ONCE):
        games = [
            _Killed(tmp_path / f"{batch}-{n}", chance.uniform(0.3, 2.2)) for n in range(AT_ONCE)
        ]
        for game in games:
            game.thread.join()
        for game in games:
            game.check()


class _Killed:
    """A recorder that is killed after a while, and the times at which frames were sent."""

    def __init__(self, folder, life):
        folder.mkdir()
        self.recorder = Recorder(folder, "tcp:0", "--quiet")
        self.life, self.sent = life, []
        self.thread = threading.Thread(target=self._play)
        self.thread.start()

    def _play(self):
        with tcp(self.recorder.port(), lines(ARRAYS)) as sock:
            began = time.monotonic()
            while time.monotonic() - began < self.life:
                sock.sendall(lines([len(self.sent) / 60, 0.5, 0.0]))
                self.sent.append(time.monotonic())
                time.sleep(1 / 120)
            self.recorder.process.kill()
            self.killed = time.monotonic()
            self.recorder.close()

    def check(self):
        due = sum(1 for moment in self.sent if moment < self.killed - 1.0)
        again = Recorder(self.recorder.folder, "-", "--quiet")
        again.process.wait(DEADLINE)
        again.close()
        takes = again.takes()
        assert sum(len(read_take(path)) for path in takes) >= due
        if due:
            assert f"{takes[0].relative_to(self.recorder.folder)}: " in again.err
            assert "of a recorder that was ended before" in again.err


def test_a_full_disk_keeps_the_take_so_far(tmp_path, kickback):
    def little_room():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (20_000, 20_000))

    recorder = Recorder(tmp_path, "-", "--quiet", stdin=subprocess.PIPE, preexec_fn=little_room)
    recorder.process.stdin.write(lines(ARRAYS, *rows(5000)))
    recorder.process.stdin.close()
    assert recorder.process.wait(DEADLINE) == 2
    recorder.close()
    [path] = recorder.takes()
    assert 200 < len(read_take(path)) < 5000
    assert "the rest was not saved: file too large" in recorder.out
    assert "frames are not saved: file too large" in recorder.err


def test_takes_end_the_recorder_when_they_are_complete(record):
    recorder = record("tcp:0", "--takes", 2)
    with tcp(recorder.port(), lines(HEADER, *frames(5), HEADER, *frames(6), {"end": True})):
        assert recorder.process.wait(DEADLINE) == 0


GAME = """
import json, os, sys, time
mode = sys.argv[1]
if mode == "fail": sys.exit("no such level: harbour")
if mode == "hang": time.sleep(60)
if mode == "mute": sys.exit(0)
if mode == "meet":  # goes on only where the other one runs at the same time
    open(os.environ["KICKBACK_RATE"] + ".here", "w").close()
    while not all(os.path.exists(name) for name in ("30.here", "60.here")): time.sleep(0.01)
out = sys.stdout
print(json.dumps({"kickback": 1, "columns": ["t", "x", "y"]}), file=out)
for n in range(1, 40): print(json.dumps([n / float(os.environ["KICKBACK_RATE"]), n, 0]), file=out)
if mode == "linger": out.flush(); time.sleep(60)
"""


@quick(2)
@pytest.mark.parametrize(
    ("mode", "status", "said", "takes"),
    [
        ("play", 0, "All 2 runs done.", 2),
        ("hang", 2, r"was ended after 1 s \(--timeout\)", 0),
        ("meet", 0, "All 2 runs done.", 2),
        ("linger", 0, "All 2 runs done.", 2),
        ("fail", 2, "failed with status 1: no such level: harbour", 0),
        ("mute", 2, "the game sent no frame", 0),
    ],
)
def test_a_game_is_run_at_every_rate(kickback, tmp_path, mode, status, said, takes):
    (tmp_path / "game.py").write_text(GAME)
    run = f"{sys.executable} game.py {mode}"
    limit = 8 if mode == "linger" else 1 if mode == "hang" else 60
    call = ["record", "-", "--run", run, "--rate", 30, "--rate", 60, "--timeout", limit]
    call += ["--at-once", 2] if mode == "meet" else []
    _, out, err = kickback(*call, "--gap", 0.4, "--quiet", status=status)
    text = re.sub(r"\s+", " ", out + err)
    assert re.search(said, text), text
    found = sorted(tmp_path.glob("takes/*"))
    assert [path.name.rpartition("-")[0].rpartition("-")[0] for path in found] == [
        "run-30",
        "run-60",
    ][:takes]
    assert [read_take(path).frame_rate for path in found] == pytest.approx([30, 60][:takes])


@pytest.mark.parametrize("at_once", some((1, 3, 64), 3))
def test_the_stand_in_game_plays_the_recorders_drill_at_each_rate_and_parameter_set(
    kickback, tmp_path, at_once
):
    game = "kickback simulate {parameters} --rate {rate} --send {address} --fast"
    parameters = [WORLD / f"params/{name}.toml" for name in ("brisk", "floaty")]
    call = ["record", "--run", game, "--drill", DRILL, "--quiet", "--at-once", at_once]
    for option, values in (("--rate", (30, 144)), ("--parameters", parameters)):
        call += [word for value in values for word in (option, value)]
    kickback(*call, status=0)
    for name in ("brisk", "floaty"):
        for rate in (30, 144):
            [path] = tmp_path.glob(f"takes/{name}-{rate}-2*.jsonl")
            direct = library.simulate(
                read_take(path).header.parameters, drill=read_drill(DRILL), frame_rate=rate
            )
            take = read_take(path)
            assert take.header.drill == "rooftop-basics"
            assert all((take.numbers(c) == direct.numbers(c)).all() for c in direct.columns)


@quick(2)
@pytest.mark.parametrize("scheme", ["tcp", "udp", "ws"])
def test_the_stand_in_game_sends_over_every_network_source(record, kickback, scheme):
    recorder = record(f"{scheme}:0", "--token", "wick")
    port = recorder.port(scheme)
    call = ["simulate", "--send", f"{scheme}://127.0.0.1:{port}", "--token", "wick", "--fast"]
    kickback(*call, status=0)
    take = read_take(recorder.saved()[0])
    assert len(take) + (library_lost(recorder) if scheme == "udp" else 0) == 720


def library_lost(recorder):
    last = recorder.takes()[0].read_bytes().splitlines()[-1]
    return json.loads(last).get("lost", 0)


def test_sending_to_nobody_is_said(kickback, tmp_path):
    _, _, err = kickback("simulate", "--send", "tcp://127.0.0.1:9", status=2)
    assert "no recorder answers there (Connection refused)" in err
    _, _, err = kickback("simulate", "--send", "takes/run.jsonl", status=2)
    assert "is no address" in err
    assert not list(tmp_path.iterdir())


SHORT_DRILL = """
name = "steps"
length = 2.0
[[input]]
at = 0.2
until = 0.9
move_x = 1.0
[[input]]
at = 1.3
until = 1.8
jump = 1.0
"""


def test_a_person_is_coached_through_a_drill_and_told_what_is_missing(record, tmp_path):
    (tmp_path / "steps.toml").write_text(SHORT_DRILL)
    recorder = record("tcp:0", "--drill", "steps.toml", "--takes", 1)
    moved = threading.Event()

    def play():
        with tcp(
            recorder.port(), lines({**HEADER, "columns": ["t", "x", "y", "in_move_x", "in_jump"]})
        ) as sock:
            while not moved.is_set():
                with contextlib.suppress(OSError):  # the recorder ends first
                    sock.sendall(lines([time.monotonic(), 0.0, 0.0, 0, 0]))
                time.sleep(1 / 60)

    game = threading.Thread(target=play)
    game.start()
    try:
        for cue in (
            "waiting for the game",
            r"get ready \(3",
            r"hold RIGHT \(0\.[67]",
            r"hold JUMP .* then let go",
        ):
            recorder.wait(cue)
        recorder.saved()
    finally:
        moved.set()
        game.join()
    take = read_take(recorder.takes()[0])
    assert take.header.drill == "steps"
    assert take.duration == pytest.approx(2.0, abs=0.5)
    assert "ended by the end of the drill" in recorder.out


def test_what_a_take_lacks_of_a_drill_is_named(tmp_path):
    whole = standard_drill()
    assert missing_parts(library.simulate({}, whole), whole) == []
    plain = whole.to_mapping()
    assert drill_from_mapping(plain, "again").to_mapping() == plain
    hasty = {**plain, "input": [*plain["input"][:1], {"at": 2.05, "until": 12.0, "move_x": -1.0}]}
    found = missing_parts(library.simulate({}, hasty), whole)
    assert any(text.startswith("no full stop: hold still") for text in found)
    assert any(text.startswith("no short hop: let go") for text in found)
    assert any(text.startswith("no full jump") for text in found)


def test_a_terminal_gets_a_view_that_shows_the_motion(tmp_path):
    pty = pytest.importorskip("pty")
    leader, follower = pty.openpty()
    process = subprocess.Popen(
        [PROGRAM, "record", "--run", "kickback simulate --send {address}", "--timeout", "20"],
        cwd=tmp_path,
        stdin=subprocess.DEVNULL,
        stdout=follower,
        stderr=follower,
        env={**os.environ, "TERM": "xterm", "COLUMNS": "110", "LINES": "40"},
    )
    os.close(follower)
    shown = b""
    while True:
        try:
            part = os.read(leader, 65536)
        except OSError:
            break
        if not part:
            break
        shown += part
    os.close(leader)
    assert process.wait(DEADLINE) == 0
    text = re.sub(r"\x1b\[[0-9;?]*[A-Za-z]", "", shown.decode())
    for pattern in (
        r"recording · 1 connected",
        r"[56]\d\.\d frames/s",
        r"lamplighter +speed +8\.000 m/s",
        r"cruise · grounded",
        r"[a-z-]+ · (rise|fall)",
        r"last jump +apex height 2\.111 m +air time 0\.6500 s",
        r"last run +top speed 8\.000 m/s",
        r"run\.top_speed +8\.000 m/s",
    ):
        assert re.search(pattern, text), pattern
    assert "Traceback" not in text
