"""What can be cleared: against plain loops, against trying everything, and on the command line."""

import json

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback import fit
from kickback.errors import UsageError
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.foot.reach import flights
from kickback.kinds.foot.reach.flights import Runner
from kickback.kinds.foot.reach.plans import ROUTES
from kickback.kinds.foot.reach.reaching import FOOT_REACHING
from kickback.show.console import Printer
from kickback.show.reach import show_reach
from kickback.tuning.reach.envelope import envelope
from kickback.tuning.reach.level import judge
from kickback.tuning.reach.reach import reach
from kickback.tuning.reach.record import Gap
from truth.moves import moves
from truth.reached import THETA, leapt, random_character, tried
from truth.recurrence import during, steps

RULES = {"speed": 8.0, "jump": 13.0, "gravity": 40.0, "air": 20.0}


def own_values(order, coyote, **others):
    return checked_values(
        {"integrator": order, "run_speed": 8.0, "jump_speed": 13.0, "gravity_rise": 40.0,
         "gravity_fall": 40.0, "terminal_speed": 200.0, "air_acceleration": 20.0,
         "coyote_time": coyote, **others}, "",
    )  # fmt: skip


@quick(2)
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("rate", some([30, 60, 144], 30, 60))
@pytest.mark.parametrize("air", [20.0, 0.0])
def test_frames_of_the_takeoff_are_those_of_a_plain_loop(order, rate, air):
    rng = np.random.default_rng(rate)
    across, up = np.sort(rng.uniform(0.3, 7.0, 5)), np.sort(rng.uniform(-2.0, 2.3, 4))
    late = 2
    values = own_values(order, (late - 0.5) / rate, air_acceleration=air)
    got = FOOT_REACHING.play(values, float(rate), None, -2.0)("running")(across, up)
    rules = {**RULES, "order": order, "coyote": late, "air": air}
    for row, step in enumerate(up):
        for column, gap in enumerate(across):
            best, sure = (leapt(rules, rate, gap, step, phase) for phase in (0, 1))
            assert got.at_best[row, column] == best, (gap, step)
            assert got.surely[row, column] == min(sure, best), (gap, step)


def test_a_fitted_game_clears_what_the_game_does():
    move = during((0.4, 2.0, 1), (2.9, 4.4, -1), (4.4, 4.9, 1), (5.6, 8.2, 1))
    jump = during((6.0, 6.6, 1), (7.1, 7.22, 1), (9.0, 9.9, 1))
    columns = moves(steps(60, 11, 0.0, seed=1), move, jump, cut=0.45, g_fall=40.0, air_accel=25.0)
    own = fit([take_of({name: np.round(column, 4) for name, column in columns.items()})]).values
    across, up = np.array([1.03, 2.51, 4.07, 5.12]), np.array([-1.01, 0.02, 1.37])
    got = reach({**own, "coyote_time": 0.0}, ways=("running",), grid=(across, up))
    rules = {**RULES, "order": "semi-implicit", "coyote": 0, "air": 25.0}
    for (row, column), told in np.ndenumerate(got.found["running", 60.0].at_best):
        assert told == leapt(rules, 60, across[column], up[row], 0)


def check_by_trying(seed, cells):
    """Hold a random character's gaps against playing every takeoff frame and hold time."""
    rng, way = np.random.default_rng(seed), [*ROUTES][seed % len(ROUTES)]
    slow = way in {"dash", "air_jump"}  # which have another press to be tried in every frame
    rate = 30.0 if slow else float(rng.choice([30, 60]))
    ceiling = float(rng.uniform(1.2, 3)) if rng.random() < 0.25 else None
    long = rate
    while long >= rate:  # what floats for longer takes all day to be tried
        values = random_character(rng)
        limits = Runner(values, rate, ceiling).limits(-2.0)
        long = limits.flight
    wide = 1.1 * limits.flight / rate * values["run_speed"] * (2 if slow else 1)
    across = np.sort(rng.uniform(0.2, wide, cells))
    across[0] = 0.0 if seed % 4 == 0 else across[0]
    up = np.append(rng.uniform(0.05, 2.8, cells - 1), rng.uniform(-2, 0))
    up = np.unique(up[up < (ceiling or np.inf)])
    got = FOOT_REACHING.play(values, rate, ceiling, float(up[0]))(way)(across, up)
    for row, column in np.ndindex(len(up), cells):
        gap, step = float(across[column]), float(up[row])
        if gap == 0 and step <= 0:
            continue
        phase = 0 if way == "standing" or gap == 0 else int(rng.integers(2))
        found = tried(values, way, rate, (gap, step, ceiling), phase, limits.flight, limits.rise)
        sure, best = int(got.surely[row, column]), int(got.at_best[row, column])
        if gap == 0:
            assert (found > 0) == (best > 0), (way, gap, step)
        elif values["air_acceleration"] or values["air_rate"]:
            assert found == (sure if phase else best), (way, gap, step, phase)
        else:  # what a wall stops for good has gaps between its frames, and other phases between
            assert sure <= found <= best, (way, gap, step, phase)


