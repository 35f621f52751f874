"""Runs: reading any log, settling with honest intervals, comparing; against closed forms, a library and known truth."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares
from scipy.stats import t as student
from scipy.stats import ttest_ind

from ashen_bridge.bench.compare import passes_for, rise_over_power
from ashen_bridge.bench.spread import USUAL_K, Passes, differences, spread_between
from ashen_bridge.logs.log import LogError
from ashen_bridge.logs.numbers import split_unit
from ashen_bridge.logs.reading import parse_log, read_log
from ashen_bridge.logs.settling import throttling
from ashen_bridge.logs.statistics import channel, effective_count, spikes

PLAIN = "Time [s],GPU Hot Spot [°C],Board Power [W]\n" + "".join(f"{n},{60 + 0.1 * n:.1f},{200 + n % 3}\n" for n in range(40))


def parsed(text: str, encoding: str = "utf-8") -> object:
    return parse_log(text.encode(encoding), "log.csv")


# ---- reading


def test_a_plain_log() -> None:
    log = parse_log(PLAIN.encode(), "log.csv")
    assert [(one.name, one.unit) for one in log.columns] == [("GPU Hot Spot", "°C"), ("Board Power", "W")]
    assert log.time_s[-1] == 39.0
    assert log.column("GPU Hot Spot").values[10] == pytest.approx(61.0)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "cp1252"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_encodings_and_delimiters(encoding: str, delimiter: str) -> None:
    log = parse_log(PLAIN.replace(",", delimiter).encode(encoding), "log.csv")
    assert len(log.columns) == 2
    assert log.columns[0].unit == "°C"
    assert log.columns[1].values[5] == 202.0


def test_decimal_commas_and_german_dates_across_midnight() -> None:
    lines = ["Datum;Zeit;CPU-Temperatur [°C];Leistung [W]"]
    for n in range(12):
        clock = (86_395 + n) % 86_400
        stamp = f"{24 + (n > 4)}.11.2026;{clock // 3600:02d}:{clock % 3600 // 60:02d}:{clock % 60:02d}"
        lines.append(f"{stamp};{f'{50 + n / 10:.1f}'.replace('.', ',')};95,5")
    log = parse_log("\n".join(lines).encode(), "log.csv")
    assert log.time_s.tolist() == list(range(12))
    assert log.column("CPU-Temperatur").values[3] == pytest.approx(50.3)
    assert log.column("Leistung").values[0] == pytest.approx(95.5)


def test_a_bare_clock_goes_on_at_midnight() -> None:
    rows = [
        f"{h:02d}:{m:02d}:{s:02d},{40 + k},5" for k, (h, m, s) in enumerate([(23, 59, 58), (23, 59, 59), (0, 0, 0), (0, 0, 1)])
    ]
    log = parse_log(("Time,Temp,Power\n" + "\n".join(rows)).encode(), "x.csv")
    assert log.time_s.tolist() == [0.0, 1.0, 2.0, 3.0]
    assert any("backwards" in note for note in log.notes)


def test_what_loggers_do_to_their_files() -> None:
    """Lines before the header, a line of units, repeated headers, empty marks, equal names, a last line cut off."""
    head = "Logger 3.2, made by nobody\n\nTime,Fan,Fan,Temp,Mode\n"
    units = "s,RPM,RPM,°C,\n"
    body = "".join(f"{n},{1500 + n},{900},{'N/A' if n == 3 else '-' if n == 4 else 55 + n},auto\n" for n in range(12))
    again = "Time,Fan,Fan,Temp,Mode\n"
    log = parse_log(
        (head + units + body + again + "".join(f"{n},1600,910,70,auto\n" for n in range(12, 24)) + "24,16").encode(), "x.csv"
    )
    assert [one.name for one in log.columns] == ["Fan", "Fan (2)", "Temp"]
    assert log.column("Fan").unit == "rpm"
    temp = log.column("Temp").values
    assert np.isnan(temp[3])
    assert np.isnan(temp[4])
    assert temp[5] == 60.0
    assert len(log.time_s) == 24
    assert any("repeated header" in note for note in log.notes)
    assert any("breaks off" in note for note in log.notes)


def test_no_time_column_is_one_line_a_second_and_said() -> None:
    log = parse_log(b"A,B\n1,2\n3,4\n5,6\n", "x.csv")
    assert log.time_s.tolist() == [0.0, 1.0, 2.0]
    assert any("one line a second is assumed" in note for note in log.notes)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR" + bytes(range(256)) * 8, "is not a text file"),
        (b"one line of prose", "is not a table"),
        (b"A,B\n1,2\n", "holds 1 line of readings"),
        (b"A,B\nx,y\nu,v\nw,z\n", "no numbers besides the time"),
        (b"1,2\n3,4\n5,6\n", "no line of column names"),
        ((",".join(f"c{n}" for n in range(5000)) + "\n").encode() * 3, "5000 columns; up to 2000"),
    ],
)
def test_what_is_no_log_is_said_in_one_sentence(data: bytes, words: str) -> None:
    with pytest.raises(LogError, match=words) as error:
        parse_log(data, "f.csv")
    assert str(error.value).endswith(".")
    assert "\n" not in str(error.value)


@settings(max_examples=150, deadline=None)
@given(st.one_of(st.binary(max_size=600), st.text(alphabet='0123456789.,;:-/ \t\n"aTW°', max_size=400).map(str.encode)))
def test_any_bytes_are_a_log_or_a_sentence(data: bytes) -> None:
    try:
        log = parse_log(data, "any")
    except LogError as error:
        assert str(error).endswith(".")
    else:
        assert len(log.time_s) == len(log.columns[0].values)
        assert (np.diff(log.time_s) >= 0).all()


def test_files_that_cannot_be_read(tmp_path: Path) -> None:
    with pytest.raises(LogError, match="cannot be read"):
        read_log(tmp_path / "none.csv")
    assert split_unit("Load") == ("Load", "")


# ---- figures of a window


def autoregression(rho: float, n: int, seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    noise = rng.normal(0, math.sqrt(1 - rho**2), n)
    found = np.zeros(n)
    found[0] = rng.normal()
    for k in range(1, n):
        found[k] = rho * found[k - 1] + noise[k]
    return found


@pytest.mark.parametrize("rho", [0.0, 0.5, 0.9])
def test_samples_that_follow_each_other_count_less(rho: float) -> None:
    """A first-order autoregression is worth n·(1 − ρ)/(1 + ρ) independent samples (closed form)."""
    worth = np.mean([effective_count(autoregression(rho, 4000, seed)) for seed in range(12)])
    assert worth == pytest.approx(4000 * (1 - rho) / (1 + rho), rel=0.12)


def test_the_standard_error_covers_the_mean() -> None:
    """The true mean lies within ± 1.96 standard errors about 95 times in 100, autocorrelation and all."""
    hits = 0
    for seed in range(200):
        found = channel(50 + autoregression(0.8, 1500, seed))
        assert found is not None
        hits += abs(found.mean - 50) < 1.96 * found.standard_error
    assert 180 <= hits <= 199


def test_single_spikes_are_set_apart_and_steps_are_not() -> None:
    rng = np.random.default_rng(1)
    values = 70 + rng.normal(0, 0.2, 300)
    values[100] = 95.0
    assert np.flatnonzero(spikes(values)).tolist() == [100]
    step = np.concatenate([np.full(50, 60.0), np.full(50, 80.0)]) + rng.normal(0, 0.1, 100)
    assert not spikes(step).any()
    found = channel(values)
    assert found is not None
    assert found.maximum < 75
    assert found.spikes == 1
    assert channel(np.array([1.0, np.nan])) is None


# ---- settling


def test_throttling_is_power_that_falls_while_a_temperature_sits_at_its_limit() -> None:
    t = np.arange(0.0, 1200.0)
    temperature = np.minimum(95.0, 40 + 80 * (1 - np.exp(-t / 200)))
    power = np.where(temperature < 94.5, 200.0, 172.0)
    found = throttling(t, temperature, 95.0, {"power": power})
    assert found is not None
    assert (found.channel, found.before, found.after) == ("power", 200.0, 172.0)
    assert throttling(t, temperature, 95.0, {"power": np.full(len(t), 200.0)}) is None
    assert throttling(t, temperature - 10, 95.0, {"power": power}) is None


def test_the_fitter_on_a_certified_problem() -> None:
    """NIST StRD, Misra1a (lower difficulty): b1 = 238.94212918, b2 = 5.5015643181e-4; data and certified values from memory."""
    x = np.array([77.6, 114.9, 141.1, 190.8, 239.9, 289.0, 332.8, 378.4, 434.8, 477.3, 536.8, 593.1, 689.1, 760.0])
    y = np.array([10.07, 14.73, 17.94, 23.93, 29.61, 35.18, 40.02, 44.82, 50.76, 55.05, 61.01, 66.40, 75.47, 81.78])
    exact = {"x_scale": [100.0, 1e-4], "xtol": 1e-12, "ftol": 1e-12}
    found = least_squares(lambda b: b[0] * (1 - np.exp(-b[1] * x)) - y, [500.0, 1e-4], **exact)
    assert found.x == pytest.approx([238.94212918, 5.5015643181e-4], rel=1e-5)
    assert 2 * found.cost == pytest.approx(1.2455138894e-1, rel=1e-5)


# ---- comparing


def test_one_sensor_against_a_statistics_library() -> None:
    """With one sensor the pooled spread is Student's."""
    before, after = [91.2, 90.8, 91.9], [86.1, 87.9, 86.4, 86.6]
    spread = spread_between([np.array([before]), np.array([after])])
    assert spread.measured
    (found,) = differences([Passes(before, after)], spread)
    theirs = ttest_ind(after, before, equal_var=True).confidence_interval(0.95)
    assert (found.low, found.high) == pytest.approx((theirs.low, theirs.high))
    assert found.verdict == "better"
    assert differences([Passes(after, before)], spread)[0].verdict == "worse"


