"""What a picture of contact says of lengths: covered share and centre of pressure, with their ±."""

from __future__ import annotations

import math

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.evidence.contacts import Contact
from ashen_bridge.model.evidence import ContactPicture
from ashen_bridge.words.numbers import percent

_MODEL_SHARE, _MODEL_MM = 0.08, 0.5  # what a picture and a mean plane may differ by: common practice, no source
_MISREAD = 0.05
_AGREES = 2.5


def _off(picture: ContactPicture, contact: Contact) -> Floats:
    """Return how far a picture is from each state, squared, in standard deviations (n_state,)."""
    share = (contact.pressed - picture.covered.value) / math.hypot(picture.covered.uncertainty, _MODEL_SHARE)
    total = share**2
    for value, there in ((picture.centre_x_mm, contact.centre_x_mm), (picture.centre_y_mm, contact.centre_y_mm)):
        total = total + ((there - value.value) / math.hypot(value.uncertainty, _MODEL_MM)) ** 2
    return np.asarray(total)


def log_of_picture(picture: ContactPicture, contact: Contact) -> Floats:
    """Return the logarithm of the likelihood of a picture in each state (n_state,), at most 0."""
    return np.asarray(np.log((1 - _MISREAD) * np.exp(-0.5 * _off(picture, contact)) + _MISREAD))


def picture_words(picture: ContactPicture, contact: Contact, name: str) -> tuple[str, bool]:
    """Return how a picture stands against the model, in one sentence, and whether it agrees."""
    agrees = bool(_off(picture, contact)[0] < _AGREES**2)
    x, y = picture.centre_x_mm.value, picture.centre_y_mm.value
    seen = f"{percent(picture.covered.value)} covered, pressing most {math.hypot(x, y):.1f} mm off the middle"
    there = math.hypot(float(contact.centre_x_mm[0]), float(contact.centre_y_mm[0]))
    expected = f"{percent(float(contact.pressed[0]))}, {there:.1f} mm"
    how = "as could be expected" if agrees else "which does not fit"
    return f"The picture of {name} shows {seen}; the model expects {expected}: {how}.", agrees