@pytest.mark.parametrize("seed", [0, 1, 2])
def test_every_place_is_as_trying_all_takeoffs_and_holds_says(seed):
    check_by_trying(seed, 2)


@pytest.mark.long
@pytest.mark.parametrize("seed", range(200))
def test_every_place_of_200_sets_is_as_trying_says(seed):
    check_by_trying(seed, 2)


def test_the_widest_gap_is_where_the_frames_end():
    up = np.array([-1.3, 0.0, 1.7, 5.0])
    clears = FOOT_REACHING.play(own_values("semi-implicit", 0.1), 60.0, None, -2.0)("running")
    *known, beyond = clears(np.array([1.0]), up).farthest.tolist()
    assert np.isnan(beyond)
    for far, step in zip(known, up, strict=False):
        near = clears(np.array([far - 1e-6, far + 1e-6]), np.array([step])).surely[0]
        assert (near > 0).tolist() == [True, False]


def test_what_a_set_does_not_have_and_what_is_no_question():
    found = reach(own_values("trapezoid", 0.1, dash_speed=0.0), rates=(30.0,))
    assert found.ways == ["standing", "hop", "running"]
    assert set(found.missing) == {"dash", "air_jump"}
    # 144 frames/s fall better than 60 for some place of a grid that is fine enough, and never both
    both = reach(found.values, rates=(30.0, 144.0), ways=("running",),
                 grid=(np.arange(1, 7, 0.1), np.array([0.0])))  # fmt: skip
    apart = both.differs("running")[0]
    assert 0 < apart.sum() < 12
    sure = [both.found["running", rate].surely[0] > 0 for rate in both.rates]
    assert (apart == (sure[0] != sure[1])).all()


@pytest.mark.parametrize("way", ["running", "hop", "standing"])
def test_a_wall_that_is_slid_down_changes_nothing_for_one_jump(way):
    walls = {"wall_slide_speed": 2.0, "wall_stick_time": 0.1, "wall_jump_speed": 9.0}
    values = own_values("trapezoid", 0.0, **walls)
    limits = Runner(values, 30.0, None).limits(-2.0)
    across, up = np.array([0.37, 2.11]), np.array([-1.03, 1.29])
    got = FOOT_REACHING.play(values, 30.0, None, -2.0)(way)(across, up)
    for (row, column), told in np.ndenumerate(got.at_best):
        place = (float(across[column]), float(up[row]), None)
        assert told == tried(values, way, 30.0, place, 0, limits.flight, limits.rise)


def test_presses_at_the_far_wall_count_for_nothing_where_walls_have_moves():
    walls = own_values("trapezoid", 0.1, air_jumps=1.0, wall_slide_speed=2.0)
    bare = {**walls, "wall_slide_speed": 0.0}
    near, high = np.array([0.4]), np.array([2.4])  # higher than one jump: the second is at the wall
    with_walls, without = (
        FOOT_REACHING.play(one, 30.0, None, -1.0)("air_jump")(near, high) for one in (walls, bare)
    )
    assert 0 <= with_walls.surely[0, 0] < without.surely[0, 0]
    # over the gap, before the wall, it counts with walls as without
    wide = np.array([5.0])
    far = [
        FOOT_REACHING.play(one, 30.0, None, -1.0)("air_jump")(wide, high * 0)
        for one in (walls, bare)
    ]
    assert far[0].surely[0, 0] == far[1].surely[0, 0] > 0


def test_a_way_with_too_many_presses_is_left_out_and_named(monkeypatch):
    values = own_values("trapezoid", 0.0, air_jumps=1.0)
    monkeypatch.setattr(flights, "_CELLS", 2_000)
    found = reach(values, rates=(30.0,), ceiling=1.5)
    assert found.ways == ["hop", "running"]
    assert "plans of" in found.missing["dash"]
    assert found.tile == 1.0  # the first way would have told, and had too many as well
    with pytest.raises(UsageError, match="too many to be tried"):
        reach(values, rates=(30.0,), ceiling=1.5, ways=("dash",))


