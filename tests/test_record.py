"""How a stream of bytes becomes takes: one session, without sockets."""

import json
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kickback.errors import UsageError
from kickback.files.mapping import parse_mapping
from kickback.files.read import read_take
from kickback.files.write import encode_take
from kickback.kinds.foot.model.simulate import simulate
from kickback.record.addresses import source_of
from kickback.record.ledger import Finished, Ledger, Notice
from kickback.record.limits import Limits, limits_from
from kickback.record.session import Session
from kickback.record.take_file import TakeFile, recover

HEADER = {"kickback": 1, "subject": "lamplighter", "frame_rate": 60, "length_unit": "m"}
ARRAYS = {**HEADER, "columns": ["t", "x", "y"]}


def frames(count, start=0.0, **extra):
    return [{"t": start + (n + 1) / 60, "x": 0.1 * n, "y": 0.0, **extra} for n in range(count)]


def rows(count, start=0.0):
    return [list(frame.values()) for frame in frames(count, start)]


def lines(*values):
    return b"".join(json.dumps(value).encode() + b"\n" for value in values)


class Stream:
    """A session in a folder, and what it told."""

    def __init__(self, folder, token=None, datagrams=False, enter=None, **setup):
        self.ledger = Ledger(folder=folder, **setup)
        self.session = Session("test", self.ledger, token, datagrams=datagrams, enter=enter)

    def feed(self, *parts, end=True):
        for part in parts:
            feed = self.session.feed_datagram if self.session.datagrams else self.session.feed
            feed(part)
        if end:
            self.session.end()
        return self

    def of(self, kind):
        return [event for event in self.ledger.events if isinstance(event, kind)]

    @property
    def done(self):
        return self.of(Finished)

    @property
    def said(self):
        return [notice.text for notice in self.of(Notice)]


LEFT, ENDED, NEXT = "the sender left", "its end object", "the next header"


@pytest.mark.parametrize("piece", [1, 7, 64, 1 << 20])
@pytest.mark.parametrize(
    ("stream", "counts", "ended_by"),
    [
        (lines(*frames(5)), [5], [LEFT]),
        (lines(HEADER, *frames(5), {"end": True}), [5], [ENDED]),
        (lines(HEADER, *frames(3), HEADER, *frames(4)), [3, 4], [NEXT, LEFT]),
        (lines(HEADER, HEADER, *frames(4)), [4], [LEFT]),
        (lines(*frames(3), *frames(4, start=9.0)), [3, 4], ["a pause", LEFT]),
        (lines(*frames(3), *frames(4)), [3, 4], ["time that began again", LEFT]),
        (lines({**HEADER, "columns": ["t", "x"]}, [1, 0], [1.1, 0]), [2], [LEFT]),
        (lines(ARRAYS, *rows(50), *rows(60)), [50, 60], ["time that began again", LEFT]),
        (b"t,x,y\n1,0,0\n1.1,0,0\n1.2,0,0\n", [3], [LEFT]),
        (b"t;x;y\n1,0;0;0\n1,1;0;0\n1,2;0;0\n", [3], [LEFT]),
        (
            b'# {"kickback": 1}\nt,x\n1,0\n2,0\n# {"kickback": 1}\nt,x\n1,0\n',
            [2, 1],
            [NEXT, LEFT],
        ),
        (lines(HEADER, {"end": True}), [], []),
        (b"\r\n   \n" + lines(*frames(2)).replace(b"\n", b"\r\n") + b"\n", [2], [LEFT]),
        (lines(ARRAYS, {"sent": 0, "dropped": 0}, *rows(9)), [9], [LEFT]),
    ],
)
def test_where_takes_begin_and_end(tmp_path, stream, counts, ended_by, piece):
    parts = [stream[i : i + piece] for i in range(0, len(stream), piece)]
    recorder = Stream(tmp_path).feed(*parts)
    assert [item.frames for item in recorder.done] == counts
    assert [item.ended_by for item in recorder.done] == ended_by
    assert recorder.ledger.refused == 0
    for item in recorder.done:
        saved = item.path.read_bytes().splitlines()
        assert len(saved) == item.frames + 2
        assert json.loads(saved[-1])["frames"] == item.frames


