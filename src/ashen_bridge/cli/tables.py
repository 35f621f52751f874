"""An assessment as plain data and as aligned tables."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from tabulate import tabulate

from ashen_bridge.assess.result import Assessment, LayerGain
from ashen_bridge.library.touch import WORDS
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import Report
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.outcome import Chances, chance_words, standard_error
from ashen_bridge.uncertainty.together import combined

MOST_SHOWN = 15


def as_plain(
    project: Project, assessment: Assessment, stands_on: Sequence[Assumption] | None = None, drawn: Chances | None = None
) -> dict[str, Any]:
    """Return the JSON of `predict --json`: the report, the findings; what it stands on and chances, if they were worked out."""
    plain: dict[str, Any] = assessment.report.model_dump(mode="json")
    reasons = _switched_off(project)
    plain["findings"] = [
        finding.model_dump(mode="json") | {"switched_off": reasons.get((finding.code, finding.about))}
        for finding in assessment.findings
    ]
    if stands_on is not None:
        plain["assumptions"] = [{**asdict(one), "effects": dict(one.effects)} for one in _by_weight(stands_on)]
        plain["uncertainty_k"] = combined(stands_on)
    plain["chance"] = asdict(drawn) if drawn is not None else None
    return plain


def as_text(
    project: Project,
    assessment: Assessment,
    stands_on: Sequence[Assumption] | None = None,
    drawn: Chances | None = None,
) -> str:
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
    if drawn is not None:
        parts.append(_chances(drawn))
    if stands_on is not None:
        parts.append(_stands_on(stands_on))
    parts.append(
        _table(
            [_joint(row) for row in report.joints],
            ["joint", "over", "gap mm", "bond line µm", "compr.", "kPa", "N", "contact", "mm²·K/W", "drop K"],
        )
    )
    plates = [
        [row.id, f"{row.z_mm:.3f}", f"{row.tilt_x_mrad:+.2f}", f"{row.tilt_y_mrad:+.2f}", f"{row.t_mean_c:.1f}"]
        for row in report.plates
    ]
    parts.append(_table(plates, ["plate", "height mm", "tilt x mrad", "tilt y mrad", "mean °C"]))
    parts.append(_table([[row.id, f"{row.force_n:.1f}"] for row in report.fasteners], ["fastener", "force N"]))
    parts += _ways_out(report)
    if report.skin:
        skins = [
            [row.name, f"{row.t_max_c:.1f}", row.surface, WORDS.get(row.longest_contact or "", "not to be touched")]
            for row in report.skin
        ]
        parts.append(_table(skins, ["skin", "°C", "feels like", "may be"]))
    parts.append(_findings(project, assessment))
    mesh = report.mesh
    refinement = "" if mesh.refinement_k is None else f", mesh ±{mesh.refinement_k:.1f} K ({mesh.refinement_at})"
    parts.append(
        f"energy balance {report.balance.energy_rel:.0e}, force balance {report.balance.force_rel:.0e}, "
        f"{mesh.cells} cells{refinement}, {report.seconds:.2f} s"
    )
    return "\n\n".join(parts)


def _switched_off(project: Project) -> dict[tuple[str, str], str]:
    """Return the findings that were switched off, by code and what they are about, with the reason."""
    return {(one.code, one.about): one.reason for one in project.silenced}


def _findings(project: Project, assessment: Assessment) -> str:
    reasons = _switched_off(project)
    heard = [one for one in assessment.findings if (one.code, one.about) not in reasons]
    quiet = [one for one in assessment.findings if (one.code, one.about) in reasons]
    lines = [f"{one.severity:>8}  {one.text}\n{'':>8}  → {one.remedy}" for one in heard]
    lines += [f"{'off':>8}  {one.text}\n{'':>8}  switched off: {reasons[one.code, one.about]}" for one in quiet]
    return "\n".join(lines) or "Nothing to report: every rule is satisfied."


def layers_text(layers: Sequence[LayerGain]) -> str:
    """Return layers ranked by what they would gain if they were perfect, those that gain nothing left out."""
    rows = [[one.label, f"{one.gain_k:.1f}"] for one in layers if one.gain_k >= 0.05]
    return _table(rows, ["layer or way", "K if perfect"])


def _chances(drawn: Chances) -> str:
    """± and chance of every sensor, and for the worst the numbers that make its spread."""
    rows = [
        [
            one.name,
            f"{one.shown_c:.1f}",
            f"{one.sd_k:.1f}",
            f"{one.low_c:.0f}…{one.high_c:.0f}",
            "–" if one.within is None or one.within_se is None else chance_words(one.within, one.within_se),
        ]
        for one in drawn.sensors
    ]
    parts = [_table(rows, ["drawn", "°C", "± K", "95 % of samples", "within its limit"])]
    if drawn.all_within is not None:
        chance = chance_words(drawn.all_within, standard_error(drawn.all_within, drawn.count))
        parts.append(f"All limits hold in {chance} of {drawn.count} samples.")
    limited = [one for one in drawn.sensors if one.within is not None]
    if limited:
        worst = min(limited, key=lambda one: one.within or 0.0)
        shares = [
            [f"{share.owners[0]}{f' ×{len(share.owners)}' if len(share.owners) > 1 else ''}", share.field, f"{share.share:.0%}"]
            for share in worst.shares
        ]
        parts.append(_table(shares, ["to measure better", "number", f"of the spread of {worst.name}"]))
    return "\n\n".join(parts)


def _ways_out(report: Report) -> list[str]:
    """Tables of fans, heat pipes, what closes over the stack, power held back, and parts that no sensor reads."""
    parts = []
    if report.fans:
        rows = [
            [
                row.name,
                f"{row.speed_percent:.0f}",
                "–" if row.noise_db is None else f"{row.noise_db:.1f}",
                "–" if row.flow_m3_h is None else f"{row.flow_m3_h:.1f}",
                "–" if row.pressure_pa is None else f"{row.pressure_pa:.0f}",
            ]
            for row in report.fans
        ]
        parts.append(_table(rows, ["fans of", "% speed", "dB", "m³/h", "Pa"]))
    if report.pipes:
        rows = [[row.name, f"{row.carried_w:.0f}", f"{row.limit_w:.0f}"] for row in report.pipes]
        parts.append(_table(rows, ["heat pipes", "carry W", "limit W"]))
    if report.closing:
        rows = [
            [row.name, f"{row.force_n:.0f}", f"{row.bulge_mm:.2f}", f"{row.clearance_mm:.2f}", "yes" if row.closes else "no"]
            for row in report.closing
        ]
        parts.append(_table(rows, ["closes over it", "force N", "bulge mm", "least gap mm", "closes"]))
    if report.held_back:
        rows = [[row.component, f"{row.wanted_w:.0f}", f"{row.power_w:.0f}", row.reason] for row in report.held_back]
        parts.append(_table(rows, ["held back", "asked W", "made W", "why"]))
    unseen = [row for row in report.components if not row.sensed]
    if unseen:
        rows = [[row.id, row.kind, f"{row.t_max_c:.1f}"] for row in sorted(unseen, key=lambda row: -row.t_max_c)]
        parts.append(_table(rows, ["no sensor reads", "kind", "°C"]))
    return parts


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
        "–" if row.resistance_mm2k_w is None else f"{row.resistance_mm2k_w:.0f}",
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