def test_what_is_played_in_parts_is_what_is_played_at_once(monkeypatch):
    values = own_values("semi-implicit", 0.1)
    across, up = np.array([3.1, 8.2]), np.array([-1.0, 0.7])
    whole = FOOT_REACHING.play(values, 30.0, 2.0, -1.0)("dash")(across, up)
    monkeypatch.setattr(flights, "_AT_ONCE", 3_000)
    parts = FOOT_REACHING.play(values, 30.0, 2.0, -1.0)("dash")(across, up)
    assert (whole.surely == parts.surely).all()
    assert (whole.at_best == parts.at_best).all()


def test_what_neither_runs_nor_jumps_is_said():
    with pytest.raises(UsageError, match="do not jump"):
        reach({"squat_time": 9.0}, rates=(30.0,))
    with pytest.raises(UsageError, match="gaps are 0 or wider"):
        reach({}, rates=(30.0,), grid=(np.array([-1.0]), np.array([0.0])), ways=("hop",))
    with pytest.raises(UsageError, match="no step below the ceiling"):
        reach({}, rates=(30.0,), grid=(None, np.array([3.0])), ceiling=2.0, ways=("hop",))


def test_gaps_side_by_side_that_a_rate_does_not_clear_are_told_as_one(capsys):
    values = own_values("trapezoid", 0.0, mistakes="gravity-per-frame", dash_speed=0.0)
    found = reach(values, rates=(60.0, 30.0), ways=("running",),
                  grid=(np.arange(1.0, 12.0), np.array([0.0])))  # fmt: skip
    columns = np.flatnonzero(found.differs("running")[0])
    assert len(columns) > 1
    show_reach(Printer(), found, ["running"])
    out = capsys.readouterr().out
    first, last = (int(found.across[k]) for k in (columns[0], columns[-1]))
    assert (
        f"step level, gaps of {first} to {last}: cleared at 30 frames/s, not for sure at 60" in out
    )


@pytest.mark.parametrize(("size", "tile"), [(1.0, 1.0), (32.0, 10.0), (0.01, 0.005), (0.5, 1.0)])
def test_a_tile_that_nobody_gave_suits_the_jump(size, tile):
    values = {name: value * size for name, value in {
        "run_speed": 8.0, "jump_speed": 13.0, "gravity_rise": 40.0, "gravity_fall": 40.0,
        "ground_acceleration": 40.0, "terminal_speed": 40.0, "air_acceleration": 20.0}.items()}  # fmt: skip
    found = reach({**values, "dash_speed": 0.0}, rates=(30.0,), ways=("standing",))
    assert found.tile == pytest.approx(tile)
    assert found.across[0] == pytest.approx(tile)


def test_a_level_fails_by_one_frame_and_not_without_it():
    values = own_values("trapezoid", 0.0, dash_speed=0.0)
    wide = Gap(name="wide", across=4.0, up=0.0, by="running")
    frames = judge(values, [wide], rates=(30.0,))[0].frames
    asked = [Gap(name=name, across=4.0, up=0.0, by="running", frames=frames + more)
             for name, more in (("enough", 0), ("too few", 1))]  # fmt: skip
    asked += [Gap(name="b", across=1.0, up=0.0), Gap(name="c", across=4.0, up=0.0, ceiling=0.4)]
    enough, too_few, near, low = judge(values, asked, rates=(30.0,))
    assert (enough.verdict, too_few.verdict) == ("clears", "tight")
    assert (near.verdict, near.way) == ("clears", "standing")
    assert low.frames < frames


@pytest.mark.parametrize("rate", [30.0, 144.0])
def test_a_shots_envelope_is_its_closed_form(rate):
    values = {"launch_speed": 20.0, "gravity": 16.0, "integrator": "trapezoid"}
    found = envelope(values, rates=(rate,))
    assert found.level[rate] == pytest.approx(400 / 16, rel=1e-3)
    d, high = found.across, found.highest[rate]
    known = np.isfinite(high) & (d > 2)
    closed = 400 / 32 - 16 * d * d / 800
    # straight steps lie under the arc by g·h²/8 at most
    assert (high[known] <= closed[known] + 1e-9).all()
    assert (high[known] >= closed[known] - 3e-3 - 16 / rate**2 / 8).all()


