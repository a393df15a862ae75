"""Recording from a pipe: how a stream of lines becomes takes on disk."""

import json
import os
import subprocess
import threading
import time

import pytest

from conftest import PROGRAM
from kickback.files.read import read_take
from kickback.files.write import encode_take
from kickback.models.simulate import simulate
from kickback.record.pipe import read_pipe
from kickback.record.session import Session

HEADER = {"kickback": 1, "subject": "lamplighter", "frame_rate": 60, "length_unit": "m"}


def frames(count, start=0.0, **extra):
    return [{"t": start + (n + 1) / 60, "x": 0.1 * n, "y": 0.0, **extra} for n in range(count)]


def lines(*values):
    return [json.dumps(value).encode() for value in values]


@pytest.fixture
def session(tmp_path):
    """Return a session and the list of the takes that it has finished."""
    done = []
    return Session(folder=tmp_path / "takes", gap=2.0, on_finish=done.append), done


def feed(session, stream):
    for line in stream:
        session.feed(line)
    session.close()


@pytest.mark.parametrize(
    ("stream", "counts", "ended_by"),
    [
        (lines(*frames(5)), [5], ["the sender left"]),
        (lines(HEADER, *frames(5), {"end": True}), [5], ["its end object"]),
        (
            lines(HEADER, *frames(3), HEADER, *frames(4)),
            [3, 4],
            ["the next header", "the sender left"],
        ),
        (lines(*frames(3), *frames(4, start=9.0)), [3, 4], ["a pause", "the sender left"]),
        (lines(*frames(3), *frames(4)), [3, 4], ["time that began again", "the sender left"]),
        (lines({**HEADER, "columns": ["t", "x"]}, [1, 0], [1.1, 0]), [2], ["the sender left"]),
        ([b"t,x,y", b"1,0,0", b"1.1,0,0", b"1.2,0,0"], [3], ["the sender left"]),
        (
            [b'# {"kickback": 1}', b"t,x", b"1,0", b"2,0", b'# {"kickback": 1}', b"t,x", b"1,0"],
            [2, 1],
            ["the next header", "the sender left"],
        ),
        (lines(HEADER, {"end": True}), [], []),
        ([b"", b"   ", *lines(*frames(2)), b""], [2], ["the sender left"]),
    ],
)
def test_where_takes_begin_and_end(session, stream, counts, ended_by):
    recorder, done = session
    feed(recorder, stream)
    assert [item.frames for item in done] == counts
    assert [item.ended_by for item in done] == ended_by
    assert recorder.refused == 0
    assert all(item.path.read_bytes().count(b"\n") == item.frames + 1 for item in done)


@pytest.mark.parametrize("encoding", ["jsonl", "csv"])
def test_a_recorded_take_is_the_take_that_was_sent(session, encoding):
    recorder, done = session
    take = simulate(frame_rate=60)
    feed(recorder, encode_take(take, encoding).split(b"\n"))
    again = read_take(done[0].path)
    assert again.header.recorded_at
    assert again.header.parameters.values == take.header.parameters.values
    assert all((again.numbers(name) == take.numbers(name)).all() for name in take.columns)


def test_several_subjects_give_a_take_each(session):
    recorder, done = session
    both = [
        frame
        for pair in zip(frames(4, subject="sled"), frames(4, subject="flare"), strict=True)
        for frame in pair
    ]
    feed(recorder, lines(HEADER, *both))
    assert [item.frames for item in done] == [4, 4]
    assert [read_take(item.path).header.subject for item in done] == ["sled", "flare"]


@pytest.mark.parametrize(
    ("junk", "reason"),
    [
        (b"{not json", "is not JSON"),
        (b"[1, 2", "is not JSON"),
        (b"[1, 2]", "does not fit a header's 'columns'"),
        (b"loading level 3", "is no frame"),
        (b"\xff\xfe\x00", "is no frame"),
        (b"{" + b'"a":' * 5000 + b"1", "is not JSON"),
        (b"x" * 1_000_001, "longer than a million characters"),
    ],
    ids=lambda value: value[:12] if isinstance(value, bytes) else "",
)
def test_junk_is_counted_and_ends_nothing(session, junk, reason):
    recorder, done = session
    feed(recorder, [*lines(HEADER, *frames(3)), junk, *lines(*frames(3, start=0.05))])
    assert [item.frames for item in done] == [6]
    assert recorder.refused == 1
    assert recorder.first_refusal.startswith("line 5 ")
    assert reason in recorder.first_refusal


