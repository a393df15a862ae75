"""A camera beside its subject, as it goes with any kind."""

from kickback.kinds.aspect import Aspect, Measured, Ruled
from kickback.kinds.camera.roles import ROLES, camera_tracks
from kickback.kinds.picture import Curve
from kickback.motion.motion import Motion
from kickback.takes.quantities import LENGTH

__all__ = ["CAMERA"]


def _curves(motion: Motion) -> list[Curve]:
    """Return where the subject is in the picture: the subject's place less the camera's."""
    from kickback.kinds.camera.filmed import followed

    unit = LENGTH.within(motion.take.header.length_unit)
    return [
        Curve(
            label=f"{one.axis} on screen",
            role=one.role.name,
            unit=unit,
            t=motion.t,
            y=one.leader - one.follower,
        )
        for one in followed(motion)
    ]


def _measured() -> Measured:
    from kickback.kinds.camera.findings import FINDINGS, check_camera
    from kickback.kinds.camera.metrics import METRICS

    return Measured(metrics=METRICS, checks=(check_camera,), findings=FINDINGS)


def _rules() -> Ruled:
    from kickback.kinds.camera.follow import FOLLOW, follow_laws

    return Ruled(laws=follow_laws, moved=lambda _: ("camera",), families=(FOLLOW,))


CAMERA = Aspect(
    name="camera",
    roles=ROLES,
    tracks=camera_tracks,
    curves=_curves,
    load_measured=_measured,
    load_rules=_rules,
)
