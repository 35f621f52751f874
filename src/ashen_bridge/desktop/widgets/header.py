"""The header: device, build switch, operating point, fan, undo, open and save."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSignalBlocker, QSize, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMenu,
    QMessageBox,
    QPushButton,
    QToolButton,
    QWidget,
)

from ashen_bridge.desktop.icons import icon
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.editing import edits
from ashen_bridge.model.bodies import Plate


class Header(QWidget):
    """What is looked at, and how to change it."""

    def __init__(self, session: Session, theme: Theme, actions: dict[str, QAction], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("header")
        self.session = session
        self._actions = actions
        self._buttons: dict[str, QToolButton] = {}
        self.device = QLabel()
        self.device.setObjectName("title")
        self.builds = QComboBox()
        self.builds.setAccessibleName("Build")
        self.builds.setMinimumWidth(130)
        self.builds.activated.connect(lambda at: session.look(build=self.builds.itemData(at)))
        self.build_menu = QPushButton("Build")
        menu = QMenu(self.build_menu)
        for words, act in (
            ("New from current…", self.new_build),
            ("Rename…", self.rename_build),
            ("Delete", self.delete_build),
        ):
            menu.addAction(words, act)
        self.build_menu.setMenu(menu)
        self.build_menu.setProperty("popup", True)
        self.build_menu.setToolTip("New build from this one, rename, delete")
        self.points = QComboBox()
        self.points.setAccessibleName("Operating point")
        self.points.setMinimumWidth(130)
        self.points.activated.connect(lambda at: session.look(point=self.points.itemData(at)))
        self.fan = QDoubleSpinBox()
        self.fan.setRange(5.0, 200.0)
        self.fan.setDecimals(0)
        self.fan.setSingleStep(5.0)
        self.fan.setSuffix(" %")
        self.fan.setKeyboardTracking(False)
        self.fan.setAccessibleName("Fan speed of rated")
        self.fan.setToolTip("Fan speed, as a share of the speed the sink is rated at")
        self.fan.valueChanged.connect(self._set_fan)
        self._fan_words = QLabel("Fan")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(7)
        row.addWidget(self.device, 1)
        for widget in (self.builds, self.build_menu, self.points, self._fan_words, self.fan):
            row.addWidget(widget)
        for name in ("undo", "redo", "open", "save", "theme"):
            button = QToolButton()
            button.setDefaultAction(actions[name])
            button.setIconSize(QSize(18, 18))
            button.setAccessibleName(actions[name].text())
            self._buttons[name] = button
            row.addWidget(button)
        self.set_theme(theme)
        session.project_changed.connect(self.refresh)
        session.view_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        for name in self._buttons:
            self._actions[name].setIcon(icon(name, theme.colour("ink")))

    def refresh(self) -> None:
        """Take over project and view."""
        project, view = self.session.project, self.session.view
        name = project.name or project.device.name or "Unnamed device"
        self.device.setText(
            self.device.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, max(self.device.width(), 260))
        )
        self.device.setToolTip(name)
        for box, items, present in ((self.builds, project.builds, view.build), (self.points, project.points, view.point)):
            listed = [(item.label, item.id) for item in items]
            with QSignalBlocker(box):
                if listed != [(box.itemText(at), box.itemData(at)) for at in range(box.count())]:
                    box.clear()
                    for label, name_id in listed:
                        box.addItem(label, name_id)
                box.setCurrentIndex(box.findData(present))
        plates = self._fanned()
        self.fan.setVisible(bool(plates))
        self._fan_words.setVisible(bool(plates))
        if plates and view.point:
            speeds = self.session.point.fans_percent
            with QSignalBlocker(self.fan):
                self.fan.setValue(speeds[plates[0]].value if plates[0] in speeds else 100.0)

    def _fanned(self) -> tuple[str, ...]:
        return tuple(body.id for body in self.session.project.device.bodies if isinstance(body, Plate) and body.sink is not None)

    def _set_fan(self, value: float) -> None:
        self.session.apply(edits.set_fan(self.session.view.point, self._fanned(), value))

    # ---- builds

    def new_build(self, ask: Callable[[], tuple[str, bool]] | None = None) -> None:
        """Copy the present build under a new name and look at it."""
        name, agreed = (
            ask()
            if ask
            else QInputDialog.getText(self, "New build", "Name of the new build:", text=f"{self.session.build.label}, changed")
        )
        if not agreed or not name.strip():
            return
        edit, new_id = edits.new_build(self.session.project, self.session.view.build, name.strip()[:200])
        if self.session.apply(edit):
            self.session.look(build=new_id)

    def rename_build(self) -> None:
        """Give the present build another name."""
        name, agreed = QInputDialog.getText(self, "Rename build", "New name:", text=self.session.build.label)
        if agreed and name.strip():
            self.session.apply(edits.rename_build(self.session.view.build, name.strip()[:200]))

    def delete_build(self) -> None:
        """Delete the present build after asking; undo brings it back."""
        question = f"Delete the build “{self.session.build.label}”? Undo brings it back."
        if QMessageBox.question(self, "Delete build", question) == QMessageBox.StandardButton.Yes:
            self.session.apply(edits.delete_build(self.session.view.build))
