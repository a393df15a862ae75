"""How soon it is nearly there: the share of a stop until it is within a tile of its end."""

from functools import partial

import numpy as np

from kickback.kinds.foot.metrics.played import ENTRY, entry_given
from kickback.kinds.foot.metrics.speeds import stop_moments, zero_moments
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import IntArray
from kickback.takes.quantities import RATIO
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_NO_TILE = "the project names no tile"


def _shares(
    scene: Scene, start: IntArray, end: FloatArray, tile: float
) -> tuple[FloatArray, FloatArray]:
    """Return after which share of stops it is within a tile of their end, and how surely."""
    motion, p = scene.motion, scene.across.p
    share, sure = np.full(len(start), np.nan), np.zeros(len(start))
    for k, (a, last) in enumerate(zip(start.tolist(), end.tolist(), strict=True)):
        if not np.isfinite(last):
            continue
        begin = float(motion.begin[a])
        stop = int(np.searchsorted(motion.t, last)) + 1
        there = float(np.interp(last, motion.t, p))
        t = np.concatenate(([begin], motion.t[a:stop]))
        left = np.abs(np.concatenate((p[a - 1 : a], p[a:stop])) - there)
        lasts = max(last - begin, float(motion.step[a]))
        far = np.flatnonzero(left > tile)
        if not far.size:
            share[k] = 0.0
            continue
        i = int(far[-1])
        j = min(i + 1, len(t) - 1)
        part = (left[i] - tile) / (left[i] - left[j]) if left[i] != left[j] else 1.0
        share[k] = min((t[i] + part * (t[j] - t[i]) - begin) / lasts, 1.0)
        pace = max(abs(left[i] - left[j]) / max(t[j] - t[i], 1e-12), 1e-12)
        sure[k] = scene.across.quantum / pace / lasts
    return share, sure


def _measure(scene: Scene, *, group: str) -> Occurrences:
    motion, tile = scene.motion, scene.motion.options.tile
    if tile is None:
        return none(_NO_TILE)
    if scene.no_release:
        return none(scene.no_release)
    if group == "turn":
        pushes = scene.pushes
        chosen = pushes.full & (pushes.entry < -motion.rest_speed)
        start, entry, moments = pushes.press, pushes.entry, zero_moments(scene)
    else:
        releases = scene.brakes if group == "brake" else scene.coasts
        start, entry = releases.start, releases.entry
        moments = stop_moments(scene, braking=group == "brake")
        chosen = np.ones(len(start), dtype=bool)
    time = np.where(chosen, moments.time, np.nan) if len(start) else np.zeros(0)
    if not np.isfinite(time).any():
        return none(f"no {group} came to an end")
    share, sure = _shares(scene, start, time, tile)
    lasts = np.maximum(time - motion.begin[start], motion.step[start])
    keep = np.isfinite(share)
    return Occurrences(
        value=share,
        start=motion.begin[start],
        end=time,
        resolution=sure + np.nan_to_num(moments.resolution / lasts),
        frame_shift=motion.step[start] / lasts,
        remark=scene.remark,
        given=entry_given(scene, entry),
    ).only(keep)


METRICS = tuple(
    Metric(
        group=group,
        part="tile_share",
        detail=True,
        dimension=RATIO,
        title=f"{title}: share until within a tile",
        definition=f"After which share of the time from {since} it is within a tile of where it"
        " comes to a stand: 0 where the whole way is shorter.",
        formula="(t(|x − x(stand)| ≤ tile) − t(start)) / (t(stand) − t(start))",
        measure=partial(_measure, group=group),
        needs=(ACROSS,),
        depends=(ENTRY,),
    )
    for group, title, since in (
        ("coast", "Coasting", "letting go"),
        ("brake", "Braking", "the press against the motion"),
        ("turn", "Turn", "the press against the motion"),
    )
)
