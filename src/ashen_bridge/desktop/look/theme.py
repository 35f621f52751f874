"""Looks: named colour roles and ramps (`themes.json`), fonts and the style sheet."""

from __future__ import annotations

import itertools
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import resources
from typing import Any

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette

BASE_PX = 13


@dataclass(frozen=True)
class Theme:
    """One set of colours and one text size; painters ask it by role. `scale` is the text size relative to the usual one."""

    name: str
    roles: dict[str, str]
    scale: float = 1.0

    def scaled(self, scale: float) -> Theme:
        """Return the same theme with another text size."""
        return replace(self, scale=scale)

    def font(self, size: float, bold: bool = False) -> QFont:
        """Return the interface font at a size in pixels of the usual text size."""
        return font(size * self.scale, bold)

    def px(self, length: float) -> float:
        """Return a length that grows with the text [px]."""
        return length * self.scale

    def colour(self, role: str, alpha: float = 1.0) -> QColor:
        """Return the colour of a role."""
        colour = QColor(self.roles[role])
        colour.setAlphaF(alpha)
        return colour

    def heat(self, share: float) -> QColor:
        """Return the temperature ramp at `share` (0 cold to 1 hot); lightness rises all the way."""
        return _ramp(_data()["heat"], share)

    def mechanics(self, share: float) -> QColor:
        """Return the mechanical ramp at `share` (0 little to 1 much); lightness falls all the way."""
        return _ramp(_data()["mechanics"], share)

    def attention(self, share: float) -> QColor:
        """Return the colour of a part between at ease (0) and at its limit (1)."""
        calm, hot = QColor(self.roles["part"]), QColor(self.roles["ember"])
        t = min(1.0, max(0.0, share))
        return QColor(*(round(a + t * (b - a)) for a, b in zip(calm.getRgb()[:3], hot.getRgb()[:3], strict=True)))

    def ink_on(self, background: QColor) -> QColor:
        """Return the ink that reads best on `background`; near the middle only pure black or white reach 4.5 : 1."""
        inks = [QColor(name) for name in ("#ffffff", "#201d1b", "#000000")]
        good = [ink for ink in inks if contrast(ink, background) >= 4.5]
        return good[0] if good else max(inks, key=lambda ink: contrast(ink, background))

    def palette(self) -> QPalette:
        """Return the palette for what no style sheet reaches: drawn widgets, hints in fields, rich text."""
        roles = QPalette.ColorRole
        made = QPalette()
        for role, name in (
            (roles.Window, "ground"),
            (roles.WindowText, "ink"),
            (roles.Base, "raised"),
            (roles.Text, "ink"),
            (roles.Button, "raised"),
            (roles.ButtonText, "ink"),
            (roles.PlaceholderText, "quiet"),
            (roles.Highlight, "ember_soft"),
            (roles.HighlightedText, "ink"),
            (roles.Link, "steel"),
        ):
            made.setColor(role, self.colour(name))
        return made

    def style_sheet(self) -> str:
        """Return the application style sheet."""
        base = round(BASE_PX * self.scale)
        text = resources.files("ashen_bridge.desktop.look").joinpath("style.qss").read_text(encoding="utf-8")
        for role in sorted(self.roles, key=len, reverse=True):
            text = text.replace(f"@{role}", self.roles[role])
        text = text.replace("@symbols", str(resources.files("ashen_bridge.desktop.look").joinpath("symbols")).replace("\\", "/"))
        sizes = {
            "@base": base,
            "@small": base - 2,
            "@large": base + 3,
            "@huge": base + 7,
            "@giant": base + 15,
            "@control": round(20 * self.scale),
        }
        for name, size in sizes.items():
            text = text.replace(name, f"{size}px")
        return text


@lru_cache(maxsize=1)
def _data() -> dict[str, Any]:
    """Colours by role of both looks, and the two ramps as pairs of share and colour."""
    found: dict[str, Any] = json.loads(resources.files("ashen_bridge.desktop.look").joinpath("themes.json").read_bytes())
    return found


THEMES = {name: Theme(name, _data()[name]) for name in ("light", "dark")}


def _ramp(stops: Sequence[tuple[float, str]], share: float) -> QColor:
    share = min(1.0, max(0.0, share))
    for (a, low), (b, high) in itertools.pairwise(stops):
        if share <= b:
            t = (share - a) / (b - a)
            one, two = QColor(low), QColor(high)
            return QColor(
                round(one.red() + t * (two.red() - one.red())),
                round(one.green() + t * (two.green() - one.green())),
                round(one.blue() + t * (two.blue() - one.blue())),
            )
    return QColor(stops[-1][1])


def luminance(colour: QColor) -> float:
    """Return the relative luminance of WCAG 2.2."""

    def linear(channel: float) -> float:
        return channel / 12.92 if channel <= 0.04045 else ((channel + 0.055) / 1.055) ** 2.4

    return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) + 0.0722 * linear(colour.blueF())


def contrast(one: QColor, other: QColor) -> float:
    """Return the contrast ratio of WCAG 2.2 between two colours."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def load_fonts() -> str:
    """Register the shipped fonts and return the family name."""
    family = ""
    for name in ("Lato-Regular.ttf", "Lato-Semibold.ttf", "Lato-Bold.ttf", "Ashen-Marks.ttf"):
        content = resources.files("ashen_bridge.fonts").joinpath(name).read_bytes()
        number = QFontDatabase.addApplicationFontFromData(content)
        family = family or QFontDatabase.applicationFontFamilies(number)[0]
    QFont.insertSubstitution(family, "Ashen Marks")  # ✓ ✕ ▲ ▼, which a machine may have no font for
    return family


def font(size: float, bold: bool = False) -> QFont:
    """Return the interface font at a size in pixels."""
    made = QFont("Lato")
    made.setPixelSize(round(size))
    made.setWeight(QFont.Weight.Bold if bold else QFont.Weight.Normal)
    return made
