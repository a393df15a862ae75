"""Foreign logs: mappings that are guessed, what file names and projects say, what is uncertain."""

import json
import tomllib

import numpy as np
import pytest
from benchmarks.cars import car_of, drive, hands
from benchmarks.shots import fire, gun_of, shoot

from conftest import take_of
from kickback.errors import InputError
from kickback.files.mapping import parse_mapping, read_mapping
from kickback.files.read import take_from_bytes
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from kickback.kinds.table import kind_of
from kickback.project.file_names import parse_pattern
from kickback.project.settings import Settings, read_settings
from kickback.workflows.guessing import write_guess
from kickback.workflows.reading import load_takes

TAKE = simulate(frame_rate=60)
C = {name: np.asarray(column) for name, column in TAKE.columns.items()}
ROWS = range(len(TAKE))


def table(names, cell, delimiter=","):
    """Return a log of text cells: ``cell(k)`` gives those of a row."""
    lines = [delimiter.join(names), *(delimiter.join(map(str, cell(k))) for k in ROWS)]
    return "\n".join(lines) + "\n"


def keys(k):
    on = {"right": C["in_move_x"][k] > 0, "left": C["in_move_x"][k] < 0, "jump": C["in_jump"][k]}
    return [word for word, held in on.items() if held]


def nested(k):
    return {
        "frame": k,
        "deltaTime": 1000 / 60,
        "player": {
            "position": [C["x"][k], -C["y"][k]],
            "velocity": [C["vx"][k] / 60, -C["vy"][k] / 60],
            "airborne": not C["touch_ground"][k],
        },
        "keys": keys(k),
        "anim": "run" if C["vx"][k] else "idle",
    }


LOGS = {
    "ours.csv": table(["t", "x", "y", "vx", "in_move_x", "in_jump", "touch_ground"],
        lambda k: [C[n][k] for n in ("t", "x", "y", "vx", "in_move_x", "in_jump", "touch_ground")]),
    "ms.csv": table(["time_ms", "posX", "posY", "key_right", "key_left", "key_jump", "onGround"],
        lambda k: [round(1000 * C["t"][k], 3), C["x"][k], C["y"][k], int(C["in_move_x"][k] > 0),
                   int(C["in_move_x"][k] < 0), int(C["in_jump"][k]), "yes" if C["touch_ground"][k] else "no"]),
    "comma.txt": table(["Clock_us", "PosX", "PosY", "vel_x", "move", "jump", "grounded"],
        lambda k: [str(v).replace(".", ",") for v in (round(1e6 * C["t"][k]), C["x"][k], -C["y"][k],
                   -C["vx"][k], C["in_move_x"][k], int(C["in_jump"][k]), int(C["touch_ground"][k]))], ";"),
    "frames.log": "loading rooftops\n" + table(["frame", "x", "y", "stick_x", "jump", "ground"],
        lambda k: [k, C["x"][k], C["y"][k], C["in_move_x"][k], C["in_jump"][k], C["touch_ground"][k]], " "),
    "nested.log": "Harbour build 12\n" + "".join(json.dumps(nested(k), default=float) + "\n" for k in ROWS),
}  # fmt: skip


@pytest.mark.parametrize("name", LOGS)
def test_a_guessed_mapping_gives_the_metrics_of_the_take_behind_it(tmp_path, name):
    log = tmp_path / name
    log.write_text(LOGS[name])
    done = write_guess(log, tmp_path, Settings())
    assert not done.problem
    assert not done.findings
    take = load_takes([str(log)], str(done.path)).takes[0]
    found, wanted = measure(take), measure(TAKE)
    for row in wanted:
        if row.value is not None and row.metric not in {"input.latency_time"}:
            other = found[row.metric]
            allowed = (row.resolution or 0) + (other.resolution or 0) + 1e-3 * abs(row.value)
            assert other.value == pytest.approx(row.value, abs=allowed), row.metric
    text = done.path.read_text()
    assert all(f"# unsure: {item}" in text for item in done.unsure)
    assert set(tomllib.loads(text)) == {"header", "columns", "rows"}


