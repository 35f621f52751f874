"""Everything that may be wrong with a device in a build at an operating point."""

from __future__ import annotations

from ashen_bridge.bench.diagnosis.hypothesis import Hypothesis
from ashen_bridge.bench.diagnosis.of_circumstances import of_circumstances, of_sensors
from ashen_bridge.bench.diagnosis.of_closings import of_closings
from ashen_bridge.bench.diagnosis.of_devices import of_devices
from ashen_bridge.model.project import Project

__all__ = ["Hypothesis", "hypotheses"]


def hypotheses(project: Project, build: str, point: str, before: str | None = None) -> tuple[Hypothesis, ...]:
    """Return everything this device, build and point leaves room for; `before` is the build it was changed from, if any."""
    return (
        *of_closings(project, build, before),
        *of_devices(project, build),
        *of_circumstances(project, build, point),
        *of_sensors(project),
    )
