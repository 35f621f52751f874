"""Changes of which joints there are: put in, taken out, spanned; and the groups in which they are edited together."""

from __future__ import annotations

from ashen_bridge.changes.boxes import hull, outline_of
from ashen_bridge.changes.dangling import settled
from ashen_bridge.changes.layers import in_build
from ashen_bridge.changes.materials import with_library
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.joints import Group, Joint
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced, with_each, with_more


def add_joints(project: Project, build: str, joints: tuple[Joint, ...], material: str, kinds: tuple[str, ...] = ()) -> Project:
    """Add joints of a library material; each of a kind ("Memory, front") joins the group that has its like, or makes it."""
    project = with_library(project, [material])
    project = in_build(project, build, lambda one: with_more(one, "joints", *joints))
    for joint, kind in zip(joints, kinds, strict=False):
        project = _grouped(project, project.build(build), joint, kind) if kind else project
    return project


def _grouped(project: Project, build: Build, joint: Joint, kind: str) -> Project:
    """Pads on parts of one kind on one side are edited together."""
    bodies = project.bodies_known(build)
    wanted = _like(bodies[joint.lower[0]])
    alike = {one.id for one in build.joints if one.id != joint.id and all(_like(bodies[low]) == wanted for low in one.lower)}
    for group in project.groups:
        if alike & set(group.joints):
            return with_each(project, "groups", lambda one: replaced(one, joints=(*one.joints, joint.id)), (group.id,))
    new = Group(id=fresh_id(slug(kind, "group"), [one.id for one in project.groups]), name=kind, joints=(joint.id,))
    return with_more(project, "groups", new)


def _like(body: object) -> tuple[object, object]:
    return getattr(body, "role", None), getattr(body, "side", None)


def remove_joints(project: Project, build: str, joints: tuple[str, ...]) -> Project:
    """Take whole joints out of a build; groups forget them where no other build has them."""
    kept = tuple(joint for joint in project.build(build).joints if joint.id not in joints)
    return _with_joints(project, build, kept)


def span_joint(project: Project, build: str, joints: tuple[str, ...]) -> Project:
    """Make one piece lie over all lower faces of several joints: one pad over several parts."""
    one = project.build(build)
    found = [one.joint(name) for name in joints]
    if len(found) < 2 or len({joint.upper for joint in found}) > 1:
        raise ProjectError("Choose two or more parts under the same plate, each with its pad, to join their pads.")
    bodies = project.bodies_known(one)
    lower = tuple(dict.fromkeys(name for joint in found for name in joint.lower))
    outline = outline_of(hull([bodies[name].footprint.bounds for name in lower]))
    pieces = tuple(replaced(piece, footprint=outline) for piece in found[0].pieces)
    spanned = replaced(found[0], lower=lower, pieces=pieces)
    kept = tuple(spanned if joint is found[0] else joint for joint in one.joints if joint.id not in joints[1:])
    return _with_joints(project, build, kept)


def _with_joints(project: Project, build: str, joints: tuple[Joint, ...]) -> Project:
    project.build(build)
    builds = tuple(replaced(one, joints=joints) if one.id == build else one for one in project.builds)
    return settled(project, project.model_copy(update={"builds": builds}))
