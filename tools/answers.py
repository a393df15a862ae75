"""What every command says on one set of takes, written down, and two such sets held together.

``python tools/answers.py write FOLDER`` makes the takes of ``FOLDER/takes`` where there are none
(loops of ``tests/truth``, physics libraries, the built-in models, the demo; even and uneven,
exact and printed) and writes what the commands say of them, as JSON, into ``FOLDER/answers``.
``python tools/answers.py compare BEFORE AFTER`` says what differs: nothing, what arithmetic
leaves, or more. A change that should alter nothing is held so against the state before it.
"""

import contextlib
import io
import json
import math
import os
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "tests"), str(ROOT)]

ARITHMETIC = 1e-6
"""Share of a number below which two of them differ by arithmetic alone."""

KEYS = ("take", "group", "metric", "track", "phase", "law", "constant", "kind", "name", "rate",
        "code")  # fmt: skip
"""What tells the records of an answer apart."""

WHOLE = {"measure": ("--all",)}
"""What commands are asked for all that they know by."""

WAYS = {
    "exact": (0.0, None), "uneven": (0.15, None), "printed": (0.0, 3), "both": (0.15, 3),
    "coarse": (0.15, 2),
}  # fmt: skip
"""How frame times vary, and to how many decimals numbers are printed."""


def _during(*spans):
    return lambda time: next((v for a, b, v in spans if a - 1e-9 <= time < b - 1e-9), 0)


MOVE = _during((0.3, 1.7, 1), (2.6, 3.6, -1), (3.6, 4.6, 1), (5.0, 9.0, 1), (9.6, 11.5, -1))
JUMP = _during((1.2, 1.7, 1), (5.6, 6.2, 1), (6.9, 6.98, 1), (8.0, 8.5, 1), (10.2, 10.9, 1))
DASH = _during((7.7, 7.8, 1), (11.0, 11.1, 1))

WALKERS = {
    "plain": {}, "cut": {"cut": 0.45}, "let-go": {"g_let_go": 90.0}, "fall": {"g_fall": 62.0},
    "terminal": {"terminal": 9.0}, "dash": {"dash": 22.0, "dash_time": 0.18},
    "air": {"air": (11.0,), "air_accel": 30.0}, "hold": {"hold": 0.15, "g_hold": 15.0},
    "walls": {"walls": (14.0,), "wall_jump": 12.0, "slide": 3.0},
}  # fmt: skip

GAS = ((0.3, 2.0, 1.0), (3.5, 6.5, 1.0), (7.5, 8.5, -1.0), (9.0, 12.0, 0.6))
WHEEL = ((4.5, 5.5, 1.0), (5.8, 6.4, -0.6), (10.0, 11.0, -1.0))
BRAKES = ((6.6, 7.3, 1.0),)
CARS = {
    "push": {}, "linear": {"linear": 0.7}, "rolling": {"rolling": 3.0, "linear": 0.4},
    "quadratic": {"quadratic": 0.02}, "all": {"quadratic": 0.01, "linear": 0.3, "rolling": 2.0},
    "factor": {"factor": 0.99}, "smooth-wheel": {"yaw_rate": 6.0, "linear": 0.7},
    "by-speed": {"yaw_rate": None, "by_speed": 8.0, "linear": 0.7}, "top": {"top": 9.0},
    "frames": {"per_frame": ("engine",), "linear": 0.7}, "yaw-frames": {"per_frame": ("yaw",)},
}  # fmt: skip

STICK = ((0.3, 1.5, (1, 0)), (1.5, 2.5, (1, 1)), (3.2, 4.5, (0, -1)), (4.5, 5.5, (-1, 0)),
         (6.0, 7.0, (0.5, 0)), (7.0, 8.0, (0, 1)), (8.0, 9.5, (0, -1)))  # fmt: skip

SHOTS = {
    "plain": {}, "linear": {"linear": 0.4}, "quadratic": {"quadratic": 0.02},
    "factor": {"factor": 0.99}, "bounce": {"bounce": 0.5}, "late": {"late": True},
    "frames": {"per_frame": ("gravity",)}, "aimed": {"azimuth": 25.0},
}  # fmt: skip


