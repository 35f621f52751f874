"""What advice may reckon with: the wanted chance, what may be used, and which schools of thought are followed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import SideCard
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import choosing as edits
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing.practice import schools, way

WIDTH = 268
_CHANCES = ((0.8, "80 %"), (0.9, "90 %"), (0.95, "95 %"), (0.99, "99 %"))
_MAY: tuple[tuple[str, str, str], ...] = (
    ("washers", "washers under sprung screws", "They raise the force: plastic and thin is safer than steel and thick"),
    ("putty", "putty", "Fills whatever gap there is and pushes back little; messy"),
    ("graphite", "graphite sheets", "They conduct electricity"),
    ("liquid_metal", "liquid metal", "Best, but it conducts electricity, destroys aluminium, and cannot be taken back"),
)
_SKILLS = (("first time", "first time"), ("practised", "practised"), ("bold", "accepts to lose the part"))


class WishesCard(SideCard):
    """The questions, one under another; each is an edit."""

    def __init__(self, session: Session, said: Callable[[str], None]) -> None:
        super().__init__(WIDTH)
        self._session, self._said = session, said
        column = self.column
        title = Words("What you want")
        title.setObjectName("big")
        column.addWidget(title)
        self.chance = ChoiceField("Wanted chance of every limit", lambda one: self._wish(chance=one))
        self._row("Every limit with", self.chance, "With which chance each limit shall hold, all that is unknown counted in")
        self.source = ChoiceField("Where material comes from", lambda one: self._wish(source=one))
        self._row("Material", self.source, "What is at hand is listed under Shelf")
        self.skill = ChoiceField("Skill", lambda one: self._wish(skill=one))
        self._row("Hands", self.skill, "Liquid metal and conductors near bare parts only for those who accept to lose the part")
        self.boxes: dict[str, QCheckBox] = {}
        self._section("May be used")
        for name, words, tip in _MAY:
            self._box(name, words, tip, partial(self._may, name))
        self._section("Besides")
        self._box("everything", "replace everything", "Or leave good parts alone", self._replace)
        self._box(
            "reusable", "all can be used again", "Nothing that cannot be taken off whole", lambda on: self._wish(reusable=on)
        )
        self._section("Where opinions differ")
        self.schools: dict[str, ChoiceField] = {}
        for school in schools():
            field = ChoiceField(school.title, partial(self._follow, school.id))
            ways = "\n".join(f"{one.says}: {one.costs}" for one in school.ways if one.costs)
            usual = next(one.says for one in school.ways if one.id == school.default)
            label = Words(school.title)
            label.setObjectName("quiet")
            label.setToolTip(f"Usually “{usual}”. {school.why}\n{ways}".strip())
            field.setToolTip(label.toolTip())
            column.addWidget(label)
            column.addWidget(field)
            self.schools[school.id] = field
        column.addStretch(1)

    def _row(self, words: str, field: QWidget, tip: str) -> None:
        row = QHBoxLayout()
        label = Words(words)
        label.setToolTip(tip)
        field.setToolTip(tip)
        row.addWidget(label)
        row.addWidget(field, 1)
        self.column.addLayout(row)

    def _section(self, words: str) -> None:
        label = Words(words)
        label.setObjectName("section")
        self.column.addWidget(label)

    def _box(self, name: str, words: str, tip: str, act: Callable[[bool], None]) -> None:
        box = QCheckBox(words)
        box.setToolTip(tip)
        box.clicked.connect(act)
        self.boxes[name] = box
        self.column.addWidget(box)

    def set_theme(self, theme: Theme) -> None:
        """Follow the text size."""
        super().set_theme(theme)

    def refresh(self) -> None:
        """Show what is wanted."""
        wishes = self._session.project.aims.wishes
        chances = [(words, value) for value, words in _CHANCES]
        if wishes.chance not in {value for value, _ in _CHANCES}:
            chances.append((f"{wishes.chance:.1%}", wishes.chance))
        self.chance.show_choice(chances, wishes.chance)
        self.source.show_choice([("at hand or bought", "shop"), ("only what is at hand", "stock")], wishes.source)
        self.skill.show_choice([(words, value) for value, words in _SKILLS], wishes.skill)
        for name, *_ in _MAY:
            self.boxes[name].setChecked(bool(getattr(wishes, name)))
        self.boxes["everything"].setChecked(wishes.replace == "everything")
        self.boxes["reusable"].setChecked(wishes.reusable)
        for school in schools():
            self.schools[school.id].show_choice([(one.says, one.id) for one in school.ways], _way(wishes, school.id))

    def _wish(self, **said: Any) -> None:
        try:
            self._said(self._session.attempt(edits.wish(self._session.project, **said)))
        except AshenError as error:
            self._said(str(error))

    def _may(self, name: str, on: bool) -> None:
        self._wish(**{name: on})

    def _replace(self, on: bool) -> None:
        self._wish(replace="everything" if on else "what pays")

    def _follow(self, school: str, chosen: str) -> None:
        self._said(self._session.attempt(edits.follow(self._session.project, school, chosen)))


def _way(wishes: Wishes, school: str) -> str:
    try:
        return way(wishes, school)
    except AshenError:
        return ""
