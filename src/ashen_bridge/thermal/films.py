"""Where heat leaves a scene: bare faces to the air beside them, sinks to their inlet air, connectors to ambient."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ashen_bridge.geometry.region import EMPTY, Region, region_of, region_of_rect
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.model.bodies import Board, Component, ComponentRole, Plate, PlateRole, Side
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.sinks import NaturalSink
from ashen_bridge.thermal import names
from ashen_bridge.thermal.fan_speeds import fan_speed
from ashen_bridge.thermal.names import Name
from ashen_bridge.thermal.natural import FilmLaw, Lie
from ashen_bridge.thermal.parts import Film
from ashen_bridge.thermal.plates import base_conductivity
from ashen_bridge.thermal.sink import Base
from ashen_bridge.thermal.sink_films import SinkPlace, plate_length, sink_film
from ashen_bridge.thermal.surfaces import KELVIN

_LOOKS: dict[str, tuple[Lie, Lie]] = {"flat": ("up", "down"), "upright": ("vertical", "vertical"), "hanging": ("down", "up")}
"""Orientation → how a face that looks to the front lies, and one that looks to the rear."""


@dataclass(frozen=True)
class Surroundings:
    """The air of an operating point [K] by side, of sinks' inlets and outside; whether the first three are that inside."""

    front: float
    rear: float
    inlet: float
    ambient: float
    inside: bool

    def beside(self, side: Side) -> float:
        """Return the air on a side of the board [K]."""
        return self.front if side is Side.FRONT else self.rear


def surroundings(point: OperatingPoint, inside: float | None) -> Surroundings:
    """Return the air of an operating point; `inside` [K] where it finds its own temperature."""
    ambient = point.ambient_c.value + KELVIN
    if point.inside != "given":
        air = ambient if inside is None else inside
        return Surroundings(air, air, air, ambient, True)
    given = (point.front_air_c, point.rear_air_c, point.inlet_c)
    front, rear, inlet = (one.value + KELVIN if one else ambient for one in given)
    return Surroundings(front, rear, inlet, ambient, False)


def sink_region(body: SceneBody) -> Region:
    """Return where a plate's sink stands on it; nothing for a plate without."""
    if not isinstance(body.model, Plate) or body.model.sink is None:
        return EMPTY
    outline = body.model.sink.footprint
    return body.region & region_of(outline) if outline else body.region


def sink_place(scene: Scene, point: OperatingPoint, body: SceneBody) -> SinkPlace:
    """Return what a sink's model needs to know of its plate."""
    assert isinstance(body.model, Plate)  # only plates carry sinks
    material = scene.resolved.materials[body.model.material]
    lie = _LOOKS[point.orientation][0 if body.model.side is Side.FRONT else 1]
    region = sink_region(body)
    base = Base(region.area, body.thickness, *base_conductivity(body.model, material), spot=_spot(scene, body, region))
    return SinkPlace(body.id, region, base, material.conductivity_w_mk.value, body.model.finish.emissivity.value, lie)


def _spot(scene: Scene, body: SceneBody, region: Region) -> float:
    """Return the area [m²] of what heats a base: a die it touches by a joint, else a plate, else the largest part."""
    lower = [scene.bodies[name] for joint in scene.joints.values() if joint.upper == body.id for name in joint.lower]
    dies = [one for one in lower if isinstance(one.model, Component) and one.model.role is ComponentRole.DIE]
    plates = [one for one in lower if isinstance(one.model, Plate)]
    return max(((one.region & region).area for one in dies or plates or lower), default=0.0) or region.area


def scene_films(scene: Scene, point: OperatingPoint, inside: float | None = None) -> tuple[Film, ...]:
    """Return all films of a scene at an operating point."""
    return tuple(film for film in _Films(scene, point, surroundings(point, inside)).all() if film.region)


