"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Literal

from ashen_bridge.changes.edit import Edit
from ashen_bridge.model.material import Material
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.result import Advice, Plan, ShelfCurve

if TYPE_CHECKING:
    from ashen_bridge.planning.allowed import Tolerances
    from ashen_bridge.planning.checked import QuickCheck
    from ashen_bridge.planning.choosing.stages import Stage
    from ashen_bridge.planning.comparing import Compared
    from ashen_bridge.planning.cutting.orders import CutPlan
    from ashen_bridge.planning.cutting.volumes import Dispensed
    from ashen_bridge.planning.devices import DeviceRow
    from ashen_bridge.planning.interventions import Intervention
    from ashen_bridge.planning.remedies import Effect
    from ashen_bridge.planning.sliding import Slid
    from ashen_bridge.predict.engine import Engine


def advice(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Advice | None]]:
    """Search plans for all joints together, better them, and say why not the others."""
    from ashen_bridge.planning.choosing.advise import advising

    yield from advising(engine, project, build, point)


def compared(
    engine: Engine, project: Project, builds: Sequence[str], points: Sequence[str]
) -> Iterator[tuple[float, tuple[Compared, ...]]]:
    """Compute builds at operating points, to be set beside each other."""
    from ashen_bridge.planning.comparing import comparing

    yield from comparing(engine, project, builds, points)


def compared_file(engine: Engine, other: Project, name: str) -> Iterator[tuple[float, tuple[Compared, ...]]]:
    """Compute the builds of another file, and say what its runs came to."""
    from ashen_bridge.planning.comparing_files import comparing_file

    yield from comparing_file(engine, other, name)


def remedied(
    engine: Engine, project: Project, build: str, point: str, edits: Sequence[Edit]
) -> Iterator[tuple[float, tuple[Effect, ...]]]:
    """Work out what each of some edits would do, before any is made."""
    from ashen_bridge.planning.remedies import effects

    yield from effects(engine, project, build, point, edits)


def other_ways(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, tuple[Intervention, ...]]]:
    """Say what may be done beside choosing a material, and what it would do."""
    from ashen_bridge.planning.interventions import weighing

    yield from weighing(engine, project, build, point)


def staged(engine: Engine, project: Project, build: str, point: str, plan: Plan) -> Iterator[tuple[float, tuple[Stage, ...]]]:
    """Split a plan into stages that tests can tell apart."""
    from ashen_bridge.planning.choosing.stages import staging

    yield from staging(engine, project, build, point, plan)


def cutting(engine: Engine, project: Project, build: str) -> Iterator[tuple[float, tuple[CutPlan, tuple[Dispensed, ...]] | None]]:
    """Lay the pieces of a build onto sheets, and say what is dispensed."""
    from ashen_bridge.planning.cutting.orders import cut_plan
    from ashen_bridge.planning.cutting.volumes import dispensing

    dispensed = dispensing(engine, project, build)
    yield 0.5, None
    yield 1.0, (cut_plan(project, build, dispensed), dispensed)


def closing_up(engine: Engine, project: Project, build: str, agent: Literal["99", "70"]) -> Iterator[tuple[float, Procedure]]:
    """Work out the steps that close a build up."""
    from ashen_bridge.planning.closing_up import closing_up as made

    yield 1.0, made(engine, project, build, agent)


def burning_in(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Procedure]]:
    """Work out hot and cold cycles, as steps with timers."""
    from ashen_bridge.planning.burn_in import burn_in, burn_in_steps

    yield 1.0, burn_in_steps(project, burn_in(engine, project, build, point))


def tolerances(
    engine: Engine, project: Project, build: str, point: str, chance: float
) -> Iterator[tuple[float, Tolerances | None]]:
    """Work out how wide every chosen ± may be."""
    from ashen_bridge.planning.tolerances import tolerating

    yield from tolerating(engine, project, build, point, chance)


def slid(engine: Engine, project: Project, build: str, point: str, values: Mapping[str, float]) -> Iterator[tuple[float, Slid]]:
    """Say what sensors show where some numbers are elsewhere."""
    from ashen_bridge.planning.sliding import slid as answer

    yield from answer(engine, project, build, point, values)


def shelved(
    engine: Engine, materials: Sequence[Material], pressure_kpa: float, thickness_mm: float
) -> Iterator[tuple[float, tuple[ShelfCurve, ...]]]:
    """Work out what people decide by, of some materials."""
    from ashen_bridge.planning.choosing.shelf import shelf

    del engine
    yield 1.0, shelf(materials, pressure_kpa, thickness_mm)


def folder(engine: Engine, path: str) -> Iterator[tuple[float, DeviceRow | None]]:
    """Say how every device file of a folder stands, one after another."""
    from pathlib import Path

    from ashen_bridge.files.demos import open_anything
    from ashen_bridge.planning.devices import device_files, device_row

    files = device_files(Path(path))
    yield 0.0, None
    for n, one in enumerate(files):
        yield (n + 1) / len(files), device_row(engine, one, open_anything)


def quick_check(
    engine: Engine, project: Project, build: str, point: str, minutes: float
) -> Iterator[tuple[float, QuickCheck | None]]:
    """Say what sensors show after some minutes of a load, by the record, and by how much more the device is opened."""
    from ashen_bridge.planning.checking import quick_check as checking

    yield 0.1, None
    yield 1.0, checking(engine, project, build, point, minutes)
