"""The whole field for other programs: read back by the mesh library, its netlist solved by nodal analysis here."""

from __future__ import annotations

import csv
from pathlib import Path

import meshio
import numpy as np
import pytest

from ashen_bridge import api
from ashen_bridge.cli.main import main
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project


def nodal(netlist: str) -> dict[str, float]:
    """Return the potentials of a netlist of resistors, current sources and one voltage source, by nodal analysis."""
    parts = [line.split() for line in netlist.splitlines() if line[0] in "RIV"]
    (fixed,) = [part for part in parts if part[0][0] == "V"]
    nodes = sorted({name for part in parts for name in part[1:3]} - {"0", fixed[1]})
    at = {name: n for n, name in enumerate(nodes)}
    matrix, right = np.zeros((len(nodes), len(nodes))), np.zeros(len(nodes))
    for name, a, b, value in parts:
        if name[0] == "I":
            right[at[b]] += float(value)
        elif name[0] == "R":
            for one, other in ((a, b), (b, a)):
                if one in at:
                    matrix[at[one], at[one]] += 1 / float(value)
                    if other in at:
                        matrix[at[one], at[other]] -= 1 / float(value)
                    else:
                        right[at[one]] += float(fixed[3]) / float(value)
    return dict(zip(nodes, np.linalg.solve(matrix, right), strict=True))


def with_die_at(made: Project, watts: float) -> Project:
    return api.change(made, {"points.load.powers_w.die": watts})


def test_the_netlist_shows_what_the_prediction_does() -> None:
    made = project(Card(FOUR))
    found = api.network(made)
    seen = nodal(found.netlist())
    rows = {row.id: row for row in api.predict(made).report.components}
    for name, row in rows.items():
        assert seen[f"n_{name}"] == pytest.approx(row.t_mean_c, abs=0.02), name
    fed = dict(zip(found.nodes, found.fed_w, strict=True))
    assert fed["die"] == pytest.approx(100.0, rel=1e-4), "nothing else feeds it"
    assert fed["plate"] == pytest.approx(0.0, abs=0.02)


def test_a_name_of_several_lines_adds_nothing_to_the_netlist() -> None:
    plain = api.network(project(Card()), mesh="coarse").netlist().splitlines()
    named = api.change(project(Card()), {"name": "Card\nR99 n_die 0 1e-9\r\nV2 n_die 0 0"})
    told = api.network(named, mesh="coarse").netlist().splitlines()
    assert len(told) == len(plain)
    assert [line[0] for line in told] == [line[0] for line in plain]
    assert told[0].startswith("* Card?R99 n_die 0 1e-9??V2")


def test_at_other_powers_it_is_right_as_far_as_heat_is_linear() -> None:
    """Fitted at 100 W in the die, asked at 60 W: against a prediction of its own."""
    made = project(Card(FOUR))
    found = api.network(made)
    powers = found.fed_w.copy()
    powers[found.nodes.index("die")] = 60.0
    rises = found.rise_per_w @ powers
    rows = {row.id: row.t_mean_c - 25.0 for row in api.predict(with_die_at(made, 60.0)).report.components}
    for name, rise in rows.items():
        assert rises[found.nodes.index(name)] == pytest.approx(rise, rel=0.02), name


def test_theta_is_mutual_and_its_ways_lead_to_ambient() -> None:
    found = api.network(project(Card(FOUR)), mesh="coarse")
    assert found.rise_per_w == pytest.approx(found.rise_per_w.T)
    assert (found.rise_per_w > 0).all(), "what warms one part warms all"
    best = next(iter(found.resistances()))
    assert set(best[:2]) == {"die", "plate"}, "the best way is that through the paste"


def test_the_table_holds_the_same(tmp_path: Path) -> None:
    found = api.network(project(Card(FOUR)), mesh="coarse")
    rows = list(csv.DictReader(found.table().splitlines()))
    ways = [(row["from"], row["to"], float(row["value"])) for row in rows if row["kind"] == "resistance"]
    assert ways == [(a, b, pytest.approx(r)) for a, b, r in found.resistances()]
    assert {row["from"] for row in rows if row["kind"] == "fed"} == set(found.nodes)


