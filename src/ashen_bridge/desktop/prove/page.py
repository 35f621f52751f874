"""The page of Prove: what was promised, what came of it, and what to open again for, if at all."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.bench import errands
from ashen_bridge.bench.judgement import Proof
from ashen_bridge.bench.proof_words import verdict_of
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import bold, paragraph, rich
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.prove.check_dialog import CheckDialog
from ashen_bridge.desktop.prove.papers import papers
from ashen_bridge.desktop.prove.picture import ProofPicture
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.editing.keeping import keep_proof
from ashen_bridge.model.records import Run

LABEL = "Proving"
RIGHT_WIDTH = 330
_EXPLAIN = (
    "The model is fitted to the run before the repair. With those numbers it predicts what was built, and the "
    "measurement is set beside it: each with its uncertainty, held against the goals that were set at the start."
)
_ROLES = {"met": "good", "missed": "bad", "open": "warn", "none": "quiet"}


class ProvePage(QWidget):
    """One repair: the run before, the run of what was built, and the model between them."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        session, theme = room.session, room.theme()
        self.papers = papers(room)
        self.keep = KeepButton(room.session, self._keeping)
        self.check = QPushButton("Quick check…")
        self.check.setToolTip("Some minutes of this load against the record: leave it shut, or open it")
        self.check.clicked.connect(lambda: CheckDialog(room).show())
        self.session, self.theme, self._shown = session, theme, shown
        self.proof: Question[Proof] = Question(session.questions, LABEL, self._now)
        self.before = ChoiceField("Run before the repair", lambda one: session.look(replace(session.view, against=one)))
        self.after = ChoiceField("Run of what was built", lambda one: session.look(replace(session.view, run=one)))
        self.go = QPushButton("Work it out")
        self.go.setToolTip("Fit the model to the run before, predict what was built, and set the measurement beside it")
        self.go.clicked.connect(self.proof.ask)
        self.picture = ProofPicture(session, theme)
        self.waiting = Words()
        self.waiting.setWordWrap(True)
        self.waiting.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.headline = Words()
        self.headline.setObjectName("question")
        self.headline.setWordWrap(True)
        self.words = Words()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self._lay_out()
        for signal in (session.project_changed, session.view_changed, session.runs.changed, self.proof.changed):
            signal.connect(self.refresh)

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        for words, field in (("Before", self.before), ("as built", self.after)):
            label = Words(words)
            label.setObjectName("quiet")
            bar.addWidget(label)
            field.setMinimumContentsLength(18)
            bar.addWidget(field)
        bar.addWidget(self.go)
        bar.addStretch(1)
        bar.addWidget(self.check)
        for paper in self.papers:
            bar.addWidget(paper.button)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(self.picture)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        self._area = area
        card = QFrame()
        card.setObjectName("card")
        inner = QVBoxLayout(card)
        inner.setContentsMargins(6, 6, 6, 6)
        inner.addWidget(area, 1)
        inner.addWidget(self.waiting, 1)
        side = QFrame()
        side.setObjectName("card")
        side.setFixedWidth(RIGHT_WIDTH)
        told = QVBoxLayout(side)
        told.setContentsMargins(14, 12, 14, 12)
        told.setSpacing(10)
        told.addWidget(self.headline)
        told.addWidget(self.words)
        told.addStretch(1)
        told.addWidget(self.keep)
        self._side = side
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(card, 1)
        row.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(bar)
        column.addLayout(row, 1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.picture.theme = theme
        self._side.setFixedWidth(round(RIGHT_WIDTH * min(max(theme.scale, 0.9), 1.25)))
        self.refresh()

    def pair(self) -> tuple[Run, Run] | None:
        """Return the two runs that are looked at; the last one stands for what was built until another is chosen."""
        session = self.session
        runs = {run.id: run for run in session.project.runs}
        before = session.against
        after = runs.get(session.view.run)
        if after is None or (before is not None and after.id == before.id):
            after = next((run for run in reversed(runs.values()) if before is None or run.id != before.id), None)
        return (before, after) if before is not None and after is not None else None

    def _now(self) -> Asked | None:
        """The two runs that are looked at, against the model with the numbers as they stand: the proof makes its own fit."""
        session, pair = self.session, self.pair()
        if pair is None:
            return None
        device = session.project.device
        before, after = (session.runs.figures(run, device) for run in pair)
        if before is None or after is None:
            return None
        key = key_of(session.keys.project(session.project, "goals"), run_key(pair[0], device), run_key(pair[1], device))
        return Asked(key, errands.prove, (session.project, before, after))

    def _keeping(self, who: str, now: datetime) -> Edit | None:
        session, pair, proof = self.session, self.pair(), self.proof.value
        after = session.runs.figures(pair[1], session.project.device) if pair is not None else None
        return keep_proof(session.project, proof, after, who=who, now=now) if proof is not None and after is not None else None

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        session = self.session
        if not self._shown():
            return
        for paper in self.papers:
            paper.refresh()
        self.keep.refresh()
        self.check.setEnabled(bool(session.project.builds and session.project.points))
        pair = self.pair()
        runs = [(run.label, run.id) for run in session.project.runs]
        self.before.show_choice(runs, pair[0].id if pair else None)
        self.after.show_choice(runs, pair[1].id if pair else None)
        proof = self.proof.value
        after = session.runs.figures(pair[1], session.project.device) if pair is not None else None
        self.picture.show_proof(proof)
        self._area.setVisible(proof is not None)
        self.waiting.setVisible(proof is None)
        # Worked out by itself; the button is there where that was called off, or did not go.
        self.proof.ask_by_itself()
        self.go.setVisible(pair is not None and self.proof.state not in ("running", "current"))
        self.go.setEnabled(self.proof.possible)
        if pair is None:
            self._say(
                "Nothing to prove yet", "It takes two runs: one before the repair, one after. Bring them in under Baseline (F5)."
            )
        elif proof is not None and after is not None:
            told = verdict_of(proof, session.project, after)
            self._show_verdict(told.state, told.headline, told.lines, told.next)
        else:
            unread = " ".join(session.runs.problem(run, session.project.device) for run in pair).strip()
            self._say("What came of it?", unread or self.proof.problem or _EXPLAIN)
            words = "Predicting both builds with every number turned a little…"
            self.waiting.setText(unread or standing(self.proof, words))

    def _say(self, headline: str, words: str) -> None:
        self.headline.setText(headline)
        self.headline.setStyleSheet("")
        self.words.setText(rich(words))
        self.waiting.setText("")

    def _show_verdict(self, state: str, headline: str, lines: tuple[str, ...], following: tuple[str, ...]) -> None:
        roles = self.theme.roles
        mark = {"met": "✓ ", "missed": "✕ ", "open": "≈ ", "none": ""}[state]
        self.headline.setText(mark + headline)
        self.headline.setStyleSheet(f"color: {roles[_ROLES[state]]};")
        listed = [paragraph(one, below=6) for one in lines]
        ahead = [paragraph(f"→ {one}", below=6) for one in following]
        head = paragraph(bold("Open it again?"), colour=roles["steel"], above=8, below=4)
        self.words.setText(rich(*listed, head, *ahead))
