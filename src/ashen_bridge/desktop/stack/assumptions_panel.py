"""The assumptions panel: the numbers a prediction stands on, by weight, replaced one by one by what is measured."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.assess import errands
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.fields import QuantityField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing.edits import set_values
from ashen_bridge.editing.fields import SECTIONS, label_of
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.signs import unit_of
from ashen_bridge.predict.report import SensorRow
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.together import combined
from ashen_bridge.words.numbers import measured, number

_Key = tuple[tuple[str, ...], float, float]


class AssumptionsPanel(QFrame):
    """Numbers by weight, with a field to put a measured one in."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self.rows: list[Assumption] = []
        self.weighed: Question[dict[_Key, Assumption]] = Question(session.questions, _LABEL, self._now, _by_key)
        title = Words("What the numbers stand on")
        title.setObjectName("title")
        self._words = Words()
        self._words.setObjectName("quiet")
        self._words.setWordWrap(True)
        self._which = QButtonGroup(self)
        self._all = False
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Assumptions, those that matter most first")
        self.tree.setHeaderLabels(["Number", "Value ±", "Moves"])
        self.tree.setRootIsDecorated(False)
        self.tree.setUniformRowHeights(False)
        self.tree.setWordWrap(True)
        self.tree.setMinimumHeight(190)
        header = self.tree.header()
        if header is not None:
            header.setStretchLastSection(False)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            for column in (1, 2):
                header.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.currentItemChanged.connect(lambda *_: self._show_current())
        self._about = Words("Choose a number to replace it by what you measured.")
        self._about.setWordWrap(True)
        self._note = Words()
        self._note.setObjectName("quiet")
        self._note.setWordWrap(True)
        self._place = QVBoxLayout()
        self.field: QuantityField | None = None
        self._field_for: tuple[str, ...] = ()
        self.shared = QPushButton("Shared causes…")
        self.shared.setToolTip("Numbers whose errors have a common part: one instrument's zero, one batch of pads")
        self.shared.clicked.connect(self.show_shared)
        self._lay_out(title)
        for signal in (session.project_changed, desk.changed, session.results.changed, self.weighed.changed):
            signal.connect(self.refresh)
        self.refresh()

    def _lay_out(self, title: QLabel) -> None:
        switch = QHBoxLayout()
        switch.setSpacing(4)
        for at, words in enumerate(("Assumed", "All")):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setChecked(at == 0)
            self._which.addButton(button, at)
            switch.addWidget(button)
        self._which.idClicked.connect(self._choose_which)
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addLayout(switch)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 9)
        layout.setSpacing(6)
        layout.addLayout(head)
        layout.addWidget(self._words)
        layout.addWidget(self.tree, 1)
        layout.addWidget(self._about)
        layout.addLayout(self._place)
        layout.addWidget(self._note)
        layout.addWidget(self.shared)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def _choose_which(self, at: int) -> None:
        self._all = at == 1
        self.refresh()

    def show_shared(self) -> None:
        """Say which numbers share a cause."""
        from ashen_bridge.desktop.stack.shared_dialog import SharedDialog

        SharedDialog(self.session, self.window()).show()

    # ---- rows

    def refresh(self) -> None:
        """List the numbers of the present build and point; weigh them once the prediction is final."""
        session = self.session
        if self.desk.view.page != "assumptions" or not session.project.builds or not session.project.points:
            return
        listed = assumptions(session.computed, session.view.build, session.view.point)
        # What is not known yet for this state is shown as it was for the last one, as long as the number itself is the same.
        effects = (self.weighed.last or {}) | (self.weighed.value or {})
        weighed = [effects.get(_key(one), one) for one in listed if self._all or one.assumed]
        weighed.sort(key=lambda one: -(one.effect_k if one.effect_k is not None else -1.0))
        if weighed != self.rows:
            self.rows = weighed
            self._fill()
        assumed = [one for one in listed if one.assumed]
        text = f"{len(assumed)} of {len(listed)} numbers are assumed, not measured. "
        if self.weighed.state in ("running", "refused"):
            text += standing(self.weighed, "Weighing them…")
        else:
            text += "“Moves” says by how much the temperature that reacts most would move if the number were off by its ±."
            text += _together(session, [effects.get(_key(one), one) for one in listed])
        self._words.setText(text)
        # Asked by itself as soon as the numbers it stands on are final; what was refused is not asked again.
        if self.isVisible():
            self.weighed.ask_by_itself()
        self._show_current()

    def _now(self) -> Asked | None:
        """The effects of all numbers on what is shown now."""
        session = self.session
        if session.results.state != "current":
            return None
        asked = (session.computed, session.view.build, session.view.point)
        key = f"{session.keys.project(session.computed)} {session.view.build} {session.view.point}"
        return Asked(key, errands.weigh, asked)

    def _fill(self) -> None:
        current = self.current()
        self.tree.blockSignals(True)
        self.tree.clear()
        for one in self.rows:
            item = QTreeWidgetItem([_name(one), _value(one), _effect(one)])
            item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            item.setTextAlignment(2, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            origin = f"{one.origin}{': ' + one.note if one.note else ''}"
            for column in range(3):
                item.setToolTip(
                    column, f"{', '.join(one.owners[:8])}\n{origin}" + (f"\nmoves {one.sensor}" if one.sensor else "")
                )
            item.setData(0, Qt.ItemDataRole.UserRole, one)
            self.tree.addTopLevelItem(item)
            if current is not None and current.paths == one.paths:
                self.tree.setCurrentItem(item)
        self.tree.blockSignals(False)

    def current(self) -> Assumption | None:
        """Return the number that is chosen."""
        item = self.tree.currentItem()
        found = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        return found if isinstance(found, Assumption) else None

    # ---- replacing

    def _show_current(self) -> None:
        one = self.current()
        if one is None:
            return
        if self._field_for != one.paths or self.field is None:
            if self.field is not None:
                self._place.removeWidget(self.field)
                self.field.deleteLater()
            self.field = QuantityField(Wanted(_name(one).replace("\n", ", "), unit_of(one.field.rsplit(".", 1)[-1])), self._set)
            self._place.addWidget(self.field)
            self._field_for = one.paths
        owners = ", ".join(one.owners[:4]) + (f" and {len(one.owners) - 4} more" if len(one.owners) > 4 else "")
        self._about.setText(f"{label_of(one.field.rsplit('.', 1)[-1])} of {owners}. A value typed here counts as measured.")
        quantity = {"value": one.value, "uncertainty": one.uncertainty, "origin": one.origin, "note": one.note}
        self.field.show_quantity(Quantity.model_validate(quantity))
        self._note.setText(
            f"{one.origin}{': ' + one.note if one.note else ''}" + (f" · moves {one.sensor} most" if one.sensor else "")
        )

    def _set(self, value: dict[str, Any] | None) -> str:
        one = self.current()
        if one is None or value is None:
            return "A number is needed here."
        if value["value"] != one.value and value["origin"] == "assumed":
            # What is typed over an assumption was measured; a measured length is good to some hundredths.
            value = {**value, "origin": "measured", "note": "", "uncertainty": min(one.uncertainty, _measured_spread(one))}
        return self.session.attempt(
            set_values(f"{_name(one).replace(chr(10), ': ')} measured", {path: dict(value) for path in one.paths})
        )


_LABEL = "Weighing assumptions"


def _by_key(known: dict[_Key, Assumption] | None, found: tuple[Assumption, ...] | None) -> dict[_Key, Assumption] | None:
    return known if found is None else {_key(one): one for one in found}


def _together(session: Session, weighed: list[Assumption]) -> str:
    """What all numbers together do to the tightest sensors; nothing while one of them is not weighed."""
    spread = combined(weighed)
    if spread is None or session.results.assessment is None:
        return ""
    rows = [row for row in session.results.assessment.report.sensors if row.margin_k is not None]
    tightest: dict[str, SensorRow] = {}
    for row in sorted(rows, key=lambda row: row.margin_k or 0.0):
        tightest.setdefault(row.group, row)
    told = [f"{row.name}: {measured(row.value_c, spread.get(row.id, 0.0), '°C')}" for row in list(tightest.values())[:2]]
    how = "as the fit left them together" if any(one.told for one in weighed) else "as independent standard uncertainties"
    return f" All together, {how}: {'; '.join(told)}." if told else ""


def _measured_spread(one: Assumption) -> float:
    return 0.03 if unit_of(one.field.rsplit(".", 1)[-1]) == "mm" else one.uncertainty


def _key(one: Assumption) -> _Key:
    return one.paths, one.value, one.uncertainty


def _name(one: Assumption) -> str:
    *outer, last = one.field.split(".")
    words = label_of(last)
    section = SECTIONS.get(outer[0], "") if outer and outer[0] not in ("area", "make_up") else ""
    count = f" ×{len(one.owners)}" if len(one.owners) > 1 else ""
    return f"{one.owners[0]}{count}\n{section.lower() + ', ' if section else ''}{words.lower()}"


def _value(one: Assumption) -> str:
    unit = unit_of(one.field.rsplit(".", 1)[-1])
    return measured(one.value, one.uncertainty, unit)


def _effect(one: Assumption) -> str:
    if one.effect_k is None:
        return "…"
    return f"{number(one.effect_k, 1)} K"
