"""The verdict strip: the worst sensor of each group with its margin, expandable to all sensors."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Elided, Words, dressed_anew
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing.missing import still_missing
from ashen_bridge.predict.report import SensorRow
from ashen_bridge.uncertainty.outcome import Chance, chance_words
from ashen_bridge.words.numbers import celsius, number
from ashen_bridge.words.verdict import AT_LIMIT_K, MARKS, margin, standing_of


def worst_of_groups(rows: tuple[SensorRow, ...]) -> list[SensorRow]:
    """Return of each sensor group the row with the least margin, or the hottest where there is no limit."""
    groups: dict[str, list[SensorRow]] = {}
    for row in rows:
        groups.setdefault(row.group, []).append(row)
    return [
        min(group, key=lambda row: row.margin_k if row.margin_k is not None else 1e6 - row.value_c) for group in groups.values()
    ]


class _Card(QFrame):
    """One group's verdict; a click or Enter selects the part it is about."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("verdict")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._session, self._body = session, ""
        self._looks: tuple[str, str, float, bool] | None = None
        self.name, self.value, self.kind, self.margin = Elided(), Words(), Elided(), Elided()
        self.name.setObjectName("quiet")
        self.kind.setObjectName("quiet")
        figure = QHBoxLayout()
        figure.setSpacing(7)
        figure.addWidget(self.value)
        figure.addWidget(self.kind, 1, Qt.AlignmentFlag.AlignBottom)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(11, 6, 11, 6)
        layout.setSpacing(1)
        self.setMinimumHeight(70)  # until the theme is known
        layout.addWidget(self.name)
        layout.addLayout(figure)
        layout.addWidget(self.margin)

    def show_row(
        self,
        row: SensorRow,
        theme: Theme,
        stale: bool,
        provisional: bool,
        chance: Chance | None = None,
        measured: float | None = None,
    ) -> None:
        """Show one sensor: what is predicted, and beside it what the run in view measured [°C]."""
        self.kind.setText("predicted" if measured is None else f"predicted · measured {number(measured, 1)}")
        state = standing_of(row.margin_k)
        self._body = row.body
        self.name.setText(f"{row.group or 'Sensors'} · {row.name}" if row.group != row.name else row.name)
        spread = "" if chance is None else f" ± {number(chance.sd_k, 1 if chance.sd_k < 9.5 else 0)}"
        self.value.setText(("≈ " if provisional else "") + f"{number(row.value_c, 1)}{spread} °C")
        limit = "" if row.limit_c is None or state == "bad" else f" to {number(row.limit_c)} °C"
        if row.margin_k is not None and abs(row.margin_k) < AT_LIMIT_K:
            limit = f" of {number(row.limit_c or 0.0)} °C"
        if chance is not None and chance.within is not None:
            limit = ""  # the chance names it
        words = "no limit set" if row.margin_k is None else f"{MARKS[state]} {margin(row.margin_k)}{limit}"
        if chance is not None and chance.within is not None and chance.within_se is not None:
            words += f" · {chance_words(chance.within, chance.within_se)} chance to hold {number(row.limit_c or 0.0)} °C"
        self.margin.setText(words)
        self.setAccessibleName(f"{row.group} {row.name} {celsius(row.value_c, 1)}, {words}")
        self._dress(state, theme, stale)

    def _dress(self, state: str, theme: Theme, stale: bool) -> None:
        """Set colours and border; style sheets are costly, so only when something changed."""
        looks = (state, theme.name, theme.scale, stale)
        if looks == self._looks:
            return
        self._looks = looks
        self.setMinimumHeight(round(theme.px(70)))
        self.setProperty("state", state)
        dressed_anew(self)
        value = "stale" if stale else {"bad": "bad", "near": "warn", "good": "ink", "none": "ink"}[state]
        below = "stale" if stale else {"bad": "bad", "near": "warn", "good": "good", "none": "quiet"}[state]
        self.value.setStyleSheet(f"font-size: {round(theme.px(19))}px; font-weight: bold; color: {theme.roles[value]};")
        self.margin.setStyleSheet(f"color: {theme.roles[below]};")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._session.select(self._body)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._session.select(self._body)
        else:
            super().keyPressEvent(event)


