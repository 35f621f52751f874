"""The runs of the project, each with what it was of and how it ended."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRectF, QSignalBlocker, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.logs.outcome import RunFigures

_ROW = 62.0


def state_words(found: RunFigures | None, problem: str) -> tuple[str, str]:
    """Return mark and words for how a run ended, and nothing while that is not known."""
    if problem:
        return "✕", "cannot be read"
    if found is None:
        return "…", "reading"
    if any(one.throttled is not None for one in found.passes):
        return "!", "throttled"
    if any(one.climbing for one in found.passes):
        return "↗", "still climbing"
    return ("✓", "settled") if all(one.window_s for one in found.passes) else ("–", "not settled")


class _Delegate(QStyledItemDelegate):
    def __init__(self, owner: RunList) -> None:
        super().__init__(owner)
        self._owner = owner

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(180, round(self._owner.theme.px(_ROW)))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        theme = self._owner.theme
        painter.save()
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, theme.colour("ember_soft"))
            painter.fillRect(QRectF(box.left(), box.top() + 6, 3, box.height() - 12), theme.colour("ember"))
        name, build, (mark, words), count = index.data(Qt.ItemDataRole.UserRole)
        left, width = box.left() + 12, box.width() - 20
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        high = theme.px(18)
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(theme.colour("ink"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(left, box.top() + theme.px(5), width, high),
            flags,
            metrics.elidedText(name, Qt.TextElideMode.ElideRight, int(width)),
        )
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(left, box.top() + theme.px(22), width, high),
            flags,
            metrics.elidedText(f"{build} · {count} pass{'es' if count != 1 else ''}", Qt.TextElideMode.ElideRight, int(width)),
        )
        role = {"✓": "good", "!": "bad", "↗": "warn", "✕": "bad"}.get(mark, "quiet")
        painter.setPen(theme.colour(role))
        painter.drawText(QRectF(left, box.top() + theme.px(39), width, high), flags, f"{mark} {words}")
        painter.restore()


class RunList(QListWidget):
    """One row per run; choosing one shows it."""

    def __init__(self, desk: BaselineDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.session, self.theme = desk, desk.session, theme
        self.setAccessibleName("Runs")
        self.setItemDelegate(_Delegate(self))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.currentRowChanged.connect(self._choose)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the project's runs."""
        session = self.session
        device = session.project.device
        builds = {build.id: build.label for build in session.project.builds}
        with QSignalBlocker(self):
            self.clear()
            for run in session.project.runs:
                found = session.runs.figures(run, device)
                state = state_words(found, session.runs.problem(run, device))
                item = QListWidgetItem()
                item.setData(
                    Qt.ItemDataRole.UserRole, (run.label, builds.get(run.build, run.build), state, max(len(run.passes), 1))
                )
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{run.label}, {state[1]}")
                self.addItem(item)
                if session.run is not None and run.id == session.run.id:
                    self.setCurrentItem(item)

    def _choose(self, row: int) -> None:
        if 0 <= row < len(self.session.project.runs):
            self.desk.choose_run(self.session.project.runs[row].id)