LEVEL = """[[gap]]
name = "gutter"
across = 2
[[gap]]
name = "bridge"
across = "4.9 m"
by = "running"
frames = 30
[[gap]]
name = "bay"
across = 40
up = -1
"""


def test_reach_on_the_command_line(kickback, tmp_path):
    (tmp_path / "p.toml").write_text("[values]\nrun_speed = 8.0\ndash_speed = 0.0\n")
    (tmp_path / "kickback.toml").write_text('length_unit = "m"\ntile = "0.5 m"\n')
    (tmp_path / "l.toml").write_text(LEVEL)
    _, out, _ = kickback("reach", "p.toml", "--rates", "30,60", "--figure", "m.png", status=0)
    assert "60 frames/s, tiles of 0.5 m" in out
    assert "air_jump is left out: there is no jump in the air" in out
    assert (tmp_path / "m.png").read_bytes().startswith(b"\x89PNG")
    call = ("reach", "p.toml", "--by", "running", "--across", "2..4", "--up=-1..1")
    rows = json.loads(kickback(*call, "--format", "json", status=0)[1])
    places = [row for row in rows if row["kind"] == "place"]
    assert len(places) == 9
    assert {row["across"] for row in places} == {1.0, 1.5, 2.0}
    assert all(row["cleared"] == "always" and row["frames"] > 9 for row in places)
    low = json.loads(kickback(*call, "--ceiling", "0.6 m", "--format", "json", status=0)[1])
    assert max(row["up"] for row in low) == 0.5
    level = ("reach", "p.toml", "--level", "l.toml")
    _, out, _ = kickback(*level, status=1)
    assert "bridge: 9.8 tiles across, level: running at 60 frames/s has" in out
    assert "bay: 80 tiles across" not in out
    assert "bay: 40 tiles across, -1: cannot be cleared by any way" in out
    junit = kickback(*level, "--format", "junit", status=1)[1]
    assert 'tests="3" failures="2"' in junit
    (tmp_path / "l.toml").write_text(LEVEL.partition('[[gap]]\nname = "bridge"')[0])
    assert "Every gap is cleared" in kickback(*level, "--frames", "3", status=0)[1]
    (tmp_path / "s.toml").write_text("[values]\nlaunch_speed = 20.0\ngravity = 20.0\n")
    _, out, _ = kickback("reach", "s.toml", "--figure", "s.svg", status=0)
    assert "farthest on the level: " in out
    assert (tmp_path / "s.svg").read_text().startswith("<?xml")


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        (("--by", "runing"), "no way 'runing'; did you mean 'running'"),
        (("--by", "air_jump"), "there is no jump in the air (air_jumps is 0)"),
        (("--across", "1..x"), "is a range of tiles such as 1..8"),
        (("--up", "3..1"), "goes from low to high"),
        (("--ceiling", "2 px"), "cannot be brought to m"),
        (("--ceiling", "-1"), "a ceiling hangs above the ground"),
        (("--rates", "60,x"), "is a list such as 30,60,144"),
        (("--frames", "3"), "is about the gaps of a level"),
        (("--level", "l.toml", "--by", "dash"), "does not go with --level"),
        (("--level", "none.toml"), "no such level"),
        (("--level", "l.toml"), "gap 1: unknown key 'acros'; did you mean 'across'"),
    ],
)
def test_reach_refuses_what_makes_no_sense(kickback, tmp_path, arguments, sentence):
    (tmp_path / "p.toml").write_text("[values]\nrun_speed = 8.0\n")
    (tmp_path / "l.toml").write_text("[[gap]]\nacros = 2\n")
    assert sentence in kickback("reach", "p.toml", *arguments, status=2)[2]


def test_reach_is_not_for_what_does_not_jump(kickback, tmp_path):
    (tmp_path / "v.toml").write_text("[values]\nengine = 8.0\ngrip_rate = 3.0\n")
    (tmp_path / "s.toml").write_text("[values]\nlaunch_speed = 20.0\ngravity = 0.0\n")
    assert "for the kind foot, not 'vehicle'" in kickback("reach", "v.toml", status=2)[2]
    assert "there is no envelope" in kickback("reach", "s.toml", status=2)[2]
    assert "belongs to gaps" in kickback("reach", "s.toml", "--by", "dash", status=2)[2]
