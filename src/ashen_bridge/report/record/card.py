"""The bench card: one page for the wall with what lies where, how screws go, what to expect and when it is due."""

from __future__ import annotations

from datetime import date
from typing import Any

import numpy as np

from ashen_bridge.assess.assessment import assess
from ashen_bridge.bench.first_power.shapes import course_of
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.checking import quick_check
from ashen_bridge.planning.crosswise import crosswise
from ashen_bridge.planning.lifting import lifts
from ashen_bridge.planning.practice import cautions
from ashen_bridge.planning.service import service_due
from ashen_bridge.planning.tray import tray
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.board_drawing import board_drawing
from ashen_bridge.report.paper import Size, html, pdf
from ashen_bridge.words.numbers import number, short

_MOST = 10  # sensors on the card
_MINUTES = (1, 3, 5)  # after full power, from idle air


def card_html(engine: Engine, project: Project, build: str | None, point: str | None, size: Size = "A4") -> str:
    """Return the card as a page of its own. Raises `AshenError` for what cannot be computed."""
    return html("card.html", _values(engine, project, build, point), size)


def card_pdf(engine: Engine, project: Project, build: str | None, point: str | None, size: Size = "A4") -> bytes:
    """Return the card as PDF. Raises `PaperError` where the system cannot print."""
    return pdf(html("card.html", _values(engine, project, build, point), size, inside=False))


def _values(engine: Engine, project: Project, build: str | None, point: str | None) -> dict[str, Any]:
    here, at = project.build(build), project.point(point)
    report = assess(project, here.id, at.id, engine=engine, fidelity="fine").report
    half = engine.rest(project, here.id, at)
    slots = tray(project, here.id).slots
    try:
        due = service_due(engine, project, here.id, at.id)
    except AshenError:
        due = None
    course = course_of(engine, project, here.id, at.id, bring=True)
    shown = {name: course.values_c[:, n] for n, name in enumerate(course.sensors)}
    check = quick_check(engine, project, here.id, at.id)
    rows = sorted(report.sensors, key=lambda row: row.margin_k if row.margin_k is not None else 1e3)[:_MOST]
    device = project.device.name or project.name or "Device"
    hazards = project.device.hazards
    return {
        "title": project.name or device,
        "running": device,
        "under": f"Build “{here.label}” at “{at.label}”, {date.today().isoformat()}",
        "drawing": board_drawing(half.resolved, slots, project.device.plugs, Side.FRONT, 118),
        "lies": _lies(project, here),
        "screws": _screws(project, here, {one.id: one.number for one in slots}),
        "minutes": _MINUTES,
        "sensors": [
            {
                "name": row.name,
                "value": number(row.value_c),
                "first": [
                    number(float(np.interp(60.0 * m, course.time_s, shown[row.name]))) for m in _MINUTES if row.name in shown
                ],
                "stop": "–" if row.limit_c is None else number(row.limit_c),
            }
            for row in rows
        ],
        "check": [check.words],
        "due": due.words if due is not None else "No limit is stated, so no date.",
        "cautions": [one.text for one in cautions() if one.at in ("power", "screw", "start", "battery") and one.applies(hazards)],
    }


def _lies(project: Project, build: Build) -> list[dict[str, str]]:
    """Return what lies where, joints of a group that hold the same together."""
    found: dict[tuple[str, str], int] = {}
    for joint in build.joints:
        said = " + ".join(
            (f"{short(piece.thickness_mm.value)} mm " if piece.thickness_mm is not None else "")
            + project.material(piece.material).name
            for piece in joint.pieces
        )
        group = project.group_of(joint.id)
        key = (group.label if group is not None else joint.label), said or "nothing"
        found[key] = found.get(key, 0) + len(joint.lower)
    return [{"where": where, "what": what, "count": str(count)} for (where, what), count in found.items()]


def _screws(project: Project, build: Build, numbers: dict[str, int]) -> list[str]:
    """Return in which order the screws of every plate go back."""
    said = []
    for lift in reversed(lifts(project, build.id)):
        screws = [one for one in lift.fasteners if one.id in numbers]
        if screws:
            order = crosswise([(one.x_mm, one.y_mm) for one in screws])
            said.append(f"{lift.plate.label}: {' → '.join(str(numbers[screws[n].id]) for n in order)}")
    return said
