"""Text that leaves the program: cells that no spreadsheet takes for a formula, lines that no terminal obeys."""

from __future__ import annotations

import unicodedata

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_KEPT = "\n\t"
_TURNING = {chr(code) for code in (*range(0x202A, 0x202F), *range(0x2066, 0x206A))}


def defused(text: str) -> str:
    """Return a text cell that no spreadsheet reads as a formula; `restored` undoes it. Numbers never go through here.

    >>> defused("=1+1"), defused("-12 V rail"), defused("die"), defused("'=x")
    ("'=1+1", "'-12 V rail", 'die', "''=x")
    """
    return f"'{text}" if text.lstrip("'").startswith(_FORMULA) else text


def restored(text: str) -> str:
    """Return the text that `defused` made this cell of.

    >>> restored("'=1+1"), restored("die"), restored("''=x"), restored("'tis")
    ('=1+1', 'die', "'=x", "'tis")
    """
    return text[1:] if text.startswith("'") and text.lstrip("'").startswith(_FORMULA) else text


def printable(text: str) -> str:
    r"""Return a text without anything that a terminal would obey: control characters and signs that turn the direction.

    >>> printable("die\x1b[2J"), printable("a\tb\nc")
    ('die[2J', 'a\tb\nc')
    """
    return "".join(sign for sign in text if sign in _KEPT or (unicodedata.category(sign) != "Cc" and sign not in _TURNING))
