"""What may lie in a place: every material and stock thickness that could fill its gap, and why others may not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.changes.layers import STOCK_MM
from ashen_bridge.library import materials as library
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.joints import Piece, PieceState
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice, way
from ashen_bridge.words.numbers import number, short

Kind = Literal["keep", "nothing", "pad", "stack", "putty", "paste", "phase change", "liquid metal", "graphite", "shim"]
_NEAR_MM = 3.0  # how far a conductor may creep or shift to a neighbour; common practice, no source
_TOO_LITTLE, _TOO_MUCH = -0.05, 0.55  # compressions at the gap as it is known, beyond which a pad is not tried
_METALS, _UNDER_SHIM, _OVER_SHIM_MM = ("copper", "aluminium_alloy"), "paste_general", 0.6
_SLACK_MM = 0.3  # by how much thinner than the gap a pad is still worth a look: the gap has its ±
_AS: dict[MaterialKind, Kind] = {
    MaterialKind.PASTE: "paste",
    MaterialKind.PHASE_CHANGE: "phase change",
    MaterialKind.LIQUID_METAL: "liquid metal",
    MaterialKind.GRAPHITE: "graphite",
}


@dataclass(frozen=True)
class Candidate:
    """One choice for one place: what it is called, of which kind, and what lies in each joint (lower face first).

    `refused` says why it is out of the question whatever else is chosen, empty if it is not.
    """

    id: str
    says: str
    kind: Kind
    fills: Mapping[str, tuple[Piece, ...]]
    materials: tuple[str, ...] = ()
    thickness_mm: float | None = None
    refused: str = ""


def hopeless(place: Place, one: Candidate) -> bool:
    """Return whether a pad's thickness alone says that it cannot do: by far too thin or too thick for the gap."""
    if one.kind != "pad" or one.thickness_mm is None:
        return False
    return not _TOO_LITTLE < 1 - place.gap_mm / one.thickness_mm < _TOO_MUCH


def known_materials(project: Project) -> dict[str, Material]:
    """Return the project's materials, and those of the library that it has not."""
    return {**library(), **{one.id: one for one in project.materials}}


def candidates(project: Project, build: str, place: Place, wishes: Wishes) -> tuple[Candidate, ...]:
    """Return every choice for a place, what is there now first; what is refused at once says why."""
    known = known_materials(project)
    found = [_as_it_is(project, build, place, wishes)]
    for material in known.values():
        if material.kind in _AS and (place.thin or place.gap_mm <= practice().paste_fills_mm):
            found += _film(place, material, wishes)
        elif material.kind is MaterialKind.PAD and not place.thin:
            found += _pads(place, material)
        elif material.kind is MaterialKind.PUTTY and not place.thin:
            found.append(_putty(place, material))
    if way(wishes, "stack") == "stacked" and not place.thin:
        found += [_stack(place, known[name]) for name in _soft(known)]
    if wishes.shims and place.gap_mm >= practice().shim_from_mm:
        found += [_shim(place, known[metal], known[name]) for metal in _METALS if metal in known for name in _soft(known)]
    if _may_be_left(place, wishes):
        found.append(Candidate("nothing", "nothing", "nothing", dict.fromkeys(place.joints, ())))
    now = found[0].fills
    kept = [one for n, one in enumerate(found) if n == 0 or not _same(one.fills, now)]
    return tuple(_judged(project, build, place, one, known, wishes) for one in kept)


def _as_it_is(project: Project, build: str, place: Place, wishes: Wishes) -> Candidate:
    fills = {name: project.build(build).joint(name).pieces for name in place.joints}
    some = fills[place.joints[0]]
    if not any(fills.values()):
        return Candidate("keep", "nothing, as it is", "keep", fills)
    refused = "Everything shall be replaced." if wishes.replace == "everything" else ""
    thick = next((one.thickness_mm.value for one in some if one.thickness_mm is not None), None)
    names = tuple(dict.fromkeys(piece.material for pieces in fills.values() for piece in pieces))
    says = " + ".join(_piece_words(project.material(one.material), one) for one in some)
    return Candidate("keep", f"as it is: {says}" if says else "as it is", "keep", fills, names, thick, refused)


