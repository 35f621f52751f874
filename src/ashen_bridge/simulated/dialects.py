"""Invented logger dialects: forty files with the truth they were written from, half of them odd in three ways at once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

WHAT = ("core", "hot spot", "memory", "power", "fan", "ambient")
_KINDS = {"core": "c", "hot spot": "c", "memory": "c", "ambient": "c", "power": "w", "rail": "w", "fan": "rpm", "load": "%"}
UNITS = {"c": "°C", "w": "W", "rpm": "rpm", "%": "%"}

WORDS = {
    "english": {
        "core": "GPU Core", "hot spot": "GPU Hot Spot", "memory": "Memory", "power": "Board Power", "rail": "5 V Rail Power",
        "fan": "Fan", "ambient": "Ambient", "load": "GPU Load",
    },
    "bare": {
        "core": "gpu_temp", "hot spot": "gpu_hotspot_temp", "memory": "vram_temp", "power": "total_power", "rail": "aux_power",
        "fan": "fan1", "ambient": "room_temp", "load": "gpu_util",
    },
    "german": {
        "core": "Kern Temperatur", "hot spot": "Heißester Punkt", "memory": "Speicher Temperatur", "power": "Leistungsaufnahme",
        "rail": "Hilfsleistung", "fan": "Lüfterdrehzahl", "ambient": "Umgebungstemperatur", "load": "Auslastung",
    },
    "french": {
        "core": "Température cœur", "hot spot": "Point chaud", "memory": "Température mémoire", "power": "Puissance carte",
        "rail": "Puissance auxiliaire", "fan": "Ventilateur", "ambient": "Température ambiante", "load": "Charge",
    },
    "spanish": {
        "core": "Temperatura núcleo", "hot spot": "Punto caliente", "memory": "Temperatura memoria", "power": "Potencia placa",
        "rail": "Potencia auxiliar", "fan": "Ventilador", "ambient": "Temperatura ambiente", "load": "Carga",
    },
}  # fmt: skip


@dataclass(frozen=True)
class Spec:
    """How a logger writes."""

    time: str = "elapsed s"
    numbers: str = "point"
    units: str = "brackets"
    layout: str = "comma"
    words: str = "english"
    extras: tuple[str, ...] = ()


@dataclass(frozen=True)
class Dialect:
    """One file: its bytes, how it was written, and what is true: seconds from the first line, values by what they are."""

    name: str
    data: bytes
    spec: Spec
    time_s: Floats
    values: dict[str, Floats] = field(compare=False)


_BEGIN = datetime(2031, 4, 3, 23, 58, 0)
_SUMMER = datetime(2031, 3, 30, 1, 58, 0)

TIMES: dict[str, tuple[tuple[str, ...], Callable[[float], tuple[str, ...]]]] = {
    "elapsed s": (("Time [s]",), lambda t: (f"{t:.1f}",)),
    "minutes": (("Time [min]",), lambda t: (f"{t / 60:.4f}",)),
    "hours": (("Time (h)",), lambda t: (f"{t / 3600:.6f}",)),
    "milliseconds": (("Elapsed (ms)",), lambda t: (f"{t * 1e3:.0f}",)),
    "microseconds": (("timestamp_us",), lambda t: (f"{t * 1e6:.0f}",)),
    "epoch s": (("timestamp",), lambda t: (f"{1.93e9 + t:.1f}",)),
    "epoch ms": (("timestamp",), lambda t: (f"{1.93e12 + t * 1e3:.0f}",)),
    "epoch µs": (("time",), lambda t: (f"{1.93e15 + t * 1e6:.0f}",)),
    "epoch ns": (("ts",), lambda t: (str(1_930_000_000_000_000_000 + int(t * 1e3) * 1_000_000),)),
    "mm:ss.s": (("Time",), lambda t: (f"{int(t // 60):02d}:{t % 60:04.1f}",)),
    "unnamed": (("",), lambda t: (f"{t:.1f}",)),
    "day first": (("Date", "Time"), lambda t: _stamp(t, "%d/%m/%Y", "%H:%M:%S")),
    "month first": (("Date", "Time"), lambda t: _stamp(t, "%m/%d/%Y", "%H:%M:%S")),
    "thousandths after a colon": (("Timestamp",), lambda t: (_stamp(t, "%Y-%m-%d %H:%M:%S")[0] + f":{int(t * 1e3) % 1000:03d}",)),
    "iso": (("Time",), lambda t: (_stamp(t, "%Y-%m-%dT%H:%M:%S")[0] + "Z",)),
    "clock": (("Time",), lambda t: _stamp(t, "%H:%M:%S")),
    "summer time": (("Time",), lambda t: (_summer(t),)),
}


def _stamp(t: float, *forms: str) -> tuple[str, ...]:
    return tuple((_BEGIN + timedelta(seconds=t)).strftime(form) for form in forms)


def _summer(t: float) -> str:
    at = _SUMMER + timedelta(seconds=t)
    return (at + timedelta(hours=1 if at.hour >= 2 else 0)).strftime("%Y-%m-%d %H:%M:%S")


NUMBERS: dict[str, Callable[[float], str]] = {
    "point": lambda v: f"{v:.1f}",
    "comma": lambda v: f"{v:.1f}".replace(".", ","),
    "thousands": lambda v: f"{v:,.1f}",
    "thousands, comma": lambda v: f"{v:,.1f}".translate(str.maketrans(",.", ".,")),
    "thousands, blank": lambda v: f"{v:,.1f}".translate(str.maketrans(",.", " ,")),
}
_DELIMITERS = {"comma": ",", "semicolon": ";", "tab": "\t", "bar": "|", "blanks": "  ", "long": ","}

SINGLE = (
    *(Spec(time=one) for one in TIMES if one != "elapsed s"),
    Spec(numbers="thousands"),
    Spec(numbers="thousands, blank", layout="semicolon"),
    Spec(units="cells"),
    Spec(units="suffix", words="bare"),
)
TRIPLE = (
    Spec(time="minutes", numbers="comma", layout="semicolon", words="german"),
    Spec(time="epoch ms", units="suffix", words="bare", extras=("summary",)),
    Spec(time="day first", numbers="thousands, comma", layout="semicolon", words="french"),
    Spec(time="month first", layout="tab", extras=("preamble",)),
    Spec(time="mm:ss.s", numbers="comma", layout="semicolon", words="spanish"),
    Spec(time="thousandths after a colon", units="cells", extras=("summary",)),
    Spec(time="unnamed", layout="blanks", units="suffix", words="bare"),
    Spec(time="hours", layout="bar", extras=("rail",)),
    Spec(time="epoch µs", layout="long", words="bare", units="suffix"),
    Spec(time="iso", layout="long", extras=("rail",)),
    Spec(time="clock", numbers="comma", units="row", layout="semicolon", words="german"),
    Spec(time="summer time", extras=("preamble", "rail")),
    Spec(time="milliseconds", units="cells", words="french"),
    Spec(time="day first", units="row", layout="tab", words="spanish"),
    Spec(time="elapsed s", layout="blanks", units="suffix", words="bare", extras=("rail",)),
    Spec(time="epoch s", extras=("twice", "summary")),
    Spec(time="microseconds", numbers="thousands", extras=("twice",)),
    Spec(time="clock", extras=("set forward", "preamble")),
    Spec(time="iso", numbers="comma", layout="semicolon", words="german", extras=("summary", "rail")),
    Spec(time="elapsed s", numbers="thousands, comma", layout="bar", words="spanish", extras=("preamble",)),
)


def dialects() -> Iterator[Dialect]:
    """Yield the forty files."""
    for n, spec in enumerate((*SINGLE, *TRIPLE)):
        yield written(spec, n)


def written(spec: Spec, seed: int) -> Dialect:
    """Return a run under load as a logger of this kind writes it; the same for the same seed."""
    time, values = _run(seed)
    kinds = [what for what in values if what != "rail" or "rail" in spec.extras]
    shown_time = time + np.where(np.arange(len(time)) >= 150, 1800.0, 0.0) if "set forward" in spec.extras else time
    heads, clock = TIMES[spec.time]
    number, delimiter = NUMBERS[spec.numbers], _DELIMITERS[spec.layout]
    names = [_heading(spec, what) for what in kinds]

    def cell(what: str, value: float) -> str:
        text = number(value) + (f" {UNITS[_KINDS[what]]}" if spec.units == "cells" else "")
        return f'"{text}"' if delimiter in text else text

    lines = []
    if spec.layout == "long":
        lines.append(delimiter.join([*heads, "sensor", "value"]))
        for n, t in enumerate(shown_time):
            lines += [delimiter.join([*clock(t), name, number(values[w][n])]) for w, name in zip(kinds, names, strict=True)]
    else:
        if "twice" in spec.extras:
            names[kinds.index("core")], names[kinds.index("memory")] = "Temperature [°C]", "Temperature [°C]"
        lines.append(delimiter.join([*heads, *names]))
        if spec.units == "row":
            lines.append(delimiter.join([*[""] * len(heads), *(UNITS[_KINDS[what]] for what in kinds)]))
        lines += [delimiter.join([*clock(t), *(cell(what, values[what][n]) for what in kinds)]) for n, t in enumerate(shown_time)]
        if "summary" in spec.extras:
            for word, figure in (("Min", np.min), ("Max", np.max), ("Average", np.mean)):
                lines.append(
                    delimiter.join([word, *[""] * (len(heads) - 1), *(cell(w, float(figure(values[w]))) for w in kinds)])
                )
    if "preamble" in spec.extras:
        lines = [delimiter.join(pair) for pair in (("Bench", "7"), ("Interval", "2"), ("Device", "invented"))] + [""] + lines
    kept = {what: values[what] for what in kinds if what in WHAT and not ("twice" in spec.extras and what in ("core", "memory"))}
    name = ", ".join([spec.time, spec.numbers, spec.units, spec.layout, spec.words, *spec.extras])
    encoding = "cp1252" if seed % 5 == 3 else "utf-8"
    return Dialect(name, ("\r\n" if seed % 2 else "\n").join(lines).encode(encoding) + b"\n", spec, shown_time, kept)


def _heading(spec: Spec, what: str) -> str:
    word, kind = WORDS[spec.words][what], _KINDS[what]
    if spec.units == "suffix":
        return f"{word.lower().replace(' ', '_')}_{'pct' if kind == '%' else kind}"
    if spec.units == "brackets" or spec.layout == "long":
        return f"{word} [{UNITS[kind]}]"
    return word


def _run(seed: int) -> tuple[Floats, dict[str, Floats]]:
    chance = np.random.default_rng([40, seed])
    time: Floats = np.arange(0.0, 480.0, 2.0)
    load = np.asarray(np.where(time >= 40, 1.0, 0.12), dtype=np.float64)
    warm = np.asarray(np.where(time >= 40, 1 - np.exp(-(time - 40) / 90), 0.0), dtype=np.float64)

    def noisy(values: Floats, spread: float) -> Floats:
        return np.round(values + chance.normal(0, spread, len(time)), 1)

    return time, {
        "core": noisy(31 + 42 * warm, 0.2),
        "hot spot": noisy(33 + 55 * warm, 0.3),
        "memory": noisy(34 + 38 * warm, 0.2),
        "rail": noisy(np.full(len(time), 11.0), 0.1),
        "power": noisy(225 * load, 1.0),
        "fan": noisy(900 + 850 * warm, 4.0),
        "ambient": noisy(23 + 0.002 * time, 0.05),
        "load": noisy(97 * load, 0.5),
    }
