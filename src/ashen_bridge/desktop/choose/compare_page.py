"""The page of builds beside each other: temperatures, what differs, what it is worth in quiet; sorted by any column."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, QSortFilterProxyModel, Qt
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QPushButton, QScrollArea, QTableView, QVBoxLayout, QWidget

from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.parts.pages import checkable
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import bold, table
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.comparing import Compared, ComparedJoint, as_csv, as_table
from ashen_bridge.words.numbers import number, percent

_ROOT = QModelIndex()
_FILES = "Ashen Bridge project (*.ashb *.json)"
_WORDS = 230.0  # [px] of what differs, at most
_SORT = Qt.ItemDataRole.UserRole
_FIXED = ("build", "what differs", "least margin K", "die °C", "quieter dB", "power", "cost")


class ComparedModel(QAbstractTableModel):
    """Builds as rows, sensors as columns."""

    def __init__(self, theme: Theme, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.rows: tuple[Compared, ...] = ()
        self.names: tuple[str, ...] = ()

    def show_rows(self, rows: tuple[Compared, ...]) -> None:
        """Show what was compared."""
        if rows == self.rows:
            return
        self.beginResetModel()
        self.rows = rows
        self.names = tuple(dict.fromkeys(sensor.name for row in rows for sensor in row.sensors))
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = _ROOT) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = _ROOT) -> int:
        return len(_FIXED) + len(self.names)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return (*_FIXED, *self.names)[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row, column = self.rows[index.row()], index.column()
        value = self._value(row, column)
        if role == _SORT:
            return value if value is not None else 1e9
        if role == Qt.ItemDataRole.DisplayRole:
            over = "over " if column == 4 and row.quieter_still else ""
            if value is None or isinstance(value, str):
                return value or "–"
            return percent(value) if column == 5 else over + number(value, 2 if column == 6 else 1)
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.problem or "; ".join(row.differs) or row.name
        if role == Qt.ItemDataRole.TextAlignmentRole and not isinstance(value, str):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole:
            return self.theme.colour("bad" if row.problem or self._over(row, column) else "ink")
        return None

    def _value(self, row: Compared, column: int) -> str | float | None:
        match column:
            case 0:
                points = {one.point_name for one in self.rows}
                name = f"{row.file}: {row.name}" if row.file else row.name
                return f"{name} · {row.point_name}" if len(points) > 1 else name
            case 1:
                return row.problem or "; ".join(row.differs) or "–"
            case 2:
                return row.least_margin_k
            case 3:
                return row.die_c
            case 4:
                return row.quieter_db
            case 5:
                return row.power_share
            case 6:
                return row.cost
        name = self.names[column - len(_FIXED)]
        return next((one.value_c for one in row.sensors if one.name == name), None)

    def _over(self, row: Compared, column: int) -> bool:
        if column == 2:
            return row.least_margin_k is not None and row.least_margin_k < 0
        if not len(_FIXED) <= column < len(_FIXED) + len(self.names):
            return False
        name = self.names[column - len(_FIXED)]
        return any(one.name == name and one.margin_k is not None and one.margin_k < 0 for one in row.sensors)


class ComparePage(QWidget):
    """Builds beside each other."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self._room = desk, room
        self.model = ComparedModel(room.theme(), self)
        self._sorted = QSortFilterProxyModel(self)
        self._sorted.setSourceModel(self.model)
        self._sorted.setSortRole(_SORT)
        self.table = QTableView()
        self.table.setModel(self._sorted)
        self.table.setSortingEnabled(True)
        self.table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        self.table.setAccessibleName("Builds beside each other")
        self.table.setShowGrid(False)
        head = self.table.verticalHeader()
        assert head is not None  # a table has one
        head.hide()
        self.head = Words()
        self.head.setObjectName("big")
        self.head.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self._builds, self._points = QWidget(), QWidget()
        self._flows = FlowLayout(self._builds, 6), FlowLayout(self._points, 6)
        self._buttons: dict[tuple[str, str], QPushButton] = {}
        self.copy = QPushButton("Copy as a table")
        self.copy.clicked.connect(self.copy_table)
        self.save = QPushButton("Save as CSV…")
        self.save.clicked.connect(self._save)
        self.equal = checkable("At equal power", "All at the power and the ambient of the first: rises go with the power")
        self.equal.clicked.connect(lambda on: desk.look(replace(desk.view, equal_power=on)))
        self.other = QPushButton("Beside another file…")
        self.other.setToolTip("Set the builds and the measured runs of another file beside these")
        self.other.clicked.connect(self._other)
        top = QHBoxLayout()
        top.addWidget(self.head, 1)
        top.addWidget(self.equal)
        top.addWidget(self.other)
        top.addWidget(self.copy)
        top.addWidget(self.save)
        card = Card((12, 10, 12, 10))
        card.column.addLayout(top)
        card.column.addWidget(self._builds)
        card.column.addWidget(self._points)
        card.column.addWidget(self.state)
        card.column.addWidget(self.table, 1)
        self.joints = Words()
        self.joints.setTextFormat(Qt.TextFormat.RichText)
        self.joints.setAlignment(Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.joints)
        area.setWidgetResizable(True)
        section = Words("What lies between, and how it is pressed")
        section.setObjectName("section")
        card.column.addWidget(section)
        card.column.addWidget(area, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.model.theme = theme

    def refresh(self) -> None:
        """Take over the builds and what is known of them."""
        desk = self.desk
        desk.compared.ask_by_itself()
        project, view = desk.session.project, desk.view
        self._show_buttons()
        if desk.other is not None:
            desk.beside.ask_by_itself()
        rows = desk.compared_rows
        fresh = rows != self.model.rows
        self.model.show_rows(rows)
        if fresh and rows:
            self.table.resizeColumnsToContents()
            self.table.setColumnWidth(1, min(self.table.columnWidth(1), round(self.model.theme.px(_WORDS))))
        if fresh:
            self.joints.setText(_joint_table(project, rows))
        first = project.build(view.builds[0] if view.builds else project.builds[0].id).label if project.builds else ""
        said = (
            f"Held against “{first}”: a click on a head sorts"
            if len(project.builds) > 1
            else "One build only: make a plan a build, or copy this one."
        )
        self.head.setText(said)
        self.equal.setChecked(view.equal_power)
        self.other.setText("Beside another file…" if desk.other is None else f"Without “{desk.other[0]}”".replace("&", "&&"))
        asked = desk.beside if desk.other is not None and desk.beside.state != "current" else desk.compared
        self.state.setText(standing(asked, "Computing builds…"))
        self.state.setVisible(bool(self.state.text()))
        for button in (self.copy, self.save):
            button.setEnabled(bool(rows))

    def _show_buttons(self) -> None:
        project, view = self.desk.session.project, self.desk.view
        wanted = {("build", one.id): one.label for one in project.builds} | {
            ("point", one.id): one.name or one.id for one in project.points
        }
        if wanted.keys() != self._buttons.keys():
            for button in self._buttons.values():
                button.hide()
                button.deleteLater()
            self._buttons = {}
            for (kind, name), words in wanted.items():
                made = checkable(words, "Compare it, or leave it out")
                act = self.desk.toggle_build if kind == "build" else self.desk.toggle_point
                made.clicked.connect(partial(self._toggle, act, name))
                self._flows[kind == "point"].addWidget(made)
                self._buttons[kind, name] = made
        builds = view.builds or tuple(one.id for one in project.builds)
        points = view.points or (self.desk.session.view.point,)
        for (kind, name), button in self._buttons.items():
            button.setText(wanted[kind, name].replace("&", "&&"))
            button.setChecked(name in (builds if kind == "build" else points))
        self._points.setVisible(len(project.points) > 1)

    def _toggle(self, act: object, name: str, _: bool = False) -> None:
        act(name)  # type: ignore[operator]
        self.refresh()

    def _other(self) -> None:
        if self.desk.other is not None:
            self.desk.hold_against("", None)
            return
        path = self._room.asker.open_file("Set another file beside", self._room.folder(), _FILES)
        if path:
            self.set_beside(path)

    def set_beside(self, path: str) -> None:
        """Set the builds and runs of another file beside these."""
        from ashen_bridge.files.demos import open_anything

        try:
            found = in_force(open_anything(path).project)
        except AshenError as error:
            self._room.asker.tell("Set another file beside", str(error))
            return
        self.desk.hold_against(found.name or Path(path).stem, found)

    def copy_table(self) -> None:
        """Put the table on the clipboard."""
        board = QApplication.clipboard()
        if board is not None:
            board.setText("\n".join("\t".join(line) for line in as_table(self.model.rows)))
            self._room.notice.say("The table is on the clipboard.")

    def _save(self) -> None:
        path = self._room.asker.save_file("Save what was compared", f"{self._room.folder()}/builds.csv", "CSV (*.csv)")
        if path:
            from ashen_bridge.files.atomic import write_atomically

            try:
                write_atomically(Path(path), as_csv(self.model.rows).encode())
            except OSError as error:
                self._room.asker.tell("Save what was compared", f"It could not be saved: {error.strerror}.")


def _joint_table(project: Project, rows: tuple[Compared, ...]) -> str:
    """Return how every group of joints is pressed in every build, and how much of it touches."""
    if not rows:
        return ""
    groups: dict[str, list[str]] = {}
    for name in dict.fromkeys(joint.id for row in rows for joint in row.joints):
        group = project.group_of(name)
        groups.setdefault(group.label if group is not None else _label(project, name), []).append(name)
    head = [bold(""), *(bold(row.name) for row in rows)]
    body = [
        [bold(label), *(_pressed([one for one in row.joints if one.id in names]) for row in rows)]
        for label, names in groups.items()
    ]
    return table([head, *body], spacing=5)


def _label(project: Project, joint: str) -> str:
    return next((one.label for build in project.builds for one in build.joints if one.id == joint), joint)


def _pressed(joints: list[ComparedJoint]) -> str:
    if not joints:
        return "–"
    squeezed = [one.squeezed for one in joints if one.squeezed is not None]
    film = f"{number(sum(one.bond_line_um for one in joints) / len(joints))} µm"
    first = f"squeezed {percent(sum(squeezed) / len(squeezed))}" if squeezed else film
    kpa = number(sum(one.pressure_kpa for one in joints) / len(joints))
    least = min(one.contact for one in joints)
    return f"{first}, {kpa} kPa" + (f", touches {percent(least)}" if least < 0.98 else "")
