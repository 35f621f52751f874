"""One layer of the selected joints: material, amount, what has become of it, order, removal."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QHBoxLayout, QSizePolicy, QToolButton, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.look.icons import icon
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import edits
from ashen_bridge.model.amounts import BondLineAmount, FilmAmount, LineAmount, PeaAmount, WeightAmount
from ashen_bridge.model.joints import Piece, PieceState
from ashen_bridge.model.material import LAYERS, MaterialKind
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.words.numbers import number

_AMOUNTS = (
    ("volume", "volume", " mm³", 0, 5.0, 5000.0),
    ("film", "mean film", " mm", 2, 0.05, 20.0),
    ("pea", "pea, across", " mm", 1, 0.5, 40.0),
    ("line", "line, 2 mm wide", " mm", 0, 1.0, 500.0),
    ("weight", "weighed", " g", 2, 0.01, 100.0),
    ("bond line", "bond line", " µm", 0, 5.0, 5000.0),
)
_STATES = {PieceState.AS_FITTED: "as fitted", PieceState.BURNED_IN: "in order", PieceState.DRIED: "dried"}
_MELTS = {**_STATES, PieceState.BURNED_IN: "burned in"}


def amount_of(piece: Piece) -> tuple[str, Quantity | None]:
    """Return in which way the amount of a piece is stated, and the number."""
    match piece.amount:
        case FilmAmount():
            return "film", piece.amount.film_mm
        case PeaAmount():
            return "pea", piece.amount.pea_mm
        case LineAmount():
            return "line", piece.amount.length_mm
        case WeightAmount():
            return "weight", piece.amount.grams
        case BondLineAmount():
            return "bond line", piece.amount.bond_line_um
        case _:
            return ("sheet", piece.thickness_mm) if piece.thickness_mm else ("volume", piece.volume_mm3)


class PieceRow(QWidget):
    """Two lines of controls for one layer; every change is an edit of all joints that are edited together."""

    def __init__(self, session: Session, theme: Theme, apply: Callable[[Edit], None], at: int) -> None:
        super().__init__()
        self._session, self._theme, self._apply, self._at = session, theme, apply, at
        self.material = QComboBox()
        self.material.setAccessibleName(f"Material of layer {at + 1}")
        self.material.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.material.setMinimumContentsLength(12)
        self.material.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for material in session.project.materials:
            if material.kind in LAYERS:
                conduct = number(material.conductivity_w_mk.value, 1)
                self.material.addItem(f"{material.name} · {conduct} W/m·K", material.id)
        self.material.activated.connect(self._set_material)
        self.amount = QDoubleSpinBox()
        self.amount.setKeyboardTracking(False)
        self.amount.valueChanged.connect(self._set_amount)
        self.amount.setFixedWidth(106)
        self.way = _choice(
            f"How the amount of layer {at + 1} is stated",
            "How much was dispensed, as you would say it; or what bond line it keeps",
        )
        for kind, words, *_ in _AMOUNTS:
            self.way.addItem(words, kind)
        self.way.activated.connect(self._set_way)
        self.state = _choice(
            f"State of layer {at + 1}", "Dried: it conducts as if it had been in service for three years or more"
        )
        self.state.activated.connect(self._set_state)
        self.age = QDoubleSpinBox()
        self.age.setKeyboardTracking(False)
        self.age.setRange(0.0, 40_000.0)
        self.age.setDecimals(0)
        self.age.setSingleStep(30.0)
        self.age.setSuffix(" days")
        self.age.setSpecialValueText("new")
        self.age.setAccessibleName(f"Age of layer {at + 1}")
        self.age.setToolTip("How long this piece has been in service: pads relax, layers dry, pump out and harden")
        self.age.valueChanged.connect(self._set_age)
        self._lay_out()

    def _lay_out(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(3)
        grid.addWidget(self.material, 0, 0)
        grid.addWidget(self.amount, 0, 1)
        joint = self._session.joint
        for column, (name, words, act) in enumerate(
            (
                ("higher", "Move this layer up", self._up),
                ("lower", "Move this layer down", self._down),
                ("remove", "Take this layer out", self._remove),
            )
        ):
            button = QToolButton()
            button.setObjectName("small")
            button.setFixedWidth(27)
            button.setIcon(icon(name, self._theme.colour("ink")))
            button.setToolTip(words)
            button.setAccessibleName(words)
            button.clicked.connect(act)
            grid.addWidget(button, 0, 2 + column)
            button.setVisible(name == "remove" or (joint is not None and len(joint.pieces) > 1))
        second = QHBoxLayout()
        second.setSpacing(3)
        for widget in (self.way, self.state, self.age):
            second.addWidget(widget)
        second.addStretch(1)
        grid.addLayout(second, 1, 0, 1, 5)

    def _piece(self) -> Piece | None:
        joint = self._session.joint
        return joint.pieces[self._at] if joint and self._at < len(joint.pieces) else None

    def refresh(self) -> None:
        """Take over the piece's present values."""
        piece = self._piece()
        if piece is None:
            return
        kind = self._session.project.material(piece.material).kind
        way, amount = amount_of(piece)
        words = _MELTS if kind is MaterialKind.PHASE_CHANGE else _STATES
        with QSignalBlocker(self.material), QSignalBlocker(self.amount), QSignalBlocker(self.state), QSignalBlocker(self.age):
            self.material.setCurrentIndex(self.material.findData(piece.material))
            self.state.clear()
            for state, said in words.items():
                if state is not PieceState.AS_FITTED or kind is MaterialKind.PHASE_CHANGE or piece.state is state:
                    self.state.addItem(said, state)
            self.state.setCurrentIndex(self.state.findData(piece.state))
            self.age.setValue(piece.age_days)
            self.amount.setVisible(amount is not None)
            self.way.setVisible(amount is not None and piece.flows)
            self.way.setCurrentIndex(self.way.findData(way))
            if way == "sheet":
                self._show_amount(" mm", 2, 0.25, 20.0, 0.05, f"Thickness of layer {self._at + 1}")
            else:
                _, said, unit, decimals, step, most = next(one for one in _AMOUNTS if one[0] == way)
                dispensed = "Bond line" if way == "bond line" else f"Dispensed {said}"
                self._show_amount(unit, decimals, step, most, 0.0, f"{dispensed} of layer {self._at + 1}")
            if amount is not None:
                self.amount.setValue(amount.value)
        differ = self._amounts()
        self.amount.setPrefix("≠ " if len(differ) > 1 else "")
        self.amount.setToolTip(
            "These joints differ: " + ", ".join(f"{value:g}" for value in sorted(differ)) + ". A new value goes to all of them."
            if len(differ) > 1
            else "Amount of this layer in all joints that are edited together"
        )

    def _show_amount(self, unit: str, decimals: int, step: float, most: float, least: float, name: str) -> None:
        self.amount.setRange(least, most)
        self.amount.setDecimals(decimals)
        self.amount.setSingleStep(step)
        self.amount.setSuffix(unit)
        self.amount.setAccessibleName(name)

    def _amounts(self) -> set[float]:
        found = set()
        for joint in self._session.build.joints:
            if joint.id in self._session.joints and self._at < len(joint.pieces):
                _, amount = amount_of(joint.pieces[self._at])
                if amount is not None:
                    found.add(amount.value)
        return found

    # ---- edits

    def _do(self, make: Callable[..., Edit], *values: object) -> None:
        session = self._session
        self._apply(make(session.view.build, session.joints, self._at, *values, session.joints_label))

    def _set_material(self, at: int) -> None:
        session = self._session
        material = self.material.itemData(at)
        where = (session.project, session.view.build, session.joints, self._at)
        self._apply(edits.set_material(*where, material, session.joints_label))

    def _set_amount(self, value: float) -> None:
        piece = self._piece()
        if piece is not None:
            self._do(edits.set_amount if piece.flows else edits.set_thickness, round(value, 3))

    def _set_way(self, at: int) -> None:
        piece, session = self._piece(), self._session
        if piece is not None and amount_of(piece)[0] != self.way.itemData(at):
            where = (session.view.build, session.joints, self._at)
            self._apply(edits.set_amount_kind(*where, self.way.itemData(at), session.joints_label))

    def _set_state(self, at: int) -> None:
        self._do(edits.set_state, str(self.state.itemData(at)))

    def _set_age(self, days: float) -> None:
        self._do(edits.set_age, days)

    def _up(self) -> None:
        self._do(edits.move_piece, 1)

    def _down(self) -> None:
        self._do(edits.move_piece, -1)

    def _remove(self) -> None:
        self._do(edits.remove_piece)


def _choice(name: str, tip: str) -> QComboBox:
    box = QComboBox()
    box.setObjectName("small")
    box.setAccessibleName(name)
    box.setToolTip(tip)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
    return box
