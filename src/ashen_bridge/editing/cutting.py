"""Edits that cutting leads to: what was used leaves the stock, what remains joins it."""

from __future__ import annotations

from ashen_bridge.changes import stocking
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.wishes import StockItem
from ashen_bridge.planning.cutting.orders import CutPlan


def keep_rests(project: Project, plan: CutPlan, opened: str = "") -> Edit:
    """Return the edit after everything was cut: used sheets go, offcuts large enough to keep become stock."""
    taken = [item.id for item in project.stock]
    rests = []
    for one in plan.laid:
        for x0, y0, x1, y1 in one.rests:
            name = fresh_id("offcut", taken)
            taken.append(name)
            rests.append(
                StockItem(
                    id=name,
                    material=one.sheet.material,
                    thickness_mm=q(one.sheet.thickness_mm, round(0.05 * one.sheet.thickness_mm, 4)),
                    w_mm=round(x1 - x0, 1),
                    h_mm=round(y1 - y0, 1),
                    opened=opened,
                    note="offcut",
                )
            )
    used = tuple(one.sheet.stock for one in plan.laid if one.sheet.stock)
    return edit("Cut: sheets used, offcuts kept", stocking.cut_from_stock, used, tuple(rests))
