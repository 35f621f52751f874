"""The cut sheet: every sheet at exactly 1:1 with its cuts, tiled where it is larger than the paper; pieces, orders, volumes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.model.project import Project
from ashen_bridge.planning.cutting.nesting import Laid
from ashen_bridge.planning.cutting.orders import CutPlan
from ashen_bridge.planning.cutting.volumes import Dispensed
from ashen_bridge.report.cut_drawing import scale_bar, sheet_svg
from ashen_bridge.report.paper import Size, html, pdf
from ashen_bridge.words.numbers import short

_ROOM = {"A4": (180.0, 222.0), "Letter": (185.0, 204.0)}  # [mm] of a page that a drawing may take
_CAUTION = "Knives: cut on a board, away from the hand that holds. Metal shims have sharp edges. Films stay on until placing."
_LAP = 8.0  # [mm] by which tiles lap over each other


def cut_html(project: Project, plan: CutPlan, dispensed: Sequence[Dispensed] = (), size: Size = "A4") -> str:
    """Return the cut sheet as a page of its own."""
    return html("cut.html", _values(project, plan, dispensed, size), size)


def cut_pdf(project: Project, plan: CutPlan, dispensed: Sequence[Dispensed] = (), size: Size = "A4") -> bytes:
    """Return the cut sheet as PDF, lengths at exactly 1:1. Raises `PaperError` where the system cannot print."""
    return pdf(html("cut.html", _values(project, plan, dispensed, size), size, inside=False))


def _values(project: Project, plan: CutPlan, dispensed: Sequence[Dispensed], size: Size) -> dict[str, Any]:
    build = project.build(plan.build)
    device = project.device.name or project.name or "Device"
    return {
        "title": f"Cut for {build.label}",
        "running": device,
        "under": f"{device}, build “{build.label}”. Print at 100 %, without fitting to the page; check the bar before you cut.",
        "bar": scale_bar(),
        "pages": [page for n, one in enumerate(plan.laid, 1) for page in _pages(n, one, size)],
        "pieces": [
            {
                "number": cut.number,
                "for": cut.label,
                "of": cut.name,
                "size": f"{short(cut.size_mm[0])} × {short(cut.size_mm[1])} × {short(cut.sheet_mm)}",
                "notes": "; ".join((*cut.notes, *cut.wrong)),
            }
            for cut in plan.cuts
        ],
        "orders": [
            {
                "what": one.what,
                "quantity": one.quantity,
                "why": one.why + (f". Or: {one.alternative}" if one.alternative else ""),
                "price": "at hand" if one.at_hand else "" if one.price is None else f"{one.price:.2f} {plan.currency}".strip(),
            }
            for one in plan.orders
        ],
        "dispensed": [{"for": one.label, "of": one.name, "says": one.says} for one in dispensed],
        "wrong": plan.wrong,
        "caution": _CAUTION,
    }


def _pages(number: int, laid: Laid, size: Size) -> list[dict[str, Any]]:
    """Return the drawings of one sheet: one page if it has room, else tiles that lap over each other."""
    w, h = laid.sheet.w_mm, laid.sheet.h_mm
    wide, high = _ROOM[size]
    across, down = _tiles(w, wide), _tiles(h, high)
    name = laid.placed[0].cut.name if laid.placed else laid.sheet.material
    head = f"Sheet {number}: {name}, {laid.sheet.says}" + (" (at hand)" if laid.sheet.stock else "")
    count = len(across) * len(down)
    pages = []
    for n, (y0, y1) in enumerate(reversed(down)):
        for m, (x0, x1) in enumerate(across):
            at = n * len(across) + m + 1
            tile = f", part {at} of {count}: row {n + 1}, column {m + 1}; parts lap over by {_LAP:g} mm" if count > 1 else ""
            cuts = f"{len(laid.cuts)} straight cuts in the order of their numbers" if at == 1 else ""
            pages.append({"head": head + tile, "cuts": cuts, "drawing": sheet_svg(laid, (x0, y0, x1, y1))})
    return pages


def _tiles(whole: float, room: float) -> list[tuple[float, float]]:
    found, at = [(0.0, min(whole, room))], min(whole, room)
    while at < whole - 1e-6:
        start = at - _LAP
        at = min(start + room, whole)
        found.append((start, at))
    return found
