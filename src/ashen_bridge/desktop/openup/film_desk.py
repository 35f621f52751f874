"""The picture of contact that lies on the table: its content, corners, which contact it shows, and what is read off it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from ashen_bridge.desktop.openup.desk import OpenDesk
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.editing.evidence import take_film
from ashen_bridge.evidence import errands
from ashen_bridge.evidence.result import FilmFound
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.files.errors import FileError
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.evidence import ContactPicture
from ashen_bridge.predict.maps import JointMap

Point = tuple[float, float]
MOST_BYTES = 100 << 20
_INSET = 0.25  # of the picture, where corners lie before anybody has placed them


@dataclass(frozen=True)
class Film:
    """One picture: bytes, name, corners in pixels from the lower left round to the right, and whether they were placed.

    strip, pressures : corners of a strip of patches of known pressure, and what they are, where it has one.
    """

    content: bytes
    name: str
    width: int
    height: int
    corners: tuple[Point, Point, Point, Point]
    placed: bool = False
    strip: tuple[Point, Point, Point, Point] | None = None
    pressures: tuple[float, ...] = ()

    @property
    def handles(self) -> tuple[Point, ...]:
        """All corners that can be placed."""
        return (*self.corners, *(self.strip or ()))

    @property
    def digest(self) -> str:
        """Its hash."""
        return hashlib.sha256(self.content).hexdigest()


class FilmDesk(QObject):
    """`changed` follows the picture, its corners, and what is read."""

    changed = pyqtSignal()

    def __init__(self, desk: OpenDesk) -> None:
        super().__init__(desk)
        self.desk = desk
        self.film: Film | None = None
        self.image = QImage()
        self.problem = ""
        self.reading: Question[FilmFound] = Question(desk.session.questions, "Reading a picture", self._now)
        self.reading.changed.connect(self.changed)

    def open(self, path: Path) -> None:
        """Lay a picture on the table; what is none is said in words."""
        self.problem = ""
        try:
            if path.stat().st_size > MOST_BYTES:
                self.problem = f"“{path.name}” is larger than a picture can be ({MOST_BYTES >> 20} MB)."
            else:
                self._lay(path.read_bytes(), path.name)
        except OSError as error:
            self.problem = f"“{path.name}” cannot be read: {error.strerror}."
        self.changed.emit()

    def show_taken(self, picture: ContactPicture) -> None:
        """Lay a picture on the table that was taken before; one that is gone from this machine is said to be."""
        image = next(one for one in self.desk.session.project.images if one.id == picture.image)
        try:
            content = BlobStore(default_folder()).get(image.sha256)
        except FileError:
            self.problem = f"The picture “{image.name or image.id}” is gone from this machine; what was read off it stays."
            self.changed.emit()
            return
        self.problem = ""
        self._lay(content, image.name or image.id)
        if self.film is not None:
            strip = (picture.strip_px, picture.strip_pressures)
            self.film = replace(self.film, corners=picture.corners_px, placed=True, strip=strip[0], pressures=strip[1])
        self.desk.look(replace(self.desk.view, joint=picture.joint, lower=picture.lower, closing=picture.closing))
        self.changed.emit()

    def _lay(self, content: bytes, name: str) -> None:
        image = QImage.fromData(content)
        if image.isNull():
            self.problem = f"“{name}” is no picture that can be shown: only PNG and JPEG can be read."
            return
        w, h, inset = image.width(), image.height(), _INSET
        low, high = h * (1 - inset), h * inset
        corners = ((w * inset, low), (w * (1 - inset), low), (w * (1 - inset), high), (w * inset, high))
        self.image, self.film = image, Film(content, name, w, h, corners)

    def move_corner(self, n: int, at: Point) -> None:
        """Place a corner."""
        if self.film is None:
            return
        corners = list(self.film.handles)
        corners[n] = (min(max(at[0], 0.0), self.film.width), min(max(at[1], 0.0), self.film.height))
        a, b, c, d, *rest = corners
        self.film = replace(self.film, corners=(a, b, c, d), placed=True)
        if rest:
            a, b, c, d = rest
            self.film = replace(self.film, strip=(a, b, c, d))
        self.changed.emit()

    def with_strip(self, on: bool) -> None:
        """Say that a strip of known pressures lies in the picture, or that none does."""
        if self.film is not None:
            w, h = self.film.width, self.film.height
            low, high = h * 0.97, h * 0.88
            strip = ((w * 0.2, low), (w * 0.8, low), (w * 0.8, high), (w * 0.2, high)) if on else None
            self.film = replace(self.film, strip=strip, pressures=() if not on else self.film.pressures)
            self.changed.emit()

    def say_pressures(self, text: str) -> None:
        """Say what pressures the strip's patches have, from left to right."""
        self.problem = ""
        try:
            values = tuple(float(one) for one in text.replace(";", ",").split(",") if one.strip())
        except ValueError:
            self.problem = f"“{text}” is no list of pressures: write them as 15, 30, 50."
            values = ()
        if self.film is not None:
            self.film = replace(self.film, pressures=values)
        self.changed.emit()

    def turn_corners(self) -> None:
        """Let the corners begin one further round: the film lay turned."""
        if self.film is not None:
            a, b, c, d = self.film.corners
            self.film = replace(self.film, corners=(b, c, d, a), placed=True)
            self.changed.emit()

    @property
    def there(self) -> JointMap | None:
        """What the model has where the picture was taken, if it is known now."""
        assessment = self.desk.session.results.assessment
        view = self.desk.view
        if assessment is None:
            return None
        maps = assessment.prediction.maps.joints
        return next((one for one in maps if (one.joint, one.lower) == (view.joint, view.lower)), None)

    @property
    def size_mm(self) -> tuple[float, float] | None:
        """The size of what the picture shows: that of the lower body."""
        bodies = self.desk.session.project.all_bodies
        body = next((one for one in bodies if one.id == self.desk.view.lower), None)
        if body is None:
            return None
        x0, y0, x1, y1 = body.footprint.bounds
        return x1 - x0, y1 - y0

    def _now(self) -> Asked | None:
        film, size = self.film, self.size_mm
        if film is None or size is None or not film.placed:
            return None
        there = self.there
        known = there.pressure_kpa.tobytes() if there is not None else b""
        strip = (film.strip, film.pressures) if film.strip is not None and film.pressures else None
        key = key_of(film.digest, film.corners, size, strip, hashlib.sha256(known).hexdigest())
        return Asked(key, errands.film, (film.content, film.corners, *size, there, strip))

    def take(self) -> str:
        """Take what was read in as evidence; returns why it cannot be, if so."""
        film, found, closing, view = self.film, self.reading.value, self.desk.closing, self.desk.view
        if film is None or found is None:
            return "Nothing was read yet."
        if closing is None:
            return "Say under “What it shows” that this build was closed: a picture shows one closing."
        suffix = "png" if film.content[:4] == b"\x89PNG" else "jpg"
        session = self.desk.session
        try:
            digest = BlobStore(default_folder()).put(film.content)
            made = take_film(
                session.project,
                found.reading,
                film.corners,
                closing.id,
                *(view.joint, view.lower, film.name, digest, suffix),
                strip=(film.strip, film.pressures) if film.strip is not None and film.pressures else None,
            )
        except AshenError as error:
            return str(error)
        return session.attempt(made)
