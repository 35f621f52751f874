"""The application's own symbols: SVG files whose strokes take the colour they are asked for in."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

from PyQt6.QtCore import QByteArray, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QIcon, QIconEngine, QPainter, QPalette, QPixmap
from PyQt6.QtSvg import QSvgRenderer

_SIZE = 64


def application_icon() -> QPixmap:
    """Return the picture of the application: two slabs, two blue piers and the ember joint between them."""
    return _drawn(resources.files("ashen_bridge.desktop.integration").joinpath("ashen-bridge.svg").read_bytes(), 4 * _SIZE)


def icon(name: str, colour: QColor) -> QIcon:
    """Return a symbol by name in one colour. `FileNotFoundError` if there is none of that name."""
    return QIcon(_drawn(_text(name).replace("currentColor", colour.name()).encode(), _SIZE))


def inked(name: str) -> QIcon:
    """Return a symbol that is drawn in the ink of whatever theme is on when it is painted."""
    return QIcon(_Inked(name))


class _Inked(QIconEngine):
    def __init__(self, name: str) -> None:
        super().__init__()
        self._name = name

    def paint(self, painter: QPainter | None, rect: QRect, mode: QIcon.Mode, state: QIcon.State) -> None:
        if painter is not None:
            role = QPalette.ColorGroup.Disabled if mode is QIcon.Mode.Disabled else QPalette.ColorGroup.Active
            ink = QGuiApplication.palette().color(role, QPalette.ColorRole.ButtonText)
            painter.drawPixmap(rect, _pixmap(self._name, ink.name()))

    def pixmap(self, size: QSize, mode: QIcon.Mode, state: QIcon.State) -> QPixmap:
        made = QPixmap(size)
        made.fill(Qt.GlobalColor.transparent)
        painter = QPainter(made)
        self.paint(painter, QRect(0, 0, size.width(), size.height()), mode, state)
        painter.end()
        return made

    def clone(self) -> QIconEngine:
        return _Inked(self._name)


@lru_cache(maxsize=64)
def _pixmap(name: str, colour: str) -> QPixmap:
    return _drawn(_text(name).replace("currentColor", colour).encode(), _SIZE)


@lru_cache(maxsize=64)
def _text(name: str) -> str:
    return resources.files("ashen_bridge.desktop.look").joinpath("symbols", f"{name}.svg").read_text(encoding="utf-8")


def _drawn(content: bytes, size: int) -> QPixmap:
    pixmap = QPixmap(size, size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    QSvgRenderer(QByteArray(content)).render(painter, QRectF(0, 0, size, size))
    painter.end()
    return pixmap
