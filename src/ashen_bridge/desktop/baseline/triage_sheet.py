"""What logs say by themselves, before there is a device: a few sentences, and the way on."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.logs.remarks import Remark, Triage

_MARKS = {"good": "✓", "watch": "!", "bad": "✕", "unknown": "?", "next": "→"}
_HEADS = {
    "settled": "At rest?", "throttled": "Held back?", "spot": "Hot spot over average",
    "suspect": "Suspect, and whether opening pays", "next": "Next",
}  # fmt: skip


class TriageSheet(WorkDialog):
    """Sentences about some logs. `wanted` asks for the questions about the device, with what was read filled in."""

    wanted = pyqtSignal(dict)

    def __init__(self, names: list[str], found: Triage, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("What the log says", parent)
        self.found, self.theme = found, theme
        title = Words(" · ".join(names))
        title.setObjectName("question")
        title.setWordWrap(True)
        seen = ", ".join(f"“{column}”" for column in found.columns.values())
        quiet = Words(f"By the log alone, without a model of the device. Taken from {seen or 'no column that is known'}.")
        quiet.setObjectName("quiet")
        quiet.setWordWrap(True)
        card = QFrame()
        card.setObjectName("card")
        self.rows = QGridLayout(card)
        self.rows.setContentsMargins(18, 14, 18, 14)
        self.rows.setHorizontalSpacing(14)
        self.rows.setVerticalSpacing(14)
        self.rows.setColumnStretch(1, 1)
        for at, one in enumerate(found.remarks):
            self._row(at, one)
        self.on = QPushButton("Describe the device")
        self.on.setToolTip("The guided start, with these temperatures filled in")
        self.done_ = QPushButton("Close")
        for button in (self.on, self.done_):
            button.setMinimumHeight(38)
        self.on.clicked.connect(self._go_on)
        self.done_.clicked.connect(self.close)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.done_)
        foot.addWidget(self.on)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 18, 20, 16)
        column.setSpacing(10)
        for widget in (title, quiet, card):
            column.addWidget(widget)
        column.addStretch(1)
        column.addLayout(foot)
        self.on.setDefault(True)
        self.on.setFocus()
        width = round(theme.px(760))
        self.resize(width, max(column.totalHeightForWidth(width), round(theme.px(300))))

    def _row(self, at: int, remark: Remark) -> None:
        mark = Words(_MARKS[remark.state])
        mark.setObjectName("question")
        mark.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter)
        mark.setFixedWidth(round(self.theme.px(26)))
        head = Words(_HEADS[remark.about])
        head.setObjectName("quiet")
        text = Words(remark.text.removeprefix("Next: "))
        text.setWordWrap(True)
        both = QVBoxLayout()
        both.setSpacing(4)
        both.addWidget(head)
        both.addWidget(text)
        self.rows.addWidget(mark, at, 0)
        self.rows.addLayout(both, at, 1)

    def _go_on(self) -> None:
        self.wanted.emit(self.found.readings)
        self.close()
