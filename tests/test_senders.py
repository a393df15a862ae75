"""The senders in their own languages, with their real runtimes, against the real recorder."""

import functools
import http.server
import json
import os
import select
import shutil
import socket
import subprocess
import threading
import time
from pathlib import Path

import pytest

import kickback as library
from conftest import quick
from kickback.files.read import read_take
from kickback.record.sender import Recorder as Sender
from kickback.record.sender import _Tcp
from test_recorder import DEADLINE, Recorder

SENDERS = Path(__file__).parents[1] / "senders"
COMPLETE = os.environ.get("KICKBACK_ALL_RUNTIMES")


def needs(*programs):
    """Return the first program that is installed; without any the test is skipped, visibly."""
    for program in programs:
        found = shutil.which(program)
        if found:
            return found
    if COMPLETE:
        pytest.fail(f"none of {programs} is installed, and nothing may be skipped here")
    return pytest.skip(f"needs {' or '.join(programs)}")


@pytest.fixture
def record(tmp_path):
    """Start a recorder for one take on the sources named."""
    started = []

    def start(*sources, **how):
        started.append(Recorder(tmp_path, *sources, "--quiet", **how))
        return started[-1]

    yield start
    for recorder in started:
        recorder.close()


def check_example(recorder):
    """The example's take: three seconds of a run, to the last digit."""
    [path] = recorder.saved()
    take = read_take(path)
    x = v = 0.0
    for n in range(180):
        v = min(8.0, v + 40 / 60)
        x += v / 60
        assert (take.numbers("x")[n], take.numbers("vx")[n]) == (x, v)
    assert len(take) == 180
    assert take.header.subject == "lamplighter"
    assert json.loads(path.read_bytes().splitlines()[-1]) == {
        "end": True,
        "frames": 180,
        "ended_by": "its end object",
    }


def run(*command, **how):
    done = subprocess.run([*map(str, command)], capture_output=True, timeout=60, check=False, **how)
    assert done.returncode == 0, done.stderr.decode()
    return done.stdout


def test_python(record, tmp_path):
    recorder = record("tcp:0")
    shutil.copy(SENDERS / "kickback_sender.py", tmp_path)  # the file alone, without the package
    example = (SENDERS / "example.py").read_text().replace("7425", str(recorder.port()))
    (tmp_path / "example.py").write_text(example)
    run(needs("python3"), "-S", "example.py", cwd=tmp_path)
    check_example(recorder)


def test_node(record):
    node = needs("node")
    recorder = record("tcp:0")
    run(node, SENDERS / "example.js", f"tcp://127.0.0.1:{recorder.port()}")
    check_example(recorder)


@quick(2)
@pytest.mark.parametrize(
    ("compilers", "flags"),
    [
        (("cc", "gcc", "clang"), ["-std=c99"]),
        (("c++", "g++", "clang++"), ["-std=c++11", "-x", "c++"]),
    ],
)
def test_c(record, tmp_path, compilers, flags):
    compiler = needs(*compilers)
    program = tmp_path / "example"
    strict = ["-Wall", "-Wextra", "-Werror", "-O1"]
    run(compiler, *flags, *strict, SENDERS / "example.c", "-o", program, "-lm")
    recorder = record("tcp:0")
    run(program, recorder.port())
    check_example(recorder)


def test_c_sharp(record, tmp_path):
    compiler, runtime = needs("mcs", "csc"), needs("mono")
    program = tmp_path / "example.exe"
    run(
        compiler,
        "-warnaserror",
        f"-out:{program}",
        SENDERS / "example.cs",
        SENDERS / "kickback_sender.cs",
    )
    recorder = record("tcp:0")
    run(runtime, program, recorder.port())
    check_example(recorder)


LUAS = ("lua5.4", "lua", "lua5.3", "lua5.1", "luajit")


def test_lua(record):
    printed = run(needs(*LUAS), "example.lua", cwd=SENDERS)
    recorder = record("-", stdin=subprocess.PIPE)
    recorder.process.stdin.write(printed)
    recorder.process.stdin.close()
    recorder.process.wait(DEADLINE)
    check_example(recorder)


def test_lua_keeps_what_a_send_function_does_not_take(tmp_path):
    """A host that takes ten bytes a call, and then none: what does not fit is counted."""
    script = tmp_path / "slow.lua"
    script.write_text(
        """
        local Sender = require("kickback_sender")
        local out, open = {}, true
        local function send(text)
          if not open then return nil end
          out[#out + 1] = text:sub(1, 10)
          return math.min(10, #text)
        end
        local take = Sender.new(send, {"t", "x", "y"}, {subject = 'a "quoted"\\n name'}, 300)
        for frame = 1, 40 do take:frame(frame / 60, frame, 0) end
        take:frame(0 / 0, 1, 1)
        for _ = 1, 100 do take:flush() end
        take:close()
        for _ = 1, 100 do take:flush() end
        io.write(table.concat(out))
        """
    )
    printed = run(needs(*LUAS), script, cwd=SENDERS).splitlines()
    header, *frames, end = [json.loads(line) for line in printed]
    assert header["subject"] == 'a "quoted"\n name'
    assert end == {"end": True, "sent": len(frames), "dropped": 41 - len(frames)}
    assert 3 < len(frames) < 40