def _piece_words(material: Material, piece: Piece) -> str:
    name = material.name[:1].lower() + material.name[1:]
    return name if piece.thickness_mm is None else f"{short(piece.thickness_mm.value)} mm {name}"


def _sheet(material: Material, thickness: float, piece: str = "pad") -> Piece:
    p = practice()
    return Piece(
        id=piece, material=material.id, thickness_mm=q(thickness, round(p.stock_sd * thickness, 4), "assumed", p.stock_note)
    )


def _one(place: Place, material: Material, kind: Kind, piece: Piece) -> Candidate:
    thick = None if piece.thickness_mm is None else piece.thickness_mm.value
    name = material.id if thick is None else f"{material.id} {thick:g}"
    return Candidate(name, _piece_words(material, piece), kind, dict.fromkeys(place.joints, (piece,)), (material.id,), thick)


def _pads(place: Place, material: Material) -> Iterator[Candidate]:
    stock = sorted(material.stock_thicknesses_mm or STOCK_MM)
    fits = [one for one in stock if one > place.gap_mm - _SLACK_MM][: practice().pads_per_material]
    for thickness in fits:
        yield _one(place, material, "pad", _sheet(material, thickness))


def _putty(place: Place, material: Material) -> Candidate:
    film = round(practice().putty_over_gap * place.gap_mm, 2)
    amount = FilmAmount(film_mm=q(film, round(0.15 * film, 3), "assumed", "as much as the gap takes and a quarter more"))
    return _one(place, material, "putty", Piece(id="putty", material=material.id, amount=amount))


def _film(place: Place, material: Material, wishes: Wishes) -> Iterator[Candidate]:
    p, kind = practice(), material.kind
    if kind in (MaterialKind.PHASE_CHANGE, MaterialKind.GRAPHITE):
        for thickness in material.stock_thicknesses_mm[:2]:
            piece = _sheet(material, thickness, "sheet").model_copy(update={"state": PieceState.BURNED_IN})
            if place.gap_mm < 0.9 * thickness or place.thin:
                yield _one(place, material, _AS[kind], piece)
        return
    least = 0.0 if place.thin else 1.15 * place.gap_mm
    film = round(max(p.film_mm[way(wishes, "amount")], least), 3)
    amount = FilmAmount(film_mm=q(film, round(p.film_pm * film, 3), "assumed", "common practice"))
    yield _one(place, material, _AS[kind], Piece(id="paste", material=material.id, amount=amount))


def _soft(known: Mapping[str, Material]) -> list[str]:
    pads = [one for one in known.values() if one.kind is MaterialKind.PAD and one.compression is not None]
    return [one.id for one in sorted(pads, key=_firmness)[:1]]


def _firmness(material: Material) -> float:
    return (
        max(point.pressure_kpa for point in material.compression.points if point.strain <= 0.3) if material.compression else 0.0
    )


def _stack(place: Place, material: Material) -> Candidate:
    """Two of the softest that together come nearest to a fifth more than the gap; common practice, no source."""
    stock = material.stock_thicknesses_mm or STOCK_MM
    pairs = [(abs(a + b - 1.2 * place.gap_mm), a, b) for a in stock for b in stock if a >= b]
    _, a, b = min(pairs)
    pieces = (_sheet(material, a, "pad_1"), _sheet(material, b, "pad_2"))
    name = material.name[:1].lower() + material.name[1:]
    says = f"{short(a)} + {short(b)} mm {name}, stacked"
    return Candidate(f"{material.id} {a:g}+{b:g}", says, "stack", dict.fromkeys(place.joints, pieces), (material.id,), a + b)