def car_log(c):
    """Return a car's columns as a game may call them, with y down in one, over x and z in another."""
    flat = np.zeros(len(c["t"]))
    return {
        "percent": {"timestamp_ms": 1000 * c["t"], "carPosX": 50 * c["x"], "carPosY": -50 * c["y"],
                    "yaw_rad": np.radians(-c["heading"]), "accelerator": 100 * c["in_throttle"],
                    "steering_pct": -100 * c["in_steer"], "brakePedal": 80 * c["in_brake"]},
        "degrees": {"time": c["t"], "position.x": c["x"], "position.y": flat + 2,
                    "position.z": c["y"], "rotation.y": 90 - c["heading"], "gas": c["in_throttle"],
                    "wheelAngle": 35 * c["in_steer"], "handbrake": c["in_brake"]},
    }  # fmt: skip


SHOT_NAMES = {
    "arrows": {"t": "time", "x": "arrowX", "y": "arrowY", "vx": "arrowVX", "vy": "arrowVY",
               "shot": "arrow_id"},
    "gun": {"t": "t_s", "x": "bulletPos_x", "y": "bulletPos_y", "vx": "bulletVel_x",
            "vy": "bulletVel_y", "in_fire": "triggerHeld", "shot": "shotNumber"},
}  # fmt: skip


def guessed(tmp_path, columns):
    (tmp_path / "log.csv").write_text(
        "\n".join(",".join(row) for row in [list(columns), *(
            [f"{x:.8g}" for x in row] for row in zip(*columns.values(), strict=True))]))  # fmt: skip
    done = write_guess(tmp_path / "log.csv", tmp_path, Settings())
    assert not done.problem, done.problem
    return load_takes([str(tmp_path / "log.csv")], str(done.path)).takes[0]


@pytest.mark.parametrize(("name", "size"), [("percent", 50.0), ("degrees", 1.0)])
def test_a_car_s_pedals_wheel_and_heading_are_guessed(tmp_path, name, size):
    one = car_of(np.random.default_rng(5))._replace(body="along", turn="yaw", yaw=90.0, wheel=0.0)
    rng = np.random.default_rng(4)
    columns = drive(one, rng.uniform(0.95, 1.05, 1500) / 60, hands(rng), frozenset())
    take = guessed(tmp_path, car_log(columns)[name])
    assert kind_of(take).name == "vehicle"
    for ours, most in (("in_throttle", 1), ("in_steer", 1), ("in_brake", 1)):
        assert np.max(np.abs(take.numbers(ours))) == pytest.approx(most), ours
    found = measure(take)
    assert found["steer.yaw_rate"].value == pytest.approx(90, rel=1e-3)
    quickest = found["steer.radius"].occurrences.given["speed"].max()
    assert found["steer.radius"].value == pytest.approx(quickest / np.radians(90), rel=0.1)
    assert quickest == pytest.approx(size * np.hypot(columns["vx"], columns["vy"]).max(), rel=0.3)


@pytest.mark.parametrize("name", SHOT_NAMES)
def test_a_shot_s_number_and_trigger_are_guessed(tmp_path, name):
    gun, rng = gun_of(np.random.default_rng(1)), np.random.default_rng(2)
    columns = shoot(gun, rng, 60, 0.0) if name == "gun" else fire(gun, rng, 60, 0.0)[0]
    columns.setdefault("shot", np.cumsum(np.diff(columns["t"], prepend=0) > 0.2))
    take = guessed(tmp_path, {theirs: columns[ours] for ours, theirs in SHOT_NAMES[name].items()})
    assert kind_of(take).name == "shot"
    row = measure(take)["shot.launch_speed"]
    assert abs(row.value - gun.speed) <= row.resolution + 1e-3
    assert row.n >= 6


def test_what_the_guess_changed_is_said(tmp_path):
    for name, text in LOGS.items():
        (tmp_path / name).write_text(text)
    said = {
        name: " ".join(write_guess(tmp_path / name, tmp_path, Settings()).unsure) for name in LOGS
    }
    assert "milliseconds" in said["ms.csv"]
    assert "microseconds" in said["comma.txt"]
    assert "y grows downward" in said["comma.txt"]
    assert "vx is turned round" in said["comma.txt"]
    assert "60 frames/s is a mere assumption" in said["frames.log"]
    assert "vx is taken as per frame" in said["nested.log"]
    assert "assumption" not in said["ours.csv"]


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "is empty"),
        ("t,x\n", "holds no frames"),
    ],
)
def test_logs_that_nothing_can_be_guessed_of(tmp_path, text, sentence):
    (tmp_path / "a.csv").write_text(text)
    with pytest.raises(InputError, match=sentence):
        write_guess(tmp_path / "a.csv", tmp_path, Settings())
    assert not list(tmp_path.glob("*.toml"))