def test_many_sensors_are_told_apart_as_holm_does() -> None:
    """Worked out again from the single p-values, step by step."""
    chance = np.random.default_rng(5)
    before, after = chance.normal(60, 0.4, (12, 3)), chance.normal(60, 0.4, (12, 3))
    after[:4] -= np.array([[0.7], [0.9], [1.1], [2.0]])
    spread = spread_between([before, after])
    found = differences([Passes(list(a), list(b)) for a, b in zip(before, after, strict=True)], spread)
    error = np.sqrt(2 * spread.variance / 3)
    single = 2 * student.sf(np.abs(after.mean(axis=1) - before.mean(axis=1)) / error, spread.freedom)
    rank = np.sort(single)
    kept = next((n for n, p in enumerate(rank) if p > 0.05 / (12 - n)), 12)
    assert 0 < kept < 12
    assert [one.verdict == "better" for one in found] == list(single <= rank[kept - 1])
    for one in found:
        assert (one.low <= 0 <= one.high) == (one.verdict == NOTHING)


NOTHING = "no difference that this test can show"


def passes_of(chance: np.random.Generator, sensors: int, count: int, shift: float = 0.0) -> np.ndarray:
    """Passes that spread by 0.3 K at each sensor and by 0.1 K together."""
    return np.asarray(60 + shift + chance.normal(0, 0.3, (sensors, count)) + chance.normal(0, 0.1, count))


