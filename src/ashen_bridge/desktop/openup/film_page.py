"""The page of pictures of contact: corners placed on the picture, what it shows beside what the model has, taken as evidence."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.openup.desk import OpenDesk
from ashen_bridge.desktop.openup.film_desk import FilmDesk
from ashen_bridge.desktop.openup.film_view import FilmView, PressureMap
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.text_fields import ChoiceField, WordsField
from ashen_bridge.editing import evidence as edits
from ashen_bridge.evidence.result import FilmFound
from ashen_bridge.model.evidence import ContactPicture
from ashen_bridge.words.numbers import number, percent

RIGHT_WIDTH = 350
_MANY = 10.0
_PICTURES = "Picture (*.png *.jpg *.jpeg)"


class FilmPage(QWidget):
    """One picture at a time; those that were taken stand in a list."""

    def __init__(self, desk: OpenDesk, theme: Theme, asker: Asker, folder: Callable[[], str]) -> None:
        super().__init__()
        self.desk, self.theme, self._asker, self._folder = desk, theme, asker, folder
        self.film = FilmDesk(desk)
        self.view = FilmView(self.film, theme)
        self.seen, self.model = PressureMap("the picture", theme), PressureMap("the model", theme)
        self.open = QPushButton("Open a picture…")
        self.open.clicked.connect(self.ask_picture)
        self.turn = QPushButton("Turn corners")
        self.turn.setToolTip("Corner 1 is the lower left one of the part, as seen on the board; let them begin one further round")
        self.turn.clicked.connect(self.film.turn_corners)
        self.strip = QPushButton("Strip")
        self.strip.setCheckable(True)
        self.strip.setToolTip("A strip of patches of known pressure lies in the picture: place its corners 5 to 8 as well")
        self.strip.clicked.connect(self.film.with_strip)
        self.pressures = WordsField("Pressures of the strip's patches, from left to right", self._pressures)
        self.pressures.setPlaceholderText("pressures of its patches, left to right: 15, 30, 50")
        self.where = ChoiceField("Which contact it shows", self._choose)
        self.figures = Words()
        self.figures.setObjectName("answer")
        self.told = Words()
        self.told.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.take = QPushButton("Take as evidence")
        self.take.clicked.connect(self._take)
        self._taken = QVBoxLayout()
        self._listed: tuple[ContactPicture, ...] | None = None
        self._taken.setSpacing(4)
        self._lay_out()
        self.film.changed.connect(self.refresh)

    def _lay_out(self) -> None:
        frame = Card()
        inner = frame.column
        inner.addWidget(self.view, 1)
        head = QHBoxLayout()
        head.setContentsMargins(6, 0, 6, 4)
        self.hint = Words("Drag the corners onto those of the part: 1 lower left, then round to the right.")
        self.hint.setObjectName("quiet")
        self.hint.setWordWrap(True)
        head.addWidget(self.hint, 1)
        head.addWidget(self.pressures, 1)
        head.addWidget(self.strip)
        head.addWidget(self.turn)
        head.addWidget(self.open)
        inner.addLayout(head)
        self._side = SideCard(RIGHT_WIDTH)
        column = self._side.column
        column.addWidget(self.where)
        column.addWidget(self.figures)
        column.addWidget(self.told)
        maps = QHBoxLayout()
        maps.addWidget(self.seen, 1)
        maps.addWidget(self.model, 1)
        column.addLayout(maps)
        column.addWidget(self.wrong)
        column.addWidget(self.take)
        section = Words("Taken")
        section.setObjectName("section")
        column.addWidget(section)
        column.addLayout(self._taken)
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(frame, 1)
        row.addWidget(self._side)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.view.theme = self.seen.theme = self.model.theme = theme
        self._side.set_theme(theme)

    def refresh(self) -> None:
        """Take over the picture and what is read off it."""
        film, session = self.film, self.desk.session
        if self.isVisible() and not self.view.dragging:
            film.reading.ask_by_itself()
        names = {one.id: one.label for one in session.project.all_bodies}
        contacts = [(names.get(low, low), (joint.id, low)) for joint in session.build.joints for low in joint.lower]
        here = (self.desk.view.joint, self.desk.view.lower)
        if contacts and here not in [one for _, one in contacts]:
            self.desk.look(replace(self.desk.view, joint=contacts[0][1][0], lower=contacts[0][1][1]))
            return
        self.where.show_choice(contacts, here)
        self.view.update()
        self.turn.setEnabled(film.film is not None)
        self.strip.setEnabled(film.film is not None)
        strip = film.film is not None and film.film.strip is not None
        self.strip.setChecked(strip)
        self.pressures.setVisible(strip)
        told = film.film.pressures if film.film is not None else ()
        self.pressures.show_words(", ".join(f"{one:.6g}" for one in told))
        self.hint.setVisible(not strip)
        found = film.reading.value
        size, there = film.size_mm, film.there
        aspect = size[0] / size[1] if size is not None else 1.0
        self.seen.show_map(found.reading.pressure if found is not None else None, aspect)
        self.model.show_map(there.pressure_kpa if there is not None else None, aspect)
        self.take.setEnabled(found is not None)
        self.figures.setText(f"{percent(found.reading.covered)} covered" if found is not None else "")
        self.figures.setVisible(found is not None)
        explain = "" if film.film is not None else "A pressure film, or an old pad stamped on paper, shows where it presses."
        self.told.setText(_told(found) if found is not None else standing(film.reading, "Reading it…", explain))
        problem = film.problem or (film.reading.problem if film.reading.state == "refused" else "")
        self.wrong.setText(problem)
        if film.reading.state == "refused":
            self.told.setText("")
        self._list()

    def _list(self) -> None:
        if self._listed is self.desk.session.project.pictures:
            return
        self._listed = self.desk.session.project.pictures
        while self._taken.count():
            item = self._taken.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        names = {one.id: one.label for one in self.desk.session.project.all_bodies}
        closings = {one.id: one.label for one in self.desk.session.project.closings}
        for one in self.desk.session.project.pictures:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            words = Words(f"{names.get(one.lower, one.lower)}, {closings.get(one.closing, one.closing)}: {_short(one)}")
            words.setWordWrap(True)
            line.addWidget(words, 1)
            for text, tip, act in (
                ("Show", "Lay it on the table again", partial(self.film.show_taken, one)),
                ("Forget", "Take it out of the project; undo brings it back", partial(self._forget, one.id)),
            ):
                button = QPushButton(text)
                button.setToolTip(tip)
                button.clicked.connect(lambda _, act=act: act())
                line.addWidget(button)
            self._taken.addWidget(row)
        if not self.desk.session.project.pictures:
            nothing = Words("Nothing yet. Clamp two or three times: several pictures of one contact stand side by side here.")
            nothing.setObjectName("quiet")
            nothing.setWordWrap(True)
            self._taken.addWidget(nothing)

    def _choose(self, where: tuple[str, str]) -> None:
        self.desk.look(replace(self.desk.view, joint=where[0], lower=where[1]))

    def _pressures(self, text: str) -> None:
        self.film.say_pressures(text)

    def ask_picture(self) -> None:
        """Ask for a picture."""
        name = self._asker.open_file("A picture of contact", self._folder(), _PICTURES)
        if name:
            self.film.open(Path(name))

    def _take(self) -> None:
        self.film.problem = self.film.take()
        self.refresh()

    def _forget(self, name: str) -> None:
        self.desk.session.apply(edits.drop_picture(name))


def _told(found: FilmFound) -> str:
    """Return what a picture shows, in sentences."""
    one = found.reading
    off = math.hypot(one.centre_x_mm, one.centre_y_mm)
    centre = f"{number(off, 1)} ± {number(one.centre_sd_mm, 1)} mm off the middle"
    said = [f"± {percent(one.covered_sd)}; centre of pressure {centre}."]
    if one.toward_deg is not None:
        times = f"{number(one.ratio, 1)} times" if one.ratio < _MANY else "many times"
        said.append(f"It presses {times} harder {_side(one.toward_deg)} than opposite.")
    if one.middle != "flat":
        what = "presses less: hollow" if one.middle == "hollow" else "presses more: crowned"
        said.append(f"The middle {what}.")
    if found.difference is not None:
        said.append(f"{percent(found.difference)} of the pressure lies elsewhere than the model has it.")
    return " ".join(said)


def _side(toward_deg: float) -> str:
    names = ("right", "upper right", "top", "upper left", "left", "lower left", "bottom", "lower right")
    return f"at the {names[round(toward_deg / 45) % 8]}"


def _short(one: ContactPicture) -> str:
    off = math.hypot(one.centre_x_mm.value, one.centre_y_mm.value)
    return f"{percent(one.covered.value)}, {number(off, 1)} mm off" + (", set aside" if one.aside else "")
