"""A camera beside its subject, as it goes with any kind."""

from kickback.causes.constants import ConstantRow
from kickback.kinds.aspect import Aspect
from kickback.kinds.camera.findings import FINDINGS, check_camera
from kickback.kinds.camera.follow import FOLLOW, follow_laws
from kickback.kinds.camera.metrics import METRICS
from kickback.kinds.camera.roles import ROLES, camera_tracks

__all__ = ["CAMERA"]


def _moved(_: ConstantRow) -> tuple[str, ...]:
    return ("camera",)


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
)
