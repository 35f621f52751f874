"""Materials of the project: a list by kind, and everything about one of them."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.changes.materials import where_used
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.materials.curve_view import CurveView
from ashen_bridge.desktop.materials.tests_dialog import TestsDialog
from ashen_bridge.desktop.materials.tracer import TraceDialog
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.field_form import FieldForm
from ashen_bridge.desktop.parts.fields import TextField
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import materials
from ashen_bridge.editing.fields import Field
from ashen_bridge.editing.typed import TypedError
from ashen_bridge.library import materials as library
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.material import LAYERS, Material, MaterialKind
from ashen_bridge.words.numbers import number, short

_SOLIDS = (MaterialKind.SOLID, MaterialKind.SOLDER, MaterialKind.GRAPHITE)
_ONLY_FOR = {
    "youngs_modulus_gpa": _SOLIDS,
    "poisson_ratio": _SOLIDS,
    "in_plane_conductivity_w_mk": _SOLIDS,
    "temperature_exponent": (MaterialKind.SOLID,),
    "flow": (MaterialKind.PASTE, MaterialKind.PUTTY, MaterialKind.PHASE_CHANGE),
    "compression": (MaterialKind.PAD, MaterialKind.GRAPHITE),
    "handling": (),
    "stock_thicknesses_mm": tuple(kind for kind in MaterialKind if kind is not MaterialKind.GAS),
}
_COMPUTED = LAYERS | {MaterialKind.SOLID}


class MaterialsDialog(WorkDialog):
    """Not modal: the prediction behind it follows every change."""

    def __init__(self, session: Session, theme: Theme, asker: Asker, parent: QWidget | None = None) -> None:
        super().__init__("Materials", parent)
        self.session, self.asker, self._theme = session, asker, theme
        self._shown = ""
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setColumnCount(2)
        self.tree.setAccessibleName("Materials of the project")
        self.tree.setRootIsDecorated(False)
        self.tree.setIndentation(12)
        self.tree.currentItemChanged.connect(lambda *_: self._show_current())
        self.name = Words()
        self.name.setObjectName("title")
        self.used = Words()
        self.used.setObjectName("quiet")
        self.used.setWordWrap(True)
        self.form = FieldForm(session, skip=self._beside_the_point)
        self.claimed = QCheckBox("Claimed by the maker, no test method known")
        self.claimed.clicked.connect(lambda _: self._set_source())
        self.source = TextField(lambda _: self._set_source(), name="Source")
        self.method = TextField(lambda _: self._set_source(), name="Test method of the conductivity")
        self.curve = CurveView(theme)
        self.points = QPlainTextEdit()
        self.points.setAccessibleName("Curve points: one line each, compression in percent and pressure in kPa")
        self.points.setMinimumHeight(130)
        self.points.textChanged.connect(self._try_curve)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.take = QPushButton("Use these points")
        self.take.clicked.connect(self._take_curve)
        self.trace = QPushButton("Trace a chart picture…")
        self.trace.setToolTip("Two points on each axis, then along the curve")
        self.trace.clicked.connect(self._trace)
        self.tests = QPushButton("From tests…")
        self.tests.setToolTip("A thickness series or a squeeze under a scale: what it says of this material, with its ±")
        self.tests.clicked.connect(self._tests)
        self.handling = Words()
        self.handling.setObjectName("quiet")
        self.handling.setWordWrap(True)
        self._lay_out()
        session.project_changed.connect(self.refresh)
        self.resize(880, 660)
        self.refresh()

    def _lay_out(self) -> None:
        add = QPushButton("Add")
        add.setProperty("popup", True)
        menu = QMenu(add)
        for kind in MaterialKind:
            action = menu.addAction(f"New {kind.value}")
            if action is not None:
                action.triggered.connect(lambda _, kind=kind: self._new(kind))
        self._library = QMenu("From the library", menu)
        menu.addMenu(self._library)
        add.setMenu(menu)
        copy, remove = QPushButton("Copy"), QPushButton("Remove")
        copy.clicked.connect(self._copy)
        remove.clicked.connect(self._remove)
        buttons = QHBoxLayout()
        for button in (add, copy, remove):
            buttons.addWidget(button)
        left = QVBoxLayout()
        left.addWidget(self.tree, 1)
        left.addLayout(buttons)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(6)
        self._curve_part = QWidget()
        curve = QVBoxLayout(self._curve_part)
        curve.setContentsMargins(0, 4, 0, 0)
        heading = Words("Compression curve")
        heading.setObjectName("section")
        words = Words(
            "Type or paste one point a line: compression and pressure, as 20 % 76 or from a table; kPa unless a unit is named."
        )
        words.setObjectName("quiet")
        words.setWordWrap(True)
        both = QHBoxLayout()
        both.addWidget(self.points, 2)
        both.addWidget(self.curve, 3)
        curve.addWidget(heading)
        curve.addWidget(words)
        curve.addLayout(both)
        curve.addWidget(self.wrong)
        below = QHBoxLayout()
        below.addWidget(self.take)
        below.addWidget(self.trace)
        below.addStretch(1)
        curve.addLayout(below)
        origin = Words("Where the figures come from")
        origin.setObjectName("section")
        top = QHBoxLayout()
        top.addWidget(self.name, 1)
        top.addWidget(self.tests)
        column.addLayout(top)
        for widget in (self.used, self.handling, self.form, self._curve_part, origin):
            column.addWidget(widget)
        for text, field in (("Source", self.source), ("Test method", self.method)):
            row = QHBoxLayout()
            label = Words(text)
            label.setFixedWidth(124)
            label.setBuddy(field)
            row.addWidget(label)
            row.addWidget(field, 1)
            column.addLayout(row)
        column.addWidget(self.claimed)
        column.addStretch(1)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 12, 12, 12)
        row.setSpacing(12)
        row.addLayout(left, 2)
        row.addWidget(area, 3)

    def _beside_the_point(self, field: Field) -> bool:
        """Leave out what says nothing about a material of this kind."""
        name = field.path.split(".")[2] if field.path.count(".") > 1 else ""
        material = next((m for m in self.session.project.materials if field.path.startswith(f"materials.{m.id}.")), None)
        kind = material.kind if material is not None else MaterialKind.SOLID
        return name == "kind" or (name in _ONLY_FOR and kind not in _ONLY_FOR[name])

    # ---- list

    def refresh(self) -> None:
        """Take over the project's materials."""
        listed = [(material.id, material.name, material.kind) for material in self.session.project.materials]
        present = [self.tree.topLevelItem(n) for n in range(self.tree.topLevelItemCount())]
        old = [
            (child.data(0, Qt.ItemDataRole.UserRole), child.text(0), MaterialKind(top.data(0, Qt.ItemDataRole.UserRole)))
            for top in present
            if top is not None
            for child in (top.child(n) for n in range(top.childCount()))
            if child is not None
        ]
        if sorted(old) != sorted(listed):
            self._fill()
        self._fill_library()
        self._show_current()

    def _fill(self) -> None:
        wanted = self._shown
        self.tree.blockSignals(True)
        self.tree.clear()
        for kind in MaterialKind:
            of_kind = [material for material in self.session.project.materials if material.kind is kind]
            if not of_kind:
                continue
            words = kind.value.capitalize() + ("" if kind in _COMPUTED else " (not computed yet)")
            top = QTreeWidgetItem([words])
            top.setData(0, Qt.ItemDataRole.UserRole, kind.value)
            top.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self.tree.addTopLevelItem(top)
            top.setExpanded(True)
            for material in of_kind:
                item = QTreeWidgetItem([material.name, f"{number(material.conductivity_w_mk.value, 1)} W/m·K"])
                item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
                item.setData(0, Qt.ItemDataRole.UserRole, material.id)
                item.setToolTip(0, material.name)
                top.addChild(item)
                if material.id == wanted:
                    self.tree.setCurrentItem(item)
        self.tree.setColumnWidth(0, 215)
        self.tree.blockSignals(False)
        if self.tree.currentItem() is None:
            self.choose(next((material.id for material in self.session.project.materials), ""))

    def _fill_library(self) -> None:
        known = {material.id for material in self.session.project.materials}
        self._library.clear()
        for material in library().values():
            if material.id not in known:
                action = self._library.addAction(f"{material.name}  ·  {material.kind.value}")
                if action is not None:
                    action.triggered.connect(lambda _, name=material.id: self._from_library(name))
        self._library.setEnabled(not self._library.isEmpty())

    def choose(self, material_id: str) -> None:
        """Show a material."""
        for n in range(self.tree.topLevelItemCount()):
            top = self.tree.topLevelItem(n)
            for m in range(top.childCount()) if top is not None else ():
                child = top.child(m) if top is not None else None
                if child is not None and child.data(0, Qt.ItemDataRole.UserRole) == material_id:
                    self.tree.setCurrentItem(child)

    def current(self) -> Material | None:
        """Return the material that is shown."""
        item = self.tree.currentItem()
        wanted = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        return next((material for material in self.session.project.materials if material.id == wanted), None)

    # ---- one material

    def _show_current(self) -> None:
        material = self.current()
        if material is None:
            return
        self.name.setText(material.name)
        used = where_used(self.session.project, material.id)
        self.used.setText(f"{material.kind.value.capitalize()} · used in {len(used)} places" if used else "Not used yet")
        self.used.setToolTip("\n".join(used[:20]))
        said = material.handling.words or (library()[material.id].handling.words if material.id in library() else ())
        self.handling.setText("; ".join(said))
        self.handling.setVisible(bool(said))
        self.form.show_path(f"materials.{material.id}")
        source = material.sources[0]
        self.source.show_text(source.text)
        self.method.show_text(source.method)
        self.claimed.setChecked(source.claimed)
        self._curve_part.setVisible(material.compression is not None)
        if material.compression is not None:
            points = tuple((point.strain, point.pressure_kpa) for point in material.compression.points)
            if material.id != self._shown or points != self._points_shown:
                self._points_shown = points
                self.points.blockSignals(True)
                self.points.setPlainText("\n".join(f"{100 * strain:g} %\t{pressure:g}" for strain, pressure in points))
                self.points.blockSignals(False)
                self.wrong.setText("")
                self.curve.show_curve(points)
        self._shown = material.id

    _points_shown: materials.Curve = ()

    def _try_curve(self) -> None:
        """Draw what is typed at once, or say what is wrong with it."""
        try:
            curve = materials.read_curve(self.points.toPlainText())
        except TypedError as error:
            self.wrong.setText(str(error))
            self.take.setEnabled(False)
            return
        falling = next((b for a, b in pairwise(curve) if b[0] <= a[0] or b[1] <= a[1]), None)
        self.wrong.setText(
            "" if falling is None else f"The curve must rise everywhere; it does not at {short(100 * falling[0])} %."
        )
        self.take.setEnabled(falling is None)
        if falling is None:
            self.curve.show_curve(curve)

    def _take_curve(self) -> None:
        material = self.current()
        if material is None:
            return
        try:
            problem = self.session.attempt(materials.set_curve(material.id, materials.read_curve(self.points.toPlainText())))
        except TypedError as error:
            problem = str(error)
        self.wrong.setText(problem)

    def _trace(self) -> None:
        path = self.asker.open_file("Picture of a chart", "", "Picture (*.png *.jpg *.jpeg)")
        if path:
            self.trace_picture(path)

    def trace_picture(self, path: str) -> TraceDialog | None:
        """Trace the curve of this material off a picture; None where that cannot be read."""
        image, material = QImage(path), self.current()
        if image.isNull() or material is None:
            self.wrong.setText(f"“{path.rpartition('/')[2]}” cannot be read as a picture.")
            return None
        name = material.id
        dialog = TraceDialog(image, self._theme, lambda curve: self.session.attempt(materials.set_curve(name, curve)), self)
        dialog.show()
        return dialog

    def _tests(self) -> None:
        material = self.current()
        if material is not None:
            TestsDialog(self.session, material, self.asker, self).show()

    def _set_source(self) -> str:
        material = self.current()
        if material is None:
            return ""
        text = self.source.text().strip() or material.sources[0].text
        return self.session.attempt(materials.set_source(material.id, text, self.method.text().strip(), self.claimed.isChecked()))

    # ---- adding and removing

    def _new(self, kind: MaterialKind) -> None:
        name = self.asker.text(f"New {kind.value}", "Name:", f"New {kind.value}")
        if name:
            edit, new_id = materials.new_material(self.session.project, kind, name)
            if self.session.apply(edit):
                self.choose(new_id)

    def _from_library(self, material_id: str) -> None:
        if self.session.apply(materials.from_library(material_id)):
            self.choose(material_id)

    def _copy(self) -> None:
        material = self.current()
        if material is not None:
            edit, new_id = materials.copy_material(self.session.project, material.id)
            if self.session.apply(edit):
                self.choose(new_id)

    def _remove(self) -> None:
        material = self.current()
        if material is None:
            return
        try:
            edit: Any = materials.remove_material(self.session.project, material.id)
        except AshenError as error:
            self.asker.tell("This material stays", str(error))
            return
        self.session.apply(edit)
