"""What moves what: plans of sets, per cents about a base, trade-offs, and the command."""

import csv
import io
import json

import numpy as np
import pytest
from pyarrow import parquet

from kickback.errors import UsageError
from kickback.show.console import Printer
from kickback.show.sweep import show_sweep
from kickback.tuning.sweep.moved import MOVES, pairs_of, swept, with_trade
from kickback.tuning.sweep.plan import planned
from kickback.tuning.sweep.record import Knob, Point
from kickback.workflows import sweeping

BASE = {"v": 12.0, "g": 40.0, "off": 0.0, "word": "constant"}


def played(plan, metrics, rates=(60.0,)):
    """Return a sweep whose metrics are functions of the parameters."""
    points = [
        Point(number=k, rate=rate, metrics={
            name: of({**BASE, **one}) for name, of in metrics.items()})
        for rate in rates for k, one in enumerate(plan.sets)
    ]  # fmt: skip
    return swept(plan, rates, points, dict.fromkeys(metrics, "m"))


def test_a_grid_holds_every_value_with_every_other():
    plan = planned(BASE, [Knob(name="v", low=8.0, high=16.0), Knob(name="g", values=(30.0, 50.0)),
                          Knob(name="off", values=(1.0,))], grid=3)  # fmt: skip
    assert plan.nudged == ["v", "g"]  # what is 0 has no per cent
    assert plan.sets[:5] == [{}, {"v": 11.76}, {"v": 12.24}, {"g": 39.2}, {"g": 40.8}]
    rest = {(one["v"], one["g"], one["off"]) for one in plan.sets[plan.first_swept :]}
    assert rest == {(v, g, 1.0) for v in (8.0, 12.0, 16.0) for g in (30.0, 50.0)}
    assert planned(BASE, [Knob(name="v")]).sets[3:] == []


@pytest.mark.parametrize("many", [7, 20])
def test_a_sample_goes_over_each_range_evenly(many):
    knobs = [Knob(name="v", low=8.0, high=16.0), Knob(name="g", low=20.0, high=60.0)]
    plan = planned(BASE, knobs, samples=many, seed=3)
    rows = plan.sets[plan.first_swept :]
    assert len(rows) == many
    for one in knobs:
        strata = [int((row[one.name] - one.low) / (one.high - one.low) * many) for row in rows]
        assert sorted(strata) == list(range(many))
    assert planned(BASE, knobs, samples=many, seed=3).sets == plan.sets
    assert planned(BASE, knobs, samples=many, seed=4).sets != plan.sets


@pytest.mark.parametrize(
    ("knob", "sentence"),
    [
        (Knob(name="vv"), "no parameter 'vv' to vary"),
        (Knob(name="word"), "only numbers are varied"),
    ],
)
def test_what_cannot_be_varied_is_refused(knob, sentence):
    with pytest.raises(UsageError, match=sentence):
        planned(BASE, [knob])


def test_a_grid_of_more_than_anybody_waits_for_is_refused():
    knobs = [Knob(name="v", low=1.0, high=2.0), Knob(name="g", low=1.0, high=2.0)]
    assert len(planned(BASE, knobs, grid=100).sets) == 5 + 100**2
    with pytest.raises(UsageError, match="a grid of 1000000 sets"):
        planned(BASE, knobs, grid=1000)
    with pytest.raises(UsageError, match="at most 100000 sets"):
        planned(BASE, knobs, samples=100_001)


