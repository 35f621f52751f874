"""Changes of what was seen: signs, statements, pictures of contact."""

from __future__ import annotations

from ashen_bridge.model.evidence import ContactPicture, Evidence, Sign
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Image
from ashen_bridge.model.sharing import find, replaced


def say(project: Project, evidence: Evidence) -> Project:
    """Say what a pad or paste shows; a statement with its id is said anew."""
    return replaced(project, evidence=(*(one for one in project.evidence if one.id != evidence.id), evidence))


def unsay(project: Project, evidence: str) -> Project:
    """Take a statement back."""
    find(project.evidence, evidence, "evidence")
    return replaced(project, evidence=tuple(one for one in project.evidence if one.id != evidence))


def set_aside(project: Project, evidence: str, aside: bool = True) -> Project:
    """Set a statement or a picture aside: it is kept and not used; or take it in again."""
    if any(one.id == evidence for one in project.pictures):
        pictures = tuple(replaced(one, aside=aside) if one.id == evidence else one for one in project.pictures)
        return replaced(project, pictures=pictures)
    find(project.evidence, evidence, "evidence")
    said = tuple(replaced(one, aside=aside) if one.id == evidence else one for one in project.evidence)
    return replaced(project, evidence=said)


def show(project: Project, evidence: str, image: Image) -> Project:
    """Show a photo with a statement."""
    said = find(project.evidence, evidence, "evidence")
    known = image.id in {one.id for one in project.images}
    with_image = project if known else replaced(project, images=(*project.images, image))
    return say(with_image, replaced(said, image=image.id))


def notice(project: Project, sign: Sign) -> Project:
    """Note a sign of before opening; one with its id is said anew."""
    return replaced(project, signs=(*(one for one in project.signs if one.id != sign.id), sign))


def unnotice(project: Project, sign: str) -> Project:
    """Take a sign back."""
    find(project.signs, sign, "sign")
    return replaced(project, signs=tuple(one for one in project.signs if one.id != sign))


def take_picture(project: Project, picture: ContactPicture, image: Image) -> Project:
    """Take a picture of contact with its image; one with its id takes its place."""
    known = image.id in {one.id for one in project.images}
    images = project.images if known else (*project.images, image)
    pictures = (*(one for one in project.pictures if one.id != picture.id), picture)
    return replaced(project, images=images, pictures=pictures)


def drop_picture(project: Project, picture: str) -> Project:
    """Forget a picture of contact, and its image where nothing else shows it."""
    gone = find(project.pictures, picture, "picture")
    without = replaced(project, pictures=tuple(one for one in project.pictures if one is not gone))
    elsewhere = {
        *(one.image for one in without.pictures),
        *(one.image for one in without.tracings),
        *(one.image for one in without.signs),
        *(one.image for one in without.evidence),
        *(image for one in without.procedures for step in one.steps for image in step.images),
    }
    if gone.image in elsewhere:
        return without
    return replaced(without, images=tuple(one for one in without.images if one.id != gone.image))
