"""What the plan shows, as plain values: items with their place, fill and words. Made from a desk, drawn by the painter."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PyQt6.QtGui import QColor

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.charts.pictures import even_raster
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.geometry.section import Cut
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate
from ashen_bridge.model.footprint import Rect
from ashen_bridge.predict.maps import JointMap
from ashen_bridge.words.numbers import length, number

MARGIN_SPAN = 25.0  # [K] of margin over which a part goes from "at its limit" to "at ease" in the shading

_THINNEST_UM = 1.0


@dataclass(frozen=True)
class Item:
    """One body in plan. `box` x0, y0, x1, y1 [mm]; `fill` None leaves it open; `mark` is a state glyph."""

    id: str
    kind: str
    rects: tuple[Rect, ...]
    holes: tuple[Rect, ...]
    box: tuple[float, float, float, float]
    fill: QColor | None
    name: str
    value: str
    mark: str
    selected: bool = False
    companion: bool = False
    tip: str = ""
    figure: str = ""


@dataclass(frozen=True)
class Screw:
    """A fastener in plan [mm]."""

    id: str
    x: float
    y: float
    text: str


@dataclass(frozen=True)
class Raster:
    """A picture to lay over a box [mm]; where its ramp goes by the logarithm, `values` hold that to the base of ten."""

    box: tuple[float, float, float, float]
    values: np.ndarray
    heat: bool
    by_ten: bool = False


@dataclass(frozen=True)
class Legend:
    """What the ramp means; a title alone where there is nothing to show."""

    title: str
    low: str
    high: str
    heat: bool

    @property
    def unit(self) -> str:
        """The unit its figures end with."""
        return self.high.rsplit(" ", 1)[-1] if " " in self.high else ""


@dataclass(frozen=True)
class Outline:
    """The edge of a landing or of a piece with an outline of its own [mm], with a few words."""

    box: tuple[float, float, float, float]
    kind: str
    words: str


@dataclass(frozen=True)
class PlanPicture:
    """Everything the plan painter needs."""

    extent: tuple[float, float, float, float]
    items: tuple[Item, ...]
    screws: tuple[Screw, ...]
    rasters: tuple[Raster, ...]
    low: float
    high: float
    legend: Legend | None
    cut: Cut
    stale: bool
    side: Side


def plan_picture(desk: StackDesk, theme: Theme) -> PlanPicture | None:
    """Return the plan of the session's build; None while it has no board."""
    bodies = desk.session.project.bodies_of(desk.session.build)
    board = next((body for body in bodies if isinstance(body, Board)), None)
    if board is None:
        return None
    side = desk.view.side
    shown = [body for body in bodies if isinstance(body, Board) or body.side is side]
    order = {"board": 0, "substrate": 1, "component": 2, "plate": 3}
    shown.sort(key=lambda body: order[body.kind])
    rasters, low, high, legend = _overlay(desk)
    together = frozenset(desk.session.joints)
    items = tuple(_item(desk, theme, body, together) for body in shown)
    boxes = [item.box for item in items]
    extent = (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
    return PlanPicture(
        extent,
        items,
        _screws(desk, {body.id for body in shown}),
        rasters,
        low,
        high,
        legend,
        desk.view.cut,
        desk.session.results.state in ("stale", "refused"),
        side,
    )


def probe(picture: PlanPicture, x: float, y: float) -> str:
    """Return what the overlay shows at a place [mm], in words; nothing where it shows nothing.

    Pictures have their first row at the lowest y.
    """
    for raster in picture.rasters:
        x0, y0, x1, y1 = raster.box
        if not (x0 <= x < x1 and y0 <= y < y1) or picture.legend is None:
            continue
        rows, columns = raster.values.shape
        value = float(raster.values[int((y - y0) / (y1 - y0) * rows), int((x - x0) / (x1 - x0) * columns)])
        if np.isfinite(value):
            value = 10**value if raster.by_ten else value
            digits = 1 if abs(value) >= 10 else 2
            return f"{number(value, digits)} {picture.legend.unit} here"
    return ""


def neighbour(picture: PlanPicture, dx: int, dy: int) -> str:
    """Return the nearest part in a direction of the one that is selected, else the first; empty if there is none."""
    parts = [item for item in picture.items if item.kind == "component"]
    here = next((item for item in parts if item.selected), None)
    if here is None:
        return parts[0].id if parts else ""
    cx, cy = (here.box[0] + here.box[2]) / 2, (here.box[1] + here.box[3]) / 2

    def cost(item: Item) -> float:
        ax, ay = (item.box[0] + item.box[2]) / 2 - cx, (item.box[1] + item.box[3]) / 2 - cy
        ahead, aside = ax * dx + ay * dy, abs(ax * dy - ay * dx)
        return ahead + 2.5 * aside if ahead > 0.5 and aside < 2 * ahead else float("inf")

    best = min(parts, key=cost)
    return best.id if cost(best) < float("inf") else ""


def outlines(desk: StackDesk) -> tuple[Outline, ...]:
    """Return what has an edge of its own in plan: pieces always, landings while the device is edited."""
    found = []
    bodies = {body.id: body for body in desk.session.project.device.bodies}
    for target in desk.targets():
        if target.side not in (None, desk.view.side):
            continue
        if target.kind == "landing" and desk.view.editing:
            plate = bodies.get(target.id)
            landings = plate.landings if isinstance(plate, Plate) else ()
            step = next((one.step_mm.value for one in landings if target.path.endswith(f".{one.id}")), 0.0)
            found.append(Outline(target.box, target.kind, f"{number(step, 2, sign=True)} mm"))
        elif target.kind == "piece":
            found.append(Outline(target.box, target.kind, ""))
    return tuple(found)


def _item(desk: StackDesk, theme: Theme, body: Board | Substrate | Component | Plate, together: frozenset[str]) -> Item:
    report = desk.session.results.assessment.report if desk.session.results.assessment else None
    fill: QColor | None = theme.colour(
        {"board": "board", "substrate": "board_edge", "component": "part", "plate": "plate"}[body.kind]
    )
    value = mark = figure = ""
    tip = [body.label]
    if isinstance(body, Plate):
        fill = None
    if isinstance(body, Component) and report:
        row = next((row for row in report.components if row.id == body.id), None)
        if row is not None:
            value = number(row.t_max_c) + "°"
            tip.append(f"hottest {number(row.t_max_c, 1)} °C, mean {number(row.t_mean_c, 1)} °C, {number(row.power_w, 1)} W")
        margins = [s.margin_k for s in report.sensors if s.body == body.id and s.margin_k is not None]
        if margins and desk.view.overlay == "margins":
            worst = min(margins)
            fill = theme.attention(1 - worst / MARGIN_SPAN)
            mark = "over" if worst < 0 else "near" if worst < 5 else ""
            tip.append(f"{number(worst, 1)} K to its limit" if worst >= 0 else f"{number(-worst, 1)} K over its limit")
        joint = report.joint_over(body.id)
        if joint is not None:
            figure = {
                "bond line": length(joint.bond_line_um.mean * 1e-3), "pressure": f"{number(joint.pressure_kpa.mean)} kPa"
            }.get(desk.view.overlay, "")  # fmt: skip
            tip.append(
                f"{joint.name}: gap {number(joint.gap_mm, 3)} mm, {number(joint.pressure_kpa.mean)} kPa, "
                f"{number(joint.force_n, 1)} N"
            )
    joint_ids = {joint.id for joint in desk.session.build.joints if body.id in joint.lower}
    chosen = desk.session.joint
    selected = body.id == desk.session.view.selected or (chosen is not None and chosen.id in joint_ids)
    return Item(
        body.id,
        body.kind,
        body.footprint.rects,
        body.footprint.holes,
        body.footprint.bounds,
        fill,
        body.label,
        value,
        mark,
        selected,
        not selected and bool(joint_ids & together),
        "\n".join(tip),
        figure,
    )


def _screws(desk: StackDesk, shown: set[str]) -> tuple[Screw, ...]:
    forces = (
        {row.id: row.force_n for row in desk.session.results.assessment.report.fasteners}
        if desk.session.results.assessment
        else {}
    )
    plates = {body.id for body in desk.session.project.device.bodies if isinstance(body, Plate)} & shown
    return tuple(
        Screw(
            fastener.id,
            fastener.x_mm,
            fastener.y_mm,
            f"{number(forces[fastener.id])} N" if fastener.id in forces else "",
        )
        for fastener in desk.session.project.device.fasteners
        if plates & set(fastener.joins)
    )


def _flux_overlay(desk: StackDesk) -> tuple[tuple[Raster, ...], float, float, Legend | None]:
    """Heat that passes from this side into the plates over it."""
    maps = desk.session.results.assessment.prediction.maps if desk.session.results.assessment else None
    picture = maps.flux.get(desk.view.side.value) if maps is not None else None
    if maps is None or picture is None or not np.isfinite(picture).any():
        return (), 0.0, 1.0, Legend("No plate faces this side", "", "", True)
    high = max(float(np.nanmax(picture)), 1e-3)
    box = float(maps.x_mm[0]), float(maps.y_mm[0]), float(maps.x_mm[-1]), float(maps.y_mm[-1])
    even = even_raster(picture, maps.x_mm, maps.y_mm, 460, max(2, round(460 * (box[3] - box[1]) / (box[2] - box[0]))))
    legend = Legend("Heat into the plates over it", "0 W/mm²", f"{high:.2g} W/mm²", True)
    return (Raster(box, even, True),), 0.0, high, legend


def _bow_overlay(desk: StackDesk) -> tuple[tuple[Raster, ...], float, float, Legend | None]:
    """The bent board, from its lowest to its highest point; a word where it is rigid."""
    board = next((body for body in desk.session.project.device.bodies if isinstance(body, Board)), None)
    maps = desk.session.results.assessment.prediction.maps if desk.session.results.assessment else None
    if board is None or maps is None or not maps.bow_um.size:
        why = "is braced: it does not bend" if board is not None and not board.bends else "is computed as rigid"
        return (), 0.0, 1.0, Legend(f"The board {why}", "", "", False)
    x0, y0, x1, y1 = board.footprint.bounds
    x, y = np.meshgrid(np.linspace(x0, x1, 160) * 1e-3, np.linspace(y0, y1, 80) * 1e-3)
    screws = [f for f in desk.session.project.device.fasteners if board.id in f.joins]
    bent = (maps.bow(x, y) - _plane_through(maps.bow, [(f.x_mm * 1e-3, f.y_mm * 1e-3) for f in screws], x, y)) * 1e6
    low, high = float(bent.min()), max(float(bent.max()), float(bent.min()) + 20.0)
    legend = Legend("Board bent towards the front, against its screws", f"{number(low)} µm", f"{number(high)} µm", False)
    return (Raster((x0, y0, x1, y1), bent, False),), low, high, legend


def _plane_through(bow: Callable[[Floats, Floats], Floats], places: list[tuple[float, float]], x: Floats, y: Floats) -> Floats:
    """The plane that comes nearest to the bent board at its screws; level where they do not make one."""
    if len(places) < 3:
        return np.zeros_like(x)
    sx, sy = np.array(places).T
    plane = np.stack([np.ones_like(sx), sx, sy], axis=1)
    base, along, across = np.linalg.lstsq(plane, bow(sx, sy), rcond=None)[0]
    return np.asarray(base + along * x + across * y)


def _overlay(desk: StackDesk) -> tuple[tuple[Raster, ...], float, float, Legend | None]:
    kind = desk.view.overlay
    if desk.session.results.assessment is None or kind == "margins":
        return (), 0.0, 1.0, None
    maps = desk.session.results.assessment.prediction.maps
    if kind == "temperature":
        # A plate that is chosen is looked at itself; else the side with everything on it.
        of_plate = desk.session.view.selected in maps.storeys
        picture = maps.storeys.get(desk.session.view.selected if of_plate else desk.view.side.value)
        if picture is None or not np.isfinite(picture).any():
            return (), 0.0, 1.0, None
        low, high = float(np.nanmin(picture)), float(np.nanmax(picture))
        box = float(maps.x_mm[0]), float(maps.y_mm[0]), float(maps.x_mm[-1]), float(maps.y_mm[-1])
        even = even_raster(picture, maps.x_mm, maps.y_mm, 460, max(2, round(460 * (box[3] - box[1]) / (box[2] - box[0]))))
        return (
            (Raster(box, even, True),),
            low,
            high,
            Legend(
                "Temperature of the chosen plate" if of_plate else "Temperature of parts and board",
                f"{number(low)} °C",
                f"{number(high)} °C",
                True,
            ),
        )
    if kind == "bow":
        return _bow_overlay(desk)
    if kind == "flux":
        return _flux_overlay(desk)
    sides = {body.id: getattr(body, "side", None) for body in desk.session.project.device.bodies}
    shown = [m for m in maps.joints if sides.get(m.lower) is desk.view.side]
    if not shown:
        return (), 0.0, 1.0, None
    if kind == "bond line":
        return _bond_overlay(shown)
    high = max(float(max(np.nanmax(m.pressure_kpa) for m in shown)), 20.0)  # differences below 20 kPa are not worth a colour
    rasters = tuple(Raster(m.box, m.pressure_kpa, False) for m in shown)
    return rasters, 0.0, high, Legend("Pressure", "0 kPa", f"{number(high)} kPa", False)


def _bond_overlay(shown: list[JointMap]) -> tuple[tuple[Raster, ...], float, float, Legend | None]:
    """All bond lines on one ramp, by the logarithm: paste and pads differ by a factor of ten or more."""
    arrays = [np.log10(np.maximum(m.bond_line_um, _THINNEST_UM)) for m in shown]
    low = float(min(np.nanmin(a) for a in arrays))
    high = max(float(max(np.nanmax(a) for a in arrays)), low + 0.2)
    rasters = tuple(Raster(m.box, a, False, True) for m, a in zip(shown, arrays, strict=True))
    return rasters, low, high, Legend("Bond line, by the logarithm", f"{number(10**low)} µm", f"{number(10**high)} µm", False)
