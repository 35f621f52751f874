"""Cutting: pieces as large as their parts, straight cuts all the way through, no sheet too many, drawings at exactly 1:1."""

from __future__ import annotations

import io
import math
from functools import cache
from itertools import combinations
from xml.etree import ElementTree

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pypdf import PdfReader
from pypdf.generic import ContentStream

from ashen_bridge.changes.edit import read_edit
from ashen_bridge.editing.choosing import follow
from ashen_bridge.editing.cutting import keep_rests
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.fasteners import FastenerSetting
from ashen_bridge.model.footprint import rectangle
from ashen_bridge.model.hardware import Plug
from ashen_bridge.model.joints import Piece, Worked
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.sinks import Fan
from ashen_bridge.model.wishes import Offer, StockItem
from ashen_bridge.planning.cutting.nesting import Laid, Sheet, nested
from ashen_bridge.planning.cutting.orders import CutPlan, cut_plan
from ashen_bridge.planning.cutting.pieces import Cut, figures, pieces
from ashen_bridge.planning.cutting.volumes import dispensing, drop_mm, line_mm
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.cut_drawing import all_sheets_svg
from ashen_bridge.report.cut_dxf import cut_dxf
from ashen_bridge.report.cut_sheet import cut_html, cut_pdf
from devices import FOUR, Card
from devices import project as card_project

KERF, TRIM = figures()["kerf_mm"], figures()["trim_mm"]


def piece(n: int, w: float, h: float, turns: bool = True) -> Cut:
    return Cut(
        n, f"j{n}", f"m{n}", f"Part {n}", Side.FRONT, "pad", "Pad", 1.0, 1.0, (w, h), ((0.0, 0.0, w, h),), (), (0.0, 0.0), turns
    )


def bought(w: float = 100.0, h: float = 100.0) -> Sheet:
    return Sheet("pad", 1.0, w, h, offer="x")


@pytest.fixture(scope="module")
def demo() -> Project:
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def plan(demo: Project) -> CutPlan:
    return cut_plan(demo, "as_found", dispensing(Engine(), demo, "as_found"))


# ---- nesting


def checked(laid: tuple[Laid, ...]) -> None:
    """No two pieces overlap, all lie inside the trim, and no cut crosses a piece; together cuts part every two pieces."""
    for one in laid:
        boxes = [p.box for p in one.placed]
        for x0, y0, x1, y1 in boxes:
            assert x0 >= TRIM - 1e-6
            assert y0 >= TRIM - 1e-6
            assert x1 <= one.sheet.w_mm - TRIM + 1e-6
            assert y1 <= one.sheet.h_mm - TRIM + 1e-6
        for a, b in combinations(boxes, 2):
            apart = max(b[0] - a[2], a[0] - b[2], b[1] - a[3], a[1] - b[3])
            assert apart >= KERF - 1e-6, "the blade has its room"
        parts = [(0.0, 0.0, one.sheet.w_mm, one.sheet.h_mm)]
        for cut in one.cuts:
            axis = 0 if cut.along == "y" else 1
            hit = [p for p in parts if p[axis] < cut.at_mm < p[axis + 2] and abs(p[1 - axis] - cut.from_mm) < 0.02]
            hit = [p for p in hit if abs(p[3 - axis] - cut.to_mm) < 0.02]
            assert hit, "every cut goes through one whole part that is left"
            part = hit[0]
            for box in boxes:
                crosses = box[axis] + 1e-6 < cut.at_mm < box[axis + 2] - 1e-6
                inside = box[1 - axis] < part[3 - axis] - 1e-6 and box[3 - axis] > part[1 - axis] + 1e-6
                assert not (crosses and inside), "no cut goes through a piece"
            parts.remove(part)
            # On which side the blade takes its width depends on where a piece ends there.
            ends = any(abs(box[axis + 2] - cut.at_mm) < 1e-3 for box in boxes)
            low, high = (cut.at_mm, cut.at_mm + KERF) if ends else (cut.at_mm - KERF, cut.at_mm)
            first = (part[0], part[1], low, part[3]) if axis == 0 else (part[0], part[1], part[2], low)
            second = (high, part[1], part[2], part[3]) if axis == 0 else (part[0], high, part[2], part[3])
            parts += [first, second]


