"""TOML is edited as it stands, and a key's line is found where it is."""

import pytest

from kickback.files.toml import edited, key_line

TEXT = """# speed = 1
notes = \"\"\"
speed = 2
[values]
\"\"\"
tile = "32 px"

[budgets]   # of the game's own
"jump.apex_height" = "5 %"
turn.time = "1 %"

[values]
speed = 4   # as it is felt
'odd name' = 3

[mapping.columns]
x = { from = "a", scale = 2 }

[[input]]
at = 1
"""


@pytest.mark.parametrize(
    ("key", "under", "line"),
    [
        ("notes", "", 2),
        ("tile", "", 6),
        ("budgets", "", 8),
        ("jump.apex_height", "budgets", 9),
        ("turn.time", "budgets", 10),
        ("values", "", 12),
        ("speed", "values", 13),
        ("speed", "", 13),
        ("odd name", "values", 14),
        ("mapping", "", 16),
        ("columns", "mapping", 16),
        ("x", "mapping.columns", 17),
        ("scale", "", 17),
        ("input", "", 19),
        ("at", "input", 20),
    ],
)
def test_a_key_is_found_where_it_stands(tmp_path, key, under, line):
    assert key_line(tmp_path, TEXT, key, under) == f"{tmp_path}, line {line}"


@pytest.mark.parametrize(("text", "key"), [(TEXT, "nowhere"), ("a = [", "a"), ("", "a")])
def test_what_is_not_there_has_no_line(tmp_path, text, key):
    assert key_line(tmp_path, text, key) == str(tmp_path)


def test_only_the_value_changes():
    after = edited(TEXT, "values", {"speed": 0.25})
    changed = [(a, b) for a, b in zip(TEXT.split("\n"), after.split("\n"), strict=True) if a != b]
    assert changed == [("speed = 4   # as it is felt", "speed = 0.25   # as it is felt")]
    with pytest.raises(KeyError):
        edited(TEXT, "values", {"sped": 1.0})


def test_retime_writes_the_parameter_and_nothing_else(kickback, tmp_path):
    """A line inside a multi-line text was changed, the parameter left, and 'written' said."""
    (tmp_path / "a.toml").write_text(
        'notes = """\nfriction = 0.5\n"""\n[values]\nfriction = 0.86 # per frame\nname = "x"\n'
    )
    kickback("retime", "a.toml", "--from", 60, "--to", 144, "-o", "b.toml", status=0)
    text = (tmp_path / "b.toml").read_text()
    assert 'notes = """\nfriction = 0.5\n"""' in text
    assert f"friction = {0.86 ** (60 / 144):.6f}"[:16] in text
    assert text.endswith('# per frame\nname = "x"\n')


def test_the_project_s_mapping_is_chosen_by_the_columns(kickback, tmp_path):
    (tmp_path / "kickback.toml").write_text(
        '[mapping.columns]\nt = { from = "time", scale = 0.001 }\nx = "px"\ny = "py"\n'
    )
    frames = "".join(f"{n / 60:.5f},{n * 0.1:.3f},0\n" for n in range(1, 60))
    (tmp_path / "ours.csv").write_text("t,x,y\n" + frames)
    (tmp_path / "bad.csv").write_text("t,x,y\n" + frames.replace(",0.500,", ",wat,"))
    theirs = "".join(f"{n * 16},{n * 0.1:.3f},0\n" for n in range(1, 60))
    (tmp_path / "theirs.csv").write_text("time,px,py\n" + theirs)
    (tmp_path / "neither.csv").write_text("clock,a,b\n" + theirs)
    kickback("measure", "ours.csv", "theirs.csv", status=0)
    assert (
        "column x: 'x' is 'wat', which is no number" in kickback("measure", "bad.csv", status=2)[2]
    )
    assert "no column 'x' for the position" in kickback("measure", "neither.csv", status=2)[2]
