"""Edits of what is seen, as people make them with two clicks or keys."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError

from ashen_bridge.changes import evidence as changes
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.errors import RefusedError
from ashen_bridge.model.evidence import ContactPicture, Evidence, Sign
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Image
from ashen_bridge.model.refusals import wrong_in

if TYPE_CHECKING:
    from ashen_bridge.evidence.result import FilmReading


def say(
    project: Project, closing: str, joint: str, lower: str, says: str, toward_deg: float | None = None, taken: str = ""
) -> Edit:
    """Say what a pad or paste shows where it met a body; said again it takes the place of what was. Raises `RefusedError`."""
    what = (closing, joint, lower, says)
    there = [one for one in project.evidence if (one.closing, one.joint, one.lower, one.says) == what]
    name = there[0].id if there else fresh_id(slug(f"{says} {lower}", "seen"), [one.id for one in project.evidence])
    said: dict[str, Any] = dict(zip(("closing", "joint", "lower", "says"), what, strict=True))
    said |= {"id": name, "toward_deg": toward_deg, "taken": taken}
    return edit(f"Seen: {says}", changes.say, _made(Evidence, said))


def unsay(evidence: str) -> Edit:
    """Take a statement back."""
    return edit("Take a statement back", changes.unsay, evidence)


def set_aside(evidence: str, aside: bool) -> Edit:
    """Set a statement or a picture aside, or take it in again."""
    return edit("Set a statement aside" if aside else "Take a statement in again", changes.set_aside, evidence, aside)


def notice(project: Project, says: str, body: str | None, taken: str = "") -> Edit:
    """Note a sign of before opening. Raises `RefusedError`."""
    name = fresh_id(slug(says, "sign"), [one.id for one in project.signs])
    return edit(f"Noticed: {says}", changes.notice, _made(Sign, {"id": name, "says": says, "body": body, "taken": taken}))


def unnotice(sign: str) -> Edit:
    """Take a sign back."""
    return edit("Take a sign back", changes.unnotice, sign)


def take_film(
    project: Project,
    reading: FilmReading,
    corners: Sequence[tuple[float, float]],
    closing: str,
    joint: str,
    lower: str,
    file: str,
    digest: str,
    suffix: str,
    strip: tuple[Sequence[tuple[float, float]], Sequence[float]] | None = None,
) -> Edit:
    """Take a picture of contact in as evidence, with its image, and the strip that told its colours. Raises `RefusedError`."""
    known = next((one for one in project.images if one.sha256 == digest), None)
    image = known or _made(
        Image,
        {
            **{"id": fresh_id(slug(file, "film"), [one.id for one in project.images]), "name": file[:200]},
            **{"sha256": digest, "suffix": suffix},
        },
    )
    name = fresh_id(slug(f"film {lower}", "film"), [one.id for one in project.pictures])
    said = {
        **{"id": name, "closing": closing, "joint": joint, "lower": lower, "image": image.id, "corners_px": tuple(corners)},
        "covered": {"value": reading.covered, "uncertainty": reading.covered_sd, "origin": "measured"},
        "centre_x_mm": {"value": reading.centre_x_mm, "uncertainty": reading.centre_sd_mm, "origin": "measured"},
        "centre_y_mm": {"value": reading.centre_y_mm, "uncertainty": reading.centre_sd_mm, "origin": "measured"},
        **{"toward_deg": reading.toward_deg, "ratio": reading.ratio, "middle": reading.middle},
    }
    if strip is not None:
        said |= {"strip_px": tuple(strip[0]), "strip_pressures": tuple(strip[1])}
    return edit(f"Picture of contact “{file}”", changes.take_picture, _made(ContactPicture, said), image)


def drop_picture(picture: str) -> Edit:
    """Forget a picture of contact."""
    return edit("Forget a picture of contact", changes.drop_picture, picture)


def _made(kind: Any, said: dict[str, Any]) -> Any:
    try:
        return kind.model_validate(said)
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, said)) from error