@settings(max_examples=25)
@given(
    st.lists(st.tuples(st.floats(3, 45), st.floats(3, 45), st.booleans()), min_size=1, max_size=14),
    st.sampled_from([(50.0, 60.0), (100.0, 100.0), (120.0, 48.0)]),
)
def test_any_pieces_are_parted_by_straight_cuts(sizes: list[tuple[float, float, bool]], sheet: tuple[float, float]) -> None:
    cuts = [piece(n + 1, round(w, 1), round(h, 1), turns) for n, (w, h, turns) in enumerate(sizes)]
    laid, left = nested(cuts, [bought(*sheet)])
    assert sorted([p.cut.number for one in laid for p in one.placed] + [one.number for one in left]) == [c.number for c in cuts]
    checked(laid)
    for one in left:
        w, h = one.size_mm
        room = sheet[0] - 2 * TRIM, sheet[1] - 2 * TRIM
        assert w > room[0] or h > room[1], "only what fits on no sheet is left"


def fewest(sizes: list[tuple[float, float]], w: float, h: float) -> int:
    """The least number of sheets by exhaustive search over all slicing trees; pieces may be turned."""

    @cache
    def shapes(group: frozenset[int]) -> frozenset[tuple[float, float]]:
        if len(group) == 1:
            a, b = sizes[next(iter(group))]
            return frozenset({(a, b), (b, a)})
        found: set[tuple[float, float]] = set()
        first, *rest = sorted(group)
        for count in range(len(rest)):
            for some in combinations(rest, count):
                low = frozenset((first, *some))
                for a, b in shapes(low):
                    for c, d in shapes(group - low):
                        found |= {(a + c + KERF, max(b, d)), (max(a, c), b + d + KERF)}
        return frozenset(one for one in found if one[0] <= w + 1e-9 and one[1] <= h + 1e-9)

    @cache
    def least(group: frozenset[int]) -> int:
        if not group:
            return 0
        first, *rest = sorted(group)
        best = len(group)
        for count in range(len(rest) + 1):
            for some in combinations(rest, count):
                on = frozenset((first, *some))
                if any(a <= w + 1e-9 and b <= h + 1e-9 for a, b in shapes(on)):
                    best = min(best, 1 + least(group - on))
        return best

    return least(frozenset(range(len(sizes))))


@settings(max_examples=20)
@given(st.lists(st.tuples(st.integers(8, 40), st.integers(8, 40)), min_size=2, max_size=6))
def test_small_cases_need_no_more_sheets_than_exhaustive_search(sizes: list[tuple[int, int]]) -> None:
    whole = [(float(w), float(h)) for w, h in sizes]
    laid, left = nested([piece(n + 1, *size) for n, size in enumerate(whole)], [bought(62.0, 62.0)])
    assert not left
    assert len(laid) == fewest(whole, 60.0, 60.0)


@pytest.mark.parametrize("count", [1, 9, 10, 40])
def test_many_alike_fill_sheets_as_area_allows(count: int) -> None:
    """Three by three of 30 mm fill a sheet of 94 mm: as many sheets as the count asks for, no more."""
    laid, _ = nested([piece(n + 1, 30.0, 30.0) for n in range(count)], [bought(94.0, 94.0)])
    assert len(laid) == math.ceil(count / 9)
    checked(laid)


def test_what_is_at_hand_goes_first_and_the_cheaper_size_is_bought() -> None:
    stock = Sheet("pad", 1.0, 30.0, 30.0, stock="offcut")
    dear = Sheet("pad", 1.0, 100.0, 100.0, offer="large", price=30.0)
    cheap = Sheet("pad", 1.0, 50.0, 50.0, offer="small", price=9.0)
    laid, _ = nested([piece(1, 20.0, 20.0), piece(2, 40.0, 40.0)], [stock, dear, cheap])
    assert {one.sheet.stock or one.sheet.offer for one in laid} == {"offcut", "small"}


def test_oriented_pieces_are_never_turned() -> None:
    laid, left = nested([piece(1, 60.0, 10.0, turns=False)], [bought(30.0, 80.0)])
    assert not laid
    assert [one.number for one in left] == [1]


# ---- pieces


