"""The command that makes: the cut plan and its drawings."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.words.numbers import percent, short

if TYPE_CHECKING:
    from ashen_bridge.planning.cutting.orders import CutPlan
    from ashen_bridge.planning.cutting.volumes import Dispensed

_FILE = click.Path(dir_okay=False, path_type=Path)


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--pdf", "to_pdf", type=_FILE, help="Write the cut sheet as PDF, drawings at exactly 1:1.")
@click.option("--svg", "to_svg", type=_FILE, help="Write all sheets as one SVG, in millimetres.")
@click.option("--dxf", "to_dxf", type=_FILE, help="Write all sheets as DXF, in millimetres.")
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper of the PDF.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def cut(
    project_file: str,
    build: str | None,
    to_pdf: Path | None,
    to_svg: Path | None,
    to_dxf: Path | None,
    paper: Literal["A4", "Letter"],
    as_json: bool,
) -> None:
    """Say what is cut for a build from which sheets, what is dispensed, and what has to be bought."""
    from ashen_bridge.files.atomic import write_atomically
    from ashen_bridge.planning.cutting.orders import cut_plan
    from ashen_bridge.planning.cutting.volumes import dispensing
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    dispensed = dispensing(Engine(), project, build)
    plan = cut_plan(project, build, dispensed)
    if to_pdf is not None:
        from ashen_bridge.report.cut_sheet import cut_pdf

        write_atomically(to_pdf, cut_pdf(project, plan, dispensed, paper))
    if to_svg is not None:
        from ashen_bridge.report.cut_drawing import all_sheets_svg

        write_atomically(to_svg, all_sheets_svg(plan.laid).encode())
    if to_dxf is not None:
        from ashen_bridge.report.cut_dxf import cut_dxf

        write_atomically(to_dxf, cut_dxf(plan.laid))
    say(json.dumps(_plain(plan, dispensed), ensure_ascii=False, indent=1) if as_json else _text(plan, dispensed))


def _plain(plan: CutPlan, dispensed: tuple[Dispensed, ...]) -> dict[str, Any]:
    return {
        "build": plan.build,
        "pieces": [asdict(one) for one in plan.cuts],
        "sheets": [
            {
                "sheet": asdict(one.sheet),
                "pieces": [
                    {"number": p.cut.number, "x_mm": p.x_mm, "y_mm": p.y_mm, "w_mm": p.w_mm, "h_mm": p.h_mm, "turned": p.turned}
                    for p in one.placed
                ],
                "cuts": [asdict(knife) for knife in one.cuts],
                "rests": one.rests,
                "waste": one.waste,
            }
            for one in plan.laid
        ],
        "left": [one.number for one in plan.left],
        "dispensed": [asdict(one) | {"pressed_out_mm3": one.pressed_out_mm3, "says": one.says} for one in dispensed],
        "orders": [asdict(one) for one in plan.orders],
        "price": plan.price,
        "currency": plan.currency,
        "wrong": plan.wrong,
    }


def _text(plan: CutPlan, dispensed: tuple[Dispensed, ...]) -> str:
    lines = []
    for n, one in enumerate(plan.laid, 1):
        at_hand = ", at hand" if one.sheet.stock else ""
        said = f"{len(one.placed)} pieces, {len(one.cuts)} cuts, {percent(one.waste)} waste"
        lines.append(f"Sheet {n}: {one.placed[0].cut.name}, {one.sheet.says}{at_hand}: {said}")
        lines += [f"  {p.cut.number:>3}  {short(p.w_mm)} × {short(p.h_mm)} mm  {p.cut.label}" for p in one.placed]
    lines += [f"{one.label}: {one.name}, {one.says}" for one in dispensed]
    lines += ["", *(f"{one.quantity} × {one.what}: {one.why}" for one in plan.orders)]
    lines += [f"! {said}" for said in plan.wrong]
    return "\n".join(lines).strip() or "Nothing is cut for this build."
