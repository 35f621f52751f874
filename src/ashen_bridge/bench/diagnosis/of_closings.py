"""What may have gone wrong when a stack was closed: pads, pastes, films, screws, and whether anything was changed at all."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ashen_bridge.bench.diagnosis.hypothesis import Hypothesis
from ashen_bridge.changes import faults, layers, materials, screws
from ashen_bridge.model.bodies import Body, Component, ComponentRole
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.words.numbers import number, percent

SPREAD = {MaterialKind.PASTE, MaterialKind.LIQUID_METAL, MaterialKind.PHASE_CHANGE}
BESIDE = {MaterialKind.PAD, MaterialKind.PUTTY, MaterialKind.GRAPHITE}
_FILMED = {MaterialKind.PAD, MaterialKind.PHASE_CHANGE, MaterialKind.GRAPHITE}


def of_closings(project: Project, build: str, before: str | None) -> Iterator[Hypothesis]:
    """Yield what belongs to one closing of the stack."""
    yield from _joints(project, build)
    yield from _groups(project, build)
    yield from _fasteners(project, build)
    if before is not None and before != build:
        label = project.build(before).label
        yield Hypothesis(
            "unchanged",
            f"Nothing was changed since “{label}”",
            f"builds.{build}",
            0.0,
            1.0,
            lambda _: "the joints are those of before",
            "Ask what was really fitted, or open and look.",
            lambda one, _: faults.unchanged_since(one, build, before),
            all_or_nothing=True,
            of="closing",
            plates=frozenset(joint.upper for joint in project.build(build).joints),
        )


def _joints(project: Project, build: str) -> Iterator[Hypothesis]:
    here = resolve(project, build)
    bodies = {body.id: body for body in here.bodies}
    for joint in here.joints:
        kinds = {project.material(piece.material).kind for piece in joint.pieces}
        die = any(isinstance(body := bodies[low], Component) and body.role is ComponentRole.DIE for low in joint.lower)
        about = f"builds.{build}.joints.{joint.id}"
        name = joint.name or " and ".join(bodies[low].label for low in joint.lower)
        plates = frozenset({joint.upper})
        if kinds & SPREAD:
            yield Hypothesis(
                f"worn-{joint.id}",
                f"The layer of {name} has dried, cracked or been pumped out" if die else f"The layer of {name} has worn",
                about,
                1.0,
                12.0,
                lambda factor: f"it conducts {number(factor, 1)} times worse than said",
                "Open and look at the imprint: dry, cracked, or pushed to the edges.",
                partial(_weakened, build=build, joint=joint.id),
                of="closing",
                plates=plates,
            )
        elif kinds & BESIDE:
            yield Hypothesis(
                f"touch-{joint.id}",
                f"{name} does not touch, or covers only a part",
                about,
                1.0,
                30.0,
                lambda factor: f"it carries as if it covered {percent(1 / factor)}",
                "Open and look at the imprints on this pad's both faces.",
                partial(_weakened, build=build, joint=joint.id),
                of="closing",
                plates=plates,
            )
        if kinds & _FILMED:
            yield Hypothesis(
                f"film-{joint.id}",
                f"A film or label was left on {name}",
                about,
                0.0,
                1.0,
                lambda _: "as thin plastic does",
                "Open and scratch at the pad's faces: a film lifts at a corner.",
                partial(_filmed, build=build, joint=joint.id),
                all_or_nothing=True,
                of="closing",
                plates=plates,
            )
        if MaterialKind.SOLDER in kinds:
            yield Hypothesis(
                f"voids-{joint.id}",
                f"The solder of {name} has voids or cracks",
                about,
                1.0,
                8.0,
                lambda factor: f"it conducts {number(factor, 1)} times worse than said",
                "An X-ray or an ultrasound picture shows them; elsewhere only the temperatures do.",
                partial(_weakened, build=build, joint=joint.id),
            )


def _groups(project: Project, build: str) -> Iterator[Hypothesis]:
    resolved = resolve(project, build)
    joints = {joint.id: joint for joint in resolved.joints}
    for group in project.groups:
        members = tuple(name for name in group.joints if name in joints and joints[name].sheet_at is not None)
        if not members:
            continue
        plates = frozenset(joints[name].upper for name in members)
        yield Hypothesis(
            f"thick-{group.id}",
            f"The pads of {group.label} are thicker than said",
            f"groups.{group.id}",
            0.0,
            0.8,
            lambda more: f"by {number(more, 2)} mm",
            "Measure a pad where it was not pressed, and the bond line by the imprint on the die.",
            partial(_thicker, build=build, joints=members),
            of="closing",
            plates=plates,
        )
        for side, some in _sides(project, build, [joints[name] for name in members]).items():
            yield Hypothesis(
                f"oneside-{group.id}-{side}",
                f"The pads of {group.label} on the {side} side are thicker than the others",
                f"groups.{group.id}",
                0.0,
                0.8,
                lambda more: f"by {number(more, 2)} mm",
                "Measure those pads where they were not pressed; the imprint on the die is a wedge.",
                partial(_thicker, build=build, joints=some),
                of="closing",
                plates=plates,
            )


def _sides(project: Project, build: str, members: list[Joint]) -> dict[str, tuple[str, ...]]:
    """Return the joints of a group that lie on one side of the die, where there are such on both."""
    bodies = {body.id: body for body in project.bodies_of(project.build(build))}
    dies = [one for one in bodies.values() if isinstance(one, Component) and one.role is ComponentRole.DIE]
    lower = {joint.id: bodies[joint.lower[0]] for joint in members}
    if not dies:
        return {}
    found: dict[str, tuple[str, ...]] = {}
    for (low, high), along in ((("left", "right"), 0), (("lower", "upper"), 1)):
        middle = _middle(dies[0])[along]
        below = tuple(name for name, body in lower.items() if _middle(body)[along] < middle)
        above = tuple(name for name in lower if name not in below)
        if below and above:
            found |= {low: below, high: above}
    return found


def _middle(body: Body) -> tuple[float, float]:
    rect = body.footprint.rects[0]
    return rect.x_mm + rect.w_mm / 2, rect.y_mm + rect.h_mm / 2


def _fasteners(project: Project, build: str) -> Iterator[Hypothesis]:
    by_plate: dict[str, list[str]] = {}
    floating = {body.id for body in project.bodies_of(project.build(build)) if body.kind == "plate" and body.on == "floating"}
    for fastener, setting in resolve(project, build).fasteners:
        if not setting.fitted or fastener.kind == "glued":
            continue
        for plate in floating & set(fastener.joins):
            by_plate.setdefault(plate, []).append(fastener.id)
        plates = frozenset(fastener.joins)
        about, name = f"device.fasteners.{fastener.id}", fastener.name or fastener.id
        yield Hypothesis(
            f"loose-{fastener.id}",
            f"{name} holds nothing: the plate tilts",
            about,
            0.0,
            1.0,
            lambda _: "as if it were left out",
            "Check that screw, then the imprint: thin on one side, thick on the other.",
            partial(_loose, build=build, fastener=fastener.id),
            all_or_nothing=True,
            of="closing",
            plates=plates,
        )
        yield Hypothesis(
            f"slack-{fastener.id}",
            f"{name} is slack",
            about,
            0.0,
            0.9,
            lambda share: f"it presses with {percent(1 - share)} of what it should",
            "Turn that screw to its stop, and count the turns it still takes.",
            partial(_slack, build=build, fasteners=(fastener.id,)),
            of="closing",
            plates=plates,
        )
    labels = {body.id: body.label for body in project.all_bodies}
    for plate, held in by_plate.items():
        if len(held) > 1:
            yield Hypothesis(
                f"held-{plate}",
                f"Something holds {labels[plate]} off: a frame, a shroud, a cable",
                f"device.bodies.{plate}",
                0.0,
                0.9,
                lambda share: f"{percent(share)} of the screws' force goes into it",
                "Look along the edge for what stands between plate and board; close it once without the pads.",
                partial(_slack, build=build, fasteners=tuple(held)),
                of="closing",
                plates=frozenset({plate}),
            )


def _weakened(project: Project, factor: float, build: str, joint: str) -> Project:
    return materials.weaken_joint(project, build, joint, factor)


def _filmed(project: Project, _: float, build: str, joint: str) -> Project:
    return faults.leave_film(project, build, joint)


def _thicker(project: Project, more: float, build: str, joints: tuple[str, ...]) -> Project:
    return layers.thicken_all_sheets(project, build, joints, more)


def _loose(project: Project, _: float, build: str, fastener: str) -> Project:
    return screws.leave_out(project, build, (fastener,))


def _slack(project: Project, share: float, build: str, fasteners: tuple[str, ...]) -> Project:
    return faults.slacken(project, build, fasteners, share)
