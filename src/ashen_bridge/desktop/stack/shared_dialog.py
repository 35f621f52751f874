"""Numbers that share a cause: which ones, and how much of what is not known of each is common."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QListWidget, QPushButton, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import WordsField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import closings as edits
from ashen_bridge.editing.fields import label_of
from ashen_bridge.model.ties import Tie
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.words.numbers import number, percent

_EXPLAIN = (
    "Errors of one cause go together: an instrument's zero in all it read, the conductivity in all pads of a batch. Tick the "
    "numbers, say how much of each one's variance is common; chances, intervals and fits count it."
)
_USUAL = 0.8
_PATHS = Qt.ItemDataRole.UserRole


class SharedDialog(WorkDialog):
    """All shared causes of a project, one looked at; the numbers of the build that is looked at can be ticked."""

    def __init__(self, session: Session, over: QWidget | None) -> None:
        super().__init__("Shared causes", over)
        self.session = session
        self._tie = session.project.ties[0].id if session.project.ties else ""
        self.list = QListWidget()
        self.list.setAccessibleName("Shared causes")
        self.list.currentRowChanged.connect(self._choose)
        self.name = WordsField("What the numbers share", self._named)
        self.name.setPlaceholderText("what they share")
        self.share = NumberField(Wanted("Common part of the variance", "%", 0.0, 100.0), self._set_share)
        self.share.show_value(100 * _USUAL)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Numbers that can be ticked")
        self.tree.setHeaderLabels(["Number", "Of", "± now"])
        self.tree.setRootIsDecorated(False)
        header = self.tree.header()
        if header is not None:
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
            header.setStretchLastSection(False)
        self.take = QPushButton("They share this")
        self.take.setObjectName("go")
        self.take.clicked.connect(self.tie)
        self.fresh = QPushButton("A new cause")
        self.fresh.clicked.connect(self.begin_anew)
        self.forget = QPushButton("They share nothing")
        self.forget.clicked.connect(self.untie)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self._lay_out()
        self.tree.itemChanged.connect(lambda *_: self._counted())
        session.project_changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        explain = Words(_EXPLAIN)
        explain.setObjectName("quiet")
        explain.setWordWrap(True)
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        left.addWidget(self.fresh)
        left.addWidget(self.forget)
        row = QHBoxLayout()
        row.addWidget(self.name, 1)
        label = Words("common part [%]")
        label.setObjectName("quiet")
        row.addWidget(label)
        self.share.setMaximumWidth(90)
        row.addWidget(self.share)
        right = QVBoxLayout()
        right.addLayout(row)
        right.addWidget(self.tree, 1)
        right.addWidget(self.wrong)
        right.addWidget(self.take)
        both = QHBoxLayout()
        both.addLayout(left, 1)
        both.addLayout(right, 3)
        column = QVBoxLayout(self)
        column.addWidget(explain)
        column.addLayout(both, 1)
        self.resize(860, 540)

    # ---- what is shown

    @property
    def shown(self) -> Tie | None:
        """The cause that is looked at; None for a new one."""
        return next((one for one in self.session.project.ties if one.id == self._tie), None)

    def refresh(self) -> None:
        """Take over the project."""
        ties = self.session.project.ties
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItems([f"{one.label}: {len(one.paths)} numbers, {percent(one.share)}" for one in ties])
        at = next((n for n, one in enumerate(ties) if one.id == self._tie), -1)
        self.list.setCurrentRow(at)
        self.list.blockSignals(False)
        if at < 0:
            self._tie = ""
        self._show()

    def _show(self) -> None:
        shown = self.shown
        self.name.show_words(shown.label if shown is not None else "")
        if shown is not None:
            self.share.show_value(round(100 * shown.share, 3))
        self.forget.setEnabled(shown is not None)
        ticked = set(shown.paths) if shown is not None else set()
        self.tree.blockSignals(True)
        self.tree.clear()
        for one in self._numbers():
            item = QTreeWidgetItem(
                [label_of(one.field.rsplit(".", 1)[-1]), ", ".join(one.owners[:4]), number(one.uncertainty, 3)]
            )
            item.setToolTip(1, ", ".join(one.owners))
            item.setData(0, _PATHS, one.paths)
            inside = ticked.issuperset(one.paths)
            item.setCheckState(0, Qt.CheckState.Checked if inside else Qt.CheckState.Unchecked)
            self.tree.addTopLevelItem(item)
        self.tree.blockSignals(False)
        self._counted()

    def _numbers(self) -> list[Assumption]:
        session = self.session
        if not session.project.builds or not session.project.points:
            return []
        found = assumptions(session.project, session.view.build, session.view.point)
        return sorted(
            (one for one in found if one.uncertainty > 0), key=lambda one: (label_of(one.field.rsplit(".", 1)[-1]), one.owners)
        )

    def paths(self) -> list[str]:
        """Return what is ticked, and what of the cause is not listed here since another build has it."""
        listed, found = set(), []
        for n in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(n)
            assert item is not None  # counted
            own = item.data(0, _PATHS)
            listed.update(own)
            if item.checkState(0) is Qt.CheckState.Checked:
                found += own
        rest = [one for one in self.shown.paths if one not in listed] if self.shown is not None else []
        return found + rest

    def _counted(self) -> None:
        count = len(self.paths())
        self.take.setEnabled(count > 1)
        self.take.setText("They share this" if count > 1 else "Tick two numbers or more")

    # ---- what is done

    def _choose(self, row: int) -> None:
        ties = self.session.project.ties
        self._tie = ties[row].id if 0 <= row < len(ties) else ""
        self._show()

    def _named(self, name: str) -> None:
        if self.shown is not None:
            self.tie()

    def _set_share(self, value: float | None) -> str:
        if not value:
            return "What is shared is more than nothing."
        if self.shown is not None:
            self.tie(value / 100)
        return ""

    def begin_anew(self) -> None:
        """Begin another cause."""
        self._tie = ""
        self.refresh()

    def tie(self, share: float | None = None) -> None:
        """Say that what is ticked shares this."""
        if share is None or isinstance(share, bool):  # a button says whether it is pressed
            share = (self.share.typed() or 100 * _USUAL) / 100 if not self.share.wrong else _USUAL
        known = {one.id for one in self.session.project.ties}
        made = edits.tie_numbers(self.session.project, self.name.text().strip() or "One cause", self.paths(), share, self._tie)
        self.wrong.setText(self.session.attempt(made))
        new = [one.id for one in self.session.project.ties if one.id not in known]
        if new:
            self._tie = new[0]
            self.refresh()

    def untie(self) -> None:
        """Say that they share nothing after all."""
        if self.shown is not None:
            self.wrong.setText(self.session.attempt(edits.untie(self._tie)))


def _called(one: Assumption) -> str:
    return label_of(one.field.rsplit(".", 1)[-1])
