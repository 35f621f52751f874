"""The application's own symbols: SVG files whose strokes take the colour they are asked for in."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

_SIZE = 64


def application_icon() -> QPixmap:
    """Return the picture of the application: two slabs, two blue piers and the ember joint between them."""
    return _drawn(resources.files("ashen_bridge.desktop.integration").joinpath("ashen-bridge.svg").read_bytes(), 4 * _SIZE)


def icon(name: str, colour: QColor) -> QIcon:
    """Return a symbol by name in one colour. `FileNotFoundError` if there is none of that name."""
    return QIcon(_drawn(_text(name).replace("currentColor", colour.name()).encode(), _SIZE))


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
