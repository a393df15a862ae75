"""Kinds of subjects: what another one takes, and that side views stay what they are."""

import json
from collections import deque

import numpy as np
import pytest

from conftest import take_of
from kickback.errors import InputError, UsageError
from kickback.findings.finding import FindingKind
from kickback.framerate.analyse import frame_rates
from kickback.kinds import table
from kickback.kinds.examining import examine
from kickback.kinds.foot.kind import FOOT
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import KINDS, analyse, kind_of
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.level import CLAMP
from kickback.metrics.metric import LARGEST
from kickback.motion.options import Options
from kickback.project.settings import Settings
from kickback.record.hub import Hub
from kickback.record.ledger import Ledger
from kickback.record.open_takes import OpenTake
from kickback.record.take_file import TakeFile
from kickback.show.figures.canvas import save_figure
from kickback.show.figures.motion import motion_figure
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.workflows.coaching import missing_parts
from kickback.workflows.live import Watch
from kickback.workflows.plotting import plot_data
from pendulum import PENDULUM, STIFFENS


@pytest.fixture
def swinging(monkeypatch):
    """The table with the pendulum in it: the one line that a kind takes."""
    monkeypatch.setattr(table, "KINDS", [PENDULUM, *table.KINDS])


def pendulum(rate, *, per_frame=False, kick=None):
    """Columns of a pendulum of 30 degrees and stiffness 16/s², as a plain loop swings it."""
    angle, speed, rows, h = 30.0, 0.0, [], 1 / rate
    for n in range(4 * rate):
        speed -= 16.0 * angle * (1 / 60 if per_frame else h)
        angle += speed * h
        if kick is not None and n == 2 * rate:
            angle += kick
        rows.append(((n + 1) * h, np.sin(np.radians(angle)), -np.cos(np.radians(angle)), angle))
    t, x, y, angles = np.array(rows).T
    return {"t": t, "dt": np.full(len(t), h), "x": x, "y": y, "angle": angles}


@pytest.mark.usefixtures("swinging")
def test_a_kind_is_one_folder_and_one_line():
    take = take_of(pendulum(60), name="weight")
    assert kind_of(take) is PENDULUM
    [row] = measure(take)
    assert (row.metric, str(row.unit)) == ("swing.amplitude", "deg")
    assert row.value == pytest.approx(30.0, abs=0.5)
    [record] = recover_laws(take).to_records()
    assert (record["law"], record["constant"], record["unit"]) == ("spring", "stiffness", "1/s²")
    assert record["value"] == pytest.approx(16.0, rel=1e-6)
    analysis = analyse(take)
    assert [phase.name for phase in analysis.phases] == ["swing"]
    assert {event.name for event in analysis.events} == {"middle"}
    assert analysis.events[0].frame == analysis.whole.t.searchsorted(analysis.events[0].time)
    assert examine(take) == []
    assert save_figure(motion_figure([plot_data(analysis, law=True)]), "png").startswith(b"\x89PNG")
    now = PENDULUM.showing.now(analysis.whole, 1.0)
    assert [(gauge.label, gauge.value) for gauge in now.gauges] == [
        ("swing", take.numbers("angle")[-1])
    ]


@pytest.mark.usefixtures("swinging")
@pytest.mark.parametrize(("per_frame", "causes"), [(False, []), (True, [STIFFENS.name])])
def test_its_cause_is_found_over_frame_rates(per_frame, causes):
    takes = [take_of(pendulum(rate, per_frame=per_frame), name=f"w-{rate}") for rate in (30, 120)]
    result = frame_rates(takes)
    assert [cause.name for _, cause in result.causes] == causes
    if causes:
        assert "multiply the pull" in result.causes[0][1].fix


@pytest.mark.usefixtures("swinging")
def test_side_views_stay_what_they_are():
    take = simulate()
    assert kind_of(take) is KINDS[0]
    assert len(measure(take)) == len(KINDS[0].measuring.metrics)
    with pytest.raises(UsageError, match="swing"):
        measure(take, only=["swng"])
    (row, *_) = measure(take, only=["swing"])
    assert row.value is None
    assert "kind 'foot' has no such metric; 'pendulum' has it" in row.reason


