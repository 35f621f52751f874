"""The sheet of a procedure: what is needed, the steps with boxes to tick, and the tray."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ashen_bridge.model.bodies import Side
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.planning.needs import needs
from ashen_bridge.planning.tray import tray
from ashen_bridge.report.board_drawing import board_drawing
from ashen_bridge.report.paper import Size, html, pdf


def sheet_html(project: Project, procedure: Procedure, size: Size = "A4") -> str:
    """Return the sheet as a page of its own. Raises `AshenError` for a build that cannot be resolved."""
    return html("procedure.html", _values(project, procedure), size)


def sheet_pdf(project: Project, procedure: Procedure, size: Size = "A4") -> bytes:
    """Return the sheet as PDF. Raises `PaperError` where the system cannot print."""
    return pdf(html("procedure.html", _values(project, procedure), size, inside=False))


def _values(project: Project, procedure: Procedure) -> dict[str, Any]:
    build = project.build(procedure.build)
    device = project.device.name or project.name or "Device"
    shut = len(procedure.steps) == 1 and procedure.steps[0].hold == "licensed"
    slots = () if shut else tray(project, build.id).slots
    resolved = resolve(project, build.id)
    sides = [side for side in Side if any(one.side is side for one in slots)]
    drawings = [board_drawing(resolved, slots, project.device.plugs, side, 170 / max(len(sides), 1)) for side in sides]
    steps = [
        {
            "number": n + 1,
            "hold": one.kind == "hold",
            "done": one.done,
            "text": one.text,
            "caution": one.caution,
            "note": one.note,
            "minutes": f"{one.minutes:.0f} min" if one.minutes >= 1 else "",
        }
        for n, one in enumerate(procedure.steps)
    ]
    return {
        "title": procedure.label,
        "running": device,
        "under": f"{device}, build “{build.label}”. Tick every box; nothing goes on past a hold point that is open.",
        "needs": () if shut else needs(project, build.id),
        "steps": steps,
        "slots": slots,
        "board": Markup(" ").join(drawings),
    }