def test_new_from_a_log_writes_it_once(kickback, tmp_path):
    (tmp_path / "run.csv").write_text(LOGS["ms.csv"])
    _, out, _ = kickback("new", "--from", "run.csv", status=0)
    assert "run.map.toml: written" in out
    assert "unsure: t ('time_ms') is taken as milliseconds" in out
    assert "reads 720 frames, 12.00 s at 60 frames/s" in out
    assert "exists already" in kickback("new", "--from", "run.csv", status=2)[2]
    kickback("new", "--from", "run.csv", "--force", status=0)
    kickback("measure", "run.csv", "--map", "run.map.toml", "--only", "run", status=0)


def test_a_frame_number_and_a_rate_are_a_time():
    mapping = parse_mapping({"columns": {"t": {"from": "n", "rate": 50}, "x": "x"}}, "m")
    assert list(take_from_bytes(b"n,x\n1,0\n2,0\n4,0\n", "a.csv", mapping).numbers("t")) == [
        0.02,
        0.04,
        0.08,
    ]
    for rate in (0, -1, "60", True):
        with pytest.raises(InputError, match="'rate' must be a number above 0"):
            parse_mapping({"columns": {"t": {"from": "n", "rate": rate}}}, "m")


@pytest.mark.parametrize(
    ("pattern", "stem", "header"),
    [
        ("{drill}-{parameters}-{rate}fps-{repeat}", "roofs-brisk-120fps-3",
         {"drill": "roofs", "frame_rate": 120.0, "repeat": 3, "parameters": {"name": "brisk", "values": {}}}),
        ("{parameters}_{rate}", "brisk_slip_59.94", {"frame_rate": 59.94, "parameters": {"name": "brisk_slip", "values": {}}}),
        ("{subject}.{rate}", "sled.30", {"subject": "sled", "frame_rate": 30.0}),
        ("{subject}.{rate}", "sledx30", {}),
        ("{rate}", "brisk", {}),
    ],
)  # fmt: skip
def test_what_file_names_say(pattern, stem, header):
    assert parse_pattern(pattern, "p").header_of(stem) == header


PROJECT = """
up = "-y"
length_unit = "px"
floor_thickness = "0.5 m"
file_name = "{parameters}-{rate}"
plateau_time = 0.5
plateau_change = "2 %"
rest_speed = 3
[units]
m = 32
[limits]
columns = 20
"""


def test_a_project_says_what_its_logs_leave_out(tmp_path):
    (tmp_path / "kickback.toml").write_text(PROJECT)
    (tmp_path / "params").mkdir()
    (tmp_path / "params" / "brisk.toml").write_text('name = "brisk"\n[values]\nrun_speed = 8.0\n')
    (tmp_path / "brisk-30.csv").write_text("t,x,y\n0.1,0,10\n0.2,1,20\n")
    (tmp_path / "own-60.csv").write_text(
        '# {"frame_rate": 10, "length_unit": "m", "up": "+y"}\nt,x,y,vx\n0.1,0,1,2\n0.2,1,2,3\n'
    )
    settings = read_settings(tmp_path / "kickback.toml")
    assert settings.floor_thickness == 16.0
    assert (settings.options.plateau_time, settings.options.plateau_change) == (0.5, 0.02)
    assert settings.limits.columns == 20
    bare, own = load_takes([str(tmp_path / "*.csv")], None, settings).takes
    assert (bare.header.up, bare.header.length_unit, bare.header.frame_rate) == ("-y", "px", 30.0)
    assert list(bare.numbers("y")) == [-10.0, -20.0]
    assert bare.header.parameters.values == {"run_speed": 8.0}
    assert (own.header.up, own.header.length_unit, own.header.frame_rate) == ("+y", "px", 10)
    assert list(own.numbers("x")) == [0.0, 32.0]
    assert list(own.numbers("vx")) == [64.0, 96.0]
    kept = load_takes([str(tmp_path / "own-60.csv")], None, settings, as_written=True).takes[0]
    assert (kept.header.length_unit, list(kept.numbers("x"))) == ("m", [0.0, 1.0])


def test_the_project_s_thresholds_are_the_measure_s(kickback, tmp_path):
    (tmp_path / "log.csv").write_text(LOGS["ours.csv"])
    value = {}
    for text in ("", "plateau_time = 3\n"):
        (tmp_path / "kickback.toml").write_text(text)
        out = kickback(
            "measure", "log.csv", "--only", "run.top_speed", "--format", "json", status=0
        )[1]
        value[text] = json.loads(out)[0]
    assert value[""]["value"] == pytest.approx(8.0)
    assert value["plateau_time = 3\n"]["value"] is None
    assert "within 0.1 % for 3 s" in value["plateau_time = 3\n"]["reason"]


