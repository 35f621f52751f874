"""The built-in guide: one short page per workspace, and the overview of keys."""

from __future__ import annotations

from typing import Any

from PyQt6.QtGui import QTextBlockFormat, QTextCursor, QTextDocument
from PyQt6.QtWidgets import QGridLayout, QScrollArea, QTextBrowser, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.sheet import Sheet
from ashen_bridge.desktop.state.commands import Commands, shown_keys

GROUPS = ("File", "Change", "Device", "Runs", "Arrange", "Look", "Help")
"""In which order commands are listed."""
_PROPORTIONAL: Any = QTextBlockFormat.LineHeightTypes.ProportionalHeight.value
_MOUSE = (
    ("Wheel", "Zoom the plan about the pointer"),
    ("Middle button", "Push the plan about"),
    ("Right button", "Everything under the pointer, to choose what is covered"),
    ("Shift + click", "Choose one more, or one less"),
    ("Alt while dragging", "No snapping"),
    ("[ and ]", "Choose the thing before or after, while editing"),
    ("Arrows", "Walk from part to part; while editing, nudge by 0.1 mm, with Shift by 1 mm"),
    ("Shift + arrows", "Move the cut line, when not editing"),
    ("Esc", "Give up: drag, tool, choice; in a field, what was typed"),
)


def _air(document: QTextDocument | None) -> None:
    """Put room between paragraphs; Markdown brings none of its own."""
    if document is None:
        return
    document.setDocumentMargin(16)
    block = document.begin()
    while block.isValid():
        cursor = QTextCursor(block)
        form = cursor.blockFormat()
        form.setBottomMargin(10)
        form.setLineHeight(118, _PROPORTIONAL)
        cursor.setBlockFormat(form)
        block = block.next()


class GuideSheet(Sheet):
    """One guide page."""

    def __init__(self, text: str, over: QWidget) -> None:
        super().__init__(over, (0.56, 0.66), "Guide")
        self.text = QTextBrowser()
        self.text.setAccessibleName("Guide")
        self.text.setMarkdown(text)
        _air(self.text.document())
        self.column.addWidget(self.text)
        self.setFocusProxy(self.text)


class KeysSheet(Sheet):
    """All keys and what they do."""

    def __init__(self, commands: Commands, over: QWidget) -> None:
        super().__init__(over, (0.72, 0.84), "Overview of keys")
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(3)
        sections: list[list[tuple[str, str]]] = []
        for group in GROUPS:
            listed = [one for one in commands.listed if one.group == group and one.keys]
            found = [(shown_keys(commands[one.name]), one.words.rstrip("…")) for one in listed]
            sections.append([("", group), *found])
        sections.append([("", "Mouse and more"), *_MOUSE])
        total = sum(len(section) for section in sections)
        columns: list[list[tuple[str, str]]] = [[], []]
        for section in sections:
            columns[0 if len(columns[0]) + len(section) <= total / 2 + 3 and not columns[1] else 1] += section
        rows = [(n, 2 * at, row) for at, column in enumerate(columns) for n, row in enumerate(column)]
        for row, column, (keys, words) in rows:
            left, right = Words(keys), Words(words)
            left.setObjectName("big" if not keys else "heading")
            right.setObjectName("section" if not keys else "")
            grid.addWidget(right if not keys else left, row, column, 1, 2 if not keys else 1)
            if keys:
                grid.addWidget(right, row, column + 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        title = Words("Overview of keys")
        title.setObjectName("title")
        self.column.addWidget(title)
        self.column.addWidget(area, 1)
        self.setFocusProxy(area)
