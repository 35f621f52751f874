"""A prediction as a whole. Light to import: windows read stored predictions before any solver is loaded."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ashen_bridge.predict.maps import Maps, Pose
from ashen_bridge.predict.report import Report

Fidelity = Literal["coarse", "fine"]


@dataclass(frozen=True)
class Prediction:
    """A report with its maps and the poses it holds for."""

    report: Report
    maps: Maps
    poses: tuple[Pose, ...]
