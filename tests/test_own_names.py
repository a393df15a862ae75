"""The game's own names, units and files of its parameters, in every command that speaks of them."""

import json

import pytest


def test_the_games_own_names_units_and_files_are_spoken_and_written(kickback, tmp_path):
    (tmp_path / "kickback.toml").write_text(
        'length_unit = "m"\n[units]\npx = 0.03125\n[names]\njump_speed = "leap"\n'
        'gravity_rise = { name = "pull", unit = "px/frame^2", sign = -1, file = "g/own.toml",'
        ' table = "move.air" }\n'
        'gravity_fall = { name = "fall", unit = "px/frame^2", file = "g/own.json" }\n'
    )
    (tmp_path / "g").mkdir()
    toml, plain = tmp_path / "g" / "own.toml", tmp_path / "g" / "own.json"
    toml.write_text("# the lamplighter\n[move.air]\npull = -0.3  # down\nwind = 1\n")
    plain.write_text('{\n    "run": 2,\n    "fall": 0.3\n}\n')
    (tmp_path / "own.toml").write_text("[values]\njump_speed = 13.0\n")
    call = ("solve", "own.toml", "--wish", "jump.apex_height=2 m", "--wish",
            "jump.time_to_apex=0.4 s")  # fmt: skip
    _, out, err = kickback(*call, "--write", status=0)
    per_frame = 25.0 * 32 / 3600  # 25 m/s² of 32 px a metre at 60 frames/s
    assert f"pull = {-per_frame:.6g} px/frame^2" in out
    assert "leap = 10" in out
    assert "-pull = -0.3  # down" in err
    assert f"+pull = {-float(f'{per_frame:.10g}')}  # down" in err
    assert toml.read_text().startswith("# the lamplighter\n[move.air]\npull = -0.222")
    assert toml.read_text().endswith("  # down\nwind = 1\n")
    assert json.loads(plain.read_text()) == {"run": 2, "fall": pytest.approx(per_frame)}
    assert plain.read_text().startswith('{\n    "run": 2,')
    kickback("simulate", "own.toml", "-o", "t", status=0)
    assert "-0.222222" in kickback("fit", "t", status=0)[1]
    toml.write_text("[move]\nwind = 1\n")
    assert "has no table 'move.air' that holds 'pull'" in kickback(*call, "--write", status=2)[2]


@pytest.mark.parametrize(
    ("line", "sentence"),
    [
        ('gravty = "g"', "unknown parameter 'gravty'; did you mean 'gravity'"),
        ("jump_speed = 3", "is a name, or a table with one"),
        ('jump_speed = { name = "v", units = "m/s" }', "unknown key 'units'; did you mean 'unit'"),
        ('jump_speed = { name = "v", unit = "m/s^2" }', "is in L/s, which 'm/s^2' is not"),
        ('jump_speed = { name = "v", sign = 2 }', "sign is 1 or -1"),
        ('jump_speed = { name = "v", file = "a.ini" }', "a *.toml or *.json file"),
    ],
)
def test_names_that_make_no_sense_are_refused(kickback, tmp_path, line, sentence):
    (tmp_path / "kickback.toml").write_text(f"[names]\n{line}\n")
    (tmp_path / "own.toml").write_text("[values]\n")
    _, _, err = kickback("solve", "own.toml", "--wish", "run.top_speed=3 m/s", status=2)
    assert sentence in err
    assert "kickback.toml, line 2" in err


NAMES = """length_unit = "m"
[units]
px = 0.03125
[names]
jump_speed = "leap"
gravity_rise = { name = "pull", unit = "px/frame^2", sign = -1 }
ground_acceleration = { name = "push", unit = "px/s/frame" }
dash_time = { name = "dashFor", unit = "frames" }
run_speed = { name = "runs", unit = "px/s" }
dash_speed = { name = "burst", unit = "px/frame" }
"""


def test_retime_tells_kinds_by_the_units_of_own_names_and_says_the_number_in_them(
    kickback, tmp_path
):
    (tmp_path / "kickback.toml").write_text(NAMES)
    (tmp_path / "own.toml").write_text(
        "[values]\npull = -0.1\npush = 12\ndashFor = 11\nburst = 5\nruns = 256\nleap = 13\n"
    )
    call = ("retime", "own.toml", "--from", "60", "--to", "144")
    rows = {
        row["name"]: row for row in json.loads(kickback(*call, "--format", "json", status=0)[1])
    }
    assert {name: row["kind"] for name, row in rows.items()} == {
        "pull": "acceleration", "push": "gain", "dashFor": "timer", "burst": "speed",
    }  # fmt: skip
    assert rows["pull"]["result"] == pytest.approx(-0.1 * (60 / 144) ** 2)
    assert rows["dashFor"]["result"] == pytest.approx(11 * 144 / 60)
    out = kickback(*call, status=0)[1]
    assert "runs: its unit in [names] is of the second" in out
    assert "leap: its name does not tell what it is" in out
    # the model's names: 0.0111 m a frame twice are 40 m/s², and the code's px and frames of those
    (tmp_path / "model.toml").write_text("[values]\ngravity_rise = 0.0111\njump_speed = 0.2\n")
    for rate, told in (("144", 0.0111 * 3600 * 32 / 144**2), ("second", 0.0111 * 32)):
        out = kickback("retime", "model.toml", "--from", "60", "--to", rate, status=0)[1]
        assert f"pull = {-told:.6g} px/frame^2" in out
        assert "leap = 12" in out

    # a length that nothing brings to the code's: the constants stand, and it is said
    (tmp_path / "kickback.toml").write_text(
        NAMES.replace("px = 0.03125", "").replace("[units]", "")
    )
    _, out, err = kickback("retime", "model.toml", "--from", "60", status=0)
    assert "pull" not in out
    assert "gravity_rise" in out
    assert "how many m one px is" in err


def test_compare_says_changed_parameters_in_own_names(kickback, tmp_path):
    (tmp_path / "kickback.toml").write_text(NAMES)
    for name, gravity in (("a", 40), ("b", 44)):
        (tmp_path / f"{name}.toml").write_text(f"[values]\ngravity_rise = {gravity}\n")
    kickback("simulate", "a.toml", "b.toml", "-o", "t", status=0)
    _, out, err = kickback("compare", "t/a-60.jsonl", "t/b-60.jsonl", status=0)
    before, after = (gravity * 32 / 3600 for gravity in (40, 44))
    assert f"pull {-before:.6g} → {-after:.6g} px/frame^2" in out
    assert not err
    # a length that nothing brings to the game's: the comparison stands, and it is said
    (tmp_path / "kickback.toml").write_text(
        NAMES.replace("px = 0.03125", "").replace("[units]", "")
    )
    _, out, err = kickback("compare", "t/a-60.jsonl", "t/b-60.jsonl", status=0)
    assert "pull" not in out
    assert "how many m one px is" in err
