"""What the elevation shows, as plain values: bodies and fillings cut through, with their words, and true figures above them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.geometry.section import Cut, CutBody, CutFilling, Section, section
from ashen_bridge.predict.maps import JointMap
from ashen_bridge.words.numbers import length, number

_AIR_M, _TILTED_UM = 2e-6, 5.0  # an air gap, and a wedge, that are worth a word


@dataclass(frozen=True)
class Callout:
    """A true figure over the picture: where along the cut [m], at what height its line ends [m], and whether it alarms."""

    at: float
    top: float
    text: str
    alarm: bool = False


@dataclass(frozen=True)
class ShownBody:
    """A body that is cut: its name, and how hot it is from ambient (0) to the hottest junction (1), None if that is not shown."""

    cut: CutBody
    name: str
    heat: float | None
    widest: bool


@dataclass(frozen=True)
class ElevationPicture:
    """Everything the elevation shows. `words` stand in its place where there is nothing to show."""

    bodies: tuple[ShownBody, ...] = ()
    fillings: tuple[tuple[CutFilling, bool], ...] = ()
    callouts: tuple[Callout, ...] = ()
    foot: str = ""
    stale: bool = False
    words: str = ""

    @property
    def extent(self) -> tuple[float, float]:
        """From where to where along the cut there is anything [m]."""
        return min(float(b.cut.s.min()) for b in self.bodies), max(float(b.cut.s.max()) for b in self.bodies)

    @property
    def levels(self) -> list[float]:
        """Every height at which something begins or ends [m]."""
        cuts = [body.cut for body in self.bodies]
        levels = [float(v) for b in cuts for v in (b.low.min(), b.low.max(), b.high.min(), b.high.max())]
        return levels + [float(v) for f, _ in self.fillings for v in (f.low.min(), f.high.max())]


def cut_through(desk: StackDesk) -> Section | None:
    """Return the section along the session's cut line, with plates where the last prediction put them."""
    session = desk.session
    scene = session.scene()
    if scene is None or session.results.assessment is None:
        return None
    poses = {pose.plate: pose for pose in session.results.assessment.prediction.poses}
    if any(body.id not in poses for body in scene.floating):
        return None

    def height(plate: str, x: Floats, y: Floats) -> Floats:
        pose = poses[plate]
        return pose.z + pose.slope_x * (x - pose.x0) + pose.slope_y * (y - pose.y0)

    forces = {(row.id, row.lower): row.force_n for row in session.results.assessment.report.joints}

    def give(joint: str, lower: str) -> float:
        return (
            scene.joints[joint].compliance_um_n.value * 1e-6 * forces.get((joint, lower), 0.0) if joint in scene.joints else 0.0
        )

    return section(scene, height, give, desk.view.cut, session.results.assessment.prediction.maps.bow)


def elevation_picture(desk: StackDesk, cut: Section | None) -> ElevationPicture:
    """Return what is shown of a section; `cut` is None where there is none yet."""
    results = desk.session.results
    if cut is None or not cut.bodies:
        return ElevationPicture(words=results.refusal or ("The cut line misses everything." if cut is not None else "Working…"))
    known = desk.session.project.bodies_known(desk.session.build)
    heat = _heat(desk)
    widest: dict[str, float] = {}
    for body in cut.bodies:
        widest[body.id] = max(widest.get(body.id, 0.0), float(body.s[-1] - body.s[0]))
    chosen = set(desk.session.joints)
    across = "y" if cut.cut.along == "x" else "x"
    at = f"cut along {cut.cut.along} at {across} = {number(cut.cut.at * 1e3, 1)} mm"
    maps = results.assessment.prediction.maps.joints if results.assessment is not None else ()
    return ElevationPicture(
        tuple(
            ShownBody(
                body,
                known[body.id].label if body.id in known else body.id,
                heat.get(body.id),
                float(body.s[-1] - body.s[0]) >= widest[body.id] - 1e-12,
            )
            for body in sorted(cut.bodies, key=lambda body: body.kind == "plate")
        ),
        tuple((filling, filling.joint in chosen) for filling in cut.fillings),
        tuple(sorted(_callouts(cut, maps), key=lambda one: one.at)),
        at,
        results.state == "stale",
    )


def _heat(desk: StackDesk) -> dict[str, float]:
    """Parts and plates by their mean temperature, on one scale from ambient to the hottest junction."""
    results = desk.session.results
    if results.assessment is None or desk.view.overlay != "temperature":
        return {}
    report = results.assessment.report
    means = {row.id: row.t_mean_c for row in report.components} | {row.id: row.t_mean_c for row in report.plates}
    top = max((row.t_max_c for row in report.components), default=report.ambient_c + 1)
    return {name: (mean - report.ambient_c) / max(top - report.ambient_c, 1.0) for name, mean in means.items()}


def _callouts(cut: Section, maps: tuple[JointMap, ...]) -> list[Callout]:
    """Return the figures of all joints in the cut, read from the prediction's maps."""
    by_joint: dict[tuple[str, str], list[CutFilling]] = {}
    for filling in cut.fillings:
        by_joint.setdefault((filling.joint, filling.lower), []).append(filling)
    found: list[Callout] = []
    for joint in maps:
        fillings = by_joint.get((joint.joint, joint.lower))
        profile = _profile(joint, cut.cut)
        if not fillings or not len(profile):
            continue
        text = length(float(profile.mean()) * 1e-3)
        low, high = sorted((float(profile[0]), float(profile[-1])))
        if fillings[0].what == "paste" and high - low > _TILTED_UM:
            text = f"{number(low)}…{number(high)} µm"
        air = max((f.mean_thickness for f in fillings if f.what == "air"), default=0.0)
        if air > _AIR_M:
            text += f" + air {length(air * 1e3)}"
        middle = (min(float(f.s[0]) for f in fillings) + max(float(f.s[-1]) for f in fillings)) / 2
        found.append(Callout(middle, float(max(f.high.max() for f in fillings)), text, air > _AIR_M))
    return found


def _profile(joint: JointMap, cut: Cut) -> Floats:
    """Return the bond line [µm] of a joint along the cut, where a piece lies."""
    x0, y0, x1, y1 = joint.box
    n = len(joint.bond_line_um)
    share = (cut.at * 1e3 - y0) / (y1 - y0) if cut.along == "x" else (cut.at * 1e3 - x0) / (x1 - x0)
    at = min(max(int(share * n), 0), n - 1)
    line = joint.bond_line_um[at, :] if cut.along == "x" else joint.bond_line_um[:, at]
    return np.asarray(line[np.isfinite(line)], dtype=float)
