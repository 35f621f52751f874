"""A folder of devices as one list: state, last verdict, worst margin, next service."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.service import Due, margins_today, service_due
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_KINDS = (".ashb", ".json")


@dataclass(frozen=True)
class DeviceRow:
    """One file: what it is called, how it stands, the sensor nearest to its limit with its margin [K], when it is due.

    `problem` is why it cannot be opened or computed. `verdict` is the last one that was kept, with its day.
    """

    path: Path
    name: str
    state: str = ""
    worst: str = ""
    margin_k: float | None = None
    due: Due | None = None
    problem: str = ""
    verdict: str = ""

    @property
    def line(self) -> str:
        """It in one line."""
        if self.problem:
            return f"{self.name}: {self.problem}"
        margin = "" if self.margin_k is None else f"{self.worst} {number(self.margin_k, 1)} K to spare; "
        last = f"last said {self.verdict} " if self.verdict else ""
        return f"{self.name}: {self.state}; {margin}{last}{self.due.words if self.due is not None else 'No limits, so no date.'}"

    def plain(self, today: date) -> dict[str, Any]:
        """Return it as plain data, the dates of 10, 50 and 90 % chance counted from a day."""
        days = [None if self.due is None else self.due.on(today, n) for n in range(3)]
        return {
            "file": str(self.path),
            "name": self.name,
            "state": self.state,
            "verdict": self.verdict,
            "worst": self.worst,
            "margin_k": self.margin_k,
            "due": [None if one is None else one.isoformat() for one in days],
            "part": None if self.due is None else self.due.part,
            "says": self.problem or (self.due.words if self.due is not None else ""),
        }


def devices(engine: Engine, folder: Path, opened: Callable[[str], Any]) -> Iterator[DeviceRow]:
    """Yield a row for every device file of a folder, by name; what cannot be read says why."""
    for path in device_files(folder):
        yield device_row(engine, path, opened)


def device_files(folder: Path) -> list[Path]:
    """Return the device files of a folder by name; a file stands for itself."""
    return [folder] if folder.is_file() else sorted(one for one in folder.iterdir() if one.suffix.lower() in _KINDS)


def device_row(engine: Engine, path: Path, opened: Callable[[str], Any]) -> DeviceRow:
    """Return how the device of a file stands, or why that cannot be said."""
    try:
        project = in_force(opened(str(path)).project)
        name = project.name or project.device.name or path.stem
        worst, margin = min(margins_today(engine, project), key=lambda one: one[1], default=("", None))
        return DeviceRow(path, name, _state(project), worst, margin, service_due(engine, project), verdict=_verdict(project))
    except AshenError as error:
        return DeviceRow(path, path.stem, problem=str(error))


def _verdict(project: Project) -> str:
    """Return the last answer that was kept about how a device does, with its day."""
    found = [one for one in project.conclusions if one.kind in ("proof", "check", "diagnosis")]
    last = max(found, key=lambda one: one.at, default=None)
    return "" if last is None else f"{last.at[:10]}: {last.title}".removeprefix(": ")


def _state(project: Project) -> str:
    """Return how far the work on a device is, by what was written down last."""
    said = []
    open_steps = [one for one in project.procedures if one.next is not None and any(step.done for step in one.steps)]
    if open_steps:
        one = open_steps[-1]
        said.append(f"{one.kind}: step {one.steps.index(one.next) + 1} of {len(one.steps)}")
    if project.runs:
        count = len(project.runs)
        said.append(f"{count} run{'s' if count > 1 else ''}, last “{project.runs[-1].label}”")
    return "; ".join(said) or "nothing measured yet"
