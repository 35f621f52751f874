"""What a build makes of the device: overrides applied, bodies removed and added, fasteners set."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Board, Component, Plate, Substrate
from ashen_bridge.model.build import Build
from ashen_bridge.model.device import Device
from ashen_bridge.model.errors import PathError
from ashen_bridge.model.fasteners import Fastener, FastenerSetting
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project

_OVERRIDABLE = ("device.", "materials.")


@dataclass(frozen=True)
class ResolvedBuild:
    """The device as one build has it, ready for geometry."""

    build: Build
    device: Device
    bodies: tuple[Board | Substrate | Component | Plate, ...]
    fasteners: tuple[tuple[Fastener, FastenerSetting], ...]
    joints: tuple[Joint, ...]
    materials: dict[str, Material]

    def body(self, body_id: str) -> Board | Substrate | Component | Plate:
        """Return a present body by id; `KeyError` if it is not there."""
        for body in self.bodies:
            if body.id == body_id:
                return body
        raise KeyError(body_id)


def resolve(project: Project, build_id: str | None = None) -> ResolvedBuild:
    """Return the device as the build has it.

    Joints and fasteners of removed bodies go with them. Raises `PathError` for an override that does not address the
    device or a material, `ProjectError` for a value that its place refuses.
    """
    build = project.build(build_id)
    if build.overrides:
        for path in build.overrides:
            if not path.startswith(_OVERRIDABLE):
                raise PathError(f"Build '{build.id}' overrides '{path}': only device and materials can be overridden.", path)
        project = paths.set_values(project, build.overrides)
        build = project.build(build.id)
    bodies = project.bodies_of(build)
    present = {body.id for body in bodies} | {"ground", "case"}
    settings = {setting.fastener: setting for setting in build.fastener_settings}
    fasteners = tuple(
        (fastener, settings.get(fastener.id, FastenerSetting(fastener=fastener.id)))
        for fastener in project.device.fasteners
        if present.issuperset(fastener.joins)
    )
    joints = tuple(
        joint.model_copy(update={"lower": tuple(low for low in joint.lower if low in present)})
        for joint in build.joints
        if joint.upper in present and present.intersection(joint.lower)
    )
    return ResolvedBuild(
        build=build,
        device=project.device,
        bodies=bodies,
        fasteners=tuple(pair for pair in fasteners if pair[1].fitted),
        joints=joints,
        materials={material.id: material for material in project.materials},
    )
