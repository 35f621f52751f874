"""What is out of the question whatever else is chosen, each in one sentence: schools, conductors, metals, what is at hand."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing.bill import sheet_mm
from ashen_bridge.planning.choosing.candidate import KEPT, Candidate, firmness
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice, way
from ashen_bridge.words.numbers import number, short

NEAR_MM = 3.0
"""How far a conductor may creep or shift to a neighbour [mm]; common practice, no source."""


def judged(
    project: Project, build: str, place: Place, one: Candidate, known: Mapping[str, Material], wishes: Wishes
) -> Candidate:
    """Return a candidate, refused with its sentence where it is out of the question."""
    if one.refused or one.kind in KEPT:
        return one
    said = next(_reasons(project, build, place, one, known, wishes), "")
    return one if not said else Candidate(one.id, one.says, one.kind, one.fills, one.materials, one.thickness_mm, said)


def _reasons(
    project: Project, build: str, place: Place, one: Candidate, known: Mapping[str, Material], wishes: Wishes
) -> Iterator[str]:
    made_of = [known[name] for name in one.materials]
    yield from _schools(place, one, made_of, wishes)
    if one.kind == "putty" and not wishes.putty:
        yield "Putty is not wanted."
    if one.kind == "graphite" and not wishes.graphite:
        yield "Graphite sheets are not wanted: they conduct electricity."
    if one.kind == "liquid metal":
        if not wishes.liquid_metal:
            yield "Liquid metal is not wanted: it conducts electricity and cannot be taken back."
        elif wishes.skill != "bold":
            yield "Liquid metal is for those who accept to lose the part."
    if wishes.reusable and one.kind not in practice().reusable:
        yield "It cannot be used again."
    bodies = project.bodies_known(project.build(build))
    uppers = {project.build(build).joint(name).upper for name in place.joints}
    for material in made_of:
        bridges = material.flow.bridges_mm if material.flow is not None else None
        if material.kind is MaterialKind.PUTTY and bridges is not None and place.gap_mm > bridges.value:
            yield f"The gap is {number(place.gap_mm, 2)} mm; it bridges {short(bridges.value)} mm."
        for name in sorted({*uppers, *place.lowers}):
            body = bodies[name]
            metal = known.get(body.material) if isinstance(body, Plate) else None
            if material.contains_gallium and metal is not None and metal.attacked_by_gallium:
                yield f"It destroys {metal.name.lower()}, of which {body.label} is made."
        if material.electrically_conductive and material.kind not in (MaterialKind.SOLDER, MaterialKind.SOLID):
            near = next(filter(None, (_neighbour(project, build, name) for name in place.lowers)), None)
            if near is not None and wishes.skill != "bold":
                yield f"It conducts electricity and could get to {near}, within {short(NEAR_MM)} mm."
        if wishes.source == "stock" and not _at_hand(project, material, one):
            yield "It is not at hand, and only what is at hand shall be used."


def _schools(place: Place, one: Candidate, made_of: list[Material], wishes: Wishes) -> Iterator[str]:
    if place.role == "memory" and one.kind == "putty" and way(wishes, "memory") == "pads":
        yield "Pads are wanted on memory."
    if place.role == "memory" and one.kind in ("pad", "stack", "stretched", "thinned") and way(wishes, "memory") == "putty":
        yield "Putty is wanted on memory."
    if place.role == "die" and one.kind == "paste" and way(wishes, "die") == "sheet":
        yield "A phase-change sheet is wanted on the die."
    if place.role == "die" and one.kind == "phase change" and way(wishes, "die") == "paste":
        yield "Paste is wanted on the die."
    firm = one.kind == "pad" and way(wishes, "firmness") == "softer" and max(map(firmness, made_of), default=0.0) > 300
    if firm:
        yield "Thinner and softer pads are wanted."


def _neighbour(project: Project, build: str, name: str) -> str | None:
    bodies = project.bodies_known(project.build(build))
    here = bodies[name]
    if not isinstance(here, Component):
        return None
    x0, y0, x1, y1 = here.footprint.bounds
    for other in bodies.values():
        if isinstance(other, Component) and other.id != name and (other.on, other.side) == (here.on, here.side):
            a0, b0, a1, b1 = other.footprint.bounds
            if max(a0 - x1, x0 - a1, b0 - y1, y0 - b1, 0.0) < NEAR_MM:
                return other.label
    return None


def _at_hand(project: Project, material: Material, one: Candidate) -> bool:
    sheets = [thick for piece in next(iter(one.fills.values())) if (thick := sheet_mm(piece)) is not None]
    for item in project.stock:
        if item.material == material.id and item.count > 0:
            at_hand = item.thickness_mm
            if not sheets or (at_hand is not None and any(abs(at_hand.value - sheet) < 1e-6 for sheet in sheets)):
                return True
    return False
