"""Which conditions hold in a build: a number plays its part only where its own does."""

from __future__ import annotations

from collections.abc import Callable

from ashen_bridge.model.bodies import Body, Plate
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.joints import Joint, PieceState
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.plays import When
from ashen_bridge.model.project import Project

Root = Body | Fastener | Joint | Material | OperatingPoint | Sensor


def circumstances(project: Project, build: Build) -> Callable[[When, str], bool]:
    """Return whether a condition holds for what a number belongs to, by its id."""
    bodies = project.bodies_of(build)
    kinds = {material.id: material.kind for material in project.materials}
    bends = any(body.kind == "board" and body.bends for body in bodies)
    bent = {name for body in bodies for name in body.made_of if _bends(body, bends)}
    bare = {end for joint in build.joints if not joint.pieces and not joint.stated_mm2k_w for end in (joint.upper, *joint.lower)}
    wet = {
        end
        for joint in build.joints
        if any(kinds.get(piece.material) is MaterialKind.LIQUID_METAL for piece in joint.pieces)
        for end in (joint.upper, *joint.lower)
    }
    holds: dict[When, set[str]] = {
        When.SERVED: {
            piece.material
            for joint in build.joints
            for piece in joint.pieces
            if piece.age_days or piece.state is PieceState.DRIED
        },
        When.CLAIMED: {
            one.id
            for one in project.materials
            if any(source.claimed for source in one.sources) and not any(source.method for source in one.sources)
        },
        When.TURNED: {one.fastener for one in build.fastener_settings if one.turns is not None},
        When.TORQUED: {one.fastener for one in build.fastener_settings if one.torque_nm is not None},
        When.BENT: bent,
        When.WETTED: wet | bare,
        When.BARE_METAL: {name for body in bodies if body.id in bare for name in body.made_of},
    }

    def hold(when: When, owner: str) -> bool:
        if when is When.ALWAYS:
            return True
        return bends if when is When.BOARD_BENDS else owner in holds[when]

    return hold


def _bends(body: Body, board_bends: bool) -> bool:
    if isinstance(body, Plate):
        return body.bends and body.on == "floating"
    return board_bends


def materials_of_build(project: Project, build: Build) -> set[str]:
    """Return the ids of all materials that something in a build is made of."""
    pieces = {piece.material for joint in build.joints for piece in joint.pieces}
    return pieces.union(*(body.made_of for body in project.bodies_of(build)))