def test_the_header_may_name_the_kind():
    columns = pendulum(60)
    assert kind_of(take_of(columns, kind="foot")) is KINDS[0]
    with pytest.raises(InputError, match="'kind' is 'fot'; did you mean 'foot'"):
        kind_of(take_of(columns, kind="fot"))
    driven = {**columns, "in_throttle": columns["x"]}
    assert kind_of(take_of(columns, view="top")) is KINDS[0]
    assert kind_of(take_of(driven, view="top", kind="foot")) is KINDS[0]
    assert kind_of(take_of(driven, view="top")).name == "vehicle"
    assert kind_of(take_of({**columns, "in_fire": columns["x"] > 0})).name == "shot"
    jumps = {**columns, "in_fire": columns["x"] > 0, "in_jump": columns["x"] > 0}
    assert kind_of(take_of(jumps)) is KINDS[0]


BAD_METRIC = replace(FOOT.measuring.metrics[0], needs=(Role(name="sideways", missing="no"),))


def measured(**own):
    kind = replace(FOOT, load_measuring=lambda: replace(FOOT.measuring, **own))
    return kind.measuring


@pytest.mark.parametrize(
    ("what", "say"),
    [
        (lambda: replace(FOOT, about=""), "a name and a word"),
        (lambda: replace(FOOT, roles=()), "no roles"),
        (lambda: measured(metrics=()), "no metrics"),
        (
            lambda: measured(metrics=FOOT.measuring.metrics[:1] * 2, headlines=()),
            "'run.top_speed' is there twice",
        ),
        (lambda: measured(headlines=("run.top",)), "'run.top' are no metrics"),
        (
            lambda: measured(metrics=(BAD_METRIC,), headlines=()),
            "roles that it lacks: sideways",
        ),
        (lambda: replace(CLAMP, words=""), "lacks words"),
        (lambda: replace(CLAMP, scaling=("sped",)), "constants called sped"),
        (
            lambda: replace(FRICTION, constants={"factor": RATIO}, scaling=()),
            "constants called rate",
        ),
        (lambda: replace(STIFFENS, about=""), "incomplete"),
        (lambda: replace(STIFFENS, verdict="fails"), "incomplete"),
        (lambda: FindingKind(code="x", severity="grave", advice="y"), "incomplete"),
    ],
)
def test_an_incomplete_entry_fails_when_it_is_made(what, say):
    with pytest.raises(TypeError, match=say):
        what()


LEAP = 120


def leaping(**header):
    """A take of runs and turns in which the position leaps once, without a velocity column."""
    columns = {name: c.copy() for name, c in simulate(frame_rate=60).columns.items()}
    columns["x"][LEAP:] += 300.0
    return take_of({n: c for n, c in columns.items() if n not in {"vx", "vy"}}, **header)


def test_nothing_looks_across_a_leap():
    whole = simulate(frame_rate=60)
    bare = take_of({n: c for n, c in whole.columns.items() if n not in {"vx", "vy"}})
    analysis, plain = analyse(leaping()), analyse(bare)
    assert analysis.breaks.tolist() == [LEAP]
    assert [piece.start for piece in analysis.pieces] == [0, LEAP]
    assert analysis.whole.rest_speed < 0.1
    assert np.nanmax(np.abs(analysis.whole.across.v)) < 20
    found = [(p.track, p.name) for p in analysis.phases]
    for phase in {(p.track, p.name) for p in plain.phases}:
        assert phase in found
    frames = [e.frame for e in analysis.events if e.name == "takeoff"]
    assert frames == [e.frame for e in plain.events if e.name == "takeoff"]


def test_pieces_combine_as_each_metric_says():
    rows = measure(leaping())
    plain = measure(simulate(frame_rate=60))
    fastest = rows["run.highest_speed"]
    assert fastest.n == 1
    assert fastest.value == pytest.approx(plain["run.highest_speed"].value, rel=1e-6)
    assert rows["jump.apex_height"].n == plain["jump.apex_height"].n
    for metric in FOOT.measuring.metrics:
        alone = {"run.highest_speed", "fall.largest_step", "jump.most_in_the_air"}
        assert (metric.combine is LARGEST) == (metric.name in alone)


