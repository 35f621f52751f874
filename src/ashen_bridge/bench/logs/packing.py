"""Logs as clean tables: CSV for people, compressed CSV for the store, equal bytes for equal logs."""

from __future__ import annotations

import gzip
import io
import zlib

import numpy as np
import pandas as pd

from ashen_bridge.bench.logs.log import Column, Floats, Log
from ashen_bridge.bench.outcome import RunError


def table(log: Log) -> pd.DataFrame:
    """Return a log as a table: elapsed seconds, one column each with its unit, `-` where it has none."""
    columns = {"time [s]": np.round(log.time_s, 3)}
    return pd.DataFrame(columns | {f"{one.name} [{one.unit or '-'}]": one.values for one in log.columns})


def as_csv(log: Log) -> str:
    """Return a log as clean CSV; see `table`."""
    return str(table(log).to_csv(index=False, float_format="%.6g"))


def pack_log(log: Log) -> bytes:
    """Return a log as compressed clean CSV, equal bytes for equal logs."""
    from pyarrow import Table, csv

    # The column library writes a day of sixty columns in a second, each number as short as it reads back the same.
    buffer = io.BytesIO()
    csv.write_csv(Table.from_pandas(table(log), preserve_index=False), buffer)
    return gzip.compress(buffer.getvalue(), compresslevel=4, mtime=0)


def unpack_log(content: bytes) -> Log:
    """Return the log that was packed. Raises `RunError` if it is not one."""
    try:
        read = pd.read_csv(io.BytesIO(gzip.decompress(content)), low_memory=False)
        columns = [_column(str(name), read[name].to_numpy(dtype=float)) for name in read.columns[1:]]
        return Log(read.iloc[:, 0].to_numpy(dtype=float), tuple(columns))
    except (OSError, EOFError, ValueError, IndexError, zlib.error, pd.errors.ParserError) as error:
        raise RunError(f"A run's log is damaged ({type(error).__name__}).") from error


def _column(heading: str, values: Floats) -> Column:
    name, _, unit = heading.removesuffix("]").rpartition(" [")
    return Column(name, "" if unit == "-" else unit, values)
