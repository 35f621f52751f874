"""What a finding is, and what the rules get to see."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from ashen_bridge.model.base import Frozen
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.predict.report import JointRow, Report

Severity = Literal["serious", "warning", "note"]
RANK: dict[str, int] = {"serious": 0, "warning": 1, "note": 2}


class Finding(Frozen):
    """One judgement. `about` is the id of the joint, body or sensor it is about; `also` lists its companions."""

    code: str
    severity: Severity
    about: str
    text: str
    remedy: str
    numbers: dict[str, float]
    also: tuple[str, ...] = ()


@dataclass(frozen=True)
class DieWithout:
    """A die joint if the pads under the same plate pushed back with nothing: bond line [µm] and hottest point [°C]."""

    bond_line_um: float
    t_max_c: float
    t_max_now_c: float


@dataclass(frozen=True)
class Case:
    """A prediction with what the rules need beside it.

    without_pads : by die joint id. force_after_more : die force [N] by (die joint, group label) if that group's pads were
    `cliff_step_mm` thicker.
    """

    project: Project
    resolved: ResolvedBuild
    report: Report
    without_pads: dict[str, DieWithout] = field(default_factory=dict)
    force_after_more: dict[tuple[str, str], float] = field(default_factory=dict)
    cliff_step_mm: float = 0.1

    def is_die(self, row: JointRow) -> bool:
        """Return whether a joint row lies over a die."""
        return any(c.id == row.lower and c.kind == "die" for c in self.report.components)

    def is_pad(self, row: JointRow) -> bool:
        """Return whether a joint row holds a pad."""
        return row.compression is not None

    def label(self, body_id: str) -> str:
        """Return the name of a body as shown to people."""
        return self.resolved.body(body_id).label

    def group_label(self, joint_id: str) -> str:
        """Return the name of the group a joint is edited with, or its own."""
        group = self.project.group_of(joint_id)
        return group.label if group else next(row.name for row in self.report.joints if row.id == joint_id)

    def grouped(self, rows: list[JointRow]) -> Iterator[tuple[str, int, list[JointRow]]]:
        """Yield rows by group: its label, how many joints it has in this build, and the rows that are in it."""
        by_label: dict[str, list[JointRow]] = {}
        for row in rows:
            by_label.setdefault(self.group_label(row.id), []).append(row)
        for label, members in by_label.items():
            total = sum(1 for row in self.report.joints if self.group_label(row.id) == label)
            yield label, total, members
