"""The picture of contact with its four corners, to be dragged; and small maps of pressure beside each other."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.pictures import ramp_image, ramp_table
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.openup.film_desk import FilmDesk

_HANDLE, _REACH = 9.0, 20.0
_NAMES = ("lower left", "lower right", "upper right", "upper left")


class FilmView(QWidget):
    """The picture. Corners are dragged, or moved pixel by pixel with the arrow keys."""

    def __init__(self, desk: FilmDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self._held: int | None = None
        self._last = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self.setAccessibleName("The picture of contact")

    def sizeHint(self) -> QSize:
        return QSize(640, 480)

    @property
    def _scale(self) -> tuple[float, QPointF]:
        """Widget pixels per picture pixel, and where its upper left corner is."""
        film = self.desk.film
        w, h = (film.width, film.height) if film is not None else (1, 1)
        scale = min((self.width() - 24) / w, (self.height() - 24) / h)
        return scale, QPointF((self.width() - w * scale) / 2, (self.height() - h * scale) / 2)

    def shown(self, at: tuple[float, float]) -> QPointF:
        """Return a picture's pixel in the widget."""
        scale, origin = self._scale
        return QPointF(origin.x() + at[0] * scale, origin.y() + at[1] * scale)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        theme, film = self.theme, self.desk.film
        painter.fillRect(self.rect(), theme.colour("surface"))
        if film is None:
            painter.setPen(theme.colour("quiet"))
            painter.setFont(theme.font(13))
            words = "Open or drop a picture of a pressure film or of a stamped pad."
            painter.drawText(self.rect(), int((Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap).value), words)
            painter.end()
            return
        scale, origin = self._scale
        painter.drawImage(QRectF(origin.x(), origin.y(), film.width * scale, film.height * scale), self.desk.image)
        points = [self.shown(one) for one in film.handles]
        painter.setPen(QPen(theme.colour("steel"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF(points[:4]))
        painter.drawPolygon(QPolygonF(points[4:]))
        painter.setFont(theme.font(11, bold=True))
        for n, at in enumerate(points):
            painter.setPen(QPen(theme.colour("ember" if n == self._last and self.hasFocus() else "steel"), 2.2))
            painter.setBrush(theme.colour("raised", 0.75))
            painter.drawEllipse(at, _HANDLE, _HANDLE)
            painter.setPen(theme.colour("ink"))
            box = QRectF(at.x() - _HANDLE, at.y() - _HANDLE, 2 * _HANDLE, 2 * _HANDLE)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(n + 1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        film = self.desk.film
        if event is None or film is None:
            return
        far = [_distance(self.shown(one), event.position()) for one in film.handles]
        nearest = far.index(min(far))
        if far[nearest] < _REACH:
            self._held = self._last = nearest

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held is not None:
            scale, origin = self._scale
            at = event.position()
            self.desk.move_corner(self._held, ((at.x() - origin.x()) / scale, (at.y() - origin.y()) / scale))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None
        self.desk.changed.emit()

    @property
    def dragging(self) -> bool:
        """Whether a corner is in hand."""
        return self._held is not None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Figures choose a corner, arrow keys move it by a pixel of the picture, with Shift by ten."""
        film = self.desk.film
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event is None or film is None:
            super().keyPressEvent(event)
            return
        if event.text() in [str(n + 1) for n in range(len(film.handles))]:
            self._last = int(event.text()) - 1
            self.setAccessibleDescription(f"Corner {self._last + 1}, {_NAMES[self._last % 4]}")
            self.update()
        elif Qt.Key(event.key()) in ways:
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            x, y = (float(one) for one in film.handles[self._last])
            across, down = ways[Qt.Key(event.key())]
            self.desk.move_corner(self._last, (x + float(by * across), y + float(by * down)))
        else:
            super().keyPressEvent(event)


class PressureMap(QWidget):
    """One map of pressure, scaled to its own mean; row 0 lies lowest."""

    def __init__(self, words: str, theme: Theme) -> None:
        super().__init__()
        self.words, self.theme = words, theme
        self._values: np.ndarray | None = None
        self._aspect = 1.0
        self.setMinimumHeight(110)
        self.setAccessibleName(words)

    def show_map(self, values: np.ndarray | None, aspect: float) -> None:
        """Show values (ny, nx) over a rectangle `aspect` times as wide as high."""
        self._values, self._aspect = values, aspect
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        theme = self.theme
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        line = painter.fontMetrics().height()
        painter.drawText(QRectF(0, self.height() - line, self.width(), line), Qt.AlignmentFlag.AlignCenter, self.words)
        high = float(self.height() - line - 4)
        wide = min(self.width() - 4, high * self._aspect)
        high = wide / self._aspect
        box = QRectF((self.width() - wide) / 2, 2, wide, high)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(theme.colour("air"))
        painter.drawRect(box)
        if self._values is not None and np.nansum(self._values) > 0:
            painter.drawImage(box, _image(self._values, theme))
        painter.end()


def _image(values: np.ndarray, theme: Theme) -> QImage:
    shown = np.nan_to_num(values.astype(float))
    top = float(np.percentile(shown[shown > 0], 97)) if (shown > 0).any() else 1.0
    return ramp_image(np.where(shown > 0, shown, np.nan), 0.0, top, ramp_table(theme.mechanics))


def _distance(one: QPointF, other: QPointF) -> float:
    return math.hypot(one.x() - other.x(), one.y() - other.y())
