"""One thing that may be so, and how much speaks for it, as a bar."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import percent


class BeliefBar(QWidget):
    """Words, a share from 0 to 1, and what else there is to say below it."""

    def __init__(self, theme: Theme, words: str, share: float, below: str, *, calm: bool = False) -> None:
        super().__init__()
        self._theme, self._words, self._share, self._below, self._calm = theme, words, share, below, calm
        self.setAccessibleName(f"{words}: {percent(share)}. {below}")
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return sum(rect.height() for rect in self._boxes(width)) + round(self._theme.px(14))

    def sizeHint(self) -> QSize:
        return QSize(360, self.heightForWidth(max(self.width(), 300)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Take as much height as its words need at this width."""
        super().resizeEvent(event)
        self.setMinimumHeight(self.heightForWidth(self.width()))

    def _boxes(self, width: int) -> tuple[QRect, QRect]:
        from PyQt6.QtGui import QFontMetrics

        flags = Qt.TextFlag.TextWordWrap.value
        room = QRect(0, 0, max(width - round(self._theme.px(56)), 80), 400)
        title = QFontMetrics(self._theme.font(13, bold=True)).boundingRect(room, flags, self._words)
        below = QFontMetrics(self._theme.font(12)).boundingRect(room, flags, self._below)
        return title, below

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self._theme
        title, below = self._boxes(self.width())
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QRectF(0, 0, title.width() + 6, title.height()), Qt.TextFlag.TextWordWrap, self._words)
        painter.drawText(
            QRectF(0, 0, self.width() - 2, title.height()),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop,
            percent(self._share),
        )
        y = title.height() + theme.px(3)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line"))
        painter.drawRoundedRect(QRectF(0, y, self.width() - 2, 6), 3, 3)
        painter.setBrush(theme.colour("steel" if self._calm else "ember"))
        painter.drawRoundedRect(QRectF(0, y, max((self.width() - 2) * self._share, 3.0), 6), 3, 3)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRectF(0, y + theme.px(9), below.width() + 20, below.height()), Qt.TextFlag.TextWordWrap, self._below)
