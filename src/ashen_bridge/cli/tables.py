"""An assessment as plain data and as aligned tables."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from tabulate import tabulate

from ashen_bridge.assess.result import Assessment
from ashen_bridge.library.touch import WORDS
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption, combined

MOST_SHOWN = 15


def as_plain(assessment: Assessment, stands_on: Sequence[Assumption] | None = None) -> dict[str, Any]:
    """Return the JSON of `predict --json`: the report, the findings, and what it stands on if that has been weighed."""
    plain: dict[str, Any] = assessment.report.model_dump(mode="json")
    plain["findings"] = [finding.model_dump(mode="json") for finding in assessment.findings]
    if stands_on is not None:
        plain["assumptions"] = [{**asdict(one), "effects": dict(one.effects)} for one in _by_weight(stands_on)]
        plain["uncertainty_k"] = combined(stands_on)
    return plain


def as_text(project: Project, assessment: Assessment, stands_on: Sequence[Assumption] | None = None) -> str:
    """Return an assessment for people."""
    report = assessment.report
    build, point = project.build(report.build), project.point(report.point)
    parts = [f"{project.name or 'Project'} · {build.label} · {point.label} · {report.power_w:.0f} W at {report.ambient_c:.0f} °C"]
    spread = combined(stands_on) if stands_on is not None else None
    sensors = [
        [
            row.name,
            f"{row.value_c:.1f}",
            *([f"{spread.get(row.id, 0.0):.1f}"] if spread is not None else []),
            "–" if row.limit_c is None else f"{row.limit_c:.0f}",
            "–" if row.margin_k is None else f"{row.margin_k:+.1f}",
        ]
        for row in report.sensors
    ]
    parts.append(_table(sensors, ["sensor", "°C", *(["± K"] if spread is not None else []), "limit °C", "margin K"]))
    if stands_on is not None:
        parts.append(_stands_on(stands_on))
    parts.append(
        _table(
            [_joint(row) for row in report.joints],
            ["joint", "over", "gap mm", "bond line µm", "compr.", "kPa", "N", "contact", "drop K"],
        )
    )
    plates = [
        [row.id, f"{row.z_mm:.3f}", f"{row.tilt_x_mrad:+.2f}", f"{row.tilt_y_mrad:+.2f}", f"{row.t_mean_c:.1f}"]
        for row in report.plates
    ]
    parts.append(_table(plates, ["plate", "height mm", "tilt x mrad", "tilt y mrad", "mean °C"]))
    parts.append(_table([[row.id, f"{row.force_n:.1f}"] for row in report.fasteners], ["fastener", "force N"]))
    if report.skin:
        skins = [
            [row.name, f"{row.t_max_c:.1f}", row.surface, WORDS.get(row.longest_contact or "", "not to be touched")]
            for row in report.skin
        ]
        parts.append(_table(skins, ["skin", "°C", "feels like", "may be"]))
    if assessment.findings:
        parts.append(
            "\n".join(f"{finding.severity:>8}  {finding.text}\n{'':>8}  → {finding.remedy}" for finding in assessment.findings)
        )
    else:
        parts.append("Nothing to report: every rule is satisfied.")
    mesh = report.mesh
    refinement = "" if mesh.refinement_k is None else f", mesh ±{mesh.refinement_k:.1f} K"
    parts.append(
        f"energy balance {report.balance.energy_rel:.0e}, force balance {report.balance.force_rel:.0e}, "
        f"{mesh.cells} cells{refinement}, {report.seconds:.2f} s"
    )
    return "\n\n".join(parts)


def _joint(row: Any) -> list[str]:
    bond = row.bond_line_um
    return [
        row.id,
        row.lower,
        f"{row.gap_mm:.3f}",
        f"{bond.min:.0f}…{bond.mean:.0f}…{bond.max:.0f}",
        "–" if row.compression is None else f"{row.compression:.0%}",
        f"{row.pressure_kpa.min:.0f}…{row.pressure_kpa.mean:.0f}…{row.pressure_kpa.max:.0f}",
        f"{row.force_n:.1f}",
        f"{row.contact_fraction:.0%}",
        f"{row.drop_k:.1f}",
    ]


def _by_weight(stands_on: Sequence[Assumption]) -> list[Assumption]:
    return sorted(stands_on, key=lambda one: -(one.effect_k or 0.0))


def _stands_on(stands_on: Sequence[Assumption]) -> str:
    """The numbers that matter most, the heaviest first."""
    rows = [
        [
            f"{one.owners[0]}{f' ×{len(one.owners)}' if len(one.owners) > 1 else ''}",
            one.field,
            f"{one.value:g} ± {one.uncertainty:g}",
            one.origin,
            "–" if one.effect_k is None else f"{one.effect_k:.2f}",
            one.sensor,
        ]
        for one in _by_weight(stands_on)[:MOST_SHOWN]
    ]
    rest = len(stands_on) - len(rows)
    words = f"\n{rest} more matter less; --json lists all." if rest > 0 else ""
    return _table(rows, ["stands on", "number", "value", "origin", "moves K", "of"]) + words


def _table(rows: list[list[str]], headers: list[str]) -> str:
    align = ["left"] + ["right"] * (len(headers) - 1)
    if headers[:2] == ["joint", "over"]:
        align[1] = "left"
    return tabulate(rows, headers=headers, tablefmt="plain", colalign=align if rows else None, disable_numparse=True)