def test_laws_of_a_phase_are_those_of_the_piece_that_tells_most():
    whole, parts = recover_laws(take_of(dict(leaping().columns))), recover_laws(simulate())
    told = {str(law.phase): law.law for law in whole if law.family}
    assert told["speed-up"] == parts["speed-up"].law
    assert told["rise"] == parts["rise"].law


def test_results_are_worked_out_once():
    analysis = analyse(simulate())
    assert analysis.motions[0] is analysis.whole is analysis.pieces[0].motion
    assert recover_laws(analysis) is recover_laws(analysis)
    assert examine(analysis) is examine(analysis)
    json.dumps(measure(analysis).to_records())


@pytest.mark.parametrize(
    ("jitter", "even"), [(0.0, True), (1e-9, True), (4e-4, False), (0.01, False)]
)
def test_even_frame_times_are_one_tolerance(jitter, even):
    """At 4e-4 the law said what belongs to the frame and that nothing could tell."""
    take = simulate({"mistakes": "gravity-per-frame"}, frame_rate=60, jitter=jitter, seed=4)
    laws = recover_laws(take)
    assert analyse(take).even == laws.even == even
    assert laws["rise"].clock == ("even" if even else "frame")
    (said,) = frame_rates([take]).suspicions
    assert (said.even, [c.name for c in said.causes]) == (
        (True, []) if even else (False, ["gravity-per-frame"])
    )


def test_a_single_long_frame_tells_nothing_of_frame_and_second():
    take = simulate(frame_rate=60)
    columns = {name: c.copy() for name, c in take.columns.items()}
    columns["t"][1100:] += 0.05
    laws = recover_laws(take_of({n: c for n, c in columns.items() if n != "dt"}))
    assert {law.clock for law in laws if law.family and law.family.stepped} == {"even"}
    assert laws.even


def test_reasons_quote_what_the_project_calls_settled():
    take, options = simulate(), Options(plateau_time=30.0, plateau_change=0.02)
    assert measure(take, ["run.top_speed"], options)["run.top_speed"].reason == (
        "no full input on the ground held its speed within 2 % for 30 s"
    )
    assert measure(take, ["fall.terminal_speed"], options)["fall.terminal_speed"].reason == (
        "no fall held its speed within 2 % for 30 s"
    )


def test_the_coach_and_the_live_view_measure_as_the_project_does(tmp_path):
    drill = standard_drill()
    take = replace(simulate({}, drill), header=replace(simulate({}, drill).header, drill="d"))
    strict, kind = Options(plateau_time=30.0), "no run to top speed"
    assert not any(kind in text for text in missing_parts(take, drill))
    settings = Settings(options=strict)
    due = missing_parts(settings.analysis(take), drill)
    assert due == []  # the model that says what is due is held to the same
    hub = Hub(Ledger(folder=tmp_path))
    for options, speeds in ((Options(), 1), (strict, 0)):
        watch = Watch(hub, Settings(options=options))
        rows = [list(row) for row in zip(*take.columns.values(), strict=True)]
        header = {"kickback": 1, "columns": list(take.columns)}
        file = TakeFile(tmp_path, f"take-{speeds}", json.dumps(header).encode() + b"\n")
        item = OpenTake(file=file, subject="", header=header, names=list(take.columns),
                        rows=deque(rows), clock=0, plain=True)  # fmt: skip
        shown = watch._subject(item)
        told = [figure.part for figure in shown.figures["run"]]
        assert told.count("top speed") == speeds
        file.finish({})
    hub.close("the end")


def test_a_project_says_the_kind_of_takes_that_do_not(tmp_path, kickback):
    columns = {
        "t": [0.1, 0.2, 0.3, 0.4],
        "x": [0, 1, 2, 3],
        "y": [0, 1, 2, 3],
        "in_throttle": [1] * 4,
    }
    rows = [",".join(map(str, row)) for row in zip(*columns.values(), strict=True)]
    log = tmp_path / "sled.csv"
    log.write_text('# {"view": "top"}\n' + "\n".join([",".join(columns), *rows]) + "\n")
    assert "vehicle (a vehicle that" in kickback("inspect", log, status=0)[1]
    (tmp_path / "kickback.toml").write_text('kind = "foot"\n')
    kickback("measure", log, status=0)
    _, out, _ = kickback("inspect", log, status=0)
    assert "foot (a character on foot, in any view)" in out
    assert "told from the columns" not in out
