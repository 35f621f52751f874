"""One curve through runs of a build at different powers: how much hotter per watt, what air that implies, which run is off."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from ashen_bridge.bench import errands
from ashen_bridge.bench.power_curve_result import PowerCurve, SensorCurve
from ashen_bridge.desktop.baseline.power_painter import PowerPainting
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import Rich, bold, paragraph, rich, table
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.words.numbers import number

_HIGH = 210  # [px] at the usual text size


class PowerView(QWidget):
    """The picture of one sensor over power."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.curve: SensorCurve | None = None
        self.labels: dict[str, str] = {}
        self.setMinimumHeight(round(theme.px(_HIGH)))
        self.setAccessibleName("Temperature over power")

    def sizeHint(self) -> QSize:
        return QSize(320, round(self.theme.px(_HIGH)))

    def show_curve(self, curve: SensorCurve | None, labels: dict[str, str]) -> None:
        """Show a curve."""
        self.curve, self.labels = curve, labels
        self.setVisible(curve is not None)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.curve is not None:
            PowerPainting(QPainter(self), self.curve, self.labels, self.theme, self.width(), self.height()).paint()


class PowerPanel(QFrame):
    """The curve of the build whose run is looked at."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self._sensor = ""
        self.question: Question[PowerCurve] = Question(session.questions, "One curve through runs", self._now)
        self.panel = QuestionPanel(
            self.question,
            Saying(
                "Hotter per watt",
                "Lay the curve",
                explain="Two or more runs of this build at different powers give kelvin per watt and the air behind them.",
                waiting="Laying one curve through all runs of this build…",
                heading="title",
                by_itself=True,
            ),
            self._words,
        )
        self.sensor = ChoiceField("Sensor whose curve is drawn", self._choose)
        self.view = PowerView(theme)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(8)
        column.addWidget(self.sensor)
        column.addWidget(self.view)
        column.addWidget(self.panel)
        column.addStretch(1)
        self.question.changed.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.view.theme = theme
        self.view.setMinimumHeight(round(theme.px(_HIGH)))
        self.refresh()

    def _now(self) -> Asked | None:
        session, run = self.session, self.session.run
        if run is None:
            return None
        device = session.project.device
        listed = [one for one in session.project.runs if one.build == run.build]
        figures = [session.runs.figures(one, device) for one in listed]
        known = tuple(one for one in figures if one is not None)
        if len(known) < len(listed) and not all(session.runs.problem(one, device) for one in listed):
            return None  # still being read
        key = key_of(session.keys.project(session.computed), *(run_key(one.run, device) for one in known), run.build)
        return Asked(key, errands.curve, (session.computed, known))

    def _choose(self, sensor: str) -> None:
        self._sensor = sensor
        self.refresh()

    def curve(self) -> SensorCurve | None:
        """Return the curve that is drawn: of the chosen sensor, else of the one that rises most per watt."""
        found = self.question.value
        if found is None:
            return None
        chosen = next((one for one in found.sensors if one.sensor == self._sensor), None)
        return chosen or max(found.sensors, key=lambda one: one.k_per_w)

    def refresh(self) -> None:
        """Take over the session."""
        self.panel.refresh()
        found, curve = self.question.value, self.curve()
        self.sensor.setVisible(curve is not None)
        if found is not None and curve is not None:
            self.sensor.show_choice([(one.name, one.sensor) for one in found.sensors], curve.sensor)
        self.view.show_curve(curve, {run.id: run.label for run in self.session.project.runs})

    def _words(self, found: PowerCurve) -> Rich:
        roles = self.theme.roles
        misfits = [(one, misfit) for one in found.sensors for misfit in one.misfits]
        first = (
            f"Along {found.along}, at {number(found.mean_w)} W; air of {number(found.ambient_c, 1)} °C. Power is that of the "
            "parts whose power changes from run to run."
        )
        rows = [("", "K/W", "95 %", "air °C"), *(_row(one) for one in found.sensors)]
        said = [paragraph(f"! {one.name}: {misfit.words}", colour=roles["warn"], below=4) for one, misfit in misfits[:6]]
        return rich(
            paragraph(bold(_headline(found))),
            *said,
            table(rows, right=(1, 2, 3)),
            *(paragraph(f"! {one}", colour=roles["warn"], above=4) for one in found.cautions),
            paragraph(first, colour=roles["quiet"], above=6),
        )


def _headline(found: PowerCurve) -> str:
    steep = max(found.sensors, key=lambda one: one.k_per_w)
    return f"{steep.name} gets {number(steep.k_per_w, 3)} K hotter per watt ({number(steep.low, 3)} to {number(steep.high, 3)})."


def _row(one: SensorCurve) -> tuple[str, str, str, str]:
    air = f"{number(one.air_c, 1)} ± {number((one.air_high - one.air_low) / 2, 1)}"
    return one.name, f"{one.k_per_w:.3f}", f"{one.low:.3f} to {one.high:.3f}", air