def test_a_csv_row_of_another_length_is_refused(session):
    recorder, done = session
    feed(recorder, [b"t,x,y", b"1,0,0", b"1.1,0", b"1.2,0,0"])
    assert done[0].frames == 2
    assert recorder.first_refusal == "line 3 has 2 values where there are 3 columns"


@pytest.mark.parametrize("name", ["../../etc/passwd", "a/b\\c", "..", "", "x" * 500, "é ü", "\0"])
def test_names_from_the_wire_stay_in_the_folder(session, name, tmp_path):
    recorder, done = session
    feed(recorder, lines({**HEADER, "subject": name}, *frames(2)))
    assert done[0].path.parent == tmp_path / "takes"
    assert done[0].path.exists()


def test_existing_files_are_never_replaced(session):
    recorder, done = session
    for _ in range(5):
        feed(recorder, lines(HEADER, *frames(2)))
    assert len({item.path for item in done}) == 5


def test_a_silence_ends_a_take(session):
    recorder, done = session
    reader, writer = os.pipe()
    thread = threading.Thread(target=read_pipe, args=(reader, recorder), kwargs={"gap": 0.3})
    thread.start()
    os.write(writer, b"\n".join(lines(HEADER, *frames(5))) + b"\n")
    for _ in range(100):
        if done:
            break
        time.sleep(0.05)
    os.write(writer, b"\n".join(lines(*frames(4, start=1.0))) + b"\n" + b'{"t": 9, "x"')
    os.close(writer)
    thread.join(timeout=10)
    os.close(reader)
    assert [(item.frames, item.ended_by) for item in done] == [
        (5, "a pause"),
        (4, "the sender left"),
    ]
    assert recorder.refused == 1


@pytest.mark.parametrize("busy", [False, True], ids=["silent", "busy"])
def test_what_has_arrived_is_on_disk_when_the_recorder_is_killed(tmp_path, busy):
    """A game that never pauses must lose no more than the last part of a second."""
    sent = lines(HEADER, *frames(90))
    with subprocess.Popen(
        [PROGRAM, "record", "-"],
        cwd=tmp_path,
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    ) as recorder:
        recorder.stdin.write(b"\n".join(sent) + b"\n")
        recorder.stdin.flush()
        path = None
        for tick in range(400):
            time.sleep(0.05)
            if busy:
                recorder.stdin.write(lines(*frames(1, start=2 + tick / 100))[0] + b"\n")
                recorder.stdin.flush()
            path = next(iter(tmp_path.glob("takes/*.jsonl")), None)
            if path and path.read_bytes().count(b"\n") >= 91:
                break
        recorder.kill()
        recorder.stdin.close()
    assert tick < 100
    assert len(read_take(path)) >= 90


def test_record_tells_what_it_saved(kickback):
    stream = (
        b"\n".join([*lines(HEADER, *frames(60), {"end": True}), b"junk", *lines(*frames(1))])
        + b"\n"
    )
    _, out, err = kickback("record", "-", "--into", "runs", stdin=stream, status=0)
    first, second = out.splitlines()
    assert first.startswith("runs/lamplighter-60-")
    assert first.endswith(": 60 frames, 1.0 s at 60 frames/s, ended by its end object")
    assert "1 frames kept, but" in second
    assert "1 lines were no frames; line 63 is no frame" in err


@pytest.mark.parametrize("stream", [b"", b"\n\n", b"nothing here\n"])
def test_a_stream_without_frames_is_an_error(kickback, stream):
    _, _, err = kickback("record", "-", stdin=stream, status=2)
    assert "no frame came" in err