class VerdictStrip(QWidget):
    """Cards of all sensor groups, or the sentence that says why there are none."""

    def __init__(self, session: Session, theme: Theme, about_runs: Callable[[], bool], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme, self._about_runs = session, theme, about_runs
        self.cards: list[_Card] = []
        self._row = QHBoxLayout()
        self._row.setSpacing(8)
        self.refusal = Words()
        self.refusal.setObjectName("refusal")
        self.refusal.setWordWrap(True)
        self.waiting = Words("Computing the first numbers…")
        self.waiting.setObjectName("quiet")
        self.all = QPushButton("All sensors")
        self.all.setAccessibleName("Show all sensors")
        self.all.clicked.connect(self._show_all)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(5)
        line = QHBoxLayout()
        line.addLayout(self._row, 1)
        line.addWidget(self.waiting, 1)
        line.addWidget(self.all)
        outer.addLayout(line)
        outer.addWidget(self.refusal)
        session.results.changed.connect(self.refresh)
        session.chances.changed.connect(self.refresh)
        session.runs.changed.connect(self.refresh)
        session.view_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the session's result."""
        session = self.session
        drawn = session.chances.value
        rows = worst_of_groups(session.results.assessment.report.sensors) if session.results.assessment else []
        while len(self.cards) < len(rows):
            card = _Card(session)
            self.cards.append(card)
            self._row.addWidget(card, 1)
        for at, card in enumerate(self.cards):
            card.setVisible(at < len(rows))
            if at < len(rows):
                chance = drawn.of(rows[at].id) if drawn is not None else None
                stale = session.results.state in ("stale", "refused")
                measured = self._measured(rows[at].id)
                card.show_row(rows[at], self.theme, stale, session.results.state == "provisional", chance, measured)
        self.waiting.setVisible(not rows and session.results.state != "refused")
        if session.results.assessment is not None and not rows:
            self.waiting.setText("This device has no sensors, so there is no verdict yet.")
        self.all.setEnabled(bool(rows))
        self.refusal.setVisible(session.results.state == "refused")
        missing = still_missing(session.project, session.view.build)
        self.refusal.setText(missing or f"Cannot be computed as it stands: {session.results.refusal}")
        kind = "hint" if missing else "refusal"
        if self.refusal.objectName() != kind:
            self.refusal.setObjectName(kind)
            dressed_anew(self.refusal)

    def _measured(self, sensor: str) -> float | None:
        """What the run in view measured at a sensor, brought to the point's ambient [°C].

        None unless runs are looked at and it tested this build at this point.
        """
        session = self.session
        run = session.run
        if not self._about_runs() or run is None:
            return None
        if (run.build, run.point) != (session.view.build, session.view.point):
            return None
        found = session.runs.figures(run, session.project.device)
        column = found.column_of(sensor) if found is not None else None
        if found is None or column is None:
            return None
        # In another room a reading is another one: what it rose by is what is compared.
        room = session.project.point(run.point).ambient_c.value
        passes = [one for one in found.passes if column in one.channels]
        shifts = [room - one.ambient_c if one.ambient_c is not None else 0.0 for one in passes]
        values = [found.counted(one.channels[column]) + shift for one, shift in zip(passes, shifts, strict=True)]
        return sum(values) / len(values) if values else None

    def _show_all(self) -> None:
        if self.session.results.assessment is None:
            return
        sheet = QFrame(self, Qt.WindowType.Popup)
        sheet.setObjectName("card")
        grid = QGridLayout(sheet)
        grid.setContentsMargins(14, 10, 14, 10)
        grid.setHorizontalSpacing(20)
        for column, words in enumerate(("Sensor", "Group", "Reads", "Predicted", "Limit", "Margin")):
            label = Words(words)
            label.setObjectName("heading")
            grid.addWidget(label, 0, column)
        for at, row in enumerate(self.session.results.assessment.report.sensors, start=1):
            cells = (
                row.name,
                row.group,
                row.reads,
                celsius(row.value_c, 1),
                "–" if row.limit_c is None else celsius(row.limit_c),
                f"{MARKS[standing_of(row.margin_k)]} {'–' if row.margin_k is None else margin(row.margin_k)}",
            )
            for column, words in enumerate(cells):
                label = Words(words)
                if column >= 3:
                    label.setAlignment(Qt.AlignmentFlag.AlignRight)
                grid.addWidget(label, at, column)
        unseen = sorted(
            (row for row in self.session.results.assessment.report.components if not row.sensed), key=lambda row: -row.t_max_c
        )
        if unseen:
            at = grid.rowCount()
            heading = Words("Parts that no sensor reads, hottest first")
            heading.setObjectName("section")
            grid.addWidget(heading, at, 0, 1, 6)
            labels = {name: body.label for name, body in self.session.project.bodies_known(self.session.build).items()}
            for n, part in enumerate(unseen[:8]):
                words = f"{labels.get(part.id, part.id)}: {celsius(part.t_max_c, 1)}"
                grid.addWidget(Words(words), at + 1 + n // 3, (n % 3) * 2, 1, 2)
        sheet.adjustSize()
        corner = self.all.mapToGlobal(QPoint(self.all.width() - sheet.sizeHint().width(), self.all.height() + 4))
        sheet.move(corner)
        sheet.show()
