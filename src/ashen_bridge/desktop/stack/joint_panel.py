"""The joint panel: the pieces of the selected joint or group, their figures, the thickness strip, washers."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import (
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.stack.piece_row import PieceRow, amount_of
from ashen_bridge.desktop.stack.strip import ThicknessStrip
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import edits
from ashen_bridge.model.joints import LEAST_MM2K_W, Joint
from ashen_bridge.predict.report import JointRow
from ashen_bridge.words.numbers import length, number


class JointPanel(QFrame):
    """Pieces, figures and what-ifs of what is selected."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self._shape: tuple[object, ...] = ()
        self._rows: list[PieceRow] = []
        self._title = Words()
        self._title.setObjectName("title")
        self._scope = QPushButton("Whole group")
        self._scope.setCheckable(True)
        self._scope.setToolTip("Edit all joints of the group together, or only this one (G)")
        self._scope.clicked.connect(lambda on: session.look(replace(session.view, whole_group=on)))
        self._figures = Words()
        self._figures.setWordWrap(True)
        self._pieces = QVBoxLayout()
        self._pieces.setSpacing(4)
        self._add = QPushButton("Add a pad on top")
        self._add.clicked.connect(lambda: self.apply(edits.add_piece(session.view.build, session.joints, session.joints_label)))
        self.strip = ThicknessStrip(session, theme)
        self.strip.chosen.connect(self.choose_thickness)
        self.strip.stepped.connect(self.step_thickness)
        self._strip_words = Words()
        self._strip_words.setObjectName("quiet")
        self._washers = QDoubleSpinBox()
        self._washers.setRange(0.0, 5.0)
        self._washers.setSingleStep(0.25)
        self._washers.setSuffix(" mm")
        self._washers.setAccessibleName("Washers under the spring screws")
        self._washers.setToolTip("Total washer thickness under every spring screw: each millimetre adds its rate in newtons")
        self._washers.setKeyboardTracking(False)
        self._washers.valueChanged.connect(self._set_washers)
        self._whole = QPushButton("State as mm²·K/W")
        self._whole.setToolTip("Say what the whole joint resists, from a data sheet or a measurement, in place of its layers")
        self._whole.clicked.connect(self._state_it)
        self._stated = QDoubleSpinBox()
        self._stated.setRange(LEAST_MM2K_W, 1e5)
        self._stated.setDecimals(1)
        self._stated.setSuffix(" mm²·K/W")
        self._stated.setKeyboardTracking(False)
        self._stated.setAccessibleName("Resistance of the whole joint")
        self._stated.valueChanged.connect(self._set_stated)
        self._lay_out()
        for signal in (session.project_changed, session.view_changed, session.results.changed):
            signal.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self._title, 1)
        head.addWidget(self._scope)
        foot = QHBoxLayout()
        foot.addWidget(self._add)
        foot.addStretch(1)
        self._washer_words = Words("Washers")
        foot.addWidget(self._washer_words)
        foot.addWidget(self._washers)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 9)
        layout.setSpacing(6)
        layout.addLayout(head)
        layout.addWidget(self._figures)
        layout.addLayout(self._pieces)
        layout.addWidget(self._strip_words)
        layout.addWidget(self.strip)
        layout.addLayout(foot)
        whole = QHBoxLayout()
        whole.addWidget(self._whole)
        whole.addWidget(self._stated)
        whole.addStretch(1)
        layout.addLayout(whole)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.strip.set_theme(theme)
        self._shape = ()
        self.refresh()

    def choose_thickness(self, value: float) -> None:
        """Set the first sheet of the selected joints to a thickness [mm]."""
        joint = self.session.joint
        if joint is None:
            return
        if joint.sheet_at is not None:
            self.apply(edits.set_sheets(self.session.view.build, self.session.joints, value, self.session.joints_label))

    def step_thickness(self, by: int) -> None:
        """Set the next stock thickness up (+1) or down (−1) from what is there."""
        present, options = self.strip.present(), self.session.results.thicknesses
        here = (max(present) if by > 0 else min(present)) if present else 0.0
        beyond = [value for value in options if (value > here + 1e-9 if by > 0 else value < here - 1e-9)]
        if present and beyond:
            self.choose_thickness(min(beyond) if by > 0 else max(beyond))

    def apply(self, edit: Edit) -> None:
        """Make an edit of what is shown."""
        if not self.session.apply(edit):
            self.refresh()  # a refused value gives way to the present one

    def _state_it(self) -> None:
        """State the joints as what they resist now, or give them up to layers again."""
        joint, session = self.session.joint, self.session
        if joint is None:
            return
        value = None
        if joint.stated_mm2k_w is None:
            rows = session.results.assessment.report.joint_rows(joint.id) if session.results.assessment else ()
            known = [row.resistance_mm2k_w for row in rows if row.resistance_mm2k_w is not None]
            value = round(sum(known) / len(known), 1) if known else 100.0
        self.apply(edits.set_stated(session.view.build, session.joints, value, session.joints_label))

    def _set_stated(self, value: float) -> None:
        session = self.session
        self.apply(edits.set_stated(session.view.build, session.joints, round(value, 2), session.joints_label))

    def _sprung(self) -> tuple[str, ...]:
        return tuple(fastener.id for fastener in self.session.project.device.fasteners if fastener.kind == "sprung")

    def _set_washers(self, value: float) -> None:
        if self._sprung():
            self.apply(edits.set_washers(self.session.view.build, self._sprung(), value))

    def refresh(self) -> None:
        """Take over what the session shows."""
        joint, session = self.session.joint, self.session
        group = session.project.group_of(joint.id) if joint else None
        count = len(session.joints)
        self._title.setText(self._words(joint, count))
        self._scope.setVisible(group is not None)
        self._scope.setChecked(session.view.whole_group)
        rows = (
            [row for row in session.results.assessment.report.joints if row.id in session.joints]
            if session.results.assessment
            else []
        )
        self._figures.setText(
            figures(rows) if rows else "" if joint else "Click a part with a joint, or walk with the arrow keys."
        )
        self._figures.setEnabled(session.results.state not in ("stale", "refused"))
        shape = (
            session.joints,
            tuple((p.id, p.material, amount_of(p)[0]) for p in joint.pieces) if joint else (),
            tuple((material.id, material.name) for material in session.project.materials),
        )
        if shape != self._shape:
            self._shape = shape
            self._rebuild(joint)
        for row in self._rows:
            row.refresh()
        has_sheet = bool(session.results.thicknesses)
        self._strip_words.setVisible(has_sheet)
        self._strip_words.setWordWrap(True)
        self._strip_words.setText(f"Thickness [mm] → hottest of {session.joints_label or 'it'} · die · compression · contact")
        self.strip.setVisible(has_sheet)
        stated = joint.stated_mm2k_w if joint is not None else None
        self._add.setEnabled(joint is not None)
        self._add.setVisible(stated is None)
        self._stated.setVisible(stated is not None)
        self._whole.setVisible(joint is not None)
        self._whole.setText("Say its layers" if stated is not None else "State as mm²·K/W")
        if stated is not None:
            with QSignalBlocker(self._stated):
                self._stated.setValue(stated.value)
        sprung = self._sprung()
        settings = {setting.fastener: setting.washers_mm.value for setting in session.build.fastener_settings}
        for widget in (self._washers, self._washer_words):
            widget.setVisible(bool(sprung))
        with QSignalBlocker(self._washers):
            self._washers.setValue(max((settings.get(name, 0.0) for name in sprung), default=0.0))

    def _words(self, joint: Joint | None, count: int) -> str:
        if joint is None:
            bodies = {body.id: body.label for body in self.session.project.device.bodies}
            name = bodies.get(self.session.view.selected, "")
            return f"{name}: no joint" if name else "Nothing selected"
        return f"{self.session.joints_label} · {count} joints" if count > 1 else joint.label

    def _rebuild(self, joint: Joint | None) -> None:
        for row in self._rows:
            self._pieces.removeWidget(row)
            # It may be the very row whose key or click leads here: without a parent it would be gone at once.
            row.hide()
            row.deleteLater()
        # The top layer stands on top, as it does in the device.
        self._rows = (
            [PieceRow(self.session, self.theme, self.apply, at) for at in reversed(range(len(joint.pieces)))] if joint else []
        )
        for row in self._rows:
            self._pieces.addWidget(row)


