"""The order in which one reads: what Tab goes through, found anew each time, since fields come and go."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractButton, QAbstractSpinBox, QComboBox, QScrollArea, QWidget

_LINE = 14  # what lies so little lower stands in the same line [px]


def in_reading_order(parts: Iterable[QWidget]) -> list[QWidget]:
    """Return everything in some parts that takes the keys: part by part, in each column by column, line by line."""
    return [widget for part in parts if part.isVisible() for widget in _of(part)]


def _of(part: QWidget) -> list[QWidget]:
    found = [one for one in (part, *part.findChildren(QWidget)) if _takes_keys(one)]
    return sorted(found, key=lambda one: _place(one, part))


def _takes_keys(widget: QWidget) -> bool:
    """Whether Tab stops here: of buttons of which one is on, at that one; the arrows go through the others."""
    if not widget.focusPolicy() & Qt.FocusPolicy.TabFocus or not widget.isVisible() or not widget.isEnabled():
        return False
    if widget.focusProxy() is not None or isinstance(widget.parent(), QAbstractSpinBox | QComboBox):
        return False
    group = widget.group() if isinstance(widget, QAbstractButton) else None
    if group is not None and group.exclusive() and group.checkedButton() is not None:
        return widget is group.checkedButton()
    return True


def _place(widget: QWidget, part: QWidget) -> tuple[int, int, int]:
    column = widget
    while column is not part and column.parentWidget() is not part and column.parentWidget() is not None:
        column = column.parentWidget()  # type: ignore[assignment]
    at = widget.mapTo(part, QPoint(0, widget.height() // 2)) if widget is not part else QPoint(0, 0)
    left = column.mapTo(part, QPoint(0, 0)).x() if column is not part else 0
    return left, at.y() // _LINE, at.x()


def bring_into_sight(widget: QWidget) -> None:
    """Scroll whatever a widget lies in until it is seen."""
    around = widget.parentWidget()
    while around is not None:
        if isinstance(around, QScrollArea):
            around.ensureWidgetVisible(widget)
        around = around.parentWidget()
