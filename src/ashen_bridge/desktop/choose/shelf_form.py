"""One small form for what is at hand and what can be bought: material, thickness, size or volume, count or price."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QGridLayout, QLineEdit, QPushButton, QWidget

from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import choosing as edits
from ashen_bridge.editing.typed import read_number
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.material import DISPENSED, MaterialKind
from ashen_bridge.model.quantity import q
from ashen_bridge.model.wishes import Offer, StockItem
from ashen_bridge.planning.choosing.candidates import known_materials

_LEAVES = (MaterialKind.SOLID, MaterialKind.GAS)


class ShelfForm(QWidget):
    """Fields, and two buttons: at hand, or on the price list."""

    def __init__(self, session: Session, tell: Callable[[str], None]) -> None:
        super().__init__()
        self._session, self._tell = session, tell
        self.material = ChoiceField("Material", self._chosen)
        self.thickness, self.wide, self.high, self.ml, self.number = (QLineEdit() for _ in range(5))
        self.currency = QLineEdit()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setSpacing(5)
        grid.addWidget(self.material, 0, 0, 1, 4)
        rows = (
            (("mm thick", self.thickness), ("ml", self.ml)),
            (("wide mm", self.wide), ("high mm", self.high)),
            (("count or price", self.number), ("currency", self.currency)),
        )
        for n, row in enumerate(rows):
            for m, (words, field) in enumerate(row):
                label = Words(words)
                label.setObjectName("quiet")
                field.setAccessibleName(words)
                grid.addWidget(label, n + 1, 2 * m)
                grid.addWidget(field, n + 1, 2 * m + 1)
        self.here = QPushButton("At hand")
        self.here.setToolTip("So many of it are at hand")
        self.here.clicked.connect(lambda: self._say(self._stock))
        self.priced = QPushButton("On the price list")
        self.priced.setToolTip("It can be bought at this price, from your own list")
        self.priced.clicked.connect(lambda: self._say(self._offer))
        grid.addWidget(self.here, 4, 0, 1, 2)
        grid.addWidget(self.priced, 4, 2, 1, 2)
        self._name = ""

    def refresh(self) -> None:
        """Take over which materials there are."""
        known = [one for one in known_materials(self._session.project).values() if one.kind not in _LEAVES]
        choices = [(one.name, one.id) for one in known]
        if self._name not in {name for _, name in choices}:
            self._name = choices[0][1]
        self.material.show_choice(choices, self._name)
        if not self.currency.hasFocus() and not self.currency.text():
            self.currency.setText(self._session.project.currency)
        flows = next(one.kind in DISPENSED for one in known if one.id == self._name)
        for field, there in ((self.thickness, not flows), (self.wide, not flows), (self.high, not flows), (self.ml, flows)):
            field.setEnabled(there)

    def _chosen(self, name: str) -> None:
        self._name = name
        self.refresh()

    def _say(self, do: Callable[[], str]) -> None:
        try:
            wrong = do()
        except AshenError as error:
            wrong = str(error)
        self._tell(wrong)
        if not wrong:
            for field in (self.thickness, self.wide, self.high, self.ml, self.number):
                field.clear()

    def _sizes(self) -> dict[str, float | None]:
        said: dict[str, QLineEdit] = {"w_mm": self.wide, "h_mm": self.high, "ml": self.ml}
        return {name: _read(field, "" if name == "ml" else "mm") if field.isEnabled() else None for name, field in said.items()}

    def _thick(self) -> float | None:
        if not self.thickness.isEnabled():
            return None
        thick = _read(self.thickness, "mm")
        if thick is None:
            raise ProjectError("Say how thick it is.")
        return thick

    def _stock(self) -> str:
        session, thick = self._session, self._thick()
        count = _read(self.number)
        if count is not None and (count != int(count) or count < 0):
            raise ProjectError("The count is a whole number.")
        name = fresh_id(slug(f"{self._name} {thick or ''}", "sheet"), [one.id for one in session.project.stock])
        said = {
            "id": name,
            "material": self._name,
            "thickness_mm": q(thick) if thick else None,
            "count": int(count) if count is not None else 1,
        }
        return session.attempt(edits.keep_stock(session.project, StockItem.model_validate({**said, **self._sizes()})))

    def _offer(self) -> str:
        session, thick = self._session, self._thick()
        price = _read(self.number)
        if price is None or price < 0:
            raise ProjectError("Say what it costs.")
        name = fresh_id(slug(f"{self._name} {thick or ''}", "offer"), [one.id for one in session.project.shop])
        made = Offer.model_validate({"id": name, "material": self._name, "thickness_mm": thick, "price": price, **self._sizes()})
        return session.attempt(edits.offer(session.project, made, self.currency.text().strip()))


def _read(field: QLineEdit, unit: str = "") -> float | None:
    text = field.text().strip()
    return read_number(text, unit) if text else None
