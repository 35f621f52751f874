"""Changes of builds: copied, named, deleted; and what one has in common with another."""

from __future__ import annotations

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find, replaced, with_each, with_more


def copy_build(project: Project, source: str, new: str, name: str) -> Project:
    """Copy a build under a new id and name."""
    return with_more(project, "builds", replaced(project.build(source), id=new, name=name))


def rename_build(project: Project, build: str, name: str) -> Project:
    """Give a build another name."""
    return with_each(project, "builds", lambda one: replaced(one, name=name), (build,))


def delete_build(project: Project, build: str) -> Project:
    """Delete a build; the last one stays, and so does one that runs were logged of."""
    label = find(project.builds, build, "build").label
    if len(project.builds) < 2:
        raise ProjectError("This is the only build; a project keeps at least one.")
    if any(run.build == build for run in project.runs):
        raise ProjectError(f"Runs were logged of “{label}”, so it stays.")
    left = tuple(one for one in project.builds if one.id != build)
    main = project.main_build if project.main_build != build else left[0].id
    closings = tuple(replaced(one, builds=tuple(name for name in one.builds if name != build)) for one in project.closings)
    return replaced(project, builds=left, main_build=main, closings=closings)


def take_joints(project: Project, build: str, source: str, joints: tuple[str, ...]) -> Project:
    """Make some joints of a build what they are in another: changed, added, or taken out where the other has none."""
    theirs = {joint.id: joint for joint in project.build(source).joints if joint.id in joints}
    mine = project.build(build).joints
    kept = [theirs.pop(joint.id, None) if joint.id in joints else joint for joint in mine]
    made = (*(joint for joint in kept if joint is not None), *theirs.values())
    return with_each(project, "builds", lambda one: replaced(one, joints=made), (build,))


def take_plates(project: Project, build: str, source: str) -> Project:
    """Let a build have the bodies of another, with all joints, since these end at them."""
    other = project.build(source)
    said = {"removed": other.removed, "added": other.added, "joints": other.joints}
    return with_each(project, "builds", lambda one: replaced(one, **said), (build,))


def take_setting(project: Project, build: str, source: str, fastener: str) -> Project:
    """Set a fastener as it is in another build."""
    theirs = [one for one in project.build(source).fastener_settings if one.fastener == fastener]
    kept = [one for one in project.build(build).fastener_settings if one.fastener != fastener]
    return with_each(project, "builds", lambda one: replaced(one, fastener_settings=(*kept, *theirs)), (build,))


def take_override(project: Project, build: str, source: str, path: str) -> Project:
    """Let a build override a number as another does, or not."""
    kept = {key: value for key, value in project.build(build).overrides.items() if key != path}
    theirs = project.build(source).overrides
    made = {**kept, path: theirs[path]} if path in theirs else kept
    return with_each(project, "builds", lambda one: replaced(one, overrides=made), (build,))


def set_override(project: Project, build: str, path: str, value: float) -> Project:
    """Let a number of the device hold in one build only."""
    made = {**project.build(build).overrides, path: value}
    return with_each(project, "builds", lambda one: replaced(one, overrides=made), (build,))


def drop_overrides(project: Project, build: str, paths: tuple[str, ...]) -> Project:
    """Let numbers of a build be those of the device again."""
    kept = {path: value for path, value in project.build(build).overrides.items() if path not in paths}
    return with_each(project, "builds", lambda one: replaced(one, overrides=kept), (build,))
