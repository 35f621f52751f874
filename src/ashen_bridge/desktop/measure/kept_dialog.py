"""Instruments and closings: what is measured with, and when the stack was closed."""

from __future__ import annotations

from datetime import date
from functools import partial

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.field_form import FieldForm
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import closings as edits

_PATH = Qt.ItemDataRole.UserRole
_EXPLAIN = {
    "instruments": "The zero ± is one error in all readings of one sitting, the calibration ± one in all its readings.",
    "closings": "A closing is one time that the stack was closed. Imprints, putty, films and marks show the gaps of a closing.",
}


class KeptDialog(WorkDialog):
    """A list at the left, the chosen one's fields at the right."""

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__("Instruments and closings", over)
        self.session = session
        self.list = QListWidget()
        self.list.setAccessibleName("Instruments and closings")
        self.list.currentItemChanged.connect(lambda *_: self.refresh())
        self.form = FieldForm(session)
        self.explain = Words()
        self.explain.setObjectName("quiet")
        self.explain.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.builds = QWidget()
        self._boxes = QVBoxLayout(self.builds)
        self._boxes.setContentsMargins(0, 0, 0, 0)
        self.boxes: dict[str, QCheckBox] = {}
        self.new_instrument = QPushButton("New instrument")
        self.new_instrument.clicked.connect(self._new_instrument)
        self.new_closing = QPushButton("New closing")
        self.new_closing.setToolTip("Say that the build that is looked at was closed")
        self.new_closing.clicked.connect(self._new_closing)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        for button in (self.new_instrument, self.new_closing, self.remove):
            left.addWidget(button)
        right = QVBoxLayout()
        for widget in (self.explain, self.form, self.builds, self.wrong):
            right.addWidget(widget)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.addLayout(left, 2)
        row.addLayout(right, 3)
        self.resize(720, 440)
        session.project_changed.connect(self.refresh)
        self.refresh()

    @property
    def path(self) -> str:
        """The path of what is chosen; empty where nothing is."""
        item = self.list.currentItem()
        return str(item.data(_PATH)) if item is not None else ""

    def choose(self, path: str) -> None:
        """Choose one by its path."""
        for n in range(self.list.count()):
            item = self.list.item(n)
            if item is not None and item.data(_PATH) == path:
                self.list.setCurrentItem(item)

    def refresh(self) -> None:
        """Take over the project."""
        project = self.session.project
        rows = [(f"instruments.{one.id}", one.label) for one in project.instruments]
        rows += [(f"closings.{one.id}", f"Closing: {one.label}") for one in project.closings]
        wanted = self.path
        if [self._row(n) for n in range(self.list.count())] != rows:
            with QSignalBlocker(self.list):
                self.list.clear()
                for path, words in rows:
                    item = QListWidgetItem(words)
                    item.setData(_PATH, path)
                    self.list.addItem(item)
            self.choose(wanted if wanted in [path for path, _ in rows] else rows[0][0] if rows else "")
        kind, _, name = self.path.partition(".")
        self.explain.setText(_EXPLAIN.get(kind, "Nothing yet."))
        self.form.show_path(self.path)
        self.remove.setEnabled(bool(name))
        self.new_closing.setEnabled(bool(project.builds))
        self._show_builds(name if kind == "closings" else "")

    def _row(self, n: int) -> tuple[str, str]:
        item = self.list.item(n)
        assert item is not None  # counted
        return str(item.data(_PATH)), item.text()

    def _show_builds(self, closing: str) -> None:
        project = self.session.project
        covered = next((one.builds for one in project.closings if one.id == closing), ())
        names = {one.id: one.label for one in project.builds} if closing else {}
        if list(self.boxes) != list(names):
            for box in self.boxes.values():
                self._boxes.removeWidget(box)
                box.hide()
                box.deleteLater()
            self.boxes = {}
            for name, label in names.items():
                box = QCheckBox(f"covers build “{label}”".replace("&", "&&"))
                box.clicked.connect(partial(self._cover, name))
                self.boxes[name] = box
                self._boxes.addWidget(box)
        for name, box in self.boxes.items():
            box.setChecked(name in covered)

    def _cover(self, build: str, covered: bool) -> None:
        _, _, closing = self.path.partition(".")
        self._tell(self.session.attempt(edits.cover(self.session.project, closing, build, covered)))

    def _new_instrument(self) -> None:
        self._tell(self.session.attempt(edits.new_instrument(self.session.project)))
        self.choose(f"instruments.{self.session.project.instruments[-1].id}")

    def _new_closing(self) -> None:
        made = edits.close_build(self.session.project, self.session.view.build, date.today().isoformat())
        self._tell(self.session.attempt(made))
        self.choose(f"closings.{self.session.project.closings[-1].id}")

    def _remove(self) -> None:
        kind, _, name = self.path.partition(".")
        made = edits.remove_instrument(name) if kind == "instruments" else edits.remove_closing(name)
        self._tell(self.session.attempt(made))

    def _tell(self, problem: str) -> None:
        self.wrong.setText(problem)
