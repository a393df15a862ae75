"""``new --from``: a mapping for a log that nobody has described, tried on the log itself."""

from collections.abc import Mapping as Map
from pathlib import Path

from kickback.errors import InputError
from kickback.files.atomic import write_new
from kickback.files.guess import Guess, guess_mapping
from kickback.files.mapping import parse_mapping
from kickback.files.options import ReadOptions
from kickback.files.raw import RawTable
from kickback.files.read import raw_table, stem_of, take_from_table
from kickback.findings.finding import Finding
from kickback.findings.views import VIEW_UNLIKELY
from kickback.kinds.examining import examine
from kickback.kinds.foot.findings.flights import UP_FLIPPED
from kickback.kinds.foot.findings.ground import CONTACT_DISAGREES
from kickback.kinds.foot.findings.velocity import VELOCITY_PER_FRAME, VELOCITY_SIGN
from kickback.kinds.table import analyse
from kickback.kinds.vehicle.heading import heading_reading
from kickback.project.settings import Settings
from kickback.takes.channels import CHANNELS
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take
from kickback.workflows.guessing_inputs import told_by_motion

__all__ = ["Guessed", "write_guess"]

_SKELETON = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
"""Columns that a mapping which found no position names, to be filled in."""

_ALONG = 10.0
"""Degrees that a heading is off the motion at most in the middle: more is another angle."""

_ROUNDS = 4
"""Times that a guess is put right by what its motion shows."""


class Guessed(Record, frozen=True, kw_only=True):
    """The mapping file that was written, what it is unsure of, and what it makes of the log."""

    path: Path
    unsure: list[str]
    take: Take | None
    problem: str
    findings: list[Finding]


def write_guess(log: Path, folder: Path, settings: Settings, *, force: bool = False) -> Guessed:
    """Guess a log's mapping, try it, put right what the motion shows, and write it.

    Where no position is found, what is written is a skeleton to fill in. Raises InputError where
    the log cannot be read, or the file exists.
    """
    try:
        data = log.read_bytes()
    except OSError as error:
        raise InputError(f"cannot be read ({error.strerror})", str(log)) from error
    table = raw_table(data, str(log), settings.limits)
    guess = guess_mapping(table)
    header, columns = dict(guess.header), dict(guess.columns)
    unsure, take, problem, findings = list(guess.unsure), None, "", []
    if not guess.found:
        problem = "no column looks like a position: fill in x and y under [columns]"
    spare = dict(guess.spare)
    for _ in range(_ROUNDS if guess.found else 0):
        try:
            take = _tried(table, header, columns, guess.rows, settings)
        except InputError as error:
            problem = str(error)
            break
        findings = examine(take)
        said = [text for item in findings if (text := _put_right(item, header, columns))]
        said = said or _heading(take, columns) or _turned(take, columns, spare)
        said = said or _by_motion(take, columns, spare)
        if not said:
            break
        unsure += said
    path = folder / f"{stem_of(str(log))}.map.toml"
    text = _file_text(log.name, guess, header, columns, unsure)
    write_new(path, text.encode(), replace=force)
    return Guessed(path=path, unsure=unsure, take=take, problem=problem, findings=findings)


def _heading(take: Take, columns: PlainDict) -> list[str]:
    """Read a heading the way that points along the motion; returns what was changed."""
    found = heading_reading(take)
    source = columns.get("heading")
    if found is None or found[1].plain or not isinstance(source, str):
        return []
    best = found[1]
    columns["heading"] = {
        "from": source,
        **({"radians": True} if best.radians else {}),
        **({"scale": -1} if best.sign < 0 else {}),
        **({"offset": best.offset} if best.offset else {}),
    }
    return [f"heading is read with {best.words}: so it points along the motion"]


def _turned(take: Take, columns: PlainDict, spare: Map[str, FloatArray]) -> list[str]:
    """Take up a heading that points along the motion of what is driven; returns what was said."""
    if "heading" in columns or not {"in_throttle", "in_steer"} & set(columns):
        return []
    for path, values in spare.items():
        if len(values) == len(take):
            tried = replace(take, columns={**take.columns, "heading": values})
            found = heading_reading(tried)
            if found is not None and found[1].off <= _ALONG:
                columns["heading"] = path
                return [f"heading is taken from '{path}': it points along the motion"]
    return []


