"""What a build takes and what of it must be bought: sheets with a reason, tubes, shims, washers; and what screws bear."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ashen_bridge.model.build import Build
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.candidates import known_materials
from ashen_bridge.planning.cutting.nesting import Laid, Sheet, checked, nested
from ashen_bridge.planning.cutting.pieces import Cut, figures, pieces
from ashen_bridge.planning.cutting.volumes import Dispensed
from ashen_bridge.words.numbers import short

_USUAL_SHEET_MM = (100.0, 100.0)


@dataclass(frozen=True)
class Order:
    """One line of the order list: what, how many, why so many, what it costs together, and what would do as well."""

    what: str
    quantity: int
    why: str
    price: float | None = None
    alternative: str = ""
    at_hand: bool = False


@dataclass(frozen=True)
class CutPlan:
    """Everything about cutting one build: pieces, sheets with their cuts, what fits on none, what is ordered, what is wrong."""

    build: str
    cuts: tuple[Cut, ...]
    laid: tuple[Laid, ...]
    left: tuple[Cut, ...]
    orders: tuple[Order, ...]
    wrong: tuple[str, ...]
    currency: str = ""

    @property
    def price(self) -> float | None:
        """What all that has a price costs together; None where nothing has one."""
        known = [one.price for one in self.orders if one.price is not None and not one.at_hand]
        return sum(known) if known else None


def cut_plan(project: Project, build: str | None = None, dispensed: Sequence[Dispensed] = ()) -> CutPlan:
    """Return the plan for cutting a build. Raises `ProjectError` for sheets without a size."""
    one = project.build(build)
    cuts = pieces(project, one.id)
    soft = [cut for cut in cuts if not cut.metal]
    laid, left = nested(soft, checked(sheets(project, soft)))
    orders = (
        *_sheets(project, laid, left),
        *_tubes(project, dispensed),
        *_metal(project, cuts),
        *_washers(project, one),
    )
    wrong = (
        *(f"{cut.number}, {cut.label}: {said}" for cut in cuts for said in cut.wrong),
        *(_too_large(project, cut) for cut in left),
        *_threads(project, one),
        *_headers(project),
    )
    return CutPlan(one.id, cuts, laid, left, orders, wrong, project.currency)


def sheets(project: Project, cuts: Sequence[Cut]) -> Iterator[Sheet]:
    """Yield what pieces may be cut from: at hand, on the price list, and where that has none, as the material is usually sold."""
    known = known_materials(project)
    for item in project.stock:
        if item.thickness_mm is not None and item.w_mm and item.h_mm and item.count > 0:
            yield Sheet(item.material, item.thickness_mm.value, item.w_mm, item.h_mm, stock=item.id, count=item.count)
    for key in dict.fromkeys((cut.material, cut.sheet_mm) for cut in cuts):
        listed = [
            o for o in project.shop if o.material == key[0] and o.thickness_mm is not None and abs(o.thickness_mm - key[1]) < 1e-6
        ]
        sold = [o for o in listed if o.w_mm and o.h_mm]
        for offer in sold:
            yield Sheet(*key, offer.w_mm or 0.0, offer.h_mm or 0.0, offer=offer.id, price=offer.price)
        if not sold:
            material = known.get(key[0])
            for w, h in (material.handling.sheet_sizes_mm if material is not None else ()) or (_USUAL_SHEET_MM,):
                yield Sheet(*key, w, h)


def _sheets(project: Project, laid: Sequence[Laid], left: Sequence[Cut]) -> Iterator[Order]:
    known = known_materials(project)
    counted: Counter[Sheet] = Counter(one.sheet for one in laid)
    for sheet, count in counted.items():
        name = _name(known, sheet.material)
        on = [cut.cut.number for one in laid if one.sheet == sheet for cut in one.placed]
        cut = f"{len(on)} piece{'s' if len(on) > 1 else ''} cut from {'it' if count == 1 else 'them'}"
        if sheet.stock:
            yield Order(f"{name}, {sheet.says}", count, f"at hand; {cut}", at_hand=True)
            continue
        spare = 1 if len(on) >= figures()["spare_from"] else 0
        why = f"{count} needed: {cut}" + ("; one more because a torn pad costs a second order" if spare else "")
        price = None if sheet.price is None else sheet.price * (count + spare)
        yield Order(f"{name}, {sheet.says}", count + spare, why, price, _alternative(project, sheet))


def _alternative(project: Project, sheet: Sheet) -> str:
    """Return what is as thick and sold as well: the next firmness of its kind in the price list."""
    known = known_materials(project)
    kind = known[sheet.material].kind if sheet.material in known else None
    others = [
        offer
        for offer in project.shop
        if offer.material != sheet.material
        and offer.thickness_mm is not None
        and abs(offer.thickness_mm - sheet.thickness_mm) < 1e-6
        and offer.material in known
        and known[offer.material].kind is kind
    ]
    return f"{_name(known, others[0].material)} at {others[0].price:g}" if others else ""


def _tubes(project: Project, dispensed: Sequence[Dispensed]) -> Iterator[Order]:
    known = known_materials(project)
    for material in dict.fromkeys(one.material for one in dispensed):
        need = sum(one.volume_mm3 for one in dispensed if one.material == material) / 1e3
        name = _name(known, material)
        here = sum((item.ml or math.inf) * item.count for item in project.stock if item.material == material)
        count = sum(one.material == material for one in dispensed)
        why = f"{short(need, 2)} ml for {count} part{'s' if count != 1 else ''}"
        if here >= need:
            yield Order(name, 1, f"at hand; {why}", at_hand=True)
            continue
        sold = [one for one in project.shop if one.material == material and one.ml]
        best = min(sold, key=lambda one: one.price * math.ceil(need / (one.ml or 1.0)), default=None)
        tubes = 1 if best is None else math.ceil(need / (best.ml or 1.0))
        yield Order(name, tubes, why, None if best is None else best.price * tubes)


def _metal(project: Project, cuts: Sequence[Cut]) -> Iterator[Order]:
    known = known_materials(project)
    for key in dict.fromkeys((cut.material, cut.sheet_mm, cut.size_mm) for cut in cuts if cut.metal):
        some = [cut for cut in cuts if cut.metal and (cut.material, cut.sheet_mm, cut.size_mm) == key]
        w, h = key[2]
        what = f"{_name(known, key[0])} shim, {short(key[1])} mm, {short(w)} × {short(h)} mm"
        yield Order(what, len(some), "bought to size: a knife does not cut it; edges without burrs")


def _washers(project: Project, build: Build) -> Iterator[Order]:
    counted: Counter[tuple[float, str]] = Counter()
    for one in build.fastener_settings:
        if one.fitted and one.washers_mm.value > 0:
            counted[one.washers_mm.value, one.washer_material] += 1
    for (thick, material), count in counted.items():
        fails = "it fails before the board does" if material == "plastic" else "it does not give: the board or the die would"
        yield Order(
            f"{short(thick)} mm of {material} washer", count, f"under {count} screws; {fails}", alternative="thin ones stacked"
        )


# -- what screws and headers bear


def _threads(project: Project, build: Build) -> Iterator[str]:
    """Yield what is wrong with screws under washers: too little thread, or a tip that bottoms; common practice, no source."""
    wanted, found = figures()["threads"], project.build()
    for one in project.device.fasteners:
        looks = one.hardware
        washers = build.setting_of(one.id).washers_mm.value - found.setting_of(one.id).washers_mm.value
        if looks.engages_mm is not None and one.diameter_mm is not None and looks.turns_in:
            left, least = looks.engages_mm - washers, wanted[looks.turns_in] * one.diameter_mm.value
            if left < least:
                yield (
                    f"{one.label}: {short(max(left, 0.0))} mm of thread are left to hold; {short(least)} mm are wanted in "
                    f"{looks.turns_in}. Take a longer screw or a thinner washer."
                )
        if looks.spare_mm is not None and washers < -looks.spare_mm:
            yield f"{one.label}: its tip would bottom before it clamps."


def _headers(project: Project) -> Iterator[str]:
    """Yield fans that take more than the header gives that they hang on: one fan per header."""
    fans: dict[str, float] = {}
    for body in project.all_bodies:
        for fan in getattr(getattr(body, "sink", None), "fans", ()):
            if fan.current_a is not None:
                fans[body.id] = fans.get(body.id, 0.0) + fan.current_a * fan.count
    for plug in project.device.plugs:
        if plug.what == "fan" and plug.most_a is not None and plug.of in fans and fans[plug.of] > plug.most_a:
            takes, gives = short(fans[plug.of]), short(plug.most_a)
            yield f"{plug.label}: its fans take {takes} A, the header gives {gives} A. One fan per header."


def _too_large(project: Project, cut: Cut) -> str:
    w, h = cut.size_mm
    what = f"{short(cut.sheet_mm)} mm {_name(known_materials(project), cut.material)}"
    return f"{cut.number}, {cut.label}: {short(w)} × {short(h)} mm is larger than any sheet of {what}."


def _name(known: dict[str, Material], material: str) -> str:
    return known[material].name if material in known else material
