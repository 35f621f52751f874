"""Readings as a table: out and in again, and what is wrong said by its row."""

from __future__ import annotations

import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.as_table import TableError, columns, from_csv, to_csv
from cards import card, height


@pytest.mark.parametrize("demo", ["correlator", "beamformer", "buoy"])
def test_what_goes_out_comes_in_again(demo: str) -> None:
    project = open_anything(f"demo:{demo}").project
    assert project.readings
    assert from_csv(to_csv(project)) == project.readings


def test_every_field_of_every_form_has_a_column() -> None:
    assert {"placement", "x_mm", "goes_mm", "least_mm", "path", "against", "piece", "aside"} <= set(columns())


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "no readings"),
        ("a,b\n1,2\n", "no readings"),
        ("form,id,values_mm,body,above\nheight,h,1.2 x,part_0,board\n", "Row 2: '1.2 x' under 'values_mm'"),
        ("form,id,values_mm,body,above\nheight,h,1.2,part_0,board\nheight,g,1.2,part_0\n", "Row 3"),
        ("form,id,values_mm,body,above\nsomething,h,1.2,part_0,board\n", "Row 2"),
        ("form,id,values_mm,body,above\nheight,h,1.2,part_0,board,more\n", "more cells"),
        ("form,id,values_mm,body,abve\nheight,h,1.2,part_0,board\n", "abve"),
    ],
)
def test_what_is_wrong_is_said_by_its_row(text: str, why: str) -> None:
    with pytest.raises(TableError, match=why.replace("'", "'")) as caught:
        from_csv(text)
    assert str(caught.value).count("\n") == 0


def test_a_comma_in_a_number_and_a_mark_of_order_are_read() -> None:
    text = '\ufeffform,id,values_mm,body,above\nheight,h,"1,20 1,21",part_0,board\n'
    assert from_csv(text)[0].values_mm == (1.2, 1.21)  # type: ignore[union-attr]
    assert to_csv(card(readings=(height("h", "part_0", 1.2, 1.21),))).count("1.2 1.21") == 1
