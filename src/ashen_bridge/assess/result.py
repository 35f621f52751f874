"""What assessing gives. Light to import, like `predict.prediction`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.project import Project
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import Report

What = Literal["fan", "power", "ambient"]
STOCK_MM = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0)


@dataclass(frozen=True)
class Assessment:
    """A prediction and what there is to say about it."""

    prediction: Prediction
    findings: tuple[Finding, ...]

    @property
    def report(self) -> Report:
        """The numbers."""
        return self.prediction.report


@dataclass(frozen=True)
class StripCell:
    """One thickness: hottest part of the group and hottest die point [°C], least contact, mean compression; or why not."""

    thickness_mm: float
    group_c: float | None = None
    die_c: float | None = None
    contact: float | None = None
    compression: float | None = None
    refusal: str = ""


@dataclass(frozen=True)
class LayerGain:
    """One layer or way: what to call it, its kind, ids it is about, and by how much the sensor falls if it is perfect [K]."""

    label: str
    kind: str
    about: tuple[str, ...]
    gain_k: float


@dataclass(frozen=True)
class Answer:
    """What was asked, its value (fan [% of rated], power [times the present], ambient [°C]), what decides, and a sentence."""

    what: What
    value: float
    decided_by: str
    text: str


def stock_thicknesses(project: Project, build_id: str, joints: tuple[str, ...]) -> tuple[float, ...]:
    """Return the stock thicknesses [mm] of the pad material a group uses, else the usual steps."""
    for joint in project.build(build_id).joints:
        if joint.id in joints:
            for piece in joint.pieces:
                stock = project.material(piece.material).stock_thicknesses_mm
                if piece.thickness_mm is not None and stock:
                    return stock
    return STOCK_MM