def judged(before: np.ndarray, after: np.ndarray) -> list[str]:
    pairs = [Passes(list(a), list(b)) for a, b in zip(before, after, strict=True)]
    return [one.verdict for one in differences(pairs, spread_between([before, after]))]


@pytest.mark.long
@pytest.mark.parametrize("count", [1, 2, 3])
def test_equal_runs_seldom_show_a_difference_anywhere(count: int) -> None:
    chance = np.random.default_rng(10 + count)
    pairs = [(passes_of(chance, 20, count), passes_of(chance, 20, count)) for _ in range(400)]
    assert np.mean([set(judged(*pair)) != {NOTHING} for pair in pairs]) < 0.08


def test_three_passes_each_show_a_kelvin() -> None:
    chance = np.random.default_rng(20)
    pairs = [(passes_of(chance, 15, 3), passes_of(chance, 15, 3, shift=1.0)) for _ in range(200)]
    assert np.mean([verdict == "worse" for pair in pairs for verdict in judged(*pair)]) >= 0.8


def test_one_pass_stands_on_the_usual_spread() -> None:
    one = spread_between([np.array([[60.0], [50.0]]), np.array([[61.0], [51.0]])])
    assert not one.measured
    assert np.sqrt(one.variance) == pytest.approx(USUAL_K)
    assert judged(np.array([[60.0]]), np.array([[59.2]])) == [NOTHING]
    assert judged(np.array([[60.0]]), np.array([[57.0]])) == ["better"]
    vague = differences([Passes([60.0], [57.0], error_after=3.0)], one)
    assert vague[0].verdict == NOTHING, "an end that is hardly known tells little"


def test_a_plan_of_passes_shows_what_it_promises() -> None:
    n = passes_for(1.0, 0.6)
    assert 2 < n < 10
    assert passes_for(0.5, 0.6) > n
    assert passes_for(10.0, 0.6) == 2


def test_kelvins_per_watt_and_the_reading_that_does_not_fit() -> None:
    power = [50.0, 100.0, 150.0, 200.0, 120.0, 180.0]
    rise = [0.31 * p + e for p, e in zip(power, (0.1, -0.2, 0.15, -0.1, 0.05, 0.1), strict=True)]
    found = rise_over_power(power, rise)
    assert found is not None
    assert found.k_w == pytest.approx(0.31, abs=0.002)
    assert found.low < 0.31 < found.high
    assert found.outside == ()
    rise[3] += 9.0
    assert rise_over_power(power, rise).outside == (3,)  # type: ignore[union-attr]
    assert rise_over_power([1.0], [1.0]) is None
