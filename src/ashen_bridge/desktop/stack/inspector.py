"""The inspector: every value of what is chosen, typed with units, ± and origin, refused in place when it makes no sense."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.field_form import FieldForm
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.part_actions import actions_for
from ashen_bridge.desktop.stack.where import Where
from ashen_bridge.editing.fields import label_of
from ashen_bridge.editing.scope import as_the_device, held_here
from ashen_bridge.editing.targets import Target
from ashen_bridge.words.numbers import number


class Inspector(QFrame):
    """What is chosen, with everything that can be said of it."""

    def __init__(self, desk: StackDesk, theme: Theme, where: Where, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        session = desk.session
        self.desk, self.session, self.theme, self._where = desk, session, theme, where
        self._title = Words()
        self._title.setObjectName("title")
        self._title.setWordWrap(True)
        self._kind = Words()
        self._kind.setObjectName("quiet")
        self._kind.setWordWrap(True)
        self._buttons = QWidget()
        self._button_row = QGridLayout(self._buttons)
        self._button_row.setContentsMargins(0, 0, 0, 0)
        self._button_row.setSpacing(4)
        self._buttons_for: tuple[object, ...] = ()
        self.form = FieldForm(session, scope=where.ask)
        self._here = Words()
        self._here.setWordWrap(True)
        self._as_device = QPushButton("As the device")
        self._as_device.setToolTip("Let what holds in this build only be as in every build again")
        self._as_device.clicked.connect(self._drop)
        self._only = QWidget()
        line = QHBoxLayout(self._only)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self._here, 1)
        line.addWidget(self._as_device)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 10)
        layout.setSpacing(6)
        for widget in (self._title, self._kind, self._buttons, self._only, self.form):
            layout.addWidget(widget)
        layout.addStretch(1)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.MinimumExpanding)
        for signal in (session.project_changed, desk.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def refresh(self) -> None:
        """Take over what is chosen; hidden, it waits until it is looked at."""
        if self.desk.view.page != "part":
            return
        chosen = self.desk.chosen
        single = chosen[0] if len(chosen) == 1 else None
        if single is not None:
            self._title.setText(single.label)
            owner = next((one.label for one in self.desk.targets() if one.path == single.owner), "")
            place = f" of {owner}" if owner else ""
            self._kind.setText(f"{single.kind.capitalize()}{place} · {single.path}{self._spring(single)}")
        else:
            self._title.setText(f"{len(chosen)} chosen" if chosen else "Nothing chosen")
            self._kind.setText(
                "What they have in common can be moved, copied, aligned and removed."
                if chosen
                else "Click a part in the plan or the elevation. Drag on free board to choose several; with Shift, one more."
            )
        self._show_buttons(chosen)
        path = single.path if single else ""
        held = held_here(self.session.project, self.session.view.build, path)
        self._only.setVisible(bool(held))
        count = "One value holds" if len(held) == 1 else f"{len(held)} values hold"
        self._here.setText(f"{count} in “{self.session.build.label}” only: {', '.join(_field(one) for one in held)}.")
        self.form.show_path(path)

    def _drop(self) -> None:
        """Let what holds in this build only be as in the device again."""
        chosen = self.desk.chosen
        edit = as_the_device(self.session.project, self.session.view.build, chosen[0].path) if len(chosen) == 1 else None
        if edit is not None:
            self._where.forget()
            self.session.apply(edit)

    def _spring(self, target: Target) -> str:
        """Return what the measured wire of a spring comes to."""
        screw = next((one for one in self.session.project.device.fasteners if one.id == target.id), None)
        if target.kind != "fastener" or screw is None or screw.spring is None:
            return ""
        return f"\nThe wire makes {number(screw.spring.rate, 1)} N/mm (k = G·d⁴ / 8·D³·n)"

    def _show_buttons(self, chosen: tuple[Target, ...]) -> None:
        offered = actions_for(self.desk)
        key = tuple((one.words, one.tip) for one in offered), tuple(target.path for target in chosen)
        if key == self._buttons_for:
            return
        self._buttons_for = key
        while (old := self._button_row.takeAt(0)) is not None:
            if (widget := old.widget()) is not None:
                widget.hide()  # still its parent's: what leads here may be its own key or click
                widget.deleteLater()
        for at, one in enumerate(offered):
            button = QToolButton()
            button.setText(one.words)
            button.setToolTip(one.tip)
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _, act=one.act: act())
            self._button_row.addWidget(button, at // 3, at % 3)
        self._buttons.setVisible(bool(offered))


def _field(path: str) -> str:
    return label_of(path.rpartition(".")[2]).split(",")[0].lower()
