"""Whatever closes over the stack: does it close, how far does it bulge, what force do the pads under it carry."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Plate
from ashen_bridge.predict.report import ClosingRow, JointRow


def closing_rows(scene: Scene, joints: Sequence[JointRow]) -> tuple[ClosingRow, ...]:
    """Return one row per plate that stands still and has something under it.

    The least clearance is the smallest gap of its joints; a joint that has to be squeezed into less than nothing says that the
    plate rests on what is under it.
    """
    rows = []
    for name, body in scene.bodies.items():
        under = [joint for joint in joints if joint.upper == name]
        if not isinstance(body.model, Plate) or body.floats or not under:
            continue
        force = sum(joint.force_n for joint in under)
        most = body.model.closing_force_n.value if body.model.closing_force_n else None
        tightest = min(under, key=lambda joint: joint.gap_mm)
        hardest = max(under, key=lambda joint: joint.force_n)
        rows.append(
            ClosingRow(
                id=name,
                name=body.model.label,
                force_n=force,
                most_n=most,
                closes=most is None or force <= most,
                bulge_mm=force * body.model.give_um_n.value * 1e-3,
                clearance_mm=tightest.gap_mm,
                tightest=tightest.lower,
                hardest=hardest.id,
            )
        )
    return tuple(rows)
