"""Findings below the work: one sentence and a remedy each; choosing one goes to what it is about."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QToolTip, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.findings.finding import Finding

_ROW = 43.0
_ROWS, _BIG = 2, 1.2
_ROLE = {"serious": "bad", "warning": "warn", "note": "steel"}


class _Delegate(QStyledItemDelegate):
    """Draws a finding: a shape by severity, the sentence, the remedy."""

    def __init__(self, owner: FindingsList) -> None:
        super().__init__(owner)
        self._owner = owner

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, round(self._owner.theme.px(_ROW)))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        finding = index.data(Qt.ItemDataRole.UserRole)
        if painter is None:
            return
        if not isinstance(finding, Finding):
            painter.setFont(self._owner.theme.font(13))
            painter.setPen(self._owner.theme.colour("quiet"))
            painter.drawText(option.rect.adjusted(12, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter, index.data())
            return
        theme = self._owner.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, theme.colour("ember_soft"))
        role = "stale" if self._owner.stale else _ROLE[finding.severity]
        _shape(painter, QRectF(box.left() + 10, box.top() + 7, 13, 13), finding.severity, theme, role)
        left = box.left() + 32
        width = box.width() - 42
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(theme.colour("stale" if self._owner.stale else "ink"))
        words = painter.fontMetrics().elidedText(finding.text, Qt.TextElideMode.ElideRight, int(width))
        painter.drawText(
            QRectF(left, box.top() + theme.px(4), width, theme.px(18)),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            words,
        )
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        words = painter.fontMetrics().elidedText("→ " + finding.remedy, Qt.TextElideMode.ElideRight, int(width))
        painter.drawText(
            QRectF(left, box.top() + theme.px(22), width, theme.px(17)),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            words,
        )
        painter.setPen(theme.colour("line"))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.restore()


def _shape(painter: QPainter, box: QRectF, severity: str, theme: Theme, role: str) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour(role))
    path = QPainterPath()
    if severity == "serious":
        path.addRect(box)
    elif severity == "warning":
        path.moveTo(box.center().x(), box.top())
        path.lineTo(box.right(), box.bottom())
        path.lineTo(box.left(), box.bottom())
        path.closeSubpath()
    else:
        path.addEllipse(box)
    painter.drawPath(path)
    painter.setPen(theme.colour("on_accent"))
    painter.setFont(theme.font(10, bold=True))
    painter.drawText(
        box.adjusted(0, 1 if severity == "warning" else 0, 0, 0),
        Qt.AlignmentFlag.AlignCenter,
        "!" if severity != "note" else "i",
    )


class FindingsList(QListWidget):
    """All findings of the present assessment."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.stale = False
        self._shown: tuple[tuple[Finding, ...], bool, int] | None = None
        self.setItemDelegate(_Delegate(self))
        self.setAccessibleName("Findings")
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.itemClicked.connect(self._go)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(lambda place: self.act_on(self.itemAt(place)))
        self.itemDoubleClicked.connect(self.act_on)
        self.itemActivated.connect(self._go)
        session.results.changed.connect(self.refresh)
        session.project_changed.connect(self.refresh)
        self.refresh()
        self.setFixedHeight(self.sizeHint().height())

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.scheduleDelayedItemsLayout()
        self.setFixedHeight(self.sizeHint().height())
        self._repaint()

    def _repaint(self) -> None:
        shown = self.viewport()
        if shown is not None:
            shown.update()

    def sizeHint(self) -> QSize:
        # Always as high, however many there are: nothing above it moves when one comes or goes.
        return QSize(600, 4 + round(self.theme.px(_ROW)) * (_ROWS if self.theme.scale < _BIG else 1))

    def refresh(self) -> None:
        """Take over the session's findings; those of an older state are greyed until the new ones are there."""
        session = self.session
        self.stale = session.results.state != "current"
        every = session.results.assessment.findings if session.results.assessment else ()
        off = {(one.code, one.about) for one in session.project.silenced}
        found = tuple(one for one in every if (one.code, one.about) not in off)
        silent = len(session.project.silenced)
        at_ease = not found and session.results.state == "current"
        if (found, at_ease, silent) != self._shown:
            self._shown = (found, at_ease, silent)
            self.clear()
            for finding in found:
                item = QListWidgetItem(finding.text)
                item.setData(Qt.ItemDataRole.UserRole, finding)
                item.setToolTip(f"{finding.text}\n→ {finding.remedy}\nDouble click, or its menu: put it right, or switch it off")
                self.addItem(item)
            if at_ease:
                item = QListWidgetItem("✓  Nothing to report: contacts, pressures and limits are all in order.")
                item.setFlags(Qt.ItemFlag.NoItemFlags)
                self.addItem(item)
            if silent:
                words = "1 finding is switched off" if silent == 1 else f"{silent} findings are switched off"
                item = QListWidgetItem(f"{words}: double click to see why")
                item.setData(Qt.ItemDataRole.UserRole + 1, "off")
                self.addItem(item)
            # A tip about a finding that is gone would stand over the ones that are there.
            QToolTip.hideText()
        self._repaint()

    def act_on(self, item: QListWidgetItem | None) -> None:
        """Say what can be done about a finding, or which are switched off."""
        from ashen_bridge.desktop.shell.finding_dialog import FindingDialog

        if item is None:
            return
        finding = item.data(Qt.ItemDataRole.UserRole)
        if isinstance(finding, Finding) or item.data(Qt.ItemDataRole.UserRole + 1) == "off":
            FindingDialog(self.session, finding if isinstance(finding, Finding) else None, self.window() or self).show()

    def _go(self, item: QListWidgetItem) -> None:
        finding = item.data(Qt.ItemDataRole.UserRole)
        if isinstance(finding, Finding):
            self.session.select(finding.about)