@pytest.mark.parametrize("encoding", ["jsonl", "csv"])
def test_a_recorded_take_is_the_take_that_was_sent(tmp_path, encoding):
    take = simulate(frame_rate=60)
    data = encode_take(take, encoding)
    again = read_take(Stream(tmp_path).feed(data[:5000], data[5000:]).done[0].path)
    assert again.header.recorded_at
    assert again.header.parameters.values == take.header.parameters.values
    assert all((again.numbers(name) == take.numbers(name)).all() for name in take.columns)


def test_several_subjects_give_a_take_each(tmp_path):
    pairs = zip(frames(4, subject="sled"), frames(4, subject="flare"), strict=True)
    recorder = Stream(tmp_path).feed(lines(HEADER, *[frame for pair in pairs for frame in pair]))
    assert [item.frames for item in recorder.done] == [4, 4]
    assert [read_take(item.path).header.subject for item in recorder.done] == ["sled", "flare"]


@pytest.mark.parametrize(
    ("junk", "reason"),
    [
        (b"{not json", "is not JSON"),
        (b"[1, 2", "is not JSON"),
        (b"[1, 2]", "does not fit a header's 'columns'"),
        (b"loading level 3", "is no frame"),
        (b"\xff\xfe\x00", "is no frame"),
        (b"{" + b'"a":' * 5000 + b"1", "is not JSON"),
        (b"x" * 70_000, "longer than the limit of 65536 bytes"),
        (b"x" * 300_000, "longer than the limit of 65536 bytes"),
        (json.dumps({f"c{n}": n for n in range(300)}).encode(), "more columns than the limit"),
        (b"[1,[2]\n[3]]\n[1],[2]", "is not JSON"),
    ],
    ids=lambda value: value[:12] if isinstance(value, bytes) else "",
)
@pytest.mark.parametrize("kind", ["objects", "arrays"])
def test_junk_is_counted_and_ends_nothing(tmp_path, junk, reason, kind):
    head, make = (HEADER, frames) if kind == "objects" else (ARRAYS, rows)
    recorder = Stream(tmp_path).feed(lines(head, *make(3)) + junk + b"\n" + lines(*make(3, 0.05)))
    assert [item.frames for item in recorder.done] == [6]
    assert recorder.ledger.refused == recorder.done[0].refused == junk.count(b"\n") + 1
    assert recorder.ledger.first_refusal.startswith("line 5 ")
    assert reason in recorder.ledger.first_refusal
    assert len(read_take(recorder.done[0].path)) == 6


@given(
    st.lists(
        st.one_of(
            st.binary(max_size=60),
            st.sampled_from(
                lines(ARRAYS, *frames(3), *rows(5), {"end": 1}, {"sent": 4}).splitlines()
            ),
        ),
        max_size=25,
    ),
    st.integers(0, 10**6),
)
@settings(max_examples=300, deadline=None)
def test_no_bytes_are_fatal(tmp_path_factory, parts, seed):
    """Junk and mutated frames between sound ones: each take that comes of it is counted right."""
    folder = tmp_path_factory.mktemp("junk")
    chance = random.Random(seed)
    data = b"\n".join(parts)
    if data and chance.random() < 0.5:
        at = chance.randrange(len(data))
        data = data[:at] + bytes([chance.randrange(256)]) + data[at + 1 :]
    recorder = Stream(folder, datagrams=chance.random() < 0.3).feed(
        lines(ARRAYS, *rows(4)) + data + b"\n"
    )
    assert recorder.done
    for item in recorder.done:
        assert item.path.read_bytes().count(b"\n") == item.frames + 2
    assert not list(folder.glob("*.open.jsonl"))


def test_a_csv_row_of_another_length_is_refused(tmp_path):
    recorder = Stream(tmp_path).feed(b"t,x,y\n1,0,0\n1.1,0\n1.2,0,0\n")
    assert recorder.done[0].frames == 2
    assert recorder.ledger.first_refusal == "line 3 has 2 values where there are 3 columns"


@pytest.mark.parametrize(
    ("tail", "count"), [(b'{"t": 9', 3), (b"[9,", 3), (b'{"t": 0.06, "x": 1, "y": 0}', 4)]
)
def test_a_line_cut_in_the_middle_is_refused_and_the_take_kept(tmp_path, tail, count):
    recorder = Stream(tmp_path).feed(lines(HEADER, *frames(3)) + tail)
    assert [item.frames for item in recorder.done] == [count]
    assert recorder.ledger.refused == 4 - count