def test_per_cents_of_power_laws_are_their_exponents():
    metrics = {
        "apex": lambda p: p["v"] ** 2 / (2 * p["g"]),
        "falls": lambda p: -p["v"],
        "leaps": lambda p: float(np.floor(p["v"] - 0.1)),
        "crosses": lambda p: p["v"] - 12.1,
        "none": lambda p: None,
        "a_little": lambda p: p["v"] ** (MOVES * 0.9),
    }
    result = played(planned(BASE, [Knob(name="v"), Knob(name="g")]), metrics)
    by = {(one.metric, one.parameter): one for one in result.elasticities}
    assert by["apex", "v"].value == pytest.approx(2.0, abs=1e-12)
    assert by["apex", "g"].value == pytest.approx(-1.0, abs=1e-12)
    assert by["falls", "v"].value == pytest.approx(1.0)
    assert not by["apex", "v"].leaps
    assert by["leaps", "v"].leaps
    assert ("crosses", "v") not in by  # per cents of what goes through nothing say nothing
    assert ("none", "v") not in by
    assert result.of("g", 60.0)[0].metric == "apex"
    little = played(planned(BASE, [Knob(name="v")]), {"a": metrics["a_little"]})
    more = played(planned(BASE, [Knob(name="v")]), {"a": lambda p: p["v"] ** (MOVES * 1.1)})
    assert (little.unmoved, more.unmoved) == (["v"], [])


@pytest.mark.parametrize(("apart", "leaps"), [(0.24, False), (0.26, True)])
def test_sides_that_disagree_are_told(apart, leaps):
    def bent(p):
        share = p["v"] / BASE["v"]
        return share ** (1.0 + apart / 2 * np.sign(share - 1.0))

    (one,) = played(planned(BASE, [Knob(name="v")]), {"m": bent}).elasticities
    assert one.value == pytest.approx(1.0, abs=0.01)
    assert one.leaps is leaps


def test_another_frame_rate_that_says_otherwise_is_told(capsys):
    plan = planned(BASE, [Knob(name="v"), Knob(name="g")])
    points = [
        Point(number=k, rate=rate, metrics={"m": ({**BASE, **one})["v"] ** power})
        for rate, power in ((60.0, 2.0), (30.0, 2.09), (144.0, 2.3)) for k, one in enumerate(plan.sets)
    ]  # fmt: skip
    show_sweep(Printer(), swept(plan, (60.0, 30.0, 144.0), points, {"m": "s"}), ())
    out = capsys.readouterr().out
    assert "v: m +2.0%; nothing else" in out
    assert "moves nothing that this drill shows: g" in out
    assert "at 144 frames/s 1 % of v moves m +2.3%, not +2.0%" in out
    assert "at 30 frames/s" not in out


def test_what_cannot_be_had_together_is_told():
    knobs = [Knob(name="v", low=8.0, high=16.0), Knob(name="g", low=20.0, high=60.0)]
    metrics = {
        "apex": lambda p: p["v"] ** 2 / (2 * p["g"]), "up": lambda p: p["v"] / p["g"],
        "free": lambda p: p["g"], "gone": lambda p: p["v"] if p["v"] < 9 else None,
        "same": lambda p: 1.0,
    }  # fmt: skip
    result = with_trade(played(planned(BASE, knobs, grid=9), metrics), "apex", "up")
    trade = result.trades[0]
    assert trade.rank > 0.9
    assert (trade.sets, trade.of) == (82, 82)
    empty = [(one.first_high, one.second_high) for one in trade.corners if not one.sets]
    assert (True, False) in empty
    one, other = pairs_of(result, "apex", "up", 60.0)
    for low, high, least, most in trade.bands:
        inside = (one >= low) & (one <= high)
        assert other[inside].min() <= least <= most <= other[inside].max() + 1e-12
    apart = with_trade(result, "free", "apex").trades[1]
    assert all(
        corner.sets for corner in apart.corners if not (corner.first_high and corner.second_high)
    )
    for pair, sentence in (
        (("apex", "upp"), "no metric 'upp'"),
        (("apex", "same"), "not both moved"),
    ):
        with pytest.raises(UsageError, match=sentence):
            with_trade(result, *pair)


def rows_of(path):
    return list(csv.DictReader(io.StringIO(path.read_text())))


