"""What moves: floating plates with height, two slopes and shapes of their own, and the board's shapes."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.mechanics.bending import Bending, board_bending, board_like, plates_bending, plates_like
from ashen_bridge.model.bodies import Plate, Side

SLOPE_LENGTH = 0.05  # [m]


@dataclass(frozen=True)
class Motion:
    """Coordinates: three of each plate, the amplitudes of the board's shapes [m], positive towards the front, then those of each
    plate that bends, positive outwards. `centres` (n_plate, 2) [m].
    """

    plates: tuple[str, ...] = ()
    centres: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    bending: Bending | None = None
    bent: tuple[tuple[str, Bending], ...] = ()

    @property
    def board(self) -> slice:
        """The coordinates that are the board's."""
        first = 3 * len(self.plates)
        return slice(first, first + (self.bending.n if self.bending else 0))

    @property
    def n_dof(self) -> int:
        """Number of coordinates."""
        return 3 * len(self.plates) + (self.bending.n if self.bending else 0) + sum(shapes.n for _, shapes in self.bent)

    @property
    def stiffness(self) -> Floats:
        """What the coordinates themselves are held by (n_dof, n_dof) [N/m]: board and plates against bending."""
        found = np.zeros((self.n_dof, self.n_dof))
        if self.bending is not None:
            found[self.board, self.board] = self.bending.stiffness
        at = self.board.stop
        for _, shapes in self.bent:
            found[at : at + shapes.n, at : at + shapes.n] = shapes.stiffness
            at += shapes.n
        return found

    def height_rows(self, body: SceneBody, side: Side, x: Floats, y: Floats) -> Floats:
        """Return d(outward height of a body's face)/d(coordinates) at points x, y [m]: (n_point, n_dof).

        Zeros for a plate that is fixed. The board, and what stands on it, goes along with the board's bending.
        """
        rows = np.zeros((np.size(x), self.n_dof))
        if body.id in self.plates:
            at = self.plates.index(body.id)
            rows[:, 3 * at] = 1.0
            rows[:, 3 * at + 1] = (x - self.centres[at, 0]) / SLOPE_LENGTH
            rows[:, 3 * at + 2] = (y - self.centres[at, 1]) / SLOPE_LENGTH
            first = self.board.stop
            for name, shapes in self.bent:
                if name == body.id:
                    rows[:, first : first + shapes.n] = shapes.at(x, y)
                first += shapes.n
        elif self.bending is not None and not isinstance(body.model, Plate):
            rows[:, self.board] = self.bending.at(x, y) * (1.0 if side is Side.FRONT else -1.0)
        return rows


def motion_like(known: Motion, scene: Scene) -> Motion:
    """Return the same coordinates for a scene with other numbers: what bends is held by what it is there."""
    bending = board_like(scene, known.bending) if known.bending is not None else None
    return Motion(known.plates, known.centres, bending, plates_like(scene, known.bent))


def motion_of(scene: Scene) -> Motion:
    """Return what moves in a scene."""
    plates = tuple(body.id for body in scene.floating)
    centres = np.array([scene.bodies[plate].region.centre for plate in plates]).reshape(-1, 2)
    return Motion(plates, centres, board_bending(scene), plates_bending(scene))
