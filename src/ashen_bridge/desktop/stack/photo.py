"""The photo under the plan: which one is shown, and placing it by two known points."""

from __future__ import annotations

from PyQt6.QtGui import QImage

from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.hand import HandPicture
from ashen_bridge.editing.snapping import snap_value
from ashen_bridge.editing.tracing import Point, Similarity, fit_tracing, placed, seen
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.files.errors import FileError
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.records import Tracing
from ashen_bridge.model.sharing import find

_REACH_MM = 1.5
_ASK = (
    "1 of 4: click a point of the photo whose place you know",
    "2 of 4: click where on the board that point is",
    "3 of 4: click a second point of the photo, far from the first",
    "4 of 4: click where that one is",
)


class Photo:
    """The photo of the side that is looked at."""

    def __init__(self, desk: StackDesk) -> None:
        self._desk, self._session = desk, desk.session
        self._images: dict[str, QImage] = {}

    def tracing(self) -> Tracing | None:
        """Return the tracing of the side that is looked at."""
        side = self._desk.view.side
        return next((one for one in self._session.project.tracings if one.side is side), None)

    def shown(self) -> tuple[QImage, Similarity] | None:
        """Return the photo and its place, None where none is to be seen."""
        tracing = self.tracing()
        if tracing is None or not tracing.shown or not self._desk.view.editing:
            return None
        image = find(self._session.project.images, tracing.image, "image")
        if image.sha256 not in self._images:
            try:
                self._images[image.sha256] = QImage.fromData(BlobStore(default_folder()).get(image.sha256))
            except FileError:
                self._images[image.sha256] = QImage()  # the file's own message said so when it was opened
        picture = self._images[image.sha256]
        return None if picture.isNull() else (picture, placed(tracing))


class PlacingHand:
    """Takes four clicks: a photo point and its place, twice."""

    def __init__(self, desk: StackDesk, tracing: Tracing) -> None:
        self._desk, self._session, self._tracing = desk, desk.session, tracing
        self._map = placed(tracing)
        self._clicks: list[Point] = []

    def picture(self) -> HandPicture:
        """Return what to show: the clicks so far and what is wanted next."""
        return HandPicture(points=tuple(self._clicks), words=_ASK[min(len(self._clicks), 3)])

    def click(self, at: Point) -> bool:
        """Take a click [mm, board]; returns whether the photo is placed (or could not be)."""
        if len(self._clicks) % 2 == 1:
            others = [target.box for target in self._desk.targets()]
            at = snap_value(at[0], "x", others, _REACH_MM), snap_value(at[1], "y", others, _REACH_MM)
        self._clicks.append(at)
        if len(self._clicks) < 4:
            return False
        photo_a, place_a, photo_b, place_b = self._clicks
        try:
            edit = fit_tracing(self._tracing, (self._pixel(photo_a), self._pixel(photo_b)), (place_a, place_b))
        except ProjectError as error:
            self._session.refused.emit(str(error))
            return True
        self._session.apply(edit)
        return True

    def _pixel(self, at: Point) -> Point:
        x, y = seen(at, self._tracing.side)
        z = (complex(x, y) - self._map.b) / self._map.a
        return z.real, -z.imag
