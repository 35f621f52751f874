"""Pieces laid onto sheets so that a knife cuts straight through: least sheets, then least waste, then fewest cuts.

The packing is a library's (rectpack, guillotine splits; J. Jylänki, A Thousand Ways to Pack the Bin, 2010); some of its ways are
tried and the best by that order is taken. In which order the knife goes is found here, along lines that cross no piece.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import rectpack
from rectpack import guillotine

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.planning.cutting.pieces import Box, Cut, figures
from ashen_bridge.planning.cutting.slicing import MOST, sliced
from ashen_bridge.words.numbers import short

_NEAR_MM = 0.25  # what is left of a kerf beside a piece: no further cut
_TENTH = 10  # the library counts in whole numbers: tenths of a millimetre
_WAYS = (
    guillotine.GuillotineBssfSas,
    guillotine.GuillotineBssfLas,
    guillotine.GuillotineBssfMinas,
    guillotine.GuillotineBafSas,
    guillotine.GuillotineBafMinas,
    guillotine.GuillotineBlsfLas,
)
_SORTS = (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_RATIO)


@dataclass(frozen=True)
class Sheet:
    """A sheet that pieces may be cut from. `stock` is the item at hand it is, empty for one that is bought; `count` how many."""

    material: str
    thickness_mm: float
    w_mm: float
    h_mm: float
    stock: str = ""
    offer: str = ""
    count: int = 1
    price: float | None = None

    @property
    def says(self) -> str:
        """It in words."""
        return f"{short(self.thickness_mm)} mm, {short(self.w_mm)} × {short(self.h_mm)} mm"


@dataclass(frozen=True)
class Placed:
    """A piece on a sheet: lower left corner and size there [mm]; `turned` by a quarter."""

    cut: Cut
    x_mm: float
    y_mm: float
    w_mm: float
    h_mm: float
    turned: bool

    @property
    def box(self) -> Box:
        """Left, lower, right and upper edge [mm]."""
        return self.x_mm, self.y_mm, self.x_mm + self.w_mm, self.y_mm + self.h_mm


@dataclass(frozen=True)
class Knife:
    """One straight cut: along `x` or `y` at a place [mm], from where to where; it goes through all that is left there."""

    along: str
    at_mm: float
    from_mm: float
    to_mm: float


@dataclass(frozen=True)
class Laid:
    """One sheet with its pieces, the cuts in their order, and what remains as rectangles large enough to keep."""

    sheet: Sheet
    placed: tuple[Placed, ...]
    cuts: tuple[Knife, ...]
    rests: tuple[Box, ...]

    @property
    def waste(self) -> float:
        """Share of the sheet that becomes neither piece nor rest."""
        area = self.sheet.w_mm * self.sheet.h_mm
        used = sum(one.w_mm * one.h_mm for one in self.placed) + sum((c - a) * (d - b) for a, b, c, d in self.rests)
        return max(0.0, 1 - used / area)


def nested(cuts: Sequence[Cut], sheets: Sequence[Sheet]) -> tuple[tuple[Laid, ...], tuple[Cut, ...]]:
    """Lay pieces onto sheets of their material and thickness, at hand first; returns the sheets used and what fitted on none."""
    laid: list[Laid] = []
    left: list[Cut] = []
    for key in dict.fromkeys((cut.material, cut.sheet_mm) for cut in cuts):
        some = [cut for cut in cuts if (cut.material, cut.sheet_mm) == key]
        here = [one for one in sheets if one.material == key[0] and abs(one.thickness_mm - key[1]) < 1e-6 and one.count > 0]
        done, over = _best(some, here)
        laid += done
        left += over
    return tuple(laid), tuple(left)


def _best(cuts: Sequence[Cut], sheets: Sequence[Sheet]) -> tuple[list[Laid], list[Cut]]:
    fits = [cut for cut in cuts if any(_fits(cut, one) for one in sheets)]
    never = [cut for cut in cuts if cut not in fits]
    found: list[tuple[tuple[float, ...], list[Laid], list[Cut]]] = []
    for way in _WAYS:
        for sort in _SORTS:
            for offered in _orders(sheets):
                laid, left = _packed(fits, offered, way, sort)
                bought = sum(not one.sheet.stock for one in laid)
                paid = sum(one.sheet.price or 0.0 for one in laid if not one.sheet.stock)
                area = sum(one.sheet.w_mm * one.sheet.h_mm for one in laid)
                score = (
                    len(left),
                    bought,
                    paid,
                    len(laid),
                    area,
                    sum(one.waste for one in laid),
                    sum(len(one.cuts) for one in laid),
                )
                found.append((score, laid, left))
    if not found:
        return [], list(cuts)
    _, laid, left = min(found, key=lambda one: one[0])
    return _fewer(laid), [*left, *never]


def _fewer(laid: list[Laid]) -> list[Laid]:
    """Where few pieces lie on several bought sheets of one size, look at every way to part them by straight cuts."""
    kerf, trim = figures()["kerf_mm"], figures()["trim_mm"]
    bought = [one for one in laid if not one.sheet.stock]
    some = [placed.cut for one in bought for placed in one.placed]
    if len(bought) < 2 or len(some) > MOST or len({one.sheet for one in bought}) > 1:
        return laid
    sheet = bought[0].sheet
    trees = sliced(some, sheet.w_mm - 2 * trim, sheet.h_mm - 2 * trim, kerf)
    if not trees or len(trees) >= len(bought):
        return laid
    better = []
    for tree in trees:
        placed = []
        for n, x, y, turned in tree.spread(trim, trim, kerf):
            w, h = some[n].size_mm
            placed.append(Placed(some[n], x, y, h if turned else w, w if turned else h, turned))
        one = _sliced(sheet, tuple(placed))
        if one is None:
            return laid
        better.append(one)
    return [*(one for one in laid if one.sheet.stock), *better]


def _orders(sheets: Sequence[Sheet]) -> Iterator[list[Sheet]]:
    """Yield the sheets that may be used, at hand first and small ones first; each size that can be bought by itself, then all."""
    stock = sorted((one for one in sheets if one.stock), key=lambda one: one.w_mm * one.h_mm)
    shop = [one for one in sheets if not one.stock]
    yield from ([*stock, one] for one in shop)
    if len(shop) != 1:
        yield [*stock, *shop]


def _fits(cut: Cut, sheet: Sheet) -> bool:
    w, h = (side - 2 * figures()["trim_mm"] for side in (sheet.w_mm, sheet.h_mm))
    a, b = cut.size_mm
    return (a <= w and b <= h) or (cut.turns and b <= w and a <= h)


def _packed(cuts: Sequence[Cut], sheets: Sequence[Sheet], way: Any, sort: Any) -> tuple[list[Laid], list[Cut]]:
    kerf, trim = figures()["kerf_mm"], figures()["trim_mm"]
    fixed = [cut for cut in cuts if not cut.turns]
    packer = rectpack.newPacker(pack_algo=way, sort_algo=sort, rotation=not fixed)
    by_number = {cut.number: cut for cut in cuts}
    for cut in cuts:
        w, h = cut.size_mm
        packer.add_rect(_up(w + kerf), _up(h + kerf), rid=cut.number)
    for n, one in enumerate(sheets):
        if min(one.w_mm, one.h_mm) <= 2 * trim:
            continue
        # The last kerf of a row falls into the trim.
        room = _down(one.w_mm - 2 * trim + kerf), _down(one.h_mm - 2 * trim + kerf)
        packer.add_bin(*room, count=one.count if one.stock else len(cuts), bid=n)
    packer.pack()
    boxes: dict[int, list[tuple[int, int, int, int, int]]] = {}
    sheet_of: dict[int, Sheet] = {}
    for at, bin_ in enumerate(packer):
        sheet_of[at] = sheets[bin_.bid]
        boxes[at] = [(r.rid, r.x, r.y, r.width, r.height) for r in bin_]
    laid, seen = [], set()
    for at, some in boxes.items():
        placed = []
        for number, x, y, w, _ in some:
            cut = by_number[number]
            turned = abs(w - _up(cut.size_mm[0] + kerf)) > 0
            a, b = (cut.size_mm[1], cut.size_mm[0]) if turned else cut.size_mm
            placed.append(Placed(cut, trim + x / _TENTH, trim + y / _TENTH, a, b, turned))
        found = _sliced(sheet_of[at], tuple(placed))
        if found is None:
            continue  # no knife cuts that straight through: what lies there counts as left over
        laid.append(found)
        seen |= {one.cut.number for one in placed}
    return laid, [cut for cut in cuts if cut.number not in seen]


def _up(mm: float) -> int:
    return -int(-round(mm * _TENTH, 4) // 1)


def _down(mm: float) -> int:
    return int(round(mm * _TENTH, 4) // 1)


# -- the knife's way


def _sliced(sheet: Sheet, placed: tuple[Placed, ...]) -> Laid | None:
    """Return a sheet with its cuts and rests; None where no straight cuts part its pieces."""
    cuts: list[Knife] = []
    rests: list[Box] = []
    if not _slice((0.0, 0.0, sheet.w_mm, sheet.h_mm), list(placed), cuts, rests):
        return None
    least = figures()["least_rest_mm"]
    kept = [box for box in rests if min(box[2] - box[0], box[3] - box[1]) >= least]
    return Laid(sheet, placed, tuple(cuts), tuple(kept))


def _slice(box: Box, placed: list[Placed], cuts: list[Knife], rests: list[Box]) -> bool:
    if not placed:
        rests.append(box)
        return True
    if len(placed) == 1 and all(abs(a - b) < _NEAR_MM for a, b in zip(box, placed[0].box, strict=True)):
        return True
    kerf = figures()["kerf_mm"]
    for axis, at in _lines(box, placed):
        low = [one for one in placed if one.box[axis + 2] <= at + 1e-6]
        high = [one for one in placed if one.box[axis] >= at - 1e-6]
        if len(low) + len(high) != len(placed):
            continue
        # What the blade takes lies on the side where no piece ends.
        ends = any(abs(one.box[axis + 2] - at) < 1e-6 for one in low)
        until, since = (at, min(at + kerf, box[axis + 2])) if ends else (max(at - kerf, box[axis]), at)
        first = (box[0], box[1], until, box[3]) if axis == 0 else (box[0], box[1], box[2], until)
        second = (since, box[1], box[2], box[3]) if axis == 0 else (box[0], since, box[2], box[3])
        before, kept = len(cuts), len(rests)
        cuts.append(Knife("y" if axis == 0 else "x", round(at, 2), round(box[1 - axis], 2), round(box[3 - axis], 2)))
        if _slice(first, low, cuts, rests) and _slice(second, high, cuts, rests):
            return True
        del cuts[before:], rests[kept:]
    return False


def _lines(box: Box, placed: Sequence[Placed]) -> list[tuple[int, float]]:
    """Return where a knife may go straight through: along edges of pieces; what parts off the largest rest comes first."""
    found: set[tuple[int, float]] = set()
    for axis in (0, 1):
        for one in placed:
            for at in (one.box[axis], one.box[axis + 2]):
                inside = box[axis] + 1e-6 < at < box[axis + 2] - 1e-6
                if inside and not any(other.box[axis] + 1e-6 < at < other.box[axis + 2] - 1e-6 for other in placed):
                    found.add((axis, at))

    def rest(line: tuple[int, float]) -> float:
        axis, at = line
        low = any(one.box[axis] < at - 1e-6 for one in placed)
        high = any(one.box[axis + 2] > at + 1e-6 for one in placed)
        across = box[3 - axis] - box[1 - axis]
        return ((0.0 if low else at - box[axis]) + (0.0 if high else box[axis + 2] - at)) * across

    return sorted(found, key=lambda line: (-rest(line), line))


def checked(sheets: Iterable[Sheet]) -> tuple[Sheet, ...]:
    """Return sheets as they are. Raises `ProjectError` for one without a size."""
    found = tuple(sheets)
    for one in found:
        if min(one.w_mm, one.h_mm, one.thickness_mm) <= 0:
            raise ProjectError(f"A sheet of {one.material} has no size: {one.says}.")
    return found
