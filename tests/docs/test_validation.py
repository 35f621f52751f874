"""Every check against published work passes, and docs/validation.md says what the code says."""

from __future__ import annotations

import re

import pytest

from published import Check
from validation import PAGE, checks, name, page

VALUES: dict[str, float] = {}


@pytest.mark.parametrize("check", [pytest.param(one, id=name(one), marks=[pytest.mark.long] * one.slow) for one in checks()])
def test_against_published_work(check: Check) -> None:
    value = VALUES[name(check)] = check.ours()
    assert check.passes(value), (value, check.reference, check.band)


def test_no_two_checks_share_a_name_and_each_names_its_source() -> None:
    listed = [name(check) for check in checks()]
    assert len(set(listed)) == len(listed)
    assert all(check.source for check in checks())


def test_the_page_says_what_the_code_says() -> None:
    """Word for word, with figures compared as numbers: their last digits may differ from machine to machine."""
    left_out = {check.case for check in checks() if check.slow and name(check) not in VALUES}
    values = {name(check): 0.0 if check.case in left_out else VALUES.get(name(check)) or check.ours() for check in checks()}
    wanted, written = page(values), PAGE.read_text()
    number = r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?"
    assert re.sub(number, "#", wanted) == re.sub(number, "#", written), "run ./check validation"
    for ours, theirs in zip(wanted.splitlines(), written.splitlines(), strict=True):
        if not any(case in ours for case in left_out):
            found = [[float(one) for one in re.findall(number, line)] for line in (ours, theirs)]
            assert found[0] == pytest.approx(found[1], rel=0.05, abs=0.2), "run ./check validation"
