"""What a worker is sent for, sweeps, power grids, and the demos' own stories."""

from __future__ import annotations

import io
from pathlib import Path

import pandas as pd
import pytest

from ashen_bridge.assess import errands
from ashen_bridge.assess import sweep as sweeping
from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.dominant import dominant_layers
from ashen_bridge.cli.main import main
from ashen_bridge.editing.power_grid import read_grid, set_power_grid
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.demos import demo_names, open_anything
from ashen_bridge.files.errors import FileError
from ashen_bridge.files.tables import writer
from ashen_bridge.model.bodies import Component, DieMakeUp
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal import names
from devices import FOUR, Card, project

ENGINE = Engine()


# ---- layers by kelvin


def test_layers_are_ranked_by_what_they_would_gain() -> None:
    made = project(Card(FOUR))
    steps = list(errands.rank_layers(ENGINE, made, "now", "load", "s_die"))
    assert [progress for progress, _ in steps] == sorted(progress for progress, _ in steps)
    found = steps[-1][1]
    gains = [one.gain_k for one in found]
    assert gains == sorted(gains, reverse=True)
    by_label = {one.label: one.gain_k for one in found}
    # The sink resists 0.22 K/W of 112 W: a perfect one gains that, and some of the spreading in the base besides.
    assert 0.22 * 108 < by_label["Cooler to air"] < 1.4 * 0.22 * 112
    report = ENGINE.predict(made, fidelity="coarse").report
    drop = next(row.drop_k for row in report.joints if row.lower == "die")
    assert by_label["die_joint"] == pytest.approx(drop, rel=0.3)
    assert abs(by_label["Pads"]) < 0.5, "the memory's pads are not the die's layer"


def test_only_sensors_that_are_there_can_be_ranked_for() -> None:
    with pytest.raises(AssemblyError, match="There is no sensor 'nobody' in this build; there are: s_die"):
        dominant_layers(ENGINE, project(Card(FOUR)), None, None, "nobody")


def test_perfect_layers_leave_the_engine_as_it_was() -> None:
    engine, made = Engine(), project(Card(FOUR))
    before = engine.predict(made).report.sensors
    engine.shown(made, None, None, [names.sink("plate"), names.slab("die")])
    after = engine.predict(made).report.sensors
    assert [row.value_c for row in after] == pytest.approx([row.value_c for row in before], abs=1e-5)


# ---- errands


def test_a_course_is_worked_out_step_by_step() -> None:
    steps = list(errands.over_time(ENGINE, project(Card(FOUR)), "now", "load", "step 2min"))
    assert len(steps) > 5
    assert all(course is None for _, course in steps[:-1])
    assert steps[-1][0] == 1.0
    assert steps[-1][1] is not None
    assert steps[-1][1].sensors[0] == "s_die"


def test_chances_come_in_parts_and_can_be_called_off() -> None:
    made = project(Card(FOUR))
    report = ENGINE.predict(made, fidelity="coarse").report
    drawing = errands.draw_chances(ENGINE, made, "now", "load", report, 1000)
    progress, nothing = next(drawing)
    assert (progress < 0.1, nothing) == (True, None)
    found = [value for _, value in drawing if value is not None]
    assert [one.count for one in found] == [500, 1000]


def test_asking_is_an_errand_too() -> None:
    ((progress, answer),) = errands.answer(ENGINE, project(Card(FOUR)), "now", "load", "power", 5.0)
    assert progress == 1.0
    assert answer.what == "power"
    assert "5 K below its limit" in answer.text


# ---- sweeps


