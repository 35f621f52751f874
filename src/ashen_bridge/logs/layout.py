"""How a log is laid out: its encoding, what cuts its lines into cells, and which line names the columns."""

from __future__ import annotations

import codecs
import re

from ashen_bridge.logs.log import LogError
from ashen_bridge.logs.numbers import number

SAMPLE = 65_536
BLANKS = r"[ \t]{2,}"
"""What cuts the lines of a table that is aligned by blanks, as a pattern; single blanks belong to names."""
_DELIMITERS = (",", ";", "\t", "|", BLANKS)


def lines_of(text: str) -> list[str]:
    """Return lines as the table reader cuts them: form feeds and separators that other splitters know stay where they are."""
    return text.replace("\r\n", "\n").replace("\r", "\n").split("\n")


def encoding_of(data: bytes, name: str) -> str:
    """Return the encoding. Raises `LogError` for what is not text."""
    for mark, encoding in ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16")):
        if data.startswith(mark):
            return encoding
    head = data[:SAMPLE]
    if b"\x00" in head:
        even, odd = head[0::2].count(0), head[1::2].count(0)
        if max(even, odd) > len(head) // 5 and min(even, odd) < len(head) // 50:
            return "utf-16-le" if odd > even else "utf-16-be"
        raise LogError(f"“{name}” is not a text file.")
    strange = sum(byte < 9 or 13 < byte < 32 for byte in head)
    if strange > len(head) // 50:
        raise LogError(f"“{name}” is not a text file.")
    try:
        head[: len(head) - 4].decode("utf-8") if len(data) > len(head) else head.decode("utf-8")
        return "utf-8"
    except UnicodeDecodeError:
        return "cp1252"


def delimiter_of(lines: list[str], name: str) -> str:
    """Return the sign, or `BLANKS`, that cuts most lines into the same number of cells. Raises `LogError` if none does."""
    looked_at = lines[:200]
    best, score = "", 0.0
    for sign in _DELIMITERS:
        if sign == BLANKS and best:
            continue
        counts = [len(cells_of(line, sign)) for line in looked_at]
        usual = max(set(counts), key=counts.count)
        even = counts.count(usual) / len(counts)
        if usual > 1 and even * min(usual, 50) > score:
            best, score = sign, even * min(usual, 50)
    if not best:
        raise LogError(f"“{name}” is not a table: no comma, semicolon, tab, bar or blanks cut its lines into columns.")
    return best


def cells_of(line: str, delimiter: str) -> list[str]:
    """Return the cells of a line, without the blanks around them."""
    if delimiter == BLANKS:
        return re.split(BLANKS, line.strip())
    if '"' not in line:
        return [cell.strip() for cell in line.split(delimiter)]
    import csv

    return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter))]


def header_of(lines: list[str], delimiter: str, name: str) -> int:
    """Return the first line of the usual width whose cells are mostly words. Raises `LogError` if there is none."""
    widths = [len(cells_of(line, delimiter)) for line in lines[:200]]
    usual = max(set(widths), key=widths.count)
    for n, line in enumerate(lines[:60]):
        cells = cells_of(line, delimiter)
        if len(cells) < usual - 1 or len(cells) < 2:
            continue
        words = sum(bool(cell) and number(cell) is None for cell in cells)
        if words >= max(1, len(cells) // 2):
            return n
    raise LogError(f"“{name}” has no line of column names above its numbers.")
