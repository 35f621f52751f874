"""Recipes: a procedure without ticks, photos and notes, as a small JSON file for the next device of the kind."""

from __future__ import annotations

import json

from pydantic import ValidationError

from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.errors import ProjectError, RefusedError
from ashen_bridge.model.procedures import KEPT_HOLDS, Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.model.refusals import wrong_in
from ashen_bridge.planning.opening import opening

FORMAT = "ashen-bridge-recipe"
VERSION = 1
MAX_BYTES = 2 << 20


def untouched(procedure: Procedure) -> Procedure:
    """Return a procedure as it is before anybody works by it."""
    steps = tuple(one.model_copy(update={"done": False, "done_at": "", "note": "", "images": ()}) for one in procedure.steps)
    return procedure.model_copy(update={"steps": steps, "build": None})


def write_recipe(procedure: Procedure) -> bytes:
    """Return a recipe as JSON text."""
    plain = untouched(procedure).model_dump(mode="json", exclude_defaults=True)
    return json.dumps({"format": FORMAT, "version": VERSION, "procedure": plain}, ensure_ascii=False, indent=1).encode()


def read_recipe(content: bytes, project: Project, build: str | None = None) -> Procedure:
    """Return the procedure that a recipe makes for a build of this project.

    Whatever the recipe left out or says otherwise, the hold points of this device for power, battery, charge and licensed work
    are in it, first, as this device wants them. Raises `ProjectError` in one sentence for what is no recipe.
    """
    if len(content) > MAX_BYTES:
        raise ProjectError(f"That recipe is larger than one can be ({MAX_BYTES >> 20} MB).")
    try:
        data = json.loads(content.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise ProjectError("That is no recipe: it is not JSON text.") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise ProjectError(f"That is no recipe: its 'format' is not '{FORMAT}'.")
    if data.get("version") != VERSION:
        raise ProjectError(f"The recipe is in version {data.get('version')!r}; this program knows version {VERSION}.")
    try:
        said = Procedure.model_validate(data.get("procedure"))
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, data.get("procedure"))) from error
    own = opening(project, build)
    if own.steps and own.steps[0].hold == "licensed" and len(own.steps) == 1:
        return own
    holds = tuple(one for one in own.steps if one.stays) if said.kind in ("open up", "close up", "service") else ()
    names = {one.id for one in holds}
    rest = []
    for one in untouched(said).steps:
        if one.hold in KEPT_HOLDS and any(one.hold == held.hold for held in holds):
            continue
        name = fresh_id(one.id, names)
        names.add(name)
        rest.append(one.model_copy(update={"id": name}))
    wanted = fresh_id(said.id, [one.id for one in project.procedures])
    return said.model_copy(update={"id": wanted, "build": own.build, "steps": (*holds, *rest)})