@pytest.mark.long
def test_a_sweep_writes_one_table(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    target = tmp_path / "all.csv"
    save_project(tmp_path / "card.json", project(Card(FOUR)))
    main(["sweep", str(tmp_path / "card.json"), "--samples", "20", "-o", str(target)])
    said = capsys.readouterr()
    assert "100 rows" in said.out  # 20 samples × 5 sensors
    assert said.err.count("done") == 1
    table = pd.read_csv(io.StringIO(target.read_text()))
    assert set(table.columns) == {"device", "build", "point", "sample", "sensor", "temperature_c", "limit_c"}
    means = table.groupby("sensor").temperature_c.mean()
    report = ENGINE.predict(project(Card(FOUR))).report
    for row in report.sensors:
        assert means[row.id] == pytest.approx(row.value_c, abs=4.0)


def test_sweeps_that_cannot_be() -> None:
    with pytest.raises(FileError, match=r"must end in .parquet or .csv"):
        writer(Path("x.xlsx"))
    with pytest.raises(sweeping.SweepError, match="nothing to sweep"):
        sweeping.errands([("a", project(Card(FOUR)))], ["other"], [])
    with pytest.raises(sweeping.SweepError, match="cannot be reached"):
        list(sweeping.sweep(sweeping.errands([("a", project(Card(FOUR)))], [], []), 10, 1, "tcp://127.0.0.1:9"))


def test_what_cannot_be_computed_is_told_beside_the_rest(tmp_path: Path) -> None:
    made = project(Card(FOUR, fan_percent=0.0))
    outcome = sweeping.work(sweeping.Errand("standing", made, "now", "load"), 10, 1)
    assert outcome.table is None
    assert "standing fan" in outcome.problem
    fine = sweeping.work(sweeping.Errand("fine", project(Card(FOUR)), "now", "load"), 10, 1)
    assert fine.table is not None
    writer(tmp_path / "x.parquet")(fine.table)
    assert len(pd.read_parquet(tmp_path / "x.parquet")) == 50


# ---- power grids


def die_of(made: object) -> DieMakeUp:
    body = next(one for one in made.device.bodies if one.id == "die")  # type: ignore[attr-defined]
    assert isinstance(body, Component)
    assert isinstance(body.make_up, DieMakeUp)
    return body.make_up


@pytest.mark.parametrize("text", ["1,1,4\n1,1,2\n", "1;1;4\n1;1;2", "1 1 4\n# note\n1 1 2\n\n", "\ufeff1\t1\t4\n1\t1\t2"])
def test_a_grid_becomes_shares_with_equal_neighbours_merged(tmp_path: Path, text: str) -> None:
    (tmp_path / "grid.csv").write_text(text, encoding="utf-8")
    card = project(Card(FOUR))
    made = set_power_grid(card, "die", read_grid(tmp_path / "grid.csv")).applied(card)
    blocks = {block.id: block for block in die_of(made).power_map}
    assert sum(block.share for block in blocks.values()) == pytest.approx(1.0)
    assert blocks["r0c0"].share == pytest.approx(0.2)  # two cells of 1 of 10
    assert blocks["r0c2"].area.bounds == pytest.approx((20 * 2 / 3, 10, 20, 20)), "first line at the upper edge"
    hot = ENGINE.predict(made, fidelity="coarse").report.component("die")
    even = ENGINE.predict(project(Card(FOUR)), fidelity="coarse").report.component("die")
    assert hot.t_max_c - hot.t_mean_c > even.t_max_c - even.t_mean_c + 0.5


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "holds no numbers"),
        ("1,2\n3\n", "different numbers of cells"),
        ("1,two\n", "line 1, cell 2: “two” is not a number"),
        ("1,-2\n", "must not be negative"),
        ("1,nan\n", "must not be negative, and must be numbers"),
        ("0,0\n", "all powers are zero"),
        (",".join(["1"] * 70), "up to 64 × 64"),
    ],
)
def test_grids_that_cannot_be(tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "grid.csv").write_text(text, encoding="utf-8")
    with pytest.raises(ProjectError, match=words):
        read_grid(tmp_path / "grid.csv")
    with pytest.raises(ProjectError, match="cannot be read"):
        read_grid(tmp_path / "none.csv")


def test_the_command_line_takes_a_grid(tmp_path: Path) -> None:
    (tmp_path / "grid.csv").write_text("1,0\n0,3\n")
    main(["power-map", "demo:beamformer", str(tmp_path / "grid.csv"), "--die", "die", "-o", str(tmp_path / "out.ashb")])
    made = open_project(tmp_path / "out.ashb").project
    assert [round(block.share, 2) for block in die_of(made).power_map] == [0.25, 0.75]
    with pytest.raises(ProjectError, match="no bare die 'bank_1'"):
        set_power_grid(made, "bank_1", [[1.0]]).applied(made)


# ---- demos


def test_all_demos_ship_and_are_sound() -> None:
    assert demo_names() == ("beamformer", "buoy", "correlator")
    for name in demo_names():
        opened = open_anything(f"demo:{name}")
        for build in opened.project.builds:
            report = ENGINE.predict(opened.project, build.id, fidelity="coarse").report
            assert all(-20 < row.value_c < 200 for row in report.sensors), (name, build.id)


def test_the_beamformer_throttles_as_found_and_every_step_gains() -> None:
    demo = open_anything("demo:beamformer").project
    found = {build.id: ENGINE.predict(demo, build.id, fidelity="coarse").report for build in demo.builds}
    assert [row.component for row in found["as_found"].held_back] == ["die"]
    hot = [found[name].component("die").t_max_c for name in ("as_found", "new_paste", "lid_off", "lapped")]
    assert hot == sorted(hot, reverse=True)
    assert hot[0] - hot[3] > 8
    assert not found["lapped"].held_back


def test_the_buoy_is_cured_at_the_price_of_a_warm_skin() -> None:
    demo = open_anything("demo:buoy").project
    as_found, cured = (assess(demo, name, engine=ENGINE) for name in ("as_found", "pad_to_case"))
    assert "not_touching" in {finding.code for finding in as_found.findings}
    values = [{row.id: row.value_c for row in one.report.sensors} for one in (as_found, cured)]
    assert values[1]["cpu"] < values[0]["cpu"] - 10
    assert values[0]["skin:wall"] < 48.0 < values[1]["skin:wall"]
