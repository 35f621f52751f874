"""The stack in section as a vector drawing for papers: heights stretched so that thin layers can be seen."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from markupsafe import Markup, escape

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.geometry.section import Cut, CutBody, CutFilling, section
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.predict.report import JointRow
from ashen_bridge.predict.rows import AtRest

_INK, _QUIET = "#26221f", "#8d857d"
_FILLS = {"board": "#d9d0c0", "substrate": "#b9ac99", "component": "#e9e3d9", "plate": "#c9c4bd"}
_LAYERS = {"pad": "#9fb2c0", "putty": "#b9a3b5", "paste": "#d58a5f", "air": "#ffffff"}
_HIGH_MM = 58.0


def elevation_svg(half: AtRest, joints: Sequence[JointRow], width_mm: float = 170.0) -> Markup:
    """Return the section through the first die, along x, `width_mm` wide; empty where nothing is cut."""
    cut = Cut("x", _middle(half.scene))
    forces = {(row.id, row.lower): row.force_n for row in joints}

    def height(plate: str, x: Floats, y: Floats) -> Floats:
        at = half.assembly.motion.centres[half.assembly.plates.index(plate)]
        z, slope_x, slope_y = half.coordinates[3 * half.assembly.plates.index(plate) :][:3]
        return np.asarray(z + slope_x * (x - at[0]) + slope_y * (y - at[1]))

    def give(joint: str, lower: str) -> float:
        known = half.scene.joints.get(joint)
        return known.compliance_um_n.value * 1e-6 * forces.get((joint, lower), 0.0) if known is not None else 0.0

    found = section(half.scene, height, give, cut)
    if not found.bodies:
        return Markup("")
    lows = [float(body.low.min()) for body in found.bodies]
    highs = [float(body.high.max()) for body in found.bodies]
    starts = [float(body.s.min()) for body in found.bodies]
    ends = [float(body.s.max()) for body in found.bodies]
    x0, x1 = min(starts), max(ends)
    levels = _Levels([*lows, *highs, *(float(v) for f in found.fillings for v in (f.low.min(), f.high.max()))])
    scale = width_mm / (x1 - x0)
    parts = [_shape(body, x0, scale, levels, _FILLS.get(body.kind, "#dddddd")) for body in found.bodies]
    parts += [_shape(one, x0, scale, levels, _LAYERS.get(one.what, "#9fb2c0")) for one in found.fillings]
    names = {body.id: body.model.label for body in half.scene.bodies.values()}
    parts += _names(found.bodies, names, x0, scale, levels)
    size = f'width="{width_mm:g}mm" height="{_HIGH_MM + 2:g}mm" viewBox="-1 -1 {width_mm + 2:g} {_HIGH_MM + 2:g}"'
    return Markup(f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{"".join(parts)}</svg>')


def _middle(scene: Scene) -> float:
    dies = [
        body.model for body in scene.bodies.values() if isinstance(body.model, Component) and body.model.role is ComponentRole.DIE
    ]
    boxes = [one.footprint.bounds for one in dies] or [body.model.footprint.bounds for body in scene.bodies.values()]
    return (boxes[0][1] + boxes[0][3]) / 2 * 1e-3


class _Levels:
    """Heights on paper: every step between two levels gets room by the root of its height, so that films can be seen."""

    def __init__(self, levels: Sequence[float]) -> None:
        self._at = np.unique(np.round(np.asarray(levels), 7))
        steps = np.sqrt(np.diff(self._at)) if len(self._at) > 1 else np.ones(1)
        drawn = np.concatenate([[0.0], np.cumsum(steps)])
        self._drawn = _HIGH_MM * (1 - drawn / drawn[-1])

    def __call__(self, height: Floats) -> Floats:
        return np.asarray(np.interp(height, self._at, self._drawn))


def _shape(one: CutBody | CutFilling, x0: float, scale: float, levels: _Levels, fill: str) -> str:
    x = (one.s - x0) * scale
    low, high = levels(one.low), levels(one.high)
    points = [*zip(x, high, strict=True), *zip(x[::-1], low[::-1], strict=True)]
    path = " ".join(f"{a:.2f},{b:.2f}" for a, b in points)
    return f'<polygon points="{path}" fill="{fill}" stroke="{_INK}" stroke-width="0.15"/>'


def _names(bodies: Sequence[CutBody], names: dict[str, str], x0: float, scale: float, levels: _Levels) -> list[str]:
    found, seen = [], set()
    for body in sorted(bodies, key=lambda one: float(one.s.min() - one.s.max())):
        if body.id in seen:
            continue
        seen.add(body.id)
        wide = float(body.s.max() - body.s.min()) * scale
        low, high = float(levels(body.low).mean()), float(levels(body.high).mean())
        said = names.get(body.id, body.id)
        size = min(2.8, (low - high) * 0.6, 1.7 * wide / max(len(said), 1))
        if size >= 1.2:
            x, y = (float(body.s.mean()) - x0) * scale, (low + high) / 2 + size * 0.35
            style = f'font-family="Lato" font-size="{size:.2f}" text-anchor="middle" fill="{_INK}"'
            found.append(f'<text x="{x:.2f}" y="{y:.2f}" {style}>{escape(said)}</text>')
    return found
