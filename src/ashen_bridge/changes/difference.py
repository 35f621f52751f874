"""What differs between two builds, as the edits that would make one the other."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.changes import builds
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.model.build import Build
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project


def difference(project: Project, build: str, source: str) -> tuple[Edit, ...]:
    """Return the edits that make `build` what `source` is, joints of one group that differ alike as one.

    Each can be made alone; all of them together leave no difference but id, name and notes.
    """
    mine, theirs = project.build(build), project.build(source)
    found: list[Edit] = []
    if (mine.removed, mine.added) != (theirs.removed, theirs.added):
        # Plates that come or go take the joints with them: that is one change.
        found.append(edit("plates added or taken out, with all joints", builds.take_plates, build, source))
    else:
        found += (edit(label, builds.take_joints, build, source, names) for label, names in _joints(project, mine, theirs))
    for name in sorted({one.fastener for one in (*mine.fastener_settings, *theirs.fastener_settings)}):
        if _stated(mine, name) != _stated(theirs, name):
            found.append(edit(f"how {name} is set", builds.take_setting, build, source, name))
    for path in sorted({*mine.overrides, *theirs.overrides}):
        if mine.overrides.get(path) != theirs.overrides.get(path):
            label = f"{path.rsplit('.', 1)[-1]} of {path.split('.')[-2]}"
            found.append(edit(label, builds.take_override, build, source, path))
    return tuple(found)


def reverse(made: Edit) -> Edit:
    """Return the edit of a difference that takes it back: the other build made what this one is, in the same respect."""
    said = dict(made.says)
    said["build"], said["source"] = said["source"], said["build"]
    return Edit(made.name, made.change, tuple(said.items()), made.merge_key)


def _stated(build: Build, fastener: str) -> object:
    return next((one for one in build.fastener_settings if one.fastener == fastener), None)


def _joints(project: Project, mine: Build, theirs: Build) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Joints between the same faces are one place; places of one group that changed alike are one change."""
    places: dict[tuple[str, ...], list[str]] = {}
    for joint in (*mine.joints, *theirs.joints):
        names = places.setdefault((joint.upper, *sorted(joint.lower)), [])
        names += [joint.id] if joint.id not in names else []
    alike: dict[tuple[str, str, str], list[list[str]]] = {}
    sides = [{joint.id: joint for joint in build.joints} for build in (mine, theirs)]
    for names in places.values():
        was, now = ([side.get(name) for name in names] for side in sides)
        if was != now:
            group = project.group_of(names[0])
            key = (group.id if group else names[0], _content(was), _content(now))
            alike.setdefault(key, []).append(names)
    labels = {joint.id: joint.label for joint in (*mine.joints, *theirs.joints)}
    for found in alike.values():
        some = ", ".join(labels[names[0]] for names in found[:3])
        more = f" and {len(found) - 3} more" if len(found) > 3 else ""
        yield some + more, tuple(name for names in found for name in names)


def _content(joints: list[Joint | None]) -> str:
    """Return what is in some joints but for where exactly it lies."""
    return str([joint and [piece.model_dump(exclude={"footprint"}) for piece in joint.pieces] for joint in joints])