def _shim(place: Place, metal: Material, pad: Material) -> Candidate:
    """A metal shim on paste, and a thin pad over it for what the gap may be off: above some millimetres better than more pad."""
    p = practice()
    rest = place.gap_mm - _OVER_SHIM_MM
    thick = max((one for one in p.shims_mm if one <= rest + 1e-9), default=p.shims_mm[0])
    stock = pad.stock_thicknesses_mm or STOCK_MM
    over = next((one for one in sorted(stock) if one >= 1.2 * (place.gap_mm - thick)), max(stock))
    film = q(p.film_mm["usual"], p.film_pm * p.film_mm["usual"], "assumed", "common practice")
    pieces = (
        Piece(id="paste", material=_UNDER_SHIM, amount=FilmAmount(film_mm=film)),
        Piece(id="shim", material=metal.id, thickness_mm=q(thick, 0.02, "assumed", "rolled sheet")),
        _sheet(pad, over),
    )
    soft = pad.name[:1].lower() + pad.name[1:]
    name = f"{short(thick)} mm {metal.name.split(',')[0].lower()} shim on paste, {short(over)} mm {soft}"
    made_of = (_UNDER_SHIM, metal.id, pad.id)
    return Candidate(f"{metal.id} {thick:g}+{over:g}", name, "shim", dict.fromkeys(place.joints, pieces), made_of, over)


def _may_be_left(place: Place, wishes: Wishes) -> bool:
    if place.rear and way(wishes, "rear") == "left":
        return True
    return place.role == "regulator" and way(wishes, "regulators") == "left"


def _same(one: Mapping[str, tuple[Piece, ...]], other: Mapping[str, tuple[Piece, ...]]) -> bool:
    def said(fills: Mapping[str, tuple[Piece, ...]]) -> list[tuple[object, ...]]:
        return [
            (name, piece.material, piece.thickness_mm and piece.thickness_mm.value, piece.footprint, piece.age_days, piece.state)
            for name, pieces in fills.items()
            for piece in pieces
        ]

    return said(one) == said(other)


# -- what is out of the question


def _judged(
    project: Project, build: str, place: Place, one: Candidate, known: Mapping[str, Material], wishes: Wishes
) -> Candidate:
    if one.refused or one.kind == "keep":
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
                yield f"It conducts electricity and could get to {near}, within {short(_NEAR_MM)} mm."
        if wishes.source == "stock" and not _at_hand(project, material, one):
            yield "It is not at hand, and only what is at hand shall be used."


def _schools(place: Place, one: Candidate, made_of: list[Material], wishes: Wishes) -> Iterator[str]:
    if place.role == "memory" and one.kind == "putty" and way(wishes, "memory") == "pads":
        yield "Pads are wanted on memory."
    if place.role == "memory" and one.kind in ("pad", "stack") and way(wishes, "memory") == "putty":
        yield "Putty is wanted on memory."
    if place.role == "die" and one.kind == "paste" and way(wishes, "die") == "sheet":
        yield "A phase-change sheet is wanted on the die."
    if place.role == "die" and one.kind == "phase change" and way(wishes, "die") == "paste":
        yield "Paste is wanted on the die."
    firm = one.kind == "pad" and way(wishes, "firmness") == "softer" and max(map(_firmness, made_of), default=0.0) > 300
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
            if max(a0 - x1, x0 - a1, b0 - y1, y0 - b1, 0.0) < _NEAR_MM:
                return other.label
    return None


def _at_hand(project: Project, material: Material, one: Candidate) -> bool:
    sheets = [piece.thickness_mm.value for piece in next(iter(one.fills.values())) if piece.thickness_mm is not None]
    for item in project.stock:
        if item.material == material.id and item.count > 0:
            thick = item.thickness_mm
            if not sheets or (thick is not None and any(abs(thick.value - sheet) < 1e-6 for sheet in sheets)):
                return True
    return False