def test_a_page_in_a_browser(record, tmp_path):
    browser = needs("chromium", "chromium-browser", "google-chrome")
    recorder = record("ws:0")
    site = tmp_path / "site"
    site.mkdir()
    shutil.copy(SENDERS / "kickback_sender.js", site)
    page = (SENDERS / "example.html").read_text().replace("7426", str(recorder.port("ws")))
    (site / "index.html").write_text(page)
    handler = functools.partial(http.server.SimpleHTTPRequestHandler, directory=site)
    handler.log_message = lambda *_: None
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        flags = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            f"--user-data-dir={tmp_path}/profile",
        ]
        address = f"http://127.0.0.1:{server.server_address[1]}/"
        with (tmp_path / "browser.log").open("wb") as log:
            shown = subprocess.Popen(
                [browser, *flags, "--remote-debugging-port=0", address], stdout=log, stderr=log
            )
            try:
                check_example(recorder)
            finally:
                shown.terminate()
                shown.wait(DEADLINE)
                server.shutdown()


def test_a_take_straight_from_a_game_loop(tmp_path):
    path = tmp_path / "takes" / "run.jsonl"
    with library.Recorder(path, ["t", "x", "y"], subject="sled", frame_rate=50) as take:
        for n in range(1, 101):
            take.frame(n / 50, n * 0.1, 0.0)
        take.frame(2.02, float("nan"), 0.0)
    assert take.dropped == 1
    assert "not plain numbers" in take.problem
    read = read_take(path)
    assert (len(read), read.header.subject, read.frame_rate) == (100, "sled", 50)
    with pytest.raises(FileExistsError):
        library.Recorder(path, ["t", "x", "y"])


@pytest.mark.parametrize(
    "problem",
    [("tcp://nowhere", ["t"]), ("ftp://a:1", ["t"]), ("x.jsonl", []), ("x.jsonl", ["t", "t"])],
)
def test_a_sender_that_makes_no_sense_is_refused(problem, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    with pytest.raises(ValueError, match=r"no address|different names"):
        library.Recorder(*problem)


def test_a_sender_never_waits_and_counts_what_it_drops():
    """Nobody takes the connection's bytes: the game's frames go on, and drops are counted."""
    with socket.create_server(("127.0.0.1", 0)) as deaf:
        take = Sender(f"tcp://127.0.0.1:{deaf.getsockname()[1]}", ["t", "x", "y"], room=500)
        began = time.monotonic()
        taken = sum(take.frame(n, 0.0, 0.0) for n in range(200_000))
        assert time.monotonic() - began < 5
        take.close(timeout=0.1)
    assert take.dropped >= 200_000 - taken > 0


def test_a_sender_finds_a_recorder_that_starts_later(record):
    with socket.create_server(("127.0.0.1", 0)) as probe:
        port = probe.getsockname()[1]
    take = Sender(f"tcp://127.0.0.1:{port}", ["t", "x", "y"], subject="sled")
    for n in range(1, 31):
        take.frame(n / 60, 0.1 * n, 0.0)
    recorder = record(f"tcp:{port}")
    recorder.wait("listening")
    end = time.monotonic() + DEADLINE
    while not take.connected and time.monotonic() < end:
        time.sleep(0.05)
    take.close()
    assert len(read_take(recorder.saved()[0])) == 30


def test_the_python_sender_uses_the_standard_library_alone():
    source = (SENDERS / "kickback_sender.py").read_text()
    assert "kickback." not in "".join(line for line in source.splitlines() if "import" in line)


def test_leaving_over_an_unread_answer_loses_nothing():
    """The answer comes after the sender listened last; the recorder reads late."""
    line = b"x" * 100_000
    with socket.create_server(("127.0.0.1", 0)) as server:
        way = _Tcp(*server.getsockname())
        way.connect()
        peer, _ = server.accept()
        way.send([line], take="", sent=0)
        peer.sendall(b'{"drill": {}}\n')
        assert select.select([way._socket], [], [], DEADLINE)[0]
        leaving = threading.Thread(target=way.close)
        leaving.start()
        leaving.join(0.2)  # without the wait for the other side it is over by now
        with peer:
            peer.settimeout(DEADLINE)
            heard = b"".join(iter(lambda: peer.recv(1 << 16), b""))
        leaving.join(DEADLINE)
    assert heard == line