@dataclass(frozen=True)
class _Face:
    """A face of a body that is bare in a region: its number in the slab, by how much more area it has than the region, its height
    [m] if it stands upright, and whether it looks towards the board.
    """

    body: SceneBody
    side: Side
    number: int
    region: Region
    factor: float = 1.0
    upright: float | None = None
    inwards: bool = False


class _Films:
    def __init__(self, scene: Scene, point: OperatingPoint, air: Surroundings) -> None:
        self.scene, self.point, self.air = scene, point, air
        self.stated = {Side.FRONT: point.film_front_w_m2k.value, Side.REAR: point.film_rear_w_m2k.value}

    def all(self) -> Iterator[Film]:
        for (name, side), bare in self.scene.plan.bare.items():
            body = self.scene.bodies[name]
            model = body.model
            face = 0 if isinstance(model, Board) and side is Side.REAR else 1
            yield self._outer(body, side, face, bare - sink_region(body))
            if isinstance(model, Plate):
                under = _Face(body, side, 0, self.scene.plan.bare_under[name], inwards=True)
                yield self._bare(Name("under", (name,)), under)
                if model.sink is not None:
                    yield self._sink(body, model)
            elif isinstance(model, Component):
                x0, y0, x1, y1 = body.region.bounds
                factor = 2 * (x1 - x0 + y1 - y0) * body.thickness / ((x1 - x0) * (y1 - y0))
                yield self._bare(Name("sides", (name,)), _Face(body, side, 1, body.region, factor, body.thickness))
        board = self.scene.board
        for connector in board.model.connectors if isinstance(board.model, Board) else ():
            region = region_of_rect(connector.area) & board.region
            if region:
                coefficient = connector.conductance_w_k.value / region.area
                yield Film(board.id, 0, region, coefficient, self.air.ambient, name=Name("connector", (connector.id,)))

    def _outer(self, body: SceneBody, side: Side, face: int, region: Region) -> Film:
        """The face that looks away from the board; that of a case wall is outside."""
        outside = self.air.ambient if self.air.inside and _closes(body) else None
        return self._bare(Name("bare", (body.id, side.value)), _Face(body, side, face, region), outside)

    def _bare(self, name: Name, face: _Face, air: float | None = None) -> Film:
        """Return the film of a face, in the air beside it or in air of a temperature [K]."""
        temperature = self.air.beside(face.side) if air is None else air
        stated = 0.0 if self.point.convection == "none" else self.stated[face.side]
        emissivity = 0.0 if self.point.convection == "none" else face.body.model.finish.emissivity.value
        film = Film(face.body.id, face.number, face.region, stated, temperature, emissivity, face.factor, name)
        film = replace(film, inside=self.air.inside and air is None)
        if self.point.convection in ("none", "stated") or not face.region:
            return film
        front = (face.side is Side.FRONT) != face.inwards
        lie: Lie = "vertical" if face.upright else _LOOKS[self.point.orientation][0 if front else 1]
        length = max(face.upright, 1e-4) if face.upright else plate_length(face.region.bounds, lie)
        return replace(film, coefficient=0.0, law=FilmLaw(lie, round(length, 6), round(temperature, 1)))

    def _sink(self, body: SceneBody, model: Plate) -> Film:
        assert model.sink is not None
        outside = self.air.inside and _closes(body)
        air = self.air.ambient if outside else self.air.inlet
        found = sink_film(
            model.sink, sink_place(self.scene, self.point, body), fan_speed(self.scene, self.point, body.id), round(air, 1)
        )
        inside = self.air.inside and not outside
        if isinstance(model.sink, NaturalSink):
            return Film(body.id, 1, sink_region(body), 0.0, air, found.emissivity, 1.0, names.sink(body.id), found.law, inside)
        return Film(body.id, 1, sink_region(body), found.coefficient, air, name=names.sink(body.id), inside=inside)


def _closes(body: SceneBody) -> bool:
    return isinstance(body.model, Plate) and body.model.role is PlateRole.CASE_WALL
