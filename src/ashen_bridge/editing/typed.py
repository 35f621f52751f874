"""Numbers as people type them: `12.5/2+0.3`, `40 mil`, `1/8 in`, `2,5`. Units are left to a units library, loaded when needed."""

from __future__ import annotations

import ast
import operator
import re
from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.signs import spelling_of

if TYPE_CHECKING:
    import pint

_LONGEST = 80
_ALLOWED = re.compile(r"[0-9A-Za-zµμ°%²³·*/+\-.,()^ \"'_]*")
_ARITHMETIC: dict[type[ast.AST], Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.USub: operator.neg,
    ast.UAdd: operator.pos,
}
# What the workshop writes and the units library reads otherwise: its `mil` is an angle, and `in` is a word of the language.
_SHORT = (
    (r"°C", " delta_degC "),
    (r"²|(?<=[A-Za-z])2(?!\d)", "**2"),
    (r"³|(?<=[A-Za-z])3(?!\d)", "**3"),
    (r"·", "*"),
    (r"\"|''", " inch "),
    (r"(?<![A-Za-z])in(?![A-Za-z])", " inch "),
    (r"(?<![A-Za-z])mils?(?![A-Za-z])", " thou "),
)


class TypedError(AshenError, ValueError):
    """What was typed is not a number that fits here."""


def read_number(text: str, unit: str = "") -> float:
    """Return a typed number in `unit` (one of those the application shows, for example `mm` or `W/m·K`).

    Arithmetic with + − * / and parentheses is worked out; a number without a unit is in `unit`. Raises `TypedError`.

    >>> read_number("12.5/2+0.3", "mm"), read_number("2,5 mm", "mm"), round(read_number("40 mil", "mm"), 6)
    (6.55, 2.5, 1.016)
    """
    said = text.strip()
    wanted = f"a number in {unit}" if unit else "a number"
    if not said:
        raise TypedError(f"Nothing is typed here; {wanted} is needed.")
    if len(said) > _LONGEST:
        raise TypedError(f"This is too long for {wanted} ({len(said)} characters).")
    plain = _plain(said)
    if not _ALLOWED.fullmatch(plain) or "**" in plain or "^" in plain:
        raise TypedError(f"“{said}” is not {wanted}.")
    value = _unitless(plain.removesuffix(unit).strip() if unit and plain.endswith(unit) else plain, said)
    if value is None:
        value = _celsius(plain, said) if unit == "°C" else _with_unit(plain, unit, said)
    if value != value or abs(value) > 1e15:
        raise TypedError(f"“{said}” does not give {wanted}.")
    return float(f"{value:.12g}")


def _plain(said: str) -> str:
    """Return what was typed with signs of typesetters and the decimal comma made plain."""
    for ugly, plain in (("−", "-"), ("–", "-"), ("×", "*"), ("÷", "/"), ("μ", "µ"), ("\u00a0", " ")):
        said = said.replace(ugly, plain)
    for number in re.findall(r"\d+(?:[.,]\d+)*", said):
        if "," not in number:
            continue
        if number.count(",") > 1 or "." in number:
            raise TypedError(f"“{number}” has separators of thousands; write it without them.")
        if re.fullmatch(r"[1-9]\d{0,2},\d{3}", number):
            raise TypedError(f"“{number}” may be {number.replace(',', '.')} or {number.replace(',', '')}; write one of them.")
        said = said.replace(number, number.replace(",", "."), 1)
    return said


def _unitless(plain: str, said: str) -> float | None:
    """Return the value of plain arithmetic, None if there are letters or signs of units in it."""
    if re.search(r"[A-Za-zµ°%²³·\"'_]", re.sub(r"\d[eE][+-]?\d", "0", plain)):
        return None
    try:
        return _evaluate(ast.parse(plain.lstrip("+ "), mode="eval").body)
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise TypedError(f"“{said}” cannot be worked out as a number.") from error
    except ZeroDivisionError as error:
        raise TypedError(f"“{said}” divides by zero.") from error


def _evaluate(node: ast.AST) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        return float(node.value)
    if isinstance(node, ast.BinOp) and type(node.op) in _ARITHMETIC:
        return _ARITHMETIC[type(node.op)](_evaluate(node.left), _evaluate(node.right))
    if isinstance(node, ast.UnaryOp) and type(node.op) in _ARITHMETIC:
        return _ARITHMETIC[type(node.op)](_evaluate(node.operand))
    raise ValueError("not arithmetic")


def _celsius(plain: str, said: str) -> float:
    """Return a temperature [°C]; degrees Fahrenheit and kelvin are converted, offset included."""
    found = re.fullmatch(r"(.*?)\s*(°?\s*[CF]|K)", plain)
    if not found:
        raise TypedError(f"“{said}” is not a temperature; write for example 85, 85 °C, 185 °F or 358 K.")
    value = _unitless(found[1], said)
    if value is None:
        raise TypedError(f"“{said}” is not a temperature.")
    scale = {"C": "degC", "F": "degF", "K": "kelvin"}[found[2][-1]]
    return float(_registry().Quantity(value, scale).to("degC").magnitude)


@lru_cache(maxsize=1)
def _registry() -> pint.UnitRegistry[Any]:
    import pint

    return pint.UnitRegistry()


def _with_unit(plain: str, unit: str, said: str) -> float:
    """Return the value in `unit` of an expression with units in it."""
    from pint import DimensionalityError

    registry = _registry()
    target = spelling_of(unit)
    text = plain
    for short, long in _SHORT:
        text = re.sub(short, long, text)
    if "·" in unit and plain.endswith(unit):
        text = f"({plain.removesuffix(unit)}) * ({target})"  # W/m·K means W/(m·K)
    try:
        try:
            found = registry.parse_expression(text)
        except DimensionalityError:
            # `12.5/2 + 0.3 mm` means all of it in millimetres.
            last = re.fullmatch(r"(.*[\d.)])\s*([A-Za-zµ%].*)", text)
            if not last:
                raise
            found = registry.parse_expression(f"({last[1]}) * ({last[2]})")
        if isinstance(found, int | float):
            return float(found)
        if found.dimensionless and not target:
            return float(found.to("").magnitude)
        return float(found.to(target or "dimensionless").magnitude)
    except DimensionalityError as error:
        raise TypedError(f"“{said}” is not in a unit that fits; {unit or 'a plain number'} is needed here.") from error
    except ZeroDivisionError as error:
        raise TypedError(f"“{said}” divides by zero.") from error
    except Exception as error:
        # The units library raises many kinds for text it cannot read (syntax, tokens, attributes); all mean the same here.
        raise TypedError(f"“{said}” is not understood as a number with a unit.") from error
