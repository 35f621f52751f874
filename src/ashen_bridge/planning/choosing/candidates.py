"""What may lie in a place: every material and stock thickness that could fill its gap, and why others may not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ashen_bridge.changes.layers import STOCK_MM
from ashen_bridge.library import materials as library
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.joints import Piece, PieceState
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing.candidate import Candidate, Kind, firmness
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice, way
from ashen_bridge.planning.choosing.refusing import judged
from ashen_bridge.planning.choosing.thinned import kept_thinner, stretched
from ashen_bridge.words.numbers import short

_TOO_LITTLE, _TOO_MUCH = -0.05, 0.55  # compressions at the gap as it is known, beyond which a pad is not tried
_METALS, _UNDER_SHIM, _OVER_SHIM_MM = ("copper", "aluminium_alloy"), "paste_general", 0.6
_SLACK_MM = 0.3  # by how much thinner than the gap a pad is still worth a look: the gap has its ±
_AS: dict[MaterialKind, Kind] = {
    MaterialKind.PASTE: "paste",
    MaterialKind.PHASE_CHANGE: "phase change",
    MaterialKind.LIQUID_METAL: "liquid metal",
    MaterialKind.GRAPHITE: "graphite",
}


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
    found = [_as_it_is(project, build, place, wishes), *_thinner(project, build, place, wishes)]
    for material in known.values():
        if material.kind in _AS and (place.thin or place.gap_mm <= practice().paste_fills_mm):
            found += _film(place, material, wishes)
        elif material.kind is MaterialKind.PAD and not place.thin:
            found += _pads(place, material)
        elif material.kind is MaterialKind.PUTTY and not place.thin:
            found.append(_putty(place, material))
    if wishes.skill != "first time" and not place.thin:
        found += [one for name in _soft(known) for one in _stretched(place, known[name])]
    if way(wishes, "stack") == "stacked" and not place.thin:
        found += [_stack(place, known[name]) for name in _soft(known)]
    if wishes.shims and place.gap_mm >= practice().shim_from_mm:
        found += [_shim(place, known[metal], known[name]) for metal in _METALS if metal in known for name in _soft(known)]
    if _may_be_left(place, wishes):
        found.append(Candidate("nothing", "nothing", "nothing", dict.fromkeys(place.joints, ())))
    now = found[0].fills
    kept = [one for n, one in enumerate(found) if n == 0 or not _same(one.fills, now)]
    return tuple(judged(project, build, place, one, known, wishes) for one in kept)


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
    tolerance = material.handling.thickness_tolerance
    share = p.stock_sd if tolerance is None else tolerance / 2  # a tolerance is two standard uncertainties
    return Piece(id=piece, material=material.id, thickness_mm=q(thickness, round(share * thickness, 4), "assumed", p.stock_note))


def _one(place: Place, material: Material, kind: Kind, piece: Piece) -> Candidate:
    thick = None if piece.thickness_mm is None else piece.thickness_mm.value
    name = material.id if thick is None else f"{material.id} {thick:g}"
    return Candidate(name, _piece_words(material, piece), kind, dict.fromkeys(place.joints, (piece,)), (material.id,), thick)


def _pads(place: Place, material: Material) -> Iterator[Candidate]:
    stock = sorted(material.stock_thicknesses_mm or STOCK_MM)
    fits = [one for one in stock if one > place.gap_mm - _SLACK_MM][: practice().pads_per_material]
    for thickness in fits:
        yield _one(place, material, "pad", _sheet(material, thickness))


def _thinner(project: Project, build: str, place: Place, wishes: Wishes) -> Iterator[Candidate]:
    """What lies there shaved thinner, where all joints of a place have the same pad and nothing says that it must go."""
    there = {project.build(build).joint(name).pieces for name in place.joints}
    thinner = kept_thinner(project, place, next(iter(there))) if len(there) == 1 else None
    if thinner is None or thinner.thickness_mm is None or wishes.skill == "first time" or wishes.replace == "everything":
        return
    thick, material = thinner.thickness_mm.value, project.material(thinner.material)
    says = f"as it is, shaved to {short(thick, 2)} mm"
    yield Candidate("thinned", says, "thinned", dict.fromkeys(place.joints, (thinner,)), (material.id,), thick)


def _stretched(place: Place, material: Material) -> Iterator[Candidate]:
    for free in sorted(material.stock_thicknesses_mm or STOCK_MM):
        piece = stretched(place, material, free)
        if piece is not None and piece.thickness_mm is not None:
            thick = piece.thickness_mm.value
            name = f"{material.id} {free:g} stretched"
            says = f"{_piece_words(material, _sheet(material, free))} stretched to {short(thick, 2)} mm"
            yield Candidate(name, says, "stretched", dict.fromkeys(place.joints, (piece,)), (material.id,), thick)
            return


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
    return [one.id for one in sorted(pads, key=firmness)[:1]]


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
