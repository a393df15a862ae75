"""The built-in models of all kinds, and which of them plays what."""

from collections.abc import Collection, Mapping

from kickback.errors import InputError, UsageError, nearest
from kickback.kinds.model import Model
from kickback.kinds.playing.drills import Drill
from kickback.kinds.table import KINDS
from kickback.takes.header import ParameterSet, Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import Take

__all__ = ["all_drills", "drill_of", "model_named", "model_with", "models", "simulate"]


def models() -> dict[str, Model]:
    """Return the model of each kind that has one."""
    return {kind.name: kind.model for kind in KINDS if kind.model is not None}


def model_named(kind: str) -> Model:
    """Return the model of a kind; raises UsageError naming the nearest that there is."""
    known = models()
    if kind not in known:
        raise UsageError(f"no model of the kind '{kind}'{nearest(kind, known)}")
    return known[kind]


def model_with(names: Collection[str]) -> str:
    """Return the kind whose model knows most of some parameters; the first of equal ones."""
    known = models()
    return max(known, key=lambda kind: len(set(names) & set(known[kind].parameters)))


def all_drills() -> dict[str, str]:
    """Return the kind of each drill that ships with a model, by its name."""
    return {name: kind for kind, model in models().items() for name in model.drills}


def drill_of(data: PlainMap, place: str) -> Drill:
    """Build a drill from its plain form: of the kind that it names, or that its inputs tell.

    Raises InputError for a kind that is none, and naming the key that is unknown or wrong.
    """
    known = models()
    named = data.get("kind")
    if named is not None and named not in known:
        raise InputError(f"'kind' is '{named}'{nearest(str(named), known)}", place)
    items = data.get("input")
    held = (
        {key for item in items if isinstance(item, Mapping) for key in item}
        if isinstance(items, list)
        else set()
    )
    kind = named or max(known, key=lambda one: len(held & set(known[one].inputs)))
    return known[kind].drill(data, place)


def simulate(
    parameters: ParameterSet | Mapping[str, Value] | None = None,
    drill: Drill | PlainMap | None = None,
    *,
    kind: str | None = None,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> Take:
    """Play a drill with one parameter set, by the model of a kind of subject.

    ``drill`` may be in the plain form of a drill file, ``{"input": [{"at": 0.5, "until":
    2.0, "move_x": 1.0}]}``; a short standard one without. ``kind`` is told by the drill, or by
    the parameters' names, where it is not given. Raises InputError for parameters or a drill that
    make no sense, UsageError for a kind or a rate that is none.
    """
    if drill is not None and not isinstance(drill, Drill):
        drill = model_named(kind).drill(drill, "drill") if kind else drill_of(drill, "drill")
    if kind is None and drill is not None:
        kind = drill.kind
    if kind is None:
        values = parameters.values if isinstance(parameters, ParameterSet) else parameters
        kind = model_with(values or ())
    take: Take = model_named(kind).simulate(
        parameters, drill, frame_rate=frame_rate, jitter=jitter, seed=seed
    )
    return take
