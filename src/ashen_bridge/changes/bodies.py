"""Changes of the device's bodies: put in with what belongs to them, and what they have inside."""

from __future__ import annotations

from typing import Any, Literal

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.changes.materials import with_library
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Board, Body, Component, DieMakeUp, Landing, MakeUp, Plate, PowerBlock
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Limit, Sensor
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.inner import BoardRegion, Recess, Vias
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.sharing import replaced, with_each, with_more, with_part

Under = Literal["vias", "land"]
_WORDS = {"vias": "Vias", "land": "Copper land"}
_LAND_MM = 3.0  # by how much a land is larger than its part on every side


def add_board(project: Project, board: Board) -> Project:
    """Add the board, and a first build and operating point where there are none."""
    if any(isinstance(body, Board) for body in project.device.bodies):
        raise ProjectError("The device has its board already; change its size instead.")
    project = with_library(project, [board.material])
    return replaced(
        project,
        device=replaced(project.device, bodies=(board, *project.device.bodies)),
        builds=project.builds or (Build(id="as_found", name="As found"),),
        points=project.points or (OperatingPoint(id="load", name="Full load"),),
    )


def add_body(
    project: Project,
    body: Body,
    materials: tuple[str, ...] = (),
    power_w: Quantity | None = None,
    fan_percent: Quantity | None = None,
    sensors: tuple[Sensor, ...] = (),
    limits: tuple[Limit, ...] = (),
) -> Project:
    """Add a body with the library materials it needs, its power or fan at every point, its sensors and their limits."""
    project = with_library(project, materials)
    device = project.device
    device = replaced(
        device,
        bodies=(*device.bodies, body),
        sensors=(*device.sensors, *sensors),
        limits=(*device.limits, *limits),
    )

    def with_numbers(point: OperatingPoint) -> OperatingPoint:
        powers = {} if power_w is None else {body.id: power_w}
        fans = {} if fan_percent is None else {body.id: fan_percent}
        return replaced(point, powers_w={**point.powers_w, **powers}, fans_percent={**point.fans_percent, **fans})

    return replaced(project, device=device, points=tuple(with_numbers(point) for point in project.points))


def add_components(
    project: Project, parts: tuple[Component, ...], materials: tuple[str, ...], powers_w: dict[str, Quantity]
) -> Project:
    """Add many components with the library materials they need, and their powers at every point."""
    project = with_part(with_library(project, materials), "device", lambda device: with_more(device, "bodies", *parts))
    points = tuple(replaced(point, powers_w={**point.powers_w, **powers_w}) for point in project.points)
    return replaced(project, points=points)


def add_sensor(project: Project, sensor: Sensor, limits: tuple[Limit, ...] = ()) -> Project:
    """Add a sensor, with limits on it."""
    return with_part(project, "device", lambda one: with_more(with_more(one, "sensors", sensor), "limits", *limits))


def add_landing(project: Project, plate: str, landing: Landing) -> Project:
    """Add a landing to a plate of the device."""
    return with_part(
        project, "device", lambda one: with_each(one, "bodies", lambda body: with_more(body, "landings", landing), (plate,))
    )


def set_make_up(project: Project, path: str, make_up: MakeUp, materials: tuple[str, ...]) -> Project:
    """Say what the component at a path is made of inside."""
    return paths.changed_at(with_library(project, materials), path, lambda one: replaced(one, make_up=make_up))


def everywhere(project: Project, body: str, change: Any) -> Project:
    """Return the project with a body changed wherever it is: in the device and in builds that add one of its name."""
    project.body(body)
    own = {f"device.bodies.{body}"} if any(one.id == body for one in project.device.bodies) else set()
    added = {f"builds.{build.id}.added.{body}" for build in project.builds if any(one.id == body for one in build.added)}
    return paths.changed_all(project, dict.fromkeys(own | added, change))


def region_id(part: str, what: Under) -> str:
    """Return the id of the board region that holds what was put under a part."""
    return f"{what}_{part}"[:48]


def has_under(project: Project, part: str, what: Under) -> bool:
    """Return whether the board has vias or a land that were put under a part."""
    boards = (body for body in project.device.bodies if isinstance(body, Board))
    return any(region.id == region_id(part, what) for board in boards for region in board.regions)


def toggle_under(project: Project, part: str, what: Under) -> Project:
    """Put vias or a copper land under a part, as large as it (a land a little larger), or take them out again."""
    board = next((body for body in project.all_bodies if isinstance(body, Board)), None)
    if board is None:
        raise ProjectError("There is no board: draw it first.")
    kept = tuple(region for region in board.regions if region.id != region_id(part, what))
    if not has_under(project, part, what):
        body = project.body(part)
        area = rect_of(_within(_grown(body.footprint.bounds, _LAND_MM if what == "land" else 0.0), board.footprint.bounds))
        says: dict[str, Any] = {"vias": Vias()} if what == "vias" else {"land_cover": q(1.0, 0.05)}
        kept += (BoardRegion(id=region_id(part, what), name=f"{_WORDS[what]} under {body.label}"[:200], area=area, **says),)
    return everywhere(project, board.id, lambda one: replaced(one, regions=kept))


def toggle_pocket(project: Project, plate: str) -> Project:
    """Cut a pocket into the middle of a plate's outer face, a third as deep as the plate; or take all pockets out again."""

    def change(one: Plate) -> Plate:
        x0, y0, x1, y1 = one.footprint.bounds
        middle = (x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3, x1 - (x1 - x0) / 3, y1 - (y1 - y0) / 3)
        pocket = Recess(id="pocket", area=rect_of(middle), depth_mm=q(round(one.thickness_mm.value / 3, 3), 0.05))
        return replaced(one, recesses=() if one.recesses else (pocket,))

    return everywhere(project, plate, change)


def set_power_map(project: Project, die: str, blocks: tuple[PowerBlock, ...]) -> Project:
    """Say where in a bare die how much of its heat is made."""

    def change(one: Body) -> Body:
        if not isinstance(one, Component) or not isinstance(one.make_up, DieMakeUp):
            raise ProjectError(f"There is no bare die '{die}' to take a power map.")
        return with_part(one, "make_up", lambda inner: replaced(inner, power_map=blocks))

    return everywhere(project, die, change)


def weaken_sink(project: Project, plate: str, factor: float) -> Project:
    """Let a rated sink give less to the air: its resistance to it `factor` times as stated."""

    def change(sink: Any) -> Any:
        return with_part(sink, "convective_k_w", lambda old: replaced(old, value=old.value * factor))

    return everywhere(project, plate, lambda one: with_part(one, "sink", change))


def crown_landing(project: Project, plate: str, landing: str, more_um: float) -> Project:
    """Let a landing stand out more in its middle (+) or be more hollow (−) than it is said to be [µm]."""

    def change(one: Landing) -> Landing:
        crown = replaced(one.form.crown_um, value=one.form.crown_um.value + more_um)
        return with_part(one, "form", lambda form: replaced(form, crown_um=crown))

    return everywhere(project, plate, lambda one: with_each(one, "landings", change, (landing,)))


def _grown(box: Box, by: float) -> Box:
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


def _within(box: Box, outer: Box) -> Box:
    return max(box[0], outer[0]), max(box[1], outer[1]), min(box[2], outer[2]), min(box[3], outer[3])