@pytest.mark.parametrize(
    "name", ["../../etc/passwd", "a/b\\c", "..", "", "x" * 500, "é ü", "\0", "街" * 90]
)
def test_names_from_the_wire_stay_in_the_folder(tmp_path, name):
    parameters = {"name": name, "values": {}}
    recorder = Stream(tmp_path / "takes").feed(
        lines({**HEADER, "subject": name}, *frames(2)),
        lines({**HEADER, "parameters": parameters}, *frames(2, subject=name)),
    )
    assert {item.path.parent for item in recorder.done} == {tmp_path / "takes"}
    assert all(item.path.exists() for item in recorder.done)


def test_existing_files_are_never_replaced(tmp_path):
    paths = [Stream(tmp_path).feed(lines(HEADER, *frames(2))).done[0].path for _ in range(5)]
    assert len(set(paths)) == 5


def test_an_unsound_header_costs_no_frame(tmp_path):
    recorder = Stream(tmp_path).feed(lines({**ARRAYS, "frame_rate": "fast"}, *rows(5)))
    take = read_take(recorder.done[0].path)
    assert len(take) == 5
    assert take.header.extra["header_sent"]["frame_rate"] == "fast"
    assert "'frame_rate' must be a number" in recorder.said[0]


def test_a_mapping_goes_with_the_take(tmp_path):
    mapping = parse_mapping(
        {"columns": {"t": {"from": "time.ms", "scale": 0.001}, "x": "p.0", "y": "p.1"}}, "test"
    )
    foreign = [{"time": {"ms": 20 * n}, "p": [n, 0]} for n in range(1, 9)]
    later = [{**row, "time": {"ms": row["time"]["ms"] + 9000}} for row in foreign]
    recorder = Stream(tmp_path, mapping=mapping.plain, clock=mapping.clock).feed(
        lines(*foreign, *later)
    )
    assert [item.ended_by for item in recorder.done] == ["a pause", LEFT]
    take = read_take(recorder.done[0].path)
    assert take.numbers("t")[:2] == pytest.approx([0.02, 0.04])
    assert list(take.numbers("x")) == list(range(1, 9))


def datagram(take, sent, *values):
    return lines({"take": take, "sent": sent}, *values)


def numbered(first, count):
    return rows(first + count)[first:]


@pytest.mark.parametrize(
    ("missing", "doubled", "swapped"),
    [((), (), ()), ((3, 7), (), ()), ((0,), (5,), ()), ((2,), (4, 4), (8,)), ((9,), (), ())],
)
def test_every_datagram_that_is_lost_is_counted(tmp_path, missing, doubled, swapped):
    """Ten datagrams of five frames; those swapped arrive late, so that they are lost too."""
    parts = [datagram("a", 5 * n, *numbered(5 * n, 5)) for n in range(10)]
    sent = [
        part
        for n, part in enumerate(parts)
        if n not in missing
        for part in [part] * (1 + doubled.count(n))
    ]
    for n in swapped:
        at = sent.index(parts[n])
        sent[at - 1], sent[at] = sent[at], sent[at - 1]
    end = lines({"end": True, "take": "a", "sent": 50, "dropped": 2})
    header = lines({**ARRAYS, "take": "a"})
    recorder = Stream(tmp_path, datagrams=True).feed(header, *sent, header, end, end, end)
    [item] = recorder.done
    lost = 5 * (len(missing) + len(swapped))
    assert (item.frames, item.lost, item.dropped) == (50 - lost, lost, 2)
    assert recorder.ledger.lost == lost
    assert json.loads(item.path.read_bytes().splitlines()[-1]).get("lost", 0) == lost


def test_frames_before_a_lost_header_are_refused_and_the_rest_kept(tmp_path):
    recorder = Stream(tmp_path, datagrams=True).feed(
        datagram("b", 0, *numbered(0, 5)),
        lines({**ARRAYS, "take": "b"}),
        datagram("b", 5, *numbered(5, 5)),
        lines({"end": True, "take": "b", "sent": 10, "dropped": 0}),
    )
    assert [item.frames for item in recorder.done] == [5]
    assert recorder.ledger.refused == 5


