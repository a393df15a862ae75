"""kickback.toml, parameter sets and drills on disk."""

import pytest

from kickback.errors import InputError
from kickback.project.parameter_sets import read_drill, read_model_parameters, read_parameter_set
from kickback.project.settings import find_settings, read_settings
from kickback.takes.quantities import LENGTH, Unit
from kickback.workflows.starting import start_project

GOOD = """
reference_rate = 120
tile = "16 px"

[budgets]
"jump.apex_height" = "5 %"
"coast.*" = "2 px"
[budgets.turn]
time = "10 %"

[targets]
"coast.stop_distance" = "2 tiles"

[mapping.columns]
t = "time"
x = "pos_x"
"""


@pytest.fixture
def write(tmp_path):
    """Return a function that writes a file and gives its path."""

    def to_file(text, name="kickback.toml"):
        path = tmp_path / name
        path.write_text(text)
        return path

    return to_file


def test_settings_are_read(write):
    settings = read_settings(write(GOOD))
    assert settings.reference_rate == 120
    assert settings.tile == (16.0, "px")
    assert set(settings.budgets) == {"jump.apex_height", "coast.*", "turn.time"}
    assert settings.budgets["jump.apex_height"].text == "5 %"
    assert settings.targets["coast.stop_distance"].within(Unit(LENGTH, "px")) == 32.0
    assert set(settings.mapping.columns) == {"t", "x"}


@pytest.mark.parametrize(
    ("text", "line", "sentence"),
    [
        ("reference_rat = 60", 1, "unknown key 'reference_rat'; did you mean 'reference_rate'?"),
        ("\nreference_rate = 0", 2, "'reference_rate' must be a number above 0, not 0"),
        ("tile = 16", 1, "'tile' must be a length and its unit"),
        ('tile = "px"', 1, "'tile' must be a length and its unit"),
        (
            '[budgets]\n"jump.apex_hight" = "5 %"',
            2,
            "no metric or group 'jump.apex_hight'; did you mean",
        ),
        ('[budgets]\n"jump.apex_height" = "much"', 2, 'a budget is "5 %", "10 ms"'),
        (
            '[targets]\n"jump.apex_height" = "high"',
            2,
            'a target is "5 %", "10 ms"',
        ),
        ('[budgets]\n\n"jump.air_time" = "2 bananas"', 3, "no unit 'bananas'"),
        (
            '[budgets]\n"jump.air_time" = 10',
            2,
            "'10' is no amount of 'jump.air_time': it needs a unit",
        ),
        ('[budgets]\njump = "10 ms"\nrun.top_speed = "1 s"', 3, "'1 s' is no amount of"),
        ('[targets]\n"jump.air_time" = "2 m"', 2, "'2 m' is no amount of"),
        ('[noise]\n"jump.air" = "2 ms"', 2, "no metric 'jump.air'; did you mean"),
        ("[gate]\nrun = 3", 2, "'run' must be text"),
        ('[gate]\nrnu = "x"', 2, "[gate] has no 'rnu'; did you mean 'run'?"),
        ("[gate]\nrates = [60, 0]", 2, "'rates' must be a number above 0"),
        ("[targets]\njump = 2", 2, "no metric 'jump'"),
        ("budgets = 3", 1, "'budgets' must be a table"),
        ('\nup = "left"', 2, "'up' is 'left' but must be one of +x"),
        ("view = 3", 1, "'view' must be text"),
        ('length_unit = ""', 1, "'length_unit' must not be empty"),
        ("\n[units]\nm = 32", 2, "[units] needs 'length_unit'"),
        ('length_unit = "px"\n[units]\nm = 0', 3, "'m' must be a number above 0"),
        ('length_unit = "px"\nfloor_thickness = "1 ell"', 2, "'floor_thickness' is in 'ell'"),
        ('floor_thickness = "thin"', 1, "'floor_thickness' must be a length and its unit"),
        ('file_name = "{speed}"', 1, "'file_name' has no part '{speed}'"),
        ('file_name = "{rate}-{rate}"', 1, "has the part '{rate}' twice"),
        ('file_name = "{rate"', 1, "has a brace without its part"),
        ('file_name = "run"', 1, "'file_name' must be a pattern such as"),
        ('plateau_change = "5"', 1, "'plateau_change' must be a share"),
        ("plateau_time = true", 1, "'plateau_time' must be a number above 0"),
        ("rest_speed = -1", 1, "'rest_speed' must be a number above 0"),
        (
            'length_unit = "px"\n[mapping.columns]\nx = "x"\n[units]\nx = 0',
            5,
            "'x' must be a number",
        ),
        ('[mapping.columns]\nt = "a"\nx = 3', 3, "must be a column's name"),
        ('up = "+y"\n[mapping.columns]\nx = { from = "x", scal = 2 }', 3, "unknown key 'scal'"),
        ('[mapping.rows]\nstamp = "middle"\n[mapping.columns]\nx = "x"', 2, "'stamp' must be end"),
        ('[mapping.colums]\nx = "x"', 1, "unknown table 'colums'; did you mean 'columns'?"),
        ("[limits]\ncolums = 3", 2, "no limit 'colums'; did you mean 'columns'?"),
        ("[limits]\nline_mb = 0", 2, "'line_mb' must be a number above 0"),
    ],
)
def test_settings_that_make_no_sense_name_key_and_line(write, text, line, sentence):
    with pytest.raises(InputError) as error:
        read_settings(write(text))
    assert f"kickback.toml, line {line}: " in str(error.value)
    assert sentence in str(error.value)


