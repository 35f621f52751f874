"""Answers that are kept as they were given."""

from __future__ import annotations

from ashen_bridge.model.history import Conclusion
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find, replaced, with_more


def keep(project: Project, conclusion: Conclusion) -> Project:
    """Keep an answer for the record."""
    return with_more(project, "conclusions", conclusion)


def drop(project: Project, conclusion: str) -> Project:
    """Keep an answer no longer."""
    find(project.conclusions, conclusion, "conclusion")
    return replaced(project, conclusions=tuple(one for one in project.conclusions if one.id != conclusion))
