"""Logs as clean tables: CSV for people, compressed CSV for the store, equal bytes for equal logs."""

from __future__ import annotations

import csv
import gzip
import io
import zlib

import numpy as np
import pandas as pd

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.outcome import RunError
from ashen_bridge.model.cells import defused

MOST_BYTES = 1 << 30  # a day of a thousand columns


def table(log: Log) -> pd.DataFrame:
    """Return a log as a table: elapsed seconds, one column each with its unit, `-` where it has none.

    Columns of one name stay apart; their headings are equal then.
    """
    headings = ["time [s]", *(f"{one.name} [{one.unit or '-'}]" for one in log.columns)]
    found = pd.concat([pd.Series(np.round(log.time_s, 3)), *(pd.Series(one.values) for one in log.columns)], axis=1)
    found.columns = pd.Index(headings)
    return found


def as_csv(log: Log) -> str:
    """Return a log as clean CSV for people, see `table`; no heading is taken for a formula."""
    found = table(log)
    found.columns = pd.Index([defused(heading) for heading in found.columns])
    return str(found.to_csv(index=False, float_format="%.6g"))


def pack_log(log: Log) -> bytes:
    """Return a log as compressed clean CSV, equal bytes for equal logs."""
    from pyarrow import Table, array
    from pyarrow.csv import write_csv

    # The column library writes a day of sixty columns in a second, each number as short as it reads back the same.
    buffer = io.BytesIO()
    packed = table(log)
    columns = [array(packed.iloc[:, n].to_numpy(), from_pandas=True) for n in range(packed.shape[1])]
    write_csv(Table.from_arrays(columns, names=list(packed.columns)), buffer)
    return gzip.compress(buffer.getvalue(), compresslevel=4, mtime=0)


def unpack_log(content: bytes) -> Log:
    """Return the log that was packed. Raises `RunError` if it is not one."""
    try:
        with gzip.open(io.BytesIO(content)) as packed:
            plain = packed.read(MOST_BYTES + 1)
        if len(plain) > MOST_BYTES:
            raise RunError(f"A run's log unpacks to more than {MOST_BYTES >> 20} MB.")
        text = io.StringIO(plain.decode(), newline="")
        headings = next(csv.reader(text))  # headings may be equal, which the table library would rename
        values = pd.read_csv(text, header=None, names=range(len(headings)), low_memory=False)
        columns = [_column(heading, values[n].to_numpy(dtype=float)) for n, heading in enumerate(headings) if n]
        return Log(values[0].to_numpy(dtype=float), tuple(columns))
    except (OSError, EOFError, ValueError, IndexError, StopIteration, csv.Error, zlib.error, pd.errors.ParserError) as error:
        raise RunError(f"A run's log is damaged ({type(error).__name__}).") from error


def _column(heading: str, values: Floats) -> Column:
    name, _, unit = heading.removesuffix("]").rpartition(" [")
    return Column(name, "" if unit == "-" else unit, values)