def _loops(dt):
    """Return columns and header keys by name of every plain loop, played with steps ``dt``."""
    from truth.camera import follow
    from truth.moves import moves
    from truth.plane import RULES, over_plane
    from truth.recurrence import THETA, play
    from truth.shot import lobs
    from truth.vehicle import align, drive

    out = {}
    for name, own in WALKERS.items():
        out[f"walker-{name}"] = moves(dt, MOVE, JUMP, DASH, **own), {}
    for law in ("constant", "exact", "first-order", "per-frame"):
        for order, theta in THETA.items():
            columns = play(dt, MOVE, JUMP, law=law, theta=theta, cut=0.5)
            out[f"{law}-{order}"] = columns, {}
            if order == "semi-implicit":
                bare = {k: v for k, v in columns.items() if k not in {"vx", "vy"}}
                out[f"{law}-positions"] = bare, {}
                camera = {
                    "camera_x": follow(columns["x"], dt, 5.0, offset=1.0),
                    "camera_y": follow(columns["y"], dt, 4.0, dead=0.3),
                }
                out[f"{law}-camera"] = columns | camera, {}
    stick = _during(*STICK)
    for rule in RULES:
        for limit in ("length", "axis"):
            columns = over_plane(dt, lambda t: stick(t) or (0, 0), rule=rule, limit=limit)
            out[f"plane-{rule}-{limit}"] = columns, {"view": "3d"}
    for name, own in CARS.items():
        out[f"car-{name}"] = drive(dt, GAS, WHEEL, BRAKES, **own), {"view": "top"}
    hill = drive(dt, GAS, (), BRAKES, linear=0.5)
    slope = 12 * np.sin(hill["t"])
    tilt = {"ground_pitch": slope, "pitch": align(slope, dt, 8.0)}
    out["car-tilt"] = hill | tilt, {"view": "top"}
    for name, own in SHOTS.items():
        out[f"shot-{name}"] = lobs(dt, **own), {"kind": "shot"}
    return out


def _bodies(rate):
    from truth.physics import LIBRARIES, physics_take

    for name in LIBRARIES:
        feel = {"top": 8.0, "accel": 60.0, "slow": 50.0, "v0": 12.0, "g": 40.0}
        yield f"body-{name}", physics_take(name, rate, MOVE, JUMP, 12.0, **feel)


def _models(rate, jitter):
    """Yield takes of the built-in models by name, as they are and with one mistake each."""
    from kickback.errors import KickbackError
    from kickback.kinds.foot.model.parameters import MISTAKES
    from kickback.kinds.models import all_drills, models, simulate

    for drill, kind in all_drills().items():
        made = models()[kind].drills[drill]
        usual = kind == "foot" and drill == "moves"
        for mistake in ("", *(MISTAKES if usual else ())):
            parameters = {"mistakes": mistake} if mistake else None
            try:
                take = simulate(parameters, made(), kind=kind, frame_rate=rate, jitter=jitter)
            except KickbackError:
                continue
            yield f"{kind}-{drill}-{mistake or 'sound'}", take


def make_takes(folder):
    """Write every take: a folder for each group of rates."""
    from kickback.files.write import write_take
    from kickback.takes.build import build_take
    from kickback.takes.header import Header

    def save(take, way, name, rate):
        path = folder / way / name / f"{name}-{rate}.jsonl"
        path.parent.mkdir(parents=True, exist_ok=True)
        write_take(take, path)

    for rate in (30, 60, 144):
        for way, (jitter, digits) in WAYS.items():
            chance = np.random.default_rng(rate).uniform(1 - jitter, 1 + jitter, 12 * rate)
            every = _loops(chance / rate)
            if way == "exact":
                every |= {name: (columns, {}) for name, columns in _bodies(rate)}
            for name, (columns, keys) in every.items():
                if rate != 60 and way in {"printed", "coarse"}:
                    continue
                shown = columns if digits is None else _printed(columns, digits)
                take = build_take(Header(length_unit="m", **keys), shown, name=f"{name}-{rate}")
                save(take, way, name, rate)
            for name, take in _models(rate, jitter) if digits is None else ():
                save(take, way, name, rate)


def _printed(columns, digits):
    times = {"t": 4, "dt": 5}
    return {
        name: np.round(column, times.get(name, digits)) if column.dtype != object else column
        for name, column in columns.items()
    }


def calls(takes, demo):
    """Return every call: a name and its arguments."""
    out = {}
    for group in sorted(path for path in takes.glob("*/*") if path.is_dir()):
        key = f"{group.parent.name}/{group.name}"
        every = [str(path) for path in sorted(group.glob("*.jsonl"))]
        own = ["--format", "json"]
        for command in ("measure", "law", "inspect"):
            out[f"{key}/{command}"] = [command, *every, *WHOLE.get(command, ()), *own]
        out[f"{key}/framerate"] = ["framerate", *every, *own]
        if key.split("/")[1].split("-", maxsplit=1)[0] in {"walker", "constant", "exact", "body"}:
            out[f"{key}/fit"] = ["fit", *every, "-o", os.devnull, "--force", *own]
    at = demo / "takes"
    pairs = {"same": ("brisk-60", "brisk-60"), "other": ("brisk-60", "floaty-60")}
    for name, (a, b) in pairs.items():
        out[f"demo/compare-{name}"] = [
            "compare", f"{at}/{a}.jsonl", f"{at}/{b}.jsonl", "--format", "json",
        ]  # fmt: skip
    for path in sorted(demo.glob("*/*.jsonl")):
        if path.parent.name == "live":
            continue
        for command in ("measure", "law", "inspect"):
            key = f"demo/{path.parent.name}/{path.stem}/{command}"
            out[key] = [command, str(path), *WHOLE.get(command, ()), "--format", "json"]
    for name in ("takes", "flares", "dunes"):
        out[f"demo/{name}/framerate"] = ["framerate", str(demo / name), "--format", "json"]
    brisk, json_ = "params/brisk.toml", ("--format", "json")
    height, time = "jump.apex_height=4 tiles", "jump.time_to_apex=0.4 s"
    solving = ("solve", brisk, "--wish", height, "--wish", time)
    others = {
        "solve": (*solving, "--keep", "run_speed", "--digits", "2"),
        "solve-not": (*solving, "--keep", "gravity_rise"),
        "shot": ("solve", "params/flare.toml", "--target", "20,6"),
        "reach": ("reach", brisk, "--rates", "60,30,144"),
        "level": ("reach", brisk, "--level", "levels/rooftops.toml", "--rates", "30,60"),
        "sweep": ("sweep", brisk),
        "fit": ("fit", "takes/brisk-60.jsonl", "-o", os.devnull, "--force"),
    }
    out |= {f"demo/{name}": [*arguments, *json_] for name, arguments in others.items()}
    return out