def figures(rows: list[JointRow]) -> str:
    """Return the figures of some joints in two short lines: a range where they differ."""

    def span(values: list[float], digits: int, unit: str, factor: float = 1.0) -> str:
        low, high = number(min(values) * factor, digits), number(max(values) * factor, digits)
        return f"{low} {unit}" if low == high else f"{low}…{high} {unit}"

    paste = any(row.compression is None for row in rows)
    if paste:
        bond = rows[0].bond_line_um
        spread = f"{number(bond.min)}…{number(bond.max)} µm, mean "
        first = f"bond line {spread if number(bond.min) != number(bond.max) else ''}{number(bond.mean)} µm"
    else:
        squeezed = [row.compression or 0.0 for row in rows]
        first = f"gap {span([row.gap_mm for row in rows], 2, 'mm')} · compressed {span(squeezed, 0, '%', 100)}"
    across = [row.resistance_mm2k_w for row in rows if row.resistance_mm2k_w is not None]
    if across:
        first += f" · {span(across, 0 if min(across) >= 10 else 1, 'mm²·K/W')}"
    air = max(row.air_um for row in rows)
    second = (
        f"{span([row.pressure_kpa.mean for row in rows], 0, 'kPa')} · {number(sum(row.force_n for row in rows))} N together · "
        f"drop {span([row.drop_k for row in rows], 1, 'K')}"
    )
    if air > 2:
        second += f" · air {length(air / 1e3)}"
    return f"{first}\n{second}"