def test_sweep_on_the_command_line(kickback, tmp_path):
    (tmp_path / "p.toml").write_text("[values]\njump_speed = 13.0\ncoast_deceleration = 32.0\n")
    call = ("sweep", "p.toml", "--vary", "jump_speed=10..14", "--vary", "gravity_rise=30,40",
            "--grid", "2", "--rates", "60,30")  # fmt: skip
    _, out, err = kickback(*call, "-o", "s.csv", "--figure", "s.png",
                           "--trade", "jump.apex_height,jump.air_time", status=0)  # fmt: skip
    assert "jump_speed: jump.apex_height +2.0%" in out
    assert "gravity_rise: jump.apex_height -1.0%" in out
    assert "over 4 sets, at 60 frames/s" in out
    assert "jump.apex_height against jump.air_time, at 30 frames/s (5 of 5 sets show both)" in out
    assert (tmp_path / "s.png").read_bytes().startswith(b"\x89PNG")
    assert "s.csv: 18 rows written" in err
    rows = rows_of(tmp_path / "s.csv")
    assert [row["part"] for row in rows[:9]] == ["base", *["beside"] * 4, *["range"] * 4]
    assert {row["rate"] for row in rows} == {"60.0", "30.0"}
    for row in rows:  # the trapezoid's apex is the closed form, to what lies between frames
        apex = float(row["jump_speed"]) ** 2 / (2 * float(row["gravity_rise"]))
        assert float(row["jump.apex_height"]) == pytest.approx(apex, abs=9e-3)
    records = json.loads(kickback(*call, "--format", "json", "--only", "jump", status=0)[1])
    told = {(one["metric"], one["parameter"], one["rate"]): one["value"] for one in records}
    assert told["jump.apex_height", "jump_speed", 60.0] == pytest.approx(2.0, abs=0.01)
    assert told["jump.apex_height", "gravity_rise", 30.0] == pytest.approx(-1.0, abs=0.1)
    assert {one["metric"].partition(".")[0] for one in records} == {"jump"}
    _, out, _ = kickback("sweep", "p.toml", "--vary", "run_speed", "--vary", "coast_deceleration",
                         "--move", "coast.stop_distance", "--leave", "run", status=0)  # fmt: skip
    first, second = out.splitlines()[1:3]
    assert first.strip() == "coast_deceleration: -1.0% for 1 %, and nothing of these"
    assert second.strip().startswith("run_speed: +2.0% for 1 %, but also run.")


def test_a_sweep_goes_on_where_it_stopped(kickback, tmp_path, monkeypatch):
    (tmp_path / "p.toml").write_text("[values]\njump_speed = 13.0\n")
    call = ("sweep", "p.toml", "--vary", "jump_speed=10..14", "--grid", "60", "--only", "jump",
            "--cores", "1", "-o")  # fmt: skip
    kickback(*call, "whole.csv", status=0)
    measured, seen = sweeping._measured, []

    def tired(work):
        if len(seen) == 1:
            raise KeyboardInterrupt
        seen.append(work[2])
        return measured(work)

    monkeypatch.setattr(sweeping, "_measured", tired)
    _, _, err = kickback(*call, "s.csv", status=130)
    assert "stopped: 25 of 63 are kept in s.csv.part, and the same call goes on there" in err
    part = tmp_path / "s.csv.part"
    part.write_text(part.read_text() + '{"number": 25, "ra')  # a line that was cut off
    monkeypatch.setattr(sweeping, "_measured", lambda work: seen.append(work[2]) or measured(work))
    other = ("sweep", "p.toml", "--vary", "jump_speed=10..15", "-o", "s.csv")
    assert "is what is done of another call" in kickback(*other, status=2)[2]
    kickback(*call, "s.csv", status=0)
    assert sorted(k for some in seen for k in some) == list(range(63))
    assert not part.exists()
    assert rows_of(tmp_path / "s.csv") == rows_of(tmp_path / "whole.csv")
    assert "exists already" in kickback(*call, "s.csv", status=2)[2]


