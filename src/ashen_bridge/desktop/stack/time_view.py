"""The Time view: what the sensors show over time for a load pattern, with the soak time marked."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ashen_bridge.assess.errands import over_time
from ashen_bridge.desktop.charts.course_painter import CoursePainting, CoursePicture, CoursePlacement, course_picture
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.predict.course import Course
from ashen_bridge.words.numbers import number
from ashen_bridge.words.times import time_words

PATTERNS = (
    ("Full load for 30 min", "step 30min"),
    ("Full load for 6 h", "step 6h"),
    ("Burst of 30 s", "burst 30s in 10min"),
    ("1 min on, 2 min off", "duty 60s/120s 30min"),
    ("Cooling down, 30 min", "cool 30min"),
    ("Its own cycle, 30 min", "cycle 30min"),
    ("Out of the cold, 60 min", "step 60min from -10C"),
    ("Staged burn-in", "stages 0.25 10min, 0.5 10min, 0.75 10min, 1.0 30min"),
)
LABEL = "Temperatures over time"


class CourseCurves(QWidget):
    """The curves themselves; the pointer, or Left and Right, reads them."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.picture: CoursePicture | None = None
        self.words = ""
        self.stale = False
        self.at: float | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Temperatures over time")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(120)

    def sizeHint(self) -> QSize:
        return QSize(700, 220)

    def _placement(self) -> CoursePlacement | None:
        if self.picture is None or not self.picture.curves:
            return None
        return CoursePlacement(self.picture, self.width(), self.height(), self.theme)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        place = self._placement()
        if self.picture is None or place is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(self.theme.font(13))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.words)
        else:
            CoursePainting(painter, self.picture, place, self.theme, self.at).paint(self.stale)
        painter.end()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        place = self._placement()
        if event is not None and place is not None:
            self.at = place.seconds(event.position().x())
            self.update()

    def leaveEvent(self, event: object) -> None:
        self.at = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        place = self._placement()
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is None or place is None or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        now = place.end if self.at is None else self.at
        self.at = min(max(now + ways[Qt.Key(event.key())] * place.end / 60, 0.0), place.end)
        self.update()


class TimeView(QWidget):
    """A load pattern and what comes of it. Works only while it is shown."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self.course: Question[Course] = Question(session.questions, LABEL, self._now)
        self.pattern = QComboBox()
        self.pattern.setEditable(True)
        self.pattern.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.pattern.setAccessibleName("Load pattern")
        self.pattern.setToolTip(
            "Choose a load, or write one: step 60min, burst 30s in 10min, duty 60s/120s 30min, stages 0.5 10min, "
            "cycle 30min, and “from 5C” behind any of them"
        )
        for words, text in PATTERNS:
            self.pattern.addItem(words, text)
        self.pattern.setMinimumWidth(190)
        self.pattern.activated.connect(lambda _: self.course.ask())
        line = self.pattern.lineEdit()
        if line is not None:
            line.returnPressed.connect(self.course.ask)
        self.said = Words()
        self.said.setObjectName("quiet")
        self.again = QPushButton("Work it out")
        self.again.clicked.connect(self.course.ask)
        self.curves = CourseCurves(theme)
        head = QHBoxLayout()
        head.addWidget(self.pattern)
        head.addWidget(self.again)
        head.addWidget(self.said, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 4)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.curves, 1)
        for signal in (desk.changed, session.results.changed, self.course.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.curves.theme = theme
        self.curves.update()

    def text(self) -> str:
        """Return the load pattern as the physics reads it."""
        words = self.pattern.currentText().strip()
        return next((text for label, text in PATTERNS if label == words), words)

    def _now(self) -> Asked | None:
        """The course of what is shown now."""
        session, results = self.session, self.session.results
        if results.assessment is None or results.state != "current":
            return None
        asked = (session.computed, session.view.build, session.view.point, self.text())
        return Asked(f"{results.assessment.report.input_hash} {self.text()}", over_time, asked)

    def refresh(self) -> None:
        """Take over the session; work the course out when the view is shown and the prediction is final."""
        session = self.session
        if self.desk.view.lower != "time":
            return
        found = self.course.value
        if found is not None and session.results.assessment is not None:
            rows = session.results.assessment.report.sensors
            limits = {row.name: row.limit_c for row in rows}
            chosen = {row.name for row in rows if row.body == session.view.selected}
            groups = {row.name: row.group for row in rows}
            self.curves.picture = course_picture(found, limits, groups, chosen)
            self.said.setText(_said(found))
        else:
            self.curves.picture = None
            self.said.setText("")
            self.curves.words = standing(
                self.course, "Marching through time…", "“Work it out” shows the sensors over time for this load."
            )
        self.again.setEnabled(self.course.possible and self.course.state not in ("running", "current"))
        self.curves.update()
        # Asked by itself as soon as the numbers it stands on are final; what was refused is not asked again.
        if self.isVisible():
            self.course.ask_by_itself()


def _said(course: Course) -> str:
    """The one sentence a course comes down to."""
    if course.soak_s is None:
        hottest = int(course.values_c.max(axis=0).argmax())
        peak, steady = float(course.values_c[:, hottest].max()), float(course.steady_c[hottest])
        name = course.sensors[hottest]
        return f"{name} peaks at {number(peak, 1)} °C; under lasting load it would come to {number(steady, 1)} °C."
    slowest = max(range(len(course.sensors)), key=lambda k: course.soak_s[k] if course.soak_s else 0.0)
    longest = course.soak_s[slowest]
    if longest == float("inf"):
        return f"{course.sensors[slowest]} is not within 1 K of its end by then: a test must run longer."
    return f"A test must run {time_words(longest)}: then even {course.sensors[slowest]} is within 1 K of its end."