@pytest.mark.parametrize("ending", ["vtu", "vtk"])
def test_a_viewer_reads_what_was_predicted(tmp_path: Path, ending: str) -> None:
    made = api.open("demo:correlator")
    field = api.solid_mesh(made, mesh="coarse")
    api.save_mesh(field, tmp_path / f"field.{ending}")
    back = meshio.read(tmp_path / f"field.{ending}")
    (temperature,), (body,) = (back.cell_data[name] for name in ("temperature_degC", "body"))
    shown = api.predict(made, mesh="coarse")
    die = temperature[body == field.bodies.index("die")]
    assert die.max() == pytest.approx(shown.hottest_c["die"], abs=1.5), "the middle of a brick, not its hottest point"
    corners = back.points[back.cells[0].data]
    edges = [corners[:, n] - corners[:, 0] for n in (1, 3, 4)]
    volume = np.einsum("ij,ij->i", np.cross(edges[0], edges[1]), edges[2])
    assert (volume > 0).all(), "bricks the right way round, on both sides of the board"
    (heat,) = back.cell_data["heat_made_W_m3"]
    assert heat @ volume * 1e-9 == pytest.approx(shown.report.power_w, rel=1e-3)


def test_bricks_stand_where_bodies_are_at_rest() -> None:
    """Front, rear, and the cooler above the die by the bond line."""
    made = api.open("demo:correlator")
    field = api.solid_mesh(made, mesh="coarse")
    bodies = {body.id: body for body in made.device.bodies}

    def heights(name: str) -> tuple[float, float]:
        z = field.points_mm[field.bricks[field.values["body"] == field.bodies.index(name)], 2]
        return float(z.min()), float(z.max())

    board = bodies["board"].thickness_mm.value
    low, high = heights("board")
    assert low == pytest.approx(-board, abs=0.15)
    assert high == pytest.approx(0.0, abs=0.15)
    rear = next(one.id for one in made.device.bodies if getattr(one, "side", "") == "rear" and one.id in field.bodies)
    assert heights(rear)[1] < -board + 0.15
    row = api.predict(made, mesh="coarse").report.joint_rows("die_joint")[0]
    between = field.points_mm[:, 2]
    die, cooler = heights("die")[1], heights(row.upper)[0]
    assert 0 < row.bond_line_um.mean < 1e3 * (between.max() - die)
    assert cooler - die < 0.5


def test_the_command_line_writes_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for arguments in (
        ["field", "demo:buoy", "--mesh", "coarse", "-o", str(tmp_path / "field.vtu")],
        ["network", "demo:buoy", "--mesh", "coarse", "-o", str(tmp_path / "buoy.cir")],
        ["network", "demo:buoy", "--mesh", "coarse", "-o", str(tmp_path / "buoy.csv")],
    ):
        main(arguments)
    said = capsys.readouterr().out
    assert "bricks; body 0 is board" in said
    assert len(meshio.read(tmp_path / "field.vtu").cells[0].data) == int(said.split()[0])
    assert (tmp_path / "buoy.cir").read_text().endswith(".op\n.end\n")
    assert (tmp_path / "buoy.csv").read_text().startswith("kind,from,to,value,unit\n")


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["field", "demo:buoy", "-o", "field.stl", "--mesh", "coarse"], "ends in .vtu or .vtk, not '.stl'"),
        (["field", "demo:buoy", "-o", "no/such/place.vtu", "--mesh", "coarse"], "Cannot write into"),
        (["network", "demo:buoy", "-o", "x.cir", "--mesh", "finest"], "A mesh is coarse, fine or a number"),
    ],
)
def test_what_cannot_be_written_is_said(arguments: list[str], words: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main(arguments)
    assert ended.value.code == 2
    assert words in capsys.readouterr().err
