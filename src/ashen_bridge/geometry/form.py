"""Form of a face: crown or hollow as a parabolic departure from the plane."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Box
from ashen_bridge.model.footprint import Form


@dataclass(frozen=True)
class FaceForm:
    """Parabolic crown over a box: its full height [m] in the middle, zero at the corners (or edges, for a cylinder)."""

    crown: float
    shape: str
    box: Box

    def height(self, x: Floats, y: Floats) -> Floats:
        """Return how far the face stands out of its plane [m]."""
        x0, y0, x1, y1 = self.box
        u = (2 * x - x0 - x1) / (x1 - x0)
        v = (2 * y - y0 - y1) / (y1 - y0)
        if self.shape == "cylinder_x":  # curved along x
            return self.crown * (1 - u * u)
        if self.shape == "cylinder_y":
            return self.crown * (1 - v * v)
        return self.crown * (1 - (u * u + v * v) / 2)


def face_form(form: Form, box: Box) -> FaceForm | None:
    """Return the form of a face in SI, or None for a flat one."""
    if form.crown_um.value == 0:
        return None
    return FaceForm(form.crown_um.value * 1e-6, form.shape, box)
