"""The route: what to read for the verdict, one after another; a click makes a stop the next reading."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QToolButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.measuring.result import Route, Stop
from ashen_bridge.words.numbers import number

_SHOWN = 6


class RouteList(QWidget):
    """Stops as buttons."""

    def __init__(self, desk: MeasureDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self.head = Words()
        self.head.setWordWrap(True)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self._column.addWidget(self.head)
        self.buttons: list[QToolButton] = []
        self._shown: tuple[Route | None, str, tuple[tuple[str, str], ...]] | None = None

    def refresh(self) -> None:
        """Take over what is known of the route."""
        route = self.desk.route
        said = standing(self.desk.routing, "Looking what narrows the verdict…")
        words = said
        if route is not None:
            words = f"The {route.verdict} is known to ± {number(route.now_k, 1)} K."
            words += " No reading narrows it much." if not route.stops else ""
        self.head.setText(words)
        wanted = self.desk.wanted
        key = (route, wanted.form if wanted else "", wanted.of if wanted else ())
        if key == self._shown:
            return
        self._shown = key
        for button in self.buttons:
            self._column.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = []
        for n, stop in enumerate(route.stops[:_SHOWN] if route is not None else ()):
            button = QToolButton()
            button.setObjectName("plain")
            mark = "▶" if wanted is not None and (stop.form, stop.of) == (wanted.form, wanted.of) else f"{n + 1}."
            mark = "▲" if mark == "▶" else mark
            button.setText(f"{mark} {stop.words}  → ± {number(stop.then_k, 1)} K")
            button.setToolTip(f"About {number(stop.minutes, 1)} minutes; a click makes it the next reading")
            button.clicked.connect(lambda _, stop=stop: self.go_to(stop))
            self._column.addWidget(button)
            self.buttons.append(button)

    def go_to(self, stop: Stop) -> None:
        """Make a stop the next reading."""
        of = dict(stop.of)
        self.desk.look(replace(self.desk.view, form=stop.form, of=stop.of))
        about = of.get("lower") or of.get("body")
        if about:
            self.desk.session.select(about)

    def after(self, form: str, of: tuple[tuple[str, str], ...]) -> Stop | None:
        """Return the stop after one, None where there is none."""
        stops = self.desk.route.stops if self.desk.route is not None else ()
        at = next((n for n, one in enumerate(stops) if (one.form, one.of) == (form, of)), None)
        return stops[at + 1] if at is not None and at + 1 < len(stops) else None