def test_pieces_are_as_large_as_their_parts_and_numbered_as_one_reads(demo: Project) -> None:
    found = pieces(demo, "as_found")
    assert [one.number for one in found] == list(range(1, len(found) + 1))
    for one in found:
        x0, y0, x1, y1 = demo.body(one.lower).footprint.bounds
        if one.joint != "pad_b2":
            assert one.size_mm == pytest.approx((x1 - x0, y1 - y0))
        assert not one.wrong
    keys = [(one.material, one.sheet_mm) for one in found]
    assert keys == sorted(keys)


def with_pieces(project: Project, *made: Piece) -> Project:
    build = project.build()
    joints = tuple(replaced(j, pieces=made) if j.id != "die_joint" else j for j in build.joints)
    return replaced(project, builds=(replaced(build, joints=joints),))


def test_only_what_wants_it_goes_over_its_part() -> None:
    card = card_project(Card(parts=FOUR))
    pad = Piece(id="pad", material="pad_medium", thickness_mm=q(1.0))
    exact = pieces(with_pieces(card, pad))
    by_eye = follow(card, "cut", "over").applied(card)
    assert all(
        b.size_mm[0] == pytest.approx(a.size_mm[0] + 1.0) for a, b in zip(exact, pieces(with_pieces(by_eye, pad)), strict=True)
    )
    larger = replaced(pad, footprint=rectangle(0, 0, 30, 30))
    assert "beyond its part" in pieces(with_pieces(card, larger))[0].wrong[0]


def test_a_stretched_pad_is_cut_smaller_by_its_volume() -> None:
    card = card_project(Card(parts=FOUR))
    thin = Piece(id="pad", material="pad_soft", thickness_mm=q(1.0), worked=Worked(from_mm=q(1.25), how="stretched"))
    one = pieces(with_pieces(card, thin))[0]
    x0, y0, x1, y1 = card.body(one.lower).footprint.bounds
    assert one.area_mm2 * one.sheet_mm == pytest.approx((x1 - x0) * (y1 - y0) * 1.0, rel=1e-3)
    assert "cut smaller" in "; ".join(one.notes)


def test_a_hole_is_cut_where_a_screw_passes() -> None:
    card = card_project(Card(parts=FOUR))
    screw = card.device.fasteners[0]
    lower = next(one.lower[0] for one in card.build().joints if one.id != "die_joint")
    x0, y0, x1, y1 = card.body(lower).footprint.bounds
    moved = replaced(screw, x_mm=(x0 + x1) / 2, y_mm=(y0 + y1) / 2)
    card = replaced(card, device=replaced(card.device, fasteners=(moved, *card.device.fasteners[1:])))
    pad = Piece(id="pad", material="pad_medium", thickness_mm=q(1.0))
    holed = next(one for one in pieces(with_pieces(card, pad)) if one.lower == lower)
    assert len(holed.holes) == 1
    a, b, c, d = holed.holes[0]
    assert ((a + c) / 2, (b + d) / 2) == pytest.approx((holed.size_mm[0] / 2, holed.size_mm[1] / 2))
    assert c - a == pytest.approx(figures()["screw_mm"] + figures()["hole_over_mm"])


# ---- orders, screws, volumes


def test_orders_say_why_and_one_more_is_bought_where_many_are_cut(demo: Project, plan: CutPlan) -> None:
    buy = [one for one in plan.orders if not one.at_hand]
    assert any("one more because a torn pad costs a second order" in one.why for one in buy)
    offers = (Offer(id="o", material="pad_medium", thickness_mm=1.75, w_mm=60, h_mm=60, price=7.5),)
    priced = cut_plan(replaced(demo, shop=offers, currency="€"), "as_found")
    line = next(one for one in priced.orders if "1.75" in one.what)
    assert line.price == pytest.approx(7.5 * line.quantity)
    assert priced.price == pytest.approx(line.price)


