"""What the contacts of the open board show: what is expected there, what was said, and whether that surprises."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ashen_bridge.desktop.charts.outlines import Box
from ashen_bridge.desktop.steps.board_picture import ContactMark
from ashen_bridge.model.evidence import Evidence
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.desktop.openup.desk import OpenDesk


def contact_marks(desk: OpenDesk, boxes: dict[str, Box]) -> tuple[ContactMark, ...]:
    """Return a mark for every contact whose lower body is shown."""
    found = desk.found
    if found is None or desk.closing is None:
        return ()
    odd = {one.id for one in found.statements if not one.agrees}
    marks = []
    for one in found.looked:
        if one.lower in boxes:
            said = said_of(desk.session.project, desk.closing.id, one.joint, one.lower)
            words = ", ".join(each.says for each in said)
            toward = next((each.toward_deg for each in said if each.toward_deg is not None), None)
            chosen = (one.joint, one.lower) == (desk.view.joint, desk.view.lower)
            surprise = any(each.id in odd for each in said)
            marks.append(
                ContactMark(one.joint, one.lower, one.name, boxes[one.lower], one.expected, words, surprise, toward, chosen)
            )
    return tuple(marks)


def said_of(project: Project, closing: str, joint: str, lower: str) -> tuple[Evidence, ...]:
    """Return what counts of what was said of a contact."""
    where = (closing, joint, lower)
    return tuple(one for one in project.evidence if (one.closing, one.joint, one.lower) == where and not one.aside)
