"""Burn-in as steps with timers: hot and cold cycles, begun as a procedure of its own."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.closeup.burn_desk import BurnDesk
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import bold, paragraph, rich, table
from ashen_bridge.desktop.steps.steps_page import StepsPage
from ashen_bridge.words.numbers import number

_MOST = 6  # sensors whose gain is listed


class BurnPage(StepsPage):
    """Burning in, cycle by cycle."""

    desk: BurnDesk

    def beside(self) -> QWidget:
        """Return what burn-in is for, and how long it takes."""
        self.stands = Words()
        self.why = Words("Phase-change sheets melt and wet both faces, pastes settle; the device then is what the model says.")
        known = QWidget()
        column = QVBoxLayout(known)
        column.setContentsMargins(12, 6, 12, 8)
        head = Words("Burn-in")
        head.setObjectName("section")
        self.live = Words()
        self.live.setObjectName("big")
        self.gains = Words()
        self.gains.setTextFormat(Qt.TextFormat.RichText)
        for widget in (head, self.live, self.stands, self.gains, self.why):
            widget.setWordWrap(True)
            column.addWidget(widget)
        self.why.setObjectName("quiet")
        self.keep = KeepButton(self.desk.session, self.desk.keeping)
        self.follow = QPushButton("Follow live…")
        self.follow.setProperty("popup", True)
        self.follow.setToolTip("Let the device's own readings say when it has melted, and when it is cold")
        self.follow.setMenu(self._sources())
        self.end = QPushButton("Follow no more")
        self.end.clicked.connect(self.desk.stop_following)
        for button in (self.keep, self.follow, self.end):
            column.addWidget(button)
        column.addStretch(1)
        return known

    def _sources(self) -> QMenu:
        menu = QMenu(self)
        for words, act in (
            ("A simulated device, sixty times faster", lambda: self.desk.follow("")),
            ("Another program, live…", self._ask_source),
        ):
            action = menu.addAction(words)
            assert action is not None  # just made
            action.triggered.connect(lambda _, act=act: act())
        return menu

    def _ask_source(self) -> None:
        where = self.room.asker.text("Follow another program", "Socket, pipe, or localhost:port", "localhost:")
        if where:
            self.desk.follow(where)

    def refresh_beside(self) -> None:
        """Take over how it stands."""
        desk, roles = self.desk, self.room.theme().roles
        waiting = "Running hot and cold by the model over time…"
        said = standing(desk.planned, waiting, "A build with an operating point is needed.") if desk.begun is None else ""
        procedure = desk.procedure
        if not said and procedure is not None:
            said = f"About {number(sum(one.minutes for one in procedure.steps if not one.done))} minutes are left."
        elsewhere = "" if desk.heard_here or not desk.feed.following else "What is heard is of another build or operating point."
        live = desk.stands if desk.feed.following and not elsewhere else None
        self.stands.setText(desk.problem or elsewhere or ("" if live is not None else said))
        self.live.setText(live.says if live is not None else "Listening…" if desk.feed.following and not elsewhere else "")
        role = "ink" if live is None else "bad" if live.stop else "good" if live.done else "ink"
        self.live.setStyleSheet(f"color: {roles[role]};")
        self.live.setVisible(bool(self.live.text()))
        self.gains.setText(self._gained())
        self.gains.setVisible(bool(self.gains.text()))
        self.keep.refresh()
        self.follow.setVisible(not desk.feed.following)
        self.follow.setEnabled(desk.begun is not None and desk.begun.next is not None)
        self.end.setVisible(desk.feed.following)

    def _gained(self) -> str:
        found = self.desk.gains
        if not found:
            return ""
        rows = [
            (one.label, f"{one.before_k_w:.3f}", f"{one.after_k_w:.3f}", f"{number(100 * one.share, 1, sign=True)} %")
            for one in found[:_MOST]
        ]
        head = paragraph(bold("Rise over power, first and last cycle [K/W]"), below=3)
        return rich(head, table(rows))