@pytest.mark.parametrize(
    "text", ["tile = [", "\xff", "[mapping]\nx = 1", "[mapping.columns]\nt = 1"]
)
def test_broken_project_files_name_the_file(tmp_path, text):
    path = tmp_path / "kickback.toml"
    path.write_bytes(text.encode("latin-1"))
    with pytest.raises(InputError, match=r"kickback\.toml"):
        read_settings(path)


def test_settings_are_found_in_the_folder_or_above(write, tmp_path):
    write(GOOD)
    deep = tmp_path / "a" / "b"
    deep.mkdir(parents=True)
    assert find_settings(None, deep).reference_rate == 120
    assert find_settings(str(tmp_path)).reference_rate == 120
    assert find_settings(str(tmp_path / "kickback.toml")).reference_rate == 120
    with pytest.raises(InputError, match="no such project file"):
        find_settings(str(tmp_path / "other.toml"))


def test_without_a_project_the_defaults_hold(tmp_path):
    settings = find_settings(None, tmp_path)
    assert settings.path is None
    assert settings.reference_rate == 60


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ('nme = "a"', "line 1: unknown key 'nme'; did you mean 'name'?"),
        ("run_speed = 3", "line 1: unknown key 'run_speed'"),
        ("name = 3", "line 1: 'name' must be text"),
        ("values = 3", "the parameters' 'values' must be an object"),
        ("[values]\na = [1]", "parameter 'a' must be a number, true/false or a word"),
        ("[values]\na = nan", "parameter 'a' must be finite"),
        ("[values", "is not TOML"),
        (
            "[values]\nrun_sped = 3",
            "line 2: unknown parameter 'run_sped'; did you mean 'run_speed'",
        ),
    ],
)
def test_parameter_files_that_make_no_sense(write, text, sentence):
    with pytest.raises(InputError) as error:
        read_model_parameters(write(text, "p.toml"))
    assert sentence in str(error.value)


def test_a_game_s_own_parameters_may_have_any_name(write):
    found = read_parameter_set(write("[values]\nsnap = 3\nmode = 'b'\nfly = true", "own.toml"))
    assert found.name == "own"
    assert found.values == {"snap": 3, "mode": "b", "fly": True}


def test_a_drill_is_named_after_its_file(write):
    text = "[[input]]\nat = 0.0\nuntil = 1.0\njump = true\n"
    assert read_drill(write(text, "leap.toml")).name == "leap"
    with pytest.raises(InputError, match="no such drill file"):
        read_drill(write(text, "leap.toml").with_name("none.toml"))


def test_a_new_project_can_be_used_at_once_and_replaces_nothing(tmp_path):
    made = start_project(tmp_path)
    assert all(written for _, written in made)
    assert read_settings(tmp_path / "kickback.toml").reference_rate == 60
    assert read_model_parameters(tmp_path / "params" / "first.toml").name == "first"
    assert read_drill(tmp_path / "drills" / "first-steps.toml").length == 6.0
    (tmp_path / "kickback.toml").write_text("reference_rate = 30\n")
    assert not any(written for _, written in start_project(tmp_path))
    assert read_settings(tmp_path / "kickback.toml").reference_rate == 30
