"""What comes out of the answers: the one number, what was fitted and assumed, what to measure, what to try first."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.pages import scrolled
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.rich import Rich, bold, coloured, paragraph, rich, table
from ashen_bridge.guided.result import Described, Next
from ashen_bridge.words.numbers import celsius, number


class ResultPage(QWidget):
    """Shows a described device while it is being worked out and afterwards."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.title, self.answer, self.words = Words(), Words(), Words()
        self.title.setObjectName("quiet")
        self.answer.setObjectName("answer")
        for words in (self.title, self.answer, self.words):
            words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 4, 10, 4)
        column.setSpacing(8)
        for widget in (self.title, self.answer, self.words):
            column.addWidget(widget)
        column.addStretch(1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scrolled(inside))
        self.show_result(None)

    def show_result(self, found: Described | None) -> None:
        """Show what is known; None while nothing is."""
        if found is None:
            self.title.setText("From answers to a device")
            self.answer.setText("Working it out…")
            self.words.setText("")
            return
        self.title.setText(f"{found.project.name} · {found.about}" if found.about else found.project.name)
        self.answer.setText(self._answer(found))
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setText(rich(*self._parts(found)))

    @staticmethod
    def _answer(found: Described) -> str:
        if found.shown_c is None:
            return "Working it out…"
        aim = "" if found.goal_c is None else f", wanted at most {celsius(found.goal_c)}"
        return f"{celsius(found.shown_c)}{aim}"

    def _parts(self, found: Described) -> list[Rich]:
        quiet, warn = self.theme.roles["quiet"], self.theme.roles["warn"]
        parts = []
        if found.seen:
            heads = tuple(coloured(quiet, words) for words in ("", "seen", "this device", ""))
            rows = [
                (one.name, celsius(one.seen_c), celsius(one.after_c), "✓ fitted" if one.met else "✕ does not fit")
                for one in found.seen
            ]
            parts.append(table((heads, *rows), right=(1, 2), spacing=7, wide=False))
        parts += [paragraph(f"! {one}", colour=warn) for one in found.misfits]
        parts.append(paragraph(found.fitted))
        if found.measure:
            parts.append(paragraph(bold("What to measure first: it makes the answer surer most")))
            parts.append(table([_next(n, one) for n, one in enumerate(found.measure, start=1)], spacing=7, wide=False))
        if found.instead:
            parts.append(paragraph(bold("Without opening it")))
            parts.append(paragraph(" ".join(found.instead)))
        parts.append(paragraph(found.assumed, colour=quiet))
        return parts


def _next(at: int, one: Next) -> tuple[str, str, str]:
    before, after = number(one.before_k, 1), number(one.after_k, 1)
    falls = f"± {before} → {after} K" if before != after else "hardly matters"
    return f"{at}   {one.what[:1].upper()}{one.what[1:]}", f"with {one.by}", falls
