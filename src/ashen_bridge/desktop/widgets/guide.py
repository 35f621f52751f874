"""The built-in guide: one short page per workspace, and the overview of keys."""

from __future__ import annotations

from importlib import resources

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QGridLayout, QLabel, QScrollArea, QTextBrowser, QWidget

from ashen_bridge.desktop.actions import GROUPS, SPECS, shown_keys
from ashen_bridge.desktop.widgets.sheet import Sheet

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


def guide_text(page: str) -> str:
    """Return a guide page in Markdown. `FileNotFoundError` if there is none of that name."""
    return resources.files("ashen_bridge.desktop.guide").joinpath(f"{page}.md").read_text(encoding="utf-8")


class GuideSheet(Sheet):
    """One guide page."""

    def __init__(self, page: str, over: QWidget) -> None:
        super().__init__(over, (0.56, 0.8), "Guide")
        self.text = QTextBrowser()
        self.text.setAccessibleName("Guide")
        self.text.setMarkdown(guide_text(page))
        self.column.addWidget(self.text)
        self.setFocusProxy(self.text)


class KeysSheet(Sheet):
    """All keys and what they do."""

    def __init__(self, actions: dict[str, QAction], over: QWidget) -> None:
        super().__init__(over, (0.72, 0.84), "Overview of keys")
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(3)
        listed = [("", group) for group in GROUPS]
        rows: list[tuple[str, str]] = []
        for _, group in listed:
            rows.append(("", group))
            rows += [(shown_keys(actions[s.name]), s.words.rstrip("…")) for s in SPECS if s.group == group and s.keys]
        rows.append(("", "Mouse and more"))
        rows += list(_MOUSE)
        half = (len(rows) + 1) // 2
        for n, (keys, words) in enumerate(rows):
            row, column = n % half, 2 * (n // half)
            left, right = QLabel(keys), QLabel(words)
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
        title = QLabel("Overview of keys")
        title.setObjectName("title")
        self.column.addWidget(title)
        self.column.addWidget(area, 1)
        self.setFocusProxy(area)
