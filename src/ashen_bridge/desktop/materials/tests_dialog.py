"""A material from tests of one's own: readings typed or pasted, what they say of it with its ±, and one click to take it over."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.changes import materials as changes
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.material import Material
from ashen_bridge.planning.choosing.fitted import fit_series, fit_squeeze, read_series
from ashen_bridge.words.numbers import plus_minus, short

_SERIES = {"thickness_mm", "resistance_mm2k_w"}
_SQUEEZE = {"force_n", "thickness_mm"}
_ABOUT = (
    "A thickness series (columns thickness_mm and resistance_mm2k_w) tells conductivity and face resistance; "
    "a squeeze under a scale (columns force_n and thickness_mm) tells how hard it pushes back."
)


class TestsDialog(WorkDialog):
    """Readings of one material."""

    __test__ = False  # nothing for pytest

    def __init__(self, session: Session, material: Material, asker: Asker, over: QWidget) -> None:
        super().__init__(f"Tests of {material.name}", over)
        self.session, self.material, self.asker = session, material, asker
        self._area = 645.0
        self._edit: Edit | None = None
        about = Words(_ABOUT)
        about.setObjectName("quiet")
        about.setWordWrap(True)
        self.readings = QPlainTextEdit()
        self.readings.setAccessibleName("Readings: a head and one line each")
        self.readings.setPlaceholderText("thickness_mm, resistance_mm2k_w\n0.5, 143\n1.0, 246\n2.0, 452")
        self.readings.textChanged.connect(self._fit)
        self.area = NumberField(Wanted("Area of the sample", "mm²", 1, 1e6), self._take_area)
        self.area.show_value(self._area)
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        opened = QPushButton("Open a table…")
        opened.clicked.connect(self._open)
        self.go = QPushButton("Take it into the material")
        self.go.setObjectName("go")
        self.go.clicked.connect(self._done)
        row = QHBoxLayout()
        row.addWidget(opened)
        row.addStretch(1)
        row.addWidget(Words("area of the sample, mm²"))
        row.addWidget(self.area)
        foot = QHBoxLayout()
        foot.addWidget(self.wrong, 1)
        foot.addWidget(self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(8)
        column.addWidget(about)
        column.addWidget(self.readings, 1)
        column.addLayout(row)
        column.addWidget(self.says)
        column.addLayout(foot)
        self.resize(560, 460)
        self._fit()

    def _take_area(self, value: float | None) -> str:
        self._area = value or self._area
        self._fit()
        return ""

    def _fit(self) -> None:
        """Say at once what the readings tell, or what is wrong with them."""
        self._edit = None
        said, wrong = "", ""
        text = self.readings.toPlainText()
        try:
            said = self._found(text) if text.strip() else ""
        except AshenError as error:
            wrong = str(error)
        self.says.setText(said)
        self.wrong.setText(wrong)
        self.go.setEnabled(self._edit is not None)

    def _found(self, text: str) -> str:
        columns = read_series(text)
        if columns.keys() >= _SERIES:
            series = fit_series(columns["thickness_mm"], columns["resistance_mm2k_w"])
            k, face = (series.conductivity, series.conductivity_u), (series.face, series.face_u)
            self._edit = edit("A thickness series", changes.fitted_series, self.material.id, k, face)
            odd = f" Rows {', '.join(map(str, series.odd))} do not fit." if series.odd else ""
            return (
                f"{short(k[0], 3)} {plus_minus(k[1], 2)} W/m·K, each face {short(face[0], 3)} {plus_minus(face[1], 1)} mm²·K/W, "
                f"from {series.count} readings.{odd}"
            )
        if columns.keys() >= _SQUEEZE:
            curve = fit_squeeze(columns["force_n"], columns["thickness_mm"], self._area)
            self._edit = edit(
                "A squeeze under a scale",
                changes.fitted_curve,
                self.material.id,
                curve.points,
                curve.free_mm,
                self._area,
                curve.relative_u,
            )
            strain, pressure = curve.points[-1]
            return (
                f"{short(curve.free_mm)} mm free; {short(100 * strain, 3)} % at {short(pressure, 3)} kPa, "
                f"± {short(100 * curve.relative_u, 2)} % from {curve.count} readings."
            )
        return ""

    def _open(self) -> None:
        path = self.asker.open_file("Readings of a test", str(Path.home()), "Table (*.csv *.txt *.tsv)")
        if path:
            try:
                self.readings.setPlainText(Path(path).read_text("utf-8"))
            except (OSError, UnicodeDecodeError) as error:
                self.wrong.setText(f"“{Path(path).name}” cannot be read: {error}.")

    def _done(self) -> None:
        if self._edit is None:
            return
        wrong = self.session.attempt(self._edit)
        self.wrong.setText(wrong)
        if not wrong:
            self.close()
