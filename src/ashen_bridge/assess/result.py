"""What assessing gives. Light to import, like `predict.prediction`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ashen_bridge.findings.finding import Finding
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import Report

What = Literal["fan", "power", "ambient"]


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
