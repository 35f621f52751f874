"""What the contacts of the open board show: what is expected there, what was said, and whether that surprises."""

from __future__ import annotations

from collections.abc import Mapping

from ashen_bridge.desktop.charts.outlines import Box
from ashen_bridge.desktop.steps.contact_mark import ContactMark
from ashen_bridge.evidence.result import Seen
from ashen_bridge.model.evidence import Evidence
from ashen_bridge.model.project import Project


def contact_marks(
    found: Seen, project: Project, closing: str, looked_at: tuple[str, str], boxes: Mapping[str, Box]
) -> tuple[ContactMark, ...]:
    """Return a mark for every contact of a closing whose lower body is shown; `looked_at` is one by joint and lower body."""
    odd = {one.id for one in found.statements if not one.agrees}
    marks = []
    for one in found.looked:
        if one.lower in boxes:
            said = said_of(project, closing, one.joint, one.lower)
            words = ", ".join(each.says for each in said)
            toward = next((each.toward_deg for each in said if each.toward_deg is not None), None)
            chosen = (one.joint, one.lower) == looked_at
            surprise = any(each.id in odd for each in said)
            marks.append(
                ContactMark(one.joint, one.lower, one.name, boxes[one.lower], one.expected, words, surprise, toward, chosen)
            )
    return tuple(marks)


def said_of(project: Project, closing: str, joint: str, lower: str) -> tuple[Evidence, ...]:
    """Return what counts of what was said of a contact."""
    where = (closing, joint, lower)
    return tuple(one for one in project.evidence if (one.closing, one.joint, one.lower) == where and not one.aside)
