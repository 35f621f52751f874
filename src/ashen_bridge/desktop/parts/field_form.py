"""A grid of fields for one object of the model, typed with units, ± and origin, refused in place when they make no sense."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Literal

from pydantic import BaseModel
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QPushButton, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.parts.fields import ChoiceField, NumberField, QuantityField, TextField, Wanted
from ashen_bridge.desktop.parts.fold import Fold
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.step_picture import StepPicture
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing.changes import change_sink, change_value, put_part, said
from ashen_bridge.editing.fields import Field, fields_of
from ashen_bridge.editing.grouping import Group, grouped
from ashen_bridge.editing.scope import new_number, only_here
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.model.errors import AshenError, PathError
from ashen_bridge.model.paths import node_at
from ashen_bridge.model.quantity import Quantity

_LABEL_WIDTH = 124
Scope = Literal["device", "build", ""]
"""Where a changed number shall hold: in every build, in the one that is looked at, or nowhere after all."""


class FieldForm(QWidget):
    """A grid of fields for one object of the model, by its path; the same form serves inspector, materials and points."""

    def __init__(
        self,
        session: Session,
        skip: Callable[[Field], bool] = lambda _: False,
        scope: Callable[[str], Scope] = lambda _: "device",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._session, self._skip, self._scope = session, skip, scope
        self._path = ""
        self._folded: dict[str, bool] = {}
        self._shape: tuple[object, ...] = ()
        self.editors: dict[str, QWidget] = {}
        self._problem = Words()
        self._problem.setObjectName("wrong")
        self._problem.setWordWrap(True)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(7)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(1, 1)

    def show_path(self, path: str) -> None:
        """Show the object at a path; the same one again is only brought up to date."""
        try:
            fields = [field for field in fields_of(self._session.project, path) if not self._skip(field)] if path else []
        except PathError:
            path, fields = "", []
        groups = grouped(_node(self._session, path), fields)
        fields = [field for group in groups for field in group.fields]
        shape = (path, *((f.path, f.kind, f.choices, f.section) for f in fields))
        if shape != self._shape:
            self._shape, self._path = shape, path
            self._build(groups)
        for field in fields:
            self._refresh(self.editors[field.path], field)

    def _build(self, groups: tuple[Group, ...]) -> None:
        self._problem.setText("")
        while (old := self._grid.takeAt(0)) is not None:
            widget = old.widget()
            if widget is not None and widget is not self._problem:
                widget.hide()  # still its parent's: what leads here may be its own key or click
                widget.deleteLater()
        self.editors = {}
        row = 0
        for group in groups:
            head = Fold(group, self._folded, self) if group.title else None
            if head is not None:
                self._grid.addWidget(head, row, 0, 1, 2)
                row += 1
            for field in group.fields:
                row = self._add(field, row, head)
            if head is not None:
                head.show_rows()
        self._grid.addWidget(self._problem, row, 0, 1, 2)

    def _add(self, field: Field, row: int, head: Fold | None) -> int:
        unit = field.unit.replace("/", "/\u2060").replace("·", "\u2060·\u2060")  # a unit is never broken
        label = Words(field.label + (f" [{unit}]" if unit else ""))
        label.setWordWrap(True)
        label.setFixedWidth(_LABEL_WIDTH)
        label.setContentsMargins(0, 5, 0, 0)
        editor = self._editor(field)
        label.setBuddy(editor)
        self.editors[field.path] = editor
        self._grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop)
        self._grid.addWidget(editor, row, 1)
        rows: list[QWidget] = [label, editor]
        if field.path.endswith("step_mm"):
            row += 1
            rows.append(StepPicture())
            self._grid.addWidget(rows[-1], row, 0, 1, 2)
        if head is not None:
            head.rows += rows
        return row + 1

    def _editor(self, field: Field) -> QWidget:
        name = f"{field.section}: {field.label}" if field.section else field.label
        commit = partial(self._set, field)
        match field.kind:
            case "quantity":
                return QuantityField(Wanted(name, field.unit, low=field.low, high=field.high, optional=field.optional), commit)
            case "number":
                return NumberField(Wanted(name, field.unit, optional=field.optional), commit)
            case "text":
                return TextField(commit, name=name)
            case "choice":
                return ChoiceField(field.choices, commit, name=name)
            case "flag":
                box = QCheckBox("Yes")
                box.setAccessibleName(name)
                box.clicked.connect(commit)
                return box
            case "numbers":
                return TextField(partial(self._set_numbers, field), name=name)
            case "absent":
                button = QPushButton(f"Add {field.label.lower()}")
                button.clicked.connect(lambda: self._session.apply(put_part(field.path)))
                return button

    def _refresh(self, editor: QWidget, field: Field) -> None:
        held = self._session.build.overrides.get(field.path)
        if isinstance(editor, QuantityField):
            stands = field.value if held is None or field.value is None else field.value.model_copy(update={"value": held})
            editor.show_quantity(stands)
        elif isinstance(editor, NumberField):
            editor.show_value(field.value if held is None else held)
        elif isinstance(editor, ChoiceField):
            editor.show_choice(field.value)
        elif isinstance(editor, QCheckBox):
            editor.setChecked(bool(field.value))
        elif isinstance(editor, TextField):
            text = field.value if field.kind == "text" else ", ".join(f"{one:g}" for one in field.value)
            editor.show_text(text)

    def _set(self, field: Field, value: Any) -> str:
        session = self._session
        edit = self._edit(field, value)
        if edit is None:
            # Once the field has let go of what was typed.
            QTimer.singleShot(0, lambda: self.show_path(self._path))
            return ""
        problem = session.attempt(edit)
        # Fields say what is wrong themselves; a choice or a tick has no room for it.
        own_words = field.kind in ("quantity", "number")
        self._problem.setText("" if own_words else problem)
        if problem and not own_words:
            self.show_path(self._path)
        return problem

    def _edit(self, field: Field, value: Any) -> Edit | None:
        """Return the edit that a typed value makes, None where it was called off."""
        session = self._session
        if field.path.endswith(".sink.type"):
            return change_sink(field.path.removesuffix(".type"), str(value))
        name = said(session.project, field.path, field.label, field.value, value, field.unit)
        new = new_number(field.path, self._shown(field), value)
        where = self._scope(field.path) if new is not None else "device"
        if where == "build" and new is not None:
            return only_here(session.view.build, field.path, new, name)
        return change_value(session.view.build, field.path, value, name) if where else None

    def _shown(self, field: Field) -> float | None:
        """Return the number that holds in the build that is looked at."""
        held = self._session.build.overrides.get(field.path)
        if held is not None:
            return held
        bare = field.value.value if isinstance(field.value, Quantity) else field.value
        return float(bare) if isinstance(bare, int | float) else None

    def _set_numbers(self, field: Field, text: str) -> str:
        try:
            values = [read_number(one, field.unit) for one in text.replace(";", ",").split(",") if one.strip()]
        except TypedError as error:
            self._problem.setText(str(error))
            return str(error)
        return self._set(field, sorted(values))


def _node(session: Session, path: str) -> BaseModel | None:
    try:
        found = node_at(session.project, path) if path else None
    except AshenError:
        return None
    return found if isinstance(found, BaseModel) else None
