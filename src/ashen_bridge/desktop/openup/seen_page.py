"""The page of what is seen: a contact is chosen on the board, a mark with one click or key; what disagrees is said at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from ashen_bridge.changes import evidence as changes
from ashen_bridge.changes.edit import edit
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.openup.contacts import said_of
from ashen_bridge.desktop.openup.desk import OpenDesk
from ashen_bridge.desktop.openup.seen_words import found_words, gap_words
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import rich
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.steps.board_view import BoardView
from ashen_bridge.desktop.steps.photos import PATTERN, is_there, photo
from ashen_bridge.editing import evidence as edits
from ashen_bridge.editing.closings import close_build
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.evidence import Evidence

RIGHT_WIDTH = 350
PAD = ("untouched", "faint", "even", "deep", "wedge", "part bare", "torn", "oily", "film left on", "missing")
PASTE = ("thin", "even", "thick", "wedge", "dry", "pumped out", "part bare", "film left on", "missing")
SIGNS = ("rattles", "sounds hollow", "oil at the fan", "noisy fan", "hot place", "bulges")
_TIPS = {
    "untouched": "No mark at all: nothing touched",
    "faint": "Hardly a mark: squashed by less than a twentieth",
    "even": "A clear, level imprint or film",
    "deep": "A deep, sharp imprint: squashed by more than a third",
    "wedge": "Deeper, or thinner, on one side: drag on the board towards that side",
    "thin": "A film one can see through",
    "thick": "A thick or wet patch",
    "dry": "Crumbly, dried out",
    "pumped out": "Pushed to the edges, bare in the middle",
    "part bare": "Only a part was covered",
    "oily": "Oil around it",
    "torn": "Torn, or creased while fitting",
    "film left on": "A protective film or a label is in between",
    "missing": "Nothing there at all",
}


class SeenPage(QWidget):
    """Marks of old pads and pastes, and signs of before opening."""

    def __init__(self, desk: OpenDesk, theme: Theme, asker: Asker, folder: Callable[[], str]) -> None:
        super().__init__()
        self.desk, self.theme, self._asker, self._folder = desk, theme, asker, folder
        self.board = BoardView(desk, theme)
        self.name = Words()
        self.name.setObjectName("big")
        self.name.setWordWrap(True)
        self.expected = Words()
        self.expected.setWordWrap(True)
        self.marks: dict[str, QToolButton] = {}
        self.said = Words()
        self.said.setWordWrap(True)
        self.said.setTextFormat(Qt.TextFormat.RichText)
        self.gaps = Words()
        self.gaps.setWordWrap(True)
        self.gaps.setTextFormat(Qt.TextFormat.RichText)
        self.closing = ChoiceField("Which closing it shows", lambda one: desk.look(replace(desk.view, closing=one)))
        self.rear = QPushButton("Rear side")
        self.rear.setCheckable(True)
        self.rear.clicked.connect(self._turn)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.closed = QPushButton("This build was closed")
        self.closed.setToolTip("Begin a closing of this build; its day can be said under Instruments and closings")
        self.closed.clicked.connect(self._close)
        self.signs: dict[str, QPushButton] = {}
        self.photo = QPushButton("Photo…")
        self.photo.setToolTip("Keep a photo with what was just said of this contact")
        self.photo.clicked.connect(self._ask_photo)
        self.board.contact_chosen.connect(self._choose)
        self.board.wedge_drawn.connect(lambda toward: self.say("wedge", toward))
        self._lay_out()

    def _lay_out(self) -> None:
        frame = Card()
        frame.column.addWidget(self.board, 1)
        entry = Card((14, 10, 14, 10))
        below = entry.column
        top = QHBoxLayout()
        top.addWidget(self.name, 1)
        top.addWidget(self.closed)
        top.addWidget(self.photo)
        below.addLayout(top)
        below.addWidget(self.expected)
        self._grid = QGridLayout()
        self._grid.setSpacing(6)
        for n, mark in enumerate(dict.fromkeys((*PAD, *PASTE))):
            button = QToolButton()
            button.setText(mark)
            button.setCheckable(True)
            button.setToolTip(_TIPS[mark])
            button.setAccessibleName(mark)
            button.setSizePolicy(self.rear.sizePolicy())
            button.clicked.connect(partial(self._clicked, mark))
            self.marks[mark] = button
            self._grid.addWidget(button, n // 5, n % 5)
        below.addLayout(self._grid)
        below.addWidget(self.wrong)
        before = FlowLayout(spacing=6)
        label = Words("Before opening:")
        label.setObjectName("quiet")
        before.addWidget(label)
        for sign in SIGNS:
            made = QPushButton(sign)
            made.setCheckable(True)
            made.setToolTip("Noticed while it was still shut")
            made.clicked.connect(partial(self._notice, sign))
            self.signs[sign] = made
            before.addWidget(made)
        below.addLayout(before)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(frame, 1)
        left.addWidget(entry)
        self._side = SideCard(RIGHT_WIDTH)
        column = self._side.column
        head = QHBoxLayout()
        head.addWidget(self.closing, 1)
        head.addWidget(self.rear)
        column.addLayout(head)
        for title, words in (("What it says", self.said), ("Gaps to fill, with what was seen", self.gaps)):
            section = Words(title)
            section.setObjectName("section")
            column.addWidget(section)
            column.addWidget(words)
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addLayout(left, 1)
        row.addWidget(self._side)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.board.theme = theme
        self._side.set_theme(theme)

    def refresh(self) -> None:
        """Take over what was said and found."""
        desk = self.desk
        desk.seen.ask_by_itself()
        self.board.update()
        session, contact, closing = desk.session, desk.contact, desk.closing
        closings = [(one.label, one.id) for one in session.project.closings if session.view.build in one.builds]
        self.closing.show_choice(closings, closing.id if closing is not None else None)
        self.closing.setVisible(len(closings) > 1)
        self.closed.setVisible(closing is None and bool(session.project.builds))
        self.rear.setChecked(desk.view.side.value == "rear")
        ready = contact is not None and closing is not None
        offered = (PASTE if contact.kind == "paste" else PAD) if contact is not None else PAD
        said = {one.says for one in self._here()}
        place = 0
        for mark, button in self.marks.items():
            button.setVisible(mark in offered)
            button.setEnabled(ready)
            button.setChecked(mark in said)
            if mark in offered:
                self._grid.removeWidget(button)
                self._grid.addWidget(button, place // 5, place % 5)
                place += 1
        self.photo.setEnabled(bool(said))
        shown = [one.image for one in self._here() if one.image is not None]
        self.photo.setText("Photo ✓" if shown else "Photo…")
        gone = [name for name in shown if not is_there(session.project, name)]
        self.wrong.setText(f"The photo '{gone[0]}' is gone from this machine." if gone else self.wrong.text())
        signs = {one.says for one in session.project.signs}
        for sign, made in self.signs.items():
            made.setChecked(sign in signs)
        if contact is not None:
            self.name.setText(contact.name)
            silent = "\nNo sensor tells of this part." if contact.silent else ""
            self.expected.setText(f"The model expects {contact.words}.{silent}")
        else:
            self.name.setText("What does every pad show?")
            self.expected.setText(self._explain())
        found = desk.found
        state = standing(desk.seen, "Holding it against the model…")
        self.said.setText(rich(state or "", found_words(found, self.theme) if found is not None else ""))
        self.gaps.setText(rich(gap_words(found, self.theme)) if found is not None else "")

    def _explain(self) -> str:
        if self.desk.closing is None:
            return "What is seen shows one closing: say that this build was closed."
        return "Choose a pad or the die on the board, then what it shows. A drag says towards which side a wedge is thinnest."

    def _here(self) -> tuple[Evidence, ...]:
        closing, view = self.desk.closing, self.desk.view
        return said_of(self.desk.session.project, closing.id, view.joint, view.lower) if closing is not None else ()

    # ---- saying

    def _choose(self, joint: str, lower: str) -> None:
        self.desk.look(replace(self.desk.view, joint=joint, lower=lower))
        self.desk.session.select(lower)

    def _turn(self) -> None:
        from ashen_bridge.model.bodies import Side

        side = Side.FRONT if self.desk.view.side is Side.REAR else Side.REAR
        self.desk.look(replace(self.desk.view, side=side, joint="", lower=""))

    def _clicked(self, mark: str, on: bool) -> None:
        if on:
            self.say(mark)
            return
        for one in self._here():
            if one.says == mark:
                self._tell(self.desk.session.attempt(edits.unsay(one.id)))

    def say(self, mark: str, toward_deg: float | None = None) -> None:
        """Say what the chosen contact shows."""
        contact, closing, session = self.desk.contact, self.desk.closing, self.desk.session
        if contact is None or closing is None:
            return
        try:
            made = edits.say(
                session.project, closing.id, contact.joint, contact.lower, mark, toward_deg, date.today().isoformat()
            )
        except AshenError as error:
            self._tell(str(error))
            return
        self._tell(session.attempt(made))

    def say_number(self, n: int) -> None:
        """Say the n-th of the marks that are offered; said already, it is taken back."""
        offered = [mark for mark, button in self.marks.items() if not button.isHidden()]
        if n < len(offered) and self.marks[offered[n]].isEnabled():
            self.marks[offered[n]].click()

    def _close(self) -> None:
        session = self.desk.session
        self._tell(session.attempt(close_build(session.project, session.view.build)))

    def _ask_photo(self) -> None:
        name = self._asker.open_file("A photo of what is seen", self._folder(), PATTERN)
        if name:
            self.keep_photo(Path(name))

    def keep_photo(self, path: Path) -> None:
        """Keep a photo with what was last said of the chosen contact; what is none is said in words."""
        here, session = self._here(), self.desk.session
        if not here:
            return
        try:
            image = photo(session.project, path)
        except AshenError as error:
            self._tell(str(error))
            return
        self._tell(session.attempt(edit(f"Photo “{path.name}”", changes.show, here[-1].id, image)))

    def _notice(self, sign: str, on: bool) -> None:
        session = self.desk.session
        if on:
            session.apply(edits.notice(session.project, sign, None, date.today().isoformat()))
        else:
            for one in session.project.signs:
                if one.says == sign:
                    session.apply(edits.unnotice(one.id))

    def _tell(self, problem: str) -> None:
        self.wrong.setText(problem)
