"""The header: device, build switch, operating point, fan, undo, open and save, the menu."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QHBoxLayout, QMenu, QPushButton, QSizePolicy, QToolButton, QWidget

from ashen_bridge.desktop.look.icons import icon
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.shell.guide import GROUPS
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import edits
from ashen_bridge.files.recent import recent_files
from ashen_bridge.model.bodies import Plate

DELETE, KEEP = "Delete", "Keep"


class Header(QWidget):
    """What is looked at, and how to change it. `file_wanted` asks for a recent file by its name."""

    file_wanted = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme, actions: Commands, asker: Asker, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("header")
        self.session, self.asker = session, asker
        self._actions = actions
        self._buttons: dict[str, QToolButton] = {}
        self._name = ""
        self.device = Words()
        self.device.setObjectName("title")
        self.device.setMinimumWidth(90)
        self.builds = _switch("Build")
        self.builds.activated.connect(lambda at: session.look(replace(session.view, build=self.builds.itemData(at))))
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
        self.points = _switch("Operating point")
        self.points.activated.connect(lambda at: session.look(replace(session.view, point=self.points.itemData(at))))
        self.load = QPushButton("Power")
        self.load.setToolTip("Powers, air and fans of the operating points (Ctrl+L)")
        self.load.clicked.connect(actions["points"].trigger)
        self.fan = QDoubleSpinBox()
        self.fan.setRange(5.0, 200.0)
        self.fan.setDecimals(0)
        self.fan.setSingleStep(5.0)
        self.fan.setSuffix(" %")
        self.fan.setKeyboardTracking(False)
        self.fan.setAccessibleName("Fan speed of rated")
        self.fan.setToolTip("Fan speed, as a share of the speed the sink is rated at")
        self.fan.valueChanged.connect(self._set_fan)
        self._fan_words = Words("Fan")
        self.menu = QToolButton()
        self.menu.setIconSize(QSize(18, 18))
        self.menu.setAccessibleName("Menu")
        self.menu.setToolTip("Everything there is to do")
        self.menu.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu.setMenu(self._main_menu())
        self._lay_out()
        self.set_theme(theme)
        session.project_changed.connect(self.refresh)
        session.view_changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.device, 1)
        for widget in (self.builds, self.build_menu, self.points, self.load, self._fan_words, self.fan):
            row.addWidget(widget)
        for name in ("undo", "redo", "open", "save"):
            button = QToolButton()
            button.setDefaultAction(self._actions[name])
            button.setIconSize(QSize(18, 18))
            button.setAccessibleName(self._actions[name].text())
            self._buttons[name] = button
            row.addWidget(button)
        row.addWidget(self.menu)
        self._spared = (self.build_menu, self.load, self._fan_words)
        self.device.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._whole = super().minimumSizeHint().width()

    def _main_menu(self) -> QMenu:
        menu = QMenu(self)
        for group in GROUPS:
            inner = QMenu(group, menu)
            for one in self._actions.listed:
                if one.group == group:
                    inner.addAction(self._actions[one.name])
            if group == "File":
                self.recent = QMenu("Recent files", inner)
                inner.addMenu(self.recent)
                inner.aboutToShow.connect(self._list_recent)
            menu.addMenu(inner)
        return menu

    def _list_recent(self) -> None:
        """List the files that were opened last, newest first."""
        self.recent.clear()
        for path in recent_files():
            action = self.recent.addAction(path.name)
            if action is not None:
                action.setToolTip(str(path))
                action.triggered.connect(lambda _, path=path: self.file_wanted.emit(str(path)))
        self.recent.setEnabled(not self.recent.isEmpty())

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        for name in self._buttons:
            self._actions[name].setIcon(icon(name, theme.colour("ink")))
        self.menu.setIcon(icon("menu", theme.colour("ink")))

    def minimumSizeHint(self) -> QSize:
        """As narrow as it is without what can be done elsewhere too: the menu has power and builds."""
        spare = sum(one.sizeHint().width() + 6 for one in self._spared if not one.isHidden())
        return QSize(max(super().minimumSizeHint().width() - spare, 320), super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        wide = self.width() >= self._whole
        for one in self._spared:
            one.setVisible(wide)
        self._show_name()

    def _show_name(self) -> None:
        room = max(self.device.width(), self.device.minimumWidth())
        self.device.setText(self.device.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideRight, room))

    def refresh(self) -> None:
        """Take over project and view."""
        project, view = self.session.project, self.session.view
        self._name = project.name or project.device.name or "Unnamed device"
        self._show_name()
        self.device.setToolTip(self._name)
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
        if plates and project.points:
            speeds = self.session.point.fans_percent
            with QSignalBlocker(self.fan):
                self.fan.setValue(speeds[plates[0]].value if plates[0] in speeds else 100.0)

    def _fanned(self) -> tuple[str, ...]:
        """Return the plates whose sink has a fan: its resistance depends on a speed."""
        return tuple(
            body.id
            for body in self.session.project.device.bodies
            if isinstance(body, Plate) and body.sink is not None and body.sink.fanned
        )

    def _set_fan(self, value: float) -> None:
        self.session.apply(edits.set_fan(self.session.view.point, self._fanned(), value))

    # ---- builds

    def new_build(self) -> None:
        """Copy the present build under a new name and look at it."""
        name = self.asker.text("New build", "Name of the new build:", f"{self.session.build.label}, changed")
        if not name:
            return
        edit, new_id = edits.new_build(self.session.project, self.session.view.build, name)
        if self.session.apply(edit):
            self.session.look(replace(self.session.view, build=new_id))

    def rename_build(self) -> None:
        """Give the present build another name."""
        name = self.asker.text("Rename build", "New name:", self.session.build.label)
        if name:
            self.session.apply(edits.rename_build(self.session.view.build, name))

    def delete_build(self) -> None:
        """Delete the present build after asking; undo brings it back."""
        question = f"Delete the build “{self.session.build.label}”? Undo brings it back."
        if self.asker.choose("Delete build", question, (DELETE, KEEP), KEEP, KEEP) == DELETE:
            self.session.apply(edits.delete_build(self.session.view.build))


def _switch(name: str) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    box.setMinimumContentsLength(9)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box