def test_screws_that_hold_by_too_little_thread_and_headers_that_give_too_little_are_named() -> None:
    card = card_project(Card(parts=FOUR))
    first = card.device.fasteners[0]
    looks = replaced(first.hardware, engages_mm=5.5, turns_in="plastic")
    screw = replaced(first, hardware=looks, diameter_mm=q(2.5))
    cooler = next(b for b in card.device.bodies if b.kind == "plate" and b.sink is not None)
    assert cooler.kind == "plate"
    assert cooler.sink is not None
    fan = Fan(id="f", count=2, noise_db=q(30.0), current_a=0.8)
    bodies = tuple(replaced(b, sink=replaced(cooler.sink, fans=(fan,))) if b.id == cooler.id else b for b in card.device.bodies)
    plug = Plug(id="p", name="Fan plug", what="fan", x_mm=1, y_mm=1, of=cooler.id, most_a=1.0)
    device = replaced(card.device, bodies=bodies, plugs=(plug,), fasteners=(screw, *card.device.fasteners[1:]))
    build = card.build()
    raised = replaced(build, id="raised", fastener_settings=(FastenerSetting(fastener=screw.id, washers_mm=q(1.0)),))
    made = replaced(card, device=device, builds=(build, raised), main_build=build.id)
    assert not any("thread" in one for one in cut_plan(made, build.id).wrong), "5.5 mm hold, 5 are wanted in plastic"
    wrong = cut_plan(made, "raised").wrong
    assert any("4.5 mm of thread are left" in one and "5 mm are wanted in plastic" in one for one in wrong)
    assert any("take 1.6 A, the header gives 1 A" in one for one in wrong)


def test_drops_and_lines_hold_their_volume(demo: Project) -> None:
    for volume in (5.0, 30.0, 220.0):
        assert math.pi * drop_mm(volume) ** 3 / 12 == pytest.approx(volume)
        assert math.pi / 4 * figures()["bead_mm"] ** 2 * line_mm(volume) == pytest.approx(volume)
    found = dispensing(Engine(), demo, "plan_a")
    (die,) = [one for one in found if one.joint == "die_joint"]
    assert die.gap_mm3 == pytest.approx(die.gap_mm * die.area_mm2)
    assert die.pressed_out_mm3 == pytest.approx(max(die.volume_mm3 - die.gap_mm3, 0.0))


# ---- what stays


def test_after_cutting_the_stock_is_what_remains(demo: Project, plan: CutPlan) -> None:
    made = keep_rests(demo, plan, "2031-03-14")
    after = read_edit(made.to_plain()).applied(demo)
    used = {one.sheet.stock for one in plan.laid if one.sheet.stock}
    assert used
    left = {item.id: item.count for item in after.stock}
    for item in demo.stock:
        assert left.get(item.id, 0) == item.count - sum(one.sheet.stock == item.id for one in plan.laid)
    offcuts = [item for item in after.stock if item.note == "offcut"]
    assert len(offcuts) == sum(len(one.rests) for one in plan.laid)
    assert all((item.w_mm or 0) >= figures()["least_rest_mm"] for item in offcuts)
    with pytest.raises(ProjectError, match="has no"):
        made.applied(replaced(demo, stock=()))


# ---- bad input


def test_what_is_larger_than_any_sheet_or_has_no_sheet_is_said() -> None:
    card = card_project(Card(parts=FOUR))
    large = Piece(id="pad", material="pad_medium", thickness_mm=q(1.0), footprint=rectangle(-100, -100, 300, 300))
    plan = cut_plan(with_pieces(card, large))
    assert len(plan.left) == 4
    assert any("larger than any sheet" in one for one in plan.wrong)
    nothing = cut_plan(with_pieces(card))
    assert nothing.cuts == ()
    assert "Nothing is cut" in cut_html(card, nothing)
    flat = StockItem(id="s", material="pad_medium", thickness_mm=q(1.0), w_mm=0.5, h_mm=0.5)
    pad = Piece(id="pad", material="pad_medium", thickness_mm=q(1.0))
    assert all(one.sheet.stock == "" for one in cut_plan(replaced(with_pieces(card, pad), stock=(flat,))).laid)


# ---- drawings


