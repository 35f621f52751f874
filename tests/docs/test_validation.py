"""Every check against published work passes, and docs/validation.md says what the code says."""

from __future__ import annotations

import re

import pytest

from published import Check
from validation import PAGE, checks, name, page

VALUES: dict[str, float] = {}


@pytest.mark.parametrize("check", list(checks()), ids=name)
def test_against_published_work(check: Check) -> None:
    value = VALUES[name(check)] = check.ours()
    assert check.passes(value), (value, check.reference, check.band)


def test_no_two_checks_share_a_name_and_each_names_its_source() -> None:
    listed = [name(check) for check in checks()]
    assert len(set(listed)) == len(listed)
    assert all(check.source for check in checks())


def test_the_page_says_what_the_code_says() -> None:
    """Word for word, with figures compared as numbers: their last digits may differ from machine to machine."""
    values = {name(check): VALUES.get(name(check)) or check.ours() for check in checks()}
    wanted, written = page(values), PAGE.read_text()
    number = r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?"
    assert re.sub(number, "#", wanted) == re.sub(number, "#", written), "run ./check validation"
    for ours, theirs in zip(re.findall(number, wanted), re.findall(number, written), strict=True):
        assert float(ours) == pytest.approx(float(theirs), rel=0.05, abs=0.2), "run ./check validation"
