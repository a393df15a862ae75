"""What makes a take's metrics less certain than they could be, and what they would be else."""

from kickback.kinds.foot.motion import FootMotion
from kickback.motion.tracks import Track
from kickback.takes.record import replace

__all__ = ["doubts_of", "made_exact"]


def doubts_of(motion: FootMotion) -> tuple[str, ...]:
    """Return what widens the resolution of a motion's metrics, in words; none where nothing does.

    Rounded positions, a velocity column that is missing or is not the motion, and times
    that are rounded and uneven.
    """
    tracks = motion.by_column
    grid = max((track.quantum for track in tracks), default=0.0)
    unread = [track for track in tracks if track.source != "reported"]
    missing = [f"v{track.axis}" for track in unread if track.logged is None]
    unlike = [f"v{track.axis}" for track in unread if track.logged is not None]
    said = (
        (grid, f"positions rounded to {grid:g} {motion.take.header.length_unit}"),
        (missing, f"no {' and '.join(missing)} in the log"),
        (unlike, f"{' and '.join(unlike)} not the motion"),
        (motion.time_grid, f"uneven times rounded to {1e3 * motion.time_grid:g} ms"),
    )
    return tuple(text for present, text in said if present)


def made_exact(motion: FootMotion) -> FootMotion:
    """Return a motion as if its log were exact: same speeds, with nothing to doubt.

    Only the resolution of what is measured on it means anything.
    """
    tracks = {name: _exact(track, motion) for name, track in motion.tracks.items()}
    return replace(motion, tracks=tracks, clock=replace(motion.clock, grid=0.0))


def _exact(track: Track, motion: FootMotion) -> Track:
    theta = 1.0 if track.theta is None else track.theta
    return replace(
        track,
        source="reported",
        theta=theta,
        quantum=0.0,
        blur=0.0,
        noise=0.0,
        window=0,
        tv=motion.t,
    )