def rounded(columns, grid=1 / 32):
    return {n: np.round(c / grid) * grid if n in "xy" else c for n, c in columns.items()}


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda c: {n: v for n, v in rounded(c).items() if n[0] != "v"}, "positions rounded to 0.03125 m"),
        (lambda c: {n: v for n, v in c.items() if n != "vx"}, "no vx in the log"),
        (lambda c: {**c, "vx": np.sin(c["t"])}, "vx not the motion"),
    ],
)  # fmt: skip
def test_what_widens_a_resolution_is_said_with_how_far(change, why):
    clean, doubted = measure(take_of(C)), measure(take_of(change(C)))
    assert not any(row.doubts for row in clean)
    row = doubted["coast.stop_time"]
    assert any(why in text for text in row.doubts)
    assert row.ideal_resolution < row.resolution
    assert row.ideal_resolution == pytest.approx(clean["coast.stop_time"].resolution, rel=0.5)
    assert f"resolution wider than {row.ideal_resolution:.3g} s: " in row.to_record()["reason"]


def test_uneven_times_in_whole_milliseconds_widen_it_too():
    take = simulate(frame_rate=60, jitter=0.3, seed=3)
    coarse = {**take.columns, "t": np.round(take.numbers("t"), 3)}
    del coarse["dt"]
    found = measure(take_of(coarse))
    for name in ("jump.air_time", "reverse.time_to_top_speed"):
        assert "uneven times rounded to 1 ms" in found[name].doubts


def test_inspect_names_findings_and_fails_on_errors(kickback, tmp_path):
    still = LOGS["ours.csv"].split("\n")
    still[50] = still[49]
    (tmp_path / "still.csv").write_text("\n".join(still))
    (tmp_path / "clean.csv").write_text(LOGS["ours.csv"])
    _, out, _ = kickback("inspect", "still.csv", status=1)
    assert "error    time-still, frames 48 to 49" in out
    record = json.loads(kickback("inspect", "still.csv", "--format", "json", status=1)[1])[0]
    assert list(record) == ["take", "code", "severity", "start", "stop", "message"]
    assert (record["code"], record["start"], record["stop"]) == ("time-still", 48, 50)
    assert 'failures="1"' in kickback("inspect", "still.csv", "--format", "junit", status=1)[1]
    assert "nothing was found" in kickback("inspect", "clean.csv", status=0)[1]
    assert json.loads(kickback("inspect", "clean.csv", "--format", "json", status=0)[1]) == []
    kickback("measure", "still.csv", status=2)


def test_measure_says_what_inspect_would_explain(kickback, tmp_path):
    lines = LOGS["ours.csv"].split("\n")
    moved = [
        ",".join([c[0], str(float(c[1]) + 50), *c[2:]])
        for c in (row.split(",") for row in lines[300:-1])
    ]
    (tmp_path / "leap.csv").write_text("\n".join([*lines[:300], *moved]) + "\n")
    _, out, err = kickback("measure", "leap.csv", status=0)
    assert "warning: leap: teleport; 'kickback inspect' says what to do" in err
    assert "8.000 unit/s" in out
    kickback("plot", "leap.csv", "-o", "leap.svg", status=0)
    assert "teleport" in (tmp_path / "leap.svg").read_text()


def test_strict_refuses_text_on_the_command_line(kickback, tmp_path):
    (tmp_path / "log.csv").write_text("starting up\n" + LOGS["ours.csv"])
    for command in (("measure",), ("inspect",), ("convert", "-o", "out"), ("plot",)):
        assert "no frame: 'starting up'" in kickback(*command, "log.csv", "--strict", status=2)[2]
    assert "skipped" in kickback("measure", "log.csv", status=0)[2]


def test_a_mapping_file_s_faults_name_their_line(tmp_path):
    (tmp_path / "m.toml").write_text(
        '[header]\nup = "+y"\n[columns]\nt = "t"\nx = { from = "x", rate = 0 }\n'
    )
    with pytest.raises(InputError, match=r"m\.toml, line 5: 'rate' must be a number above 0"):
        read_mapping(tmp_path / "m.toml")