def rectangles(content: bytes) -> list[tuple[float, float]]:
    """Sizes of all rectangles and straight lines that a PDF draws, in millimetres."""
    found: list[tuple[float, float]] = []
    reader = PdfReader(io.BytesIO(content))
    for page in reader.pages:
        stack: list[tuple[float, ...]] = []
        now = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
        at = (0.0, 0.0)
        for operands, operator in ContentStream(page.get_contents(), reader).operations:
            match operator:
                case b"q":
                    stack.append(now)
                case b"Q":
                    now = stack.pop()
                case b"cm":
                    a, b, c, d, e, f = map(float, operands)
                    now = (
                        a * now[0] + b * now[2], a * now[1] + b * now[3], c * now[0] + d * now[2], c * now[1] + d * now[3],
                        e * now[0] + f * now[2] + now[4], e * now[1] + f * now[3] + now[5],
                    )  # fmt: skip
                case b"re":
                    w, h = float(operands[2]), float(operands[3])
                    found.append((abs(w * now[0]) * 25.4 / 72, abs(h * now[3]) * 25.4 / 72))
                case b"m":
                    at = (float(operands[0]), float(operands[1]))
                case b"l":
                    to = (float(operands[0]), float(operands[1]))
                    dx, dy = (to[0] - at[0]) * now[0], (to[1] - at[1]) * now[3]
                    found.append((abs(dx) * 25.4 / 72, abs(dy) * 25.4 / 72))
                    at = to
    return found


@pytest.mark.parametrize(("size", "wide", "high"), [("A4", 210.0, 297.0), ("Letter", 215.9, 279.4)])
def test_the_printed_sheet_is_at_exactly_one_to_one(demo: Project, plan: CutPlan, size: str, wide: float, high: float) -> None:
    """Page and lengths measured in the PDF: within a tenth of a millimetre, as is the bar by which a print is checked."""
    content = cut_pdf(demo, plan, (), size)  # type: ignore[arg-type]
    page = PdfReader(io.BytesIO(content)).pages[0].mediabox
    assert float(page.width) * 25.4 / 72 == pytest.approx(wide, abs=0.1)
    assert float(page.height) * 25.4 / 72 == pytest.approx(high, abs=0.1)
    drawn = rectangles(content)

    def there(w: float, h: float) -> bool:
        return any(abs(a - w) < 0.1 and abs(b - h) < 0.1 for a, b in drawn)

    for one in plan.laid:
        assert there(one.sheet.w_mm, one.sheet.h_mm)
        for placed in one.placed:
            assert there(placed.w_mm, placed.h_mm)
    assert there(50.0, 0.0), "the bar"


def test_a_sheet_larger_than_the_paper_is_tiled(demo: Project) -> None:
    laid, _ = nested([piece(1, 250.0, 250.0)], [bought(300.0, 300.0)])
    plan = CutPlan("as_found", (), laid, (), (), ())
    page = cut_html(demo, plan)
    assert page.count("part 1 of 4") == 1
    assert page.count("part 4 of 4") == 1
    assert "lap over by 8 mm" in page


def test_the_drawing_file_says_the_same_in_millimetres(plan: CutPlan) -> None:
    root = ElementTree.fromstring(all_sheets_svg(plan.laid))
    assert root.get("width", "").endswith("mm")
    view = [float(x) for x in root.get("viewBox", "").split()]
    assert float(root.get("width", "0mm")[:-2]) == pytest.approx(view[2]), "one unit is one millimetre"
    sizes = {(float(r.get("width", "0")), float(r.get("height", "0"))) for r in root.iter("{http://www.w3.org/2000/svg}rect")}
    for one in plan.laid:
        assert (one.sheet.w_mm, one.sheet.h_mm) in sizes


def test_the_exchange_file_is_read_back_with_the_right_millimetres(plan: CutPlan, tmp_path: object) -> None:
    from ezdxf.filemanagement import read

    drawing = read(io.StringIO(cut_dxf(plan.laid).decode()))
    assert drawing.units == 4, "millimetres"
    space = drawing.modelspace()
    boxes = [list(one.get_points("xy")) for one in space.query('LWPOLYLINE[layer=="PIECES"]')]
    sizes = sorted(tuple(round(max(at) - min(at), 2) for at in zip(*box, strict=True)) for box in boxes)
    assert sizes == sorted((round(p.w_mm, 2), round(p.h_mm, 2)) for one in plan.laid for p in one.placed)
    assert len(space.query('LINE[layer=="CUTS"]')) == sum(len(one.cuts) for one in plan.laid)


def test_names_in_the_paper_are_no_markup(demo: Project, plan: CutPlan) -> None:
    named = replaced(demo, device=replaced(demo.device, name="<script>alert(1)</script>"))
    page = cut_html(named, plan)
    assert "<script>alert" not in page
