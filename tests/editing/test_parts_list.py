"""Parts of a board from a table and back: turned, on either side, every bad line named."""

from __future__ import annotations

import pytest

from ashen_bridge.editing.parts_list import add_parts, read_parts, to_csv
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from devices import Card
from devices import project as card_project

TABLE = """Reference;X [mm];Y;Turn;Side;Size;Height;Watts;Role
U7;12.5;40;90;front;14 x 12;1.1;3.2;memory
L1;60;10;;rear;6x6;3;;
Q2;1in;5 mm;180;top;5 × 6;0.8;1.5;
"""


@pytest.fixture(scope="module")
def board() -> Project:
    return card_project(Card(parts=()))


def test_parts_stand_where_the_table_says(board: Project) -> None:
    first, second, third = read_parts(TABLE)
    assert first.box == pytest.approx((12.5 - 6, 40 - 7, 12.5 + 6, 40 + 7)), "turned by a quarter: 12 wide, 14 high"
    assert (second.side, second.role, second.watts) == (Side.REAR, "inductor", None)
    assert third.box == pytest.approx((25.4 - 2.5, 2, 25.4 + 2.5, 8))
    after = add_parts(board, "now", (first, second, third)).applied(board)
    made = {body.name: body for body in after.device.bodies}
    assert made["U7"].height_mm.value == 1.1
    assert after.points[0].powers_w[made["U7"].id].value == 3.2
    assert made["L1"].id not in after.points[0].powers_w


def test_what_goes_out_comes_in_again() -> None:
    demo = open_anything("demo:correlator").project
    parts = read_parts(to_csv(demo))
    bodies = {body.label: body for body in demo.device.bodies}
    assert len(parts) == sum(body.kind == "component" for body in demo.device.bodies)
    for one in parts:
        assert one.box == pytest.approx(bodies[one.reference].footprint.bounds, abs=1e-3)
        assert one.side is bodies[one.reference].side


def test_every_bad_line_is_named() -> None:
    bad = [";1;1;0;front;2x2;1;;", "A;x;1;0;front;2x2;1;;", "B;1;1;45;front;2x2;1;;", "C;1;1;0;left;2x2;1;;"]
    bad = ["U7;1;1;0;front;2x2;1;;", *bad, "D;1;1;0;front;big;1;;", "E;1;1;0;front;2x2;0;;"]
    with pytest.raises(ProjectError) as refused:
        read_parts(TABLE + "\n".join(bad))
    said = str(refused.value)
    for words in (
        "line 5",
        "stands in line 2 already",
        "line 6",
        "no reference",
        "line 7",
        "line 8",
        "45°",
        "line 9",
        "neither front nor rear",
        "1 more",
    ):
        assert words in said
    assert "\n" not in said


@pytest.mark.parametrize(
    ("text", "says"), [("", "empty"), ("a,b\n1,2\n", "lacks the column"), ("reference,x,y,size,height\n", "no parts")]
)
def test_tables_that_are_none(text: str, says: str) -> None:
    with pytest.raises(ProjectError, match=says):
        read_parts(text)


def test_a_taken_name_and_no_board_are_refused(board: Project) -> None:
    parts = read_parts("reference,x,y,size,height\nDie,1,1,2x2,1\n")
    with pytest.raises(ProjectError, match="“Die” already"):
        add_parts(board, "now", parts)
