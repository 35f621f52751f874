"""Numbers as people type them. Conversions are held against factors written down independently of the units library."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.editing.typed import TypedError, read_number


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("1.5", "mm", 1.5),
        ("2,5", "mm", 2.5),
        (" −0.46 ", "mm", -0.46),
        ("12.5/2+0.3", "mm", 6.55),
        ("(3+1)*2", "", 8.0),
        ("12.5/2 + 0.3 mm", "mm", 6.55),
        # Exact by definition: 1 in = 25.4 mm, 1 mil = 0.001 in (NIST SP 811, appendix B.8).
        ("40 mil", "mm", 1.016),
        ("1/8 in", "mm", 3.175),
        ('0.5"', "mm", 12.7),
        ("3 cm", "mm", 30.0),
        ("850 um", "mm", 0.85),
        ("0.05 mm", "µm", 50.0),
        # 1 kgf = 9.80665 N exactly; 1 lbf = 4.4482216152605 N exactly (NIST SP 811).
        ("1 kgf", "N", 9.80665),
        ("1 lbf/inch", "N/mm", 0.17512683523622),
        ("10 psi", "kPa", 68.94757293168),
        ("1 bar", "kPa", 100.0),
        ("185 °F", "°C", 85.0),
        ("358.15 K", "°C", 85.0),
        ("85 C", "°C", 85.0),
        ("0.5 cm²", "mm²", 50.0),
        ("30 mm3", "mm³", 30.0),
        ("0.1 °C/W", "K/W", 0.1),
        ("5 W/m·K", "W/m·K", 5.0),
        ("0.05 W/(cm*K)", "W/m·K", 5.0),
        ("1500 mW", "W", 1.5),
        ("1e-1", "mm", 0.1),
        ("50 %", "%", 50.0),
    ],
)
def test_what_is_typed_becomes_a_number_in_the_fields_unit(text: str, unit: str, value: float) -> None:
    assert read_number(text, unit) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [
        ("", "mm", "Nothing is typed"),
        ("two", "mm", "two"),
        ("3 kg", "mm", "unit that fits"),
        ("1/0", "mm", "divides by zero"),
        ("1,234", "mm", "write one of them"),
        ("1,2,3", "mm", "separators"),
        ("2**900", "mm", "not a number"),
        ("__import__('os')", "mm", "not"),
        ("1" * 200, "mm", "too long"),
        ("()", "mm", "worked out"),
        ("nan", "mm", "not"),
        ("1e999", "mm", "does not give"),
        ("hot", "°C", "not a temperature"),
        ("(((((", "mm", "worked out"),
    ],
)
def test_nonsense_is_refused_in_one_sentence(text: str, unit: str, words: str) -> None:
    with pytest.raises(TypedError) as error:
        read_number(text, unit)
    assert words in str(error.value)
    assert "\n" not in str(error.value)


@given(st.text(max_size=60), st.sampled_from(["mm", "°C", "N/mm", "W/m·K", "%", ""]))
def test_any_text_at_all_is_a_number_or_a_sentence(text: str, unit: str) -> None:
    try:
        value = read_number(text, unit)
    except TypedError as error:
        assert str(error).strip()
    else:
        assert abs(value) < 1e15


@given(st.floats(-1e6, 1e6).map(lambda value: float(f"{value:.6g}")))
def test_what_a_field_shows_can_be_typed_back(value: float) -> None:
    assert read_number(f"{value:.6g}", "mm") == pytest.approx(value, rel=1e-9, abs=1e-12)