def _by_motion(take: Take, columns: PlainDict, spare: PlainDict) -> list[str]:
    """Take up inputs and contact that the motion tells; returns what was taken up."""
    analysis = analyse(take)
    fits = {name: values for name, values in spare.items() if len(values) == len(take)}
    spare.clear()  # they are looked at once
    if analysis.kind.name != "foot" or take.header.view != "side" or not fits:
        return []
    if not analysis.advances:
        return []
    if len(analysis.take) != len(take) or len(analysis.motions) != 1:
        return []
    found, said = told_by_motion(analysis.whole, fits, columns)
    columns.update(found)
    return said


def _tried(
    table: RawTable,
    header: PlainMap,
    columns: PlainMap,
    rows: Map[str, str],
    settings: Settings,
) -> Take:
    mapping = parse_mapping({"header": header, "columns": columns, "rows": rows}, "the guess")
    options = ReadOptions(any_clock=True, limits=settings.limits)
    return take_from_table(table, mapping, options)


def _put_right(item: Finding, header: PlainDict, columns: PlainDict) -> str:
    """Change what a finding shows to be another way round; returns what was changed."""
    if item.kind is UP_FLIPPED and header.get("up") == "+y":
        header["up"] = "-y"
        return "y grows downward: jumps dip in it"
    if item.kind is VIEW_UNLIKELY and header.get("view") == "side":
        header["view"] = "top"
        return f"view is taken as top: {item.message.partition(';')[0]}"
    if item.kind is CONTACT_DISAGREES and item.opposite:
        _with(columns, item.column, "invert", value=True)
        return "the ground flag is turned round: it was on in the air"
    name = item.column
    if item.kind is VELOCITY_PER_FRAME and _with(columns, name, "per_frame", value=True):
        return f"{name} is taken as per frame: {item.message.partition(';')[0]}"
    if item.kind is VELOCITY_SIGN and _with(columns, name, "scale", value=-1):
        return f"{name} is turned round: it points against the displacement"
    return ""


def _with(columns: PlainDict, name: str, key: str, *, value: object) -> bool:
    """Add a key to a column's source; whether it was not there before."""
    source = columns.get(name)
    plain = {"from": source} if isinstance(source, str) else source
    if not isinstance(plain, dict) or key in plain:
        return False
    columns[name] = {**plain, key: value}
    return True


def _file_text(
    log: str,
    guess: Guess,
    header: PlainMap,
    columns: PlainMap,
    unsure: list[str],
) -> str:
    """Return the mapping as a commented file."""
    lines = [
        f"# How the columns of {log} become Kickback's: a first guess, to be corrected.",
        f"#     kickback inspect {log} --map THIS-FILE",
        "# Each line is OURS = THEIRS. A dotted path names a value inside another: pos.0",
        "#",
        *(f"# unsure: {text}" for text in unsure),
        "",
        "[header]",
        *(f"{key} = {_toml(value)}" for key, value in header.items()),
        '# subject = "hero"',
        "",
        "[columns]",
        *(f"{key} = {_toml(columns[key])}" for key in sorted(columns, key=_order)),
    ]
    if not guess.found:
        lines += [f'# {ours} = "…"' for ours in _SKELETON if ours not in columns]
    if "y" in columns:
        lines += ['# y = { from = "…", offset = 16 }      # from the centre to the feet']
    if guess.unused:
        lines += ["", "# not used:", *(f"#     {path}" for path in guess.unused[:60])]
    lines += [
        "",
        "[rows]",
        *(f"{key} = {_toml(word)}" for key, word in guess.rows.items()),
        '# stamp = "start"      # the time is that of the update\'s beginning, not its end',
        '# state = "before"     # the row shows what its update began with',
        "",
    ]
    return "\n".join(lines)


def _order(name: str) -> int:
    """Return the place of a column in the order of our own."""
    known = list(CHANNELS)
    return known.index(name) if name in known else len(known)


def _toml(value: object) -> str:
    """Return a value as TOML; a JSON string is a TOML string too."""
    import json

    if isinstance(value, dict):
        return "{ " + ", ".join(f"{key} = {_toml(item)}" for key, item in value.items()) + " }"
    if isinstance(value, list):
        return "[" + ", ".join(_toml(item) for item in value) + "]"
    if isinstance(value, str):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, bool):
        return "true" if value else "false"
    return repr(value)
