"""What may be wrong with a device: each hypothesis moves one number, says so in words, and names what would confirm it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Literal

from ashen_bridge.changes import bodies as body_changes
from ashen_bridge.changes import layers, materials, points, screws
from ashen_bridge.model.bodies import Component, ComponentRole, Plate
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.paths import set_numbers
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.words.numbers import number, percent

_SPREAD = {MaterialKind.PASTE, MaterialKind.LIQUID_METAL, MaterialKind.PHASE_CHANGE}
_BESIDE = {MaterialKind.PAD, MaterialKind.PUTTY, MaterialKind.GRAPHITE}


@dataclass(frozen=True)
class Hypothesis:
    """One thing that may be wrong. `change` makes it so, by a number from `healthy` to `worst`.

    `says` puts the number in words; `about` is the path of what it speaks of; `confirm` the look or measurement that would tell.
    A hypothesis about a sensor changes nothing in the model but what that `sensor` reads. `all_or_nothing`: no number between
    healthy and worst. `of`: whether it belongs to one closing of the device or to the device; `plates` are those that must be
    lifted to bring it about.
    """

    id: str
    title: str
    about: str
    healthy: float
    worst: float
    says: Callable[[float], str]
    confirm: str
    change: Callable[[Project, float], Project]
    sensor: str = ""
    all_or_nothing: bool = False
    of: Literal["closing", "device"] = "device"
    plates: frozenset[str] = frozenset()

    @property
    def kind(self) -> str:
        """What kind of fault it is, by which its odds are known."""
        return self.id.partition("-")[0].partition("@")[0]

    def applied(self, project: Project, value: float) -> Project:
        """Return the project as it would be. Raises `ProjectError` where that cannot be."""
        return self.change(project, value)


def hypotheses(project: Project, build: str, point: str) -> tuple[Hypothesis, ...]:
    """Return everything this device, build and point leaves room for."""
    return (
        *_joints(project, build),
        *_groups(project, build),
        *_fasteners(project, build),
        *_plates(project, build),
        *_circumstances(project, point),
        *_powers(project, build, point),
        *_batches(project, build),
        *_sensors(project),
    )


def _joints(project: Project, build: str) -> Iterator[Hypothesis]:
    here = resolve(project, build)
    bodies = {body.id: body for body in here.bodies}
    for joint in here.joints:
        kinds = {project.material(piece.material).kind for piece in joint.pieces}
        die = any(isinstance(body := bodies[low], Component) and body.role is ComponentRole.DIE for low in joint.lower)
        about = f"builds.{build}.joints.{joint.id}"
        name = joint.name or " and ".join(bodies[low].label for low in joint.lower)
        if kinds & _SPREAD:
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
                plates=frozenset({joint.upper}),
            )
        elif kinds & _BESIDE:
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
                plates=frozenset({joint.upper}),
            )


def _groups(project: Project, build: str) -> Iterator[Hypothesis]:
    joints = {joint.id: joint for joint in resolve(project, build).joints}
    for group in project.groups:
        members = tuple(name for name in group.joints if name in joints and joints[name].sheet_at is not None)
        if not members:
            continue
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
            plates=frozenset(joints[name].upper for name in members),
        )


def _fasteners(project: Project, build: str) -> Iterator[Hypothesis]:
    for fastener, setting in resolve(project, build).fasteners:
        if not setting.fitted or fastener.kind == "glued":
            continue

        yield Hypothesis(
            f"loose-{fastener.id}",
            f"{fastener.name or fastener.id} holds nothing: the plate tilts",
            f"device.fasteners.{fastener.id}",
            0.0,
            1.0,
            lambda _: "as if it were left out",
            "Check that screw, then the imprint: thin on one side, thick on the other.",
            partial(_loose, build=build, fastener=fastener.id),
            all_or_nothing=True,
            of="closing",
            plates=frozenset(fastener.joins),
        )


def _plates(project: Project, build: str) -> Iterator[Hypothesis]:
    for plate in resolve(project, build).bodies:
        if not isinstance(plate, Plate):
            continue
        if plate.sink is not None and getattr(plate.sink, "convective_k_w", None) is not None:
            yield Hypothesis(
                f"sink-{plate.id}",
                f"{plate.label} gives less to the air than rated",
                f"device.bodies.{plate.id}",
                1.0,
                3.0,
                lambda factor: f"its resistance to the air is {number(factor, 2)} times the rated one",
                "Look for dust and a fan that is slow or blocked; feel whether all heat pipes get warm.",
                partial(_weaker_sink, plate=plate.id),
            )
        if plate.on == "floating" and plate.landings:
            for sign, word in ((-1.0, "hollow"), (1.0, "crowned")):
                yield Hypothesis(
                    f"{word}-{plate.id}",
                    f"The base of {plate.label} is {word}",
                    f"device.bodies.{plate.id}",
                    0.0,
                    sign * 120.0,
                    lambda more: f"by {number(abs(more))} µm more than said",
                    "Lay a straight edge over the base, against the light.",
                    partial(_bent, plate=plate.id, landing=plate.landings[0].id),
                )


def _circumstances(project: Project, point: str) -> Iterator[Hypothesis]:
    yield Hypothesis(
        "air",
        "The air in the case is warmer than said",
        f"points.{point}",
        0.0,
        25.0,
        lambda more: f"by {number(more)} K",
        "Hold a thermometer where the fan draws its air.",
        partial(_warmer, point=point),
    )
    yield Hypothesis(
        "power",
        "The device makes more power than said",
        f"points.{point}",
        1.0,
        1.6,
        lambda factor: f"{percent(factor - 1)} more",
        "Read the board's own power, or measure what it draws at the supply.",
        partial(_stronger, point=point),
    )


def _powers(project: Project, build: str, point: str) -> Iterator[Hypothesis]:
    """The power of all parts of one kind, which is a guess more often than not; and a fan that does not turn as it should."""
    powers = project.point(point).powers_w
    parts = [body for body in project.bodies_of(project.build(build)) if isinstance(body, Component) and body.id in powers]
    for role in dict.fromkeys(part.role for part in parts if part.role is not ComponentRole.DIE):
        names = tuple(part.id for part in parts if part.role is role)
        yield Hypothesis(
            f"parts-{role.value}",
            f"The {role.value} parts make more heat than said",
            f"points.{point}",
            1.0,
            2.5,
            lambda factor: f"{number(factor, 1)} times as much",
            "Measure what they draw, or compare their rise with a load that leaves them alone.",
            partial(_more_of, point=point, names=names),
        )
    for plate, speed in project.point(point).fans_percent.items():
        yield Hypothesis(
            f"fan-{plate}",
            f"The fan of {plate} turns slower than said",
            f"points.{point}",
            1.0,
            0.35,
            lambda share, speed=speed.value: f"at {number(share * speed)} % of its rated speed",  # type: ignore[misc]
            "Read its speed, or look whether it turns freely.",
            partial(_slower, point=point, plate=plate),
        )


def _batches(project: Project, build: str) -> Iterator[Hypothesis]:
    used = {piece.material: None for joint in resolve(project, build).joints for piece in joint.pieces}
    for name in used:
        material = project.material(name)
        if material.kind in _SPREAD | _BESIDE:
            yield Hypothesis(
                f"batch-{name}",
                f"{material.name} conducts worse than said, wherever it is",
                f"materials.{name}",
                1.0,
                4.0,
                lambda factor: f"{number(factor, 1)} times worse",
                "Measure a piece of it between two plates, or put another kind in one place.",
                partial(_worse_batch, material=name),
            )


def _sensors(project: Project) -> Iterator[Hypothesis]:
    for sensor in project.device.sensors:
        for worst in (25.0, -25.0):
            yield Hypothesis(
                f"offset-{sensor.id}-{'high' if worst > 0 else 'low'}",
                f"Sensor {sensor.label} reads too {'high' if worst > 0 else 'low'}",
                f"device.sensors.{sensor.id}",
                0.0,
                worst,
                lambda more: f"by {number(abs(more), 1)} K",
                "Compare it with its neighbours after a night without power.",
                _unchanged,
                sensor.id,
            )


# ---- what each of them does to a project


def _weakened(project: Project, factor: float, build: str, joint: str) -> Project:
    return materials.weaken_joint(project, build, joint, factor)


def _thicker(project: Project, more: float, build: str, joints: tuple[str, ...]) -> Project:
    return layers.thicken_all_sheets(project, build, joints, more)


def _loose(project: Project, _: float, build: str, fastener: str) -> Project:
    return screws.leave_out(project, build, (fastener,))


def _weaker_sink(project: Project, factor: float, plate: str) -> Project:
    return body_changes.weaken_sink(project, plate, factor)


def _bent(project: Project, more: float, plate: str, landing: str) -> Project:
    return body_changes.crown_landing(project, plate, landing, more)


def _warmer(project: Project, more: float, point: str) -> Project:
    return points.warm_air(project, point, more)


def _stronger(project: Project, factor: float, point: str) -> Project:
    return points.multiply_powers(project, point, factor)


def _more_of(project: Project, factor: float, point: str, names: tuple[str, ...]) -> Project:
    powers = project.point(point).powers_w
    return set_numbers(project, {f"points.{point}.powers_w.{name}": powers[name].value * factor for name in names})


def _slower(project: Project, share: float, point: str, plate: str) -> Project:
    speed = project.point(point).fans_percent[plate].value
    return set_numbers(project, {f"points.{point}.fans_percent.{plate}": speed * share})


def _worse_batch(project: Project, factor: float, material: str) -> Project:
    of, path = project.material(material), f"materials.{material}"
    conducts, touches = of.conductivity_w_mk.value / factor, of.contact_mm2k_w.value * factor
    return set_numbers(project, {f"{path}.conductivity_w_mk": conducts, f"{path}.contact_mm2k_w": touches})


def _unchanged(project: Project, _: float) -> Project:
    return project
