"""Mappings that add to what is recognised, guesses by what columns do, and the library's door."""

import json

import numpy as np
import pytest

import kickback
from kickback.errors import InputError
from kickback.framerate.retime import kind_of, left_because
from kickback.project.settings import Settings
from kickback.workflows.guessing import write_guess
from kickback.workflows.inspecting import inspect_take
from truth.moves import moves
from truth.recurrence import during, play, steps

RUN = during((0.2, 2.0, 1), (2.4, 4.0, -1), (4.5, 6.0, 1))
JUMPS = during((1, 1.4, 1), (3, 3.3, 1), (5, 5.5, 1))


def columns(
    jitter=0.0, names=("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
):
    made = moves(steps(60, 7, jitter, 4), RUN, JUMPS)
    return {name: made[name] for name in names}


def write(path, table):
    rows = zip(*table.values(), strict=True)
    lines = [",".join(table), *(",".join(repr(float(value)) for value in row) for row in rows)]
    path.write_text("\n".join(lines) + "\n")
    return path


@pytest.fixture
def log(tmp_path):
    return write(tmp_path / "log.csv", columns())


def test_a_mapping_changes_the_one_column_that_it_names(log):
    plain = kickback.read_take(log)
    mapped = kickback.read_take(log, {"columns": {"vx": {"from": "vx", "per_frame": True}}})
    assert set(mapped.columns) == set(plain.columns)
    assert mapped.numbers("vx") == pytest.approx(60 * plain.numbers("vx"))
    assert np.array_equal(mapped.numbers("x"), plain.numbers("x"))
    header = kickback.read_take(log, {"header": {"length_unit": "px"}})
    assert header.header.length_unit == "px"


@pytest.mark.parametrize(
    ("source", "value"),
    [
        ({"from": ["a", "b"], "as": "length"}, 5.0),
        ({"from": ["a", "b"], "as": "difference"}, -1.0),
        ({"from": ["a", "b"], "as": "sum", "scale": 2}, 14.0),
        ({"from": ["b", "a"], "as": "angle"}, np.degrees(np.arctan2(3, 4))),
        ({"from": "a", "radians": True}, np.degrees(3)),
    ],
)
def test_columns_are_computed_from_several(tmp_path, source, value):
    path = write(tmp_path / "two.csv", {"t": np.arange(1, 9.0), "x": np.arange(8.0),
                                        "y": np.zeros(8), "a": np.full(8, 3.0), "b": np.full(8, 4.0)})  # fmt: skip
    take = kickback.read_take(path, {"columns": {"heading": source}})
    assert take.numbers("heading")[3] == pytest.approx(value)


@pytest.mark.parametrize(
    ("source", "says"),
    [
        (
            {"from": ["a", "b"], "as": "product"},
            "'as' must be one of sum, difference, length, angle",
        ),
        ({"from": ["a"], "as": "angle"}, "an angle is of two columns"),
        ({"from": []}, "the log's own column, or a list of them"),
        ({"from": "a", "radians": 1}, "'radians' must be true or false"),
    ],
)
def test_sources_that_make_no_sense(log, source, says):
    with pytest.raises(InputError, match=says):
        kickback.read_take(log, {"columns": {"heading": source}})


def test_the_library_says_what_it_takes(log, tmp_path):
    (tmp_path / "m.toml").write_text('[header]\nsubject = "sled"\n')
    assert kickback.read_take(log, tmp_path / "m.toml").header.subject == "sled"
    take = kickback.read_take(str(log))
    assert {row.metric.partition(".")[0] for row in kickback.measure(take, only="jump")} == {"jump"}
    for call, says in (
        (lambda: kickback.read_take(3), "expected the path of a take, not int"),
        (lambda: kickback.read_take(log, mapping=3), "expected a mapping, its file or a table"),
        (lambda: kickback.measure(log), "expected a take or its analysis"),
        (lambda: kickback.measure(take, only=[1]), "expected names of metrics or groups, not int"),
    ):
        with pytest.raises(TypeError, match=says):
            call()
    assert {"Mapping", "Budget", "Measurements", "Laws", "FrameRates"} <= set(dir(kickback))
    assert all(getattr(kickback, name) is not None for name in dir(kickback))


def guessed(tmp_path, table, name="game.csv"):
    done = write_guess(write(tmp_path / name, table), tmp_path, Settings())
    return done, done.path.read_text()


def test_inputs_are_told_by_what_they_do(tmp_path):
    made = columns(names=("t", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump"))
    own = {"touch_ground": "q1", "in_jump": "q2"}
    table = {own.get(name, name): column for name, column in made.items() if name != "in_move_x"}
    table |= {"q3": (made["in_move_x"] > 0) * 1.0, "q4": (made["in_move_x"] < 0) * 1.0,
              "q5": np.arange(len(made["t"])) % 2 * 1.0}  # fmt: skip
    done, text = guessed(tmp_path, table)
    assert 'in_jump = { from = "q2" }' in text
    assert 'touch_ground = { from = "q1" }' in text
    assert 'in_move_x = ["q3", { from = "q4", scale = -1 }]' in text
    assert "#     q5" in text
    assert any("by what it does alone" in said for said in done.unsure)
    assert any('view = "side" and up = "+y" are taken for granted' in said for said in done.unsure)


@pytest.mark.parametrize(
    ("change", "rows"),
    [
        (lambda c: c, {}),
        (lambda c: {**c, "t": c["t"] - c["dt"]}, {'stamp = "start"'}),
        (lambda c: {n: v[1:] if n in {"in_move_x", "in_jump", "dt", "t"} else v[:-1]
                    for n, v in c.items()}, {'state = "before"'}),
    ],
)  # fmt: skip
def test_uneven_frames_tell_what_the_rows_mean(tmp_path, change, rows):
    _, text = guessed(tmp_path, change(columns(0.3)))
    assert {line for line in text.splitlines() if line.startswith(("stamp", "state"))} == set(rows)


def test_a_vehicle_is_guessed_to_be_seen_from_above(tmp_path):
    t = np.arange(1, 900) / 60
    heading = 0.8 * t + np.sin(0.7 * t)
    x, y = np.cumsum(12 * np.cos(heading)) / 60, np.cumsum(12 * np.sin(heading)) / 60
    _, text = guessed(tmp_path, {"time": t, "pos_x": x, "pos_y": y})
    assert 'view = "top"' in text
    _, text = guessed(tmp_path, {"time": t, "pos_x": x, "pos_y": y, "throttle": 0 * t + 1,
                                 "steering": np.sin(t)}, "car.csv")  # fmt: skip
    assert 'view = "top"' in text
    assert 'in_throttle = "throttle"' in text


def test_a_skeleton_is_written_where_nothing_is_found(tmp_path):
    done, text = guessed(tmp_path, {"a": np.arange(5.0), "b": np.arange(5.0)})
    assert "no column looks like a position" in done.problem
    assert '# x = "…"' in text
    assert "#     a" in text


@pytest.mark.parametrize(
    ("name", "kind"),
    [("gravity", "acceleration"), ("jump", "speed"), ("fall_gravity", "acceleration"),
     ("runSpeed", "speed"), ("accel", "acceleration"), ("coyote", "timer"), ("DASH", "speed"),
     ("dash_time", "timer"), ("jump_height", None), ("stop_rate", None), ("max_jumps", None),
     ("colour", None)],
)  # fmt: skip
def test_parameters_are_told_by_the_words_that_people_use(name, kind):
    assert kind_of(name) == kind
    if kind is None:
        assert left_because(name, 1.0)


def test_retime_says_what_it_left_and_why(kickback, tmp_path):
    (tmp_path / "p.toml").write_text(
        'name = "p"\n[values]\njump = 0.2\ncoyote = 6\nwobble = 3.0\njump_height = 2.0\n'
    )
    _, out, err = kickback("retime", "p.toml", "--from", "60", "-o", "q.toml", status=0)
    assert "left as they are: wobble: its name does not tell what it is" in out
    assert "left as they are: jump_height: a length does not change" in out
    assert "1 of 3 numbers are as they were, wobble" in err
    assert "jump = 12.0" in (tmp_path / "q.toml").read_text()


def test_heights_are_those_above_the_floor_where_y_points_down(log):
    take = kickback.read_take(log, {"header": {"up": "-y"}, "columns": {"y": {"from": "y", "scale": -1,
                                                                             "offset": 480}}})  # fmt: skip
    (y,) = [one for one in inspect_take(kickback.analyse(take)).columns if one.name == "y"]
    assert y.low == pytest.approx(0)
    assert y.high == pytest.approx(2.0056, abs=1e-3)
    assert "above the lowest ground" in y.about


@pytest.mark.parametrize("scale", [0.01, 0.0137, 32.0])
def test_columns_that_a_mapping_scales_and_shifts_keep_the_digits_of_the_log(
    tmp_path, kickback, scale
):
    columns = play(steps(60, 8, 0.15), during((0.3, 2, 1), (3, 4, -1), (5, 7, 1)), law="exact")
    rows = zip(*(columns[n] for n in ("t", "x", "y", "vx", "vy", "in_move_x")), strict=True)
    lines = [f"{t * 1000:.2f},{100 * x:.1f},{-100 * y:.1f},{100 * vx:.1f},{-100 * vy:.1f},{int(m > 0)},{int(m < 0)}"
             for t, x, y, vx, vy, m in rows]  # fmt: skip
    (tmp_path / "log.csv").write_text("\n".join(["ms,px,py,wx,wy,right,left", *lines]))
    column = 'from = "{}", scale = ' + str(scale)
    (tmp_path / "m.toml").write_text(
        '[header]\nview = "side"\nup = "-y"\nlength_unit = "px"\n[columns]\nt = { from = "ms", scale = 0.001 }\n'
        f"x = {{ {column.format('px')}, offset = 0.333 }}\ny = {{ {column.format('py')}, offset = 0.7 }}\n"
        f"vx = {{ {column.format('wx')} }}\nvy = {{ {column.format('wy')} }}\n"
        'in_move_x = ["right", { from = "left", scale = -1 }]\n'
    )
    out = json.loads(kickback("law", "log.csv", "--map", "m.toml", "--format", "json", status=0)[1])
    found = {(row["phase"], row["constant"]): row["value"] for row in out}
    assert found["coast", "rate"] == pytest.approx(9, rel=1e-3)
    assert found["speed-up", "goal"] == pytest.approx(800 * scale, rel=1e-3)
    assert found["position", "theta"] == pytest.approx(1, abs=0.05)
    assert found["position", "scale"] == pytest.approx(1, abs=0.01)