def test_many_sets_are_played_by_several_processes(kickback, tmp_path):
    (tmp_path / "p.toml").write_text("[values]\njump_speed = 13.0\n")
    call = ("sweep", "p.toml", "--vary", "jump_speed=10..14", "--samples", "60", "--only", "jump")
    kickback(*call, "--cores", "2", "-o", "two.parquet", status=0)
    kickback(*call, "--cores", "1", "-o", "one.parquet", status=0)
    one, two = (
        parquet.read_table(tmp_path / f"{name}.parquet").to_pylist() for name in ("one", "two")
    )
    assert len(one) == 63
    assert one == two


def test_the_game_itself_plays_a_sweep(kickback, tmp_path):
    (tmp_path / "p.toml").write_text("name = 'p'\n[values]\njump_speed = 13.0  # leap\n")
    (tmp_path / "d.toml").write_text("length = 3.0\n[[input]]\nat = 0.5\nuntil = 1.4\njump = 1.0\n")
    game = "kickback simulate {parameters} --drill d.toml --rate {rate} --send {address} --fast"
    call = ("sweep", "p.toml", "--vary", "jump_speed=12", "--run", game, "-o", "g.csv",
            "--only", "jump.apex_height")  # fmt: skip
    kickback(*call, status=0)
    rows = rows_of(tmp_path / "g.csv")
    assert len(rows) == 4
    for row in rows:
        apex = float(row["jump_speed"]) ** 2 / 80
        assert float(row["jump.apex_height"]) == pytest.approx(apex, rel=2e-3)
    assert (tmp_path / "g-takes" / "set-0003.toml").read_text() == (
        "name = 'p'\n[values]\njump_speed = 12.0  # leap\n"
    )
    _, _, err = kickback(*call[:4], "--run", "false", "-o", "h.csv", status=2)
    assert "the game did not play set 0" in err


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        (("--vary", "jump=1..2"), "no parameter 'jump' to vary"),
        (("--vary", "jump_speed=2..1"), "goes from low to high"),
        (("--vary", "jump_speed=1..x"), "of numbers"),
        (("--vary", "jump_speed=1,inf"), "is not finite"),
        (("--vary", "=1..2"), "NAME=LOW..HIGH, NAME=A,B,C or NAME"),
        (("--vary", "jump_speed", "--vary", "jump_speed=1..2"), "is there twice"),
        (("--vary", "jump_speed=-3..3"), "must be above 0"),
        (("--trade", "jump.apex_height"), "--trade is two metrics"),
        (("--trade", "jump.apex_height,jump.air_time"), "--trade is over ranges"),
        (("--vary", "jump_speed", "--move", "jump.apex"), "no metric or group 'jump.apex'"),
        (("--vary", "jump_speed", "--move", "dash.distance"), "no metric 'dash.distance' in these"),
        (("--move", "jump.apex_height", "--leave", "rum"), "no metric or group 'rum'"),
        (("--vary", "jump_speed=1..9", "--trade", "a.b,jump.air_time"), "no metric or group 'a.b'"),
        (("--leave", "jump"), "--leave goes with --move"),
        (("-o", "a.json"), "the ending must be .csv or .parquet"),
        (("--run", "game"), "keeps takes and parameter files beside its table"),
        (("--run", "game", "-o", "a.csv"), "--run plays what you name"),
        (("--drill", "hop"), "neither a drill file nor a built-in drill"),
        (("--drill", "flats"), "the drill is for the kind 'vehicle', p.toml for 'foot'"),
    ],
)
def test_sweep_refuses_what_makes_no_sense(kickback, tmp_path, arguments, sentence):
    (tmp_path / "p.toml").write_text("[values]\njump_speed = 13.0\n")
    assert sentence in kickback("sweep", "p.toml", *arguments, status=2)[2]