def _said(arguments):
    """Return what a call says: its status, its records, and its errors."""
    from kickback.cli.main import main

    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            main(list(arguments))
            status = 0
        except SystemExit as stop:
            status = stop.code
    text = out.getvalue()
    try:
        records = json.loads(text)
    except ValueError:
        records = text
    return {"status": status, "records": records, "errors": err.getvalue()}


def _write_one(job):
    path, arguments, demo = job
    path.parent.mkdir(parents=True, exist_ok=True)
    os.chdir(demo)
    path.write_text(json.dumps(_said(arguments), indent=1, sort_keys=True))


def write(folder, only=""):
    """Write what every call says."""
    folder = Path(folder).resolve()
    takes, demo = folder / "takes", folder / "demo"
    if not takes.exists():
        make_takes(takes)
    if not demo.exists():
        _said(["demo", str(demo)])
    answers = Path(os.environ.get("ANSWERS", folder / "answers")).resolve()
    jobs = [
        (answers / f"{key}.json", arguments, demo)
        for key, arguments in calls(takes, demo).items()
        if only in key
    ]
    with ProcessPoolExecutor(2) as pool:
        for number, _ in enumerate(pool.map(_write_one, jobs, chunksize=4)):
            if number % 200 == 0:
                print(f"{number} of {len(jobs)}", flush=True)


def _unlike(a, b, place=""):
    """Yield where two answers differ: the place, how (arithmetic, other), and both values."""
    if isinstance(a, dict) and isinstance(b, dict):
        for key in sorted(a.keys() | b.keys()):
            yield from _unlike(a.get(key), b.get(key), f"{place}.{key}")
    elif isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
        for number, (one, other) in enumerate(zip(a, b, strict=True)):
            yield from _unlike(one, other, f"{place}[{number}]")
    elif a != b:
        number = isinstance(a, int | float) and isinstance(b, int | float)
        near = number and math.isclose(a, b, rel_tol=ARITHMETIC, abs_tol=1e-9)
        yield place, "arithmetic" if near else "other", a, b


def _keyed(answer):
    """Return an answer whose law and metric records stand under what they are about."""
    records = answer["records"]
    if not isinstance(records, list) or not all(isinstance(one, dict) for one in records):
        return answer
    keys, seen = {}, Counter()
    for one in records:
        name = "/".join(str(one[key]) for key in KEYS if one.get(key) is not None)
        seen[name] += 1
        keys[f"{name}#{seen[name]}"] = one
    return answer | {"records": keys}


def compare(before, after, most=60):
    """Say what differs between two sets of answers; True where nothing but arithmetic does."""
    before, after, counts = Path(before), Path(after), Counter()
    for path in sorted(after.rglob("*.json")):
        name = path.relative_to(after)
        if not (before / name).exists():
            counts["only after"] += 1
            continue
        one, other = (_keyed(json.loads((side / name).read_text())) for side in (before, after))
        found = list(_unlike(one, other))
        worst = "other" if any(kind == "other" for _, kind, _, _ in found) else "arithmetic"
        counts[worst if found else "the same"] += 1
        shown = [item for item in found if item[1] == "other"]
        if shown and most > 0:
            most -= 1
            print(f"{name}: {len(shown)}")
            for place, _, a, b in shown[: int(os.environ.get("EACH", "4"))]:
                print(f"    {place}: {str(a)[:150]} -> {str(b)[:150]}")
    print(dict(counts))
    return counts["other"] == 0


if __name__ == "__main__":
    if sys.argv[1] == "write":
        write(*sys.argv[2:])
    else:
        sys.exit(0 if compare(*sys.argv[2:4]) else 1)