@pytest.mark.parametrize(
    ("first", "why"),
    [
        ({**ARRAYS, "token": "lantern"}, ""),
        ({**ARRAYS, "token": "lamp"}, "a wrong token"),
        (ARRAYS, "no token in its header"),
        ([1, 2, 3], "no token in its header"),
    ],
)
def test_only_the_token_lets_a_stream_in(tmp_path, first, why):
    recorder = Stream(tmp_path, token="lantern").feed(lines(first, *rows(3)))
    assert len(recorder.done) == (not why)
    assert recorder.session.rejected.startswith(why)
    if not why:
        assert b"lantern" not in recorder.done[0].path.read_bytes()
    else:
        assert json.loads(recorder.session.replies[0])["error"].startswith(why)


@pytest.mark.parametrize(
    ("limits", "counts", "sentence"),
    [
        (Limits(frames=4), [4, 4, 2], "the limit of 4 frames in a take"),
        (Limits(disk=330), [8], "the limit of 330 bytes on disk is met"),
        (Limits(columns=2), [], "3 columns are more than the limit of 2"),
    ],
)
def test_a_limit_is_said_when_it_is_met(tmp_path, limits, counts, sentence):
    stream = [b"%d, 0, 0" % n for n in range(1, 11)]
    recorder = Stream(tmp_path, limits=limits).feed(
        lines(ARRAYS), b"".join(b"[" + part.ljust(20) + b"]\n" for part in stream)
    )
    assert [item.frames for item in recorder.done] == counts
    told = [*recorder.said, *(item.ended_by for item in recorder.done)]
    assert any(sentence in text for text in told), told


def test_subjects_are_limited(tmp_path):
    crowd = [frame for n in range(30) for frame in frames(2, subject=f"s{n}")]
    recorder = Stream(tmp_path, limits=Limits(subjects=5)).feed(lines(*crowd))
    assert len(recorder.done) == 5
    assert sum("5 subjects in a stream" in text for text in recorder.said) == 1


@pytest.mark.parametrize(
    ("items", "problem"),
    [
        (("frames=x",), "whole number"),
        (("frame=1",), "did you mean 'frames'"),
        (("disk=0",), "above 0"),
    ],
)
def test_limits_that_make_no_sense_are_refused(items, problem):
    with pytest.raises(UsageError, match=problem):
        limits_from(items)


@pytest.mark.parametrize(
    ("word", "address"),
    [
        ("tcp", "tcp://127.0.0.1:7425"),
        ("udp:9000", "udp://127.0.0.1:9000"),
        ("ws", "ws://127.0.0.1:7426"),
        ("tcp://localhost:5", "tcp://localhost:5"),
        ("tcp://[::1]:5", "tcp://[::1]:5"),
        ("-", "standard input"),
        ("logs/game.log", "logs/game.log"),
    ],
)
def test_words_name_sources(word, address):
    assert source_of(word).address == address


@pytest.mark.parametrize(
    "word", ["tcp://192.168.1.4:80", "tcp://0.0.0.0:1", "ftp://x", "tcp:99999"]
)
def test_words_that_name_no_allowed_source_are_refused(word):
    with pytest.raises(UsageError):
        source_of(word)


@pytest.mark.parametrize("torn", [b"", b"[9, 1", b'{"t": 3.0, "x"'])
def test_a_take_left_open_is_made_whole(tmp_path, torn):
    left = tmp_path / "lamplighter-60.open.jsonl"
    left.write_bytes(lines(ARRAYS, *rows(7)) + torn)
    (tmp_path / "lamplighter-60.jsonl").write_bytes(b"another take")
    [found] = recover(tmp_path)
    assert found.frames == 7
    assert found.path.name == "lamplighter-60-2.jsonl"
    assert len(read_take(found.path)) == 7
    assert not left.exists()
    assert recover(tmp_path) == []


def test_a_take_that_another_recorder_writes_is_left_alone(tmp_path):
    writing = TakeFile(tmp_path, "busy", lines(ARRAYS))
    writing.write(lines(*rows(3)), 3)
    writing.flush()
    assert recover(tmp_path) == []
    assert writing.finish({}).name == "busy.jsonl"


def test_a_vanished_folder_costs_nothing(tmp_path):
    folder = tmp_path / "takes"
    recorder = Stream(folder).feed(lines(ARRAYS, *rows(100)), end=False)
    recorder.session.flush()
    for item in folder.iterdir():
        item.unlink()
    folder.rmdir()
    recorder.session.flush()
    recorder.feed(lines(*rows(50, 100 / 60)))
    assert [item.frames for item in recorder.done] == [150]
    assert len(read_take(recorder.done[0].path)) == 150
