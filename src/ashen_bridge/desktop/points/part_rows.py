"""What every part takes and how fast every fan turns at an operating point; parts said alike share a row."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QToolButton, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.stated import StatedField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import points
from ashen_bridge.model.bodies import Component, Plate


class PartRows(QWidget):
    """Fields by part, in rows: `powers` and `fans` by body id."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._shape: tuple[object, ...] = ()
        self._rows: tuple[tuple[Component, ...], ...] = ()
        self._apart: frozenset[str] = frozenset()
        self.powers: dict[str, StatedField] = {}
        self.fans: dict[str, StatedField] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(1, 1)

    def refresh(self) -> None:
        """Take over the operating point that is looked at."""
        session, point = self._session, self._session.point
        sinks = [body for body in session.project.device.bodies if isinstance(body, Plate) and body.sink is not None]
        rows = self._in_rows()
        named = [tuple((body.id, body.label) for body in row) for row in (*rows, sinks)]
        if (point.id, named) != self._shape:
            self._build(rows, sinks)
        self._shape, self._rows = (point.id, named), rows
        ways = points.POWER_WAYS[: 2 if point.board_w is not None else 1]
        for row in rows:
            self.powers[row[0].id].show_stated(point, row[0].id, ways)
        for sink in sinks:
            self.fans[sink.id].show_stated(point, sink.id, points.FAN_WAYS)

    def _in_rows(self) -> tuple[tuple[Component, ...], ...]:
        """Return the parts in rows, those said alike together; rows stay as they are as long as that is true of them."""
        point = self._session.point
        found = points.alike(self._session.project, point, self._apart)
        if self._shape and self._shape[0] == point.id:
            said = {body.id: (at, body) for at, row in enumerate(found) for body in row}
            kept = [[said.get(body.id, (-1, body)) for body in row] for row in self._rows]
            if all(len({at for at, _ in row}) == 1 for row in kept) and sum(map(len, kept)) == len(said):
                return tuple(tuple(body for _, body in row) for row in kept)
        return found

    def _each(self, row: Sequence[Component], _: bool = False) -> None:
        """Give every part of a row its own."""
        self._apart |= {body.id for body in row}
        self._shape = ()
        self.refresh()
        self.powers[row[0].id].setFocus()

    def _build(self, rows: Sequence[Sequence[Component]], sinks: list[Plate]) -> None:
        while (old := self._grid.takeAt(0)) is not None:
            if (widget := old.widget()) is not None:
                widget.hide()  # still its parent's: what leads here may be its own key or click
                widget.deleteLater()
        self.powers, self.fans = {}, {}
        at = 0
        for row in rows:
            field = self._row(at, points.row_words(row), points.POWER_WAYS, [body.id for body in row])
            self.powers |= dict.fromkeys((body.id for body in row), field)
            if len(row) > 1:
                each = QToolButton()
                each.setObjectName("plain")
                each.setText("each")
                each.setToolTip(f"One field for each: {', '.join(body.label for body in row)}")
                each.setAccessibleName(f"{points.row_words(row)}: one field for each")
                each.clicked.connect(partial(self._each, row))
                self._grid.addWidget(each, at, 2)
            at += 1
        if sinks:
            heading = Words("Fan speed: of rated, or rpm")
            heading.setObjectName("section")
            self._grid.addWidget(heading, at, 0, 1, 3)
            at += 1
        for below, sink in enumerate(sinks):
            self.fans[sink.id] = self._row(at + below, sink.label, points.FAN_WAYS, [sink.id])

    def _row(self, row: int, words: str, ways: Sequence[points.Way], bodies: Sequence[str]) -> StatedField:
        label = Words(words)
        label.setFixedWidth(110)
        label.setContentsMargins(0, 5, 0, 0)
        label.setToolTip(words)
        label.setText(label.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 108))
        field = StatedField(ways, partial(self._state, ways, bodies, words), name=words)
        label.setBuddy(field)
        self._grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop)
        self._grid.addWidget(field, row, 1)
        return field

    def _state(
        self, ways: Sequence[points.Way], bodies: Sequence[str], of: str, way: points.Way, value: dict[str, Any] | None
    ) -> str:
        label = f"{of}: {'power' if ways is points.POWER_WAYS else 'fan'}"
        return self._session.attempt(points.set_stated(self._session.view.point, label, ways, way, bodies, value))
