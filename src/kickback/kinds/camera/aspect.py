"""A camera beside its subject, as it goes with any kind."""

from kickback.causes.constants import ConstantRow
from kickback.kinds.aspect import Aspect
from kickback.kinds.camera.findings import FINDINGS, check_camera
from kickback.kinds.camera.follow import FOLLOW, follow_laws
from kickback.kinds.camera.metrics import METRICS
from kickback.kinds.camera.roles import ROLES, camera_tracks, followed
from kickback.kinds.picture import Curve
from kickback.motion.motion import Motion
from kickback.takes.quantities import LENGTH

__all__ = ["CAMERA"]


def _moved(_: ConstantRow) -> tuple[str, ...]:
    return ("camera",)


def _curves(motion: Motion) -> list[Curve]:
    """Return where the subject is in the picture: the subject's place less the camera's."""
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


CAMERA = Aspect(
    name="camera",
    roles=ROLES,
    tracks=camera_tracks,
    metrics=METRICS,
    laws=follow_laws,
    moved=_moved,
    checks=(check_camera,),
    findings=FINDINGS,
    families=(FOLLOW,),
    curves=_curves,
)
