"""The door for scripts: what scripts in the docs do, arrays with coordinates, refusals in the same sentences as elsewhere."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest

from ashen_bridge import api
from ashen_bridge.predict.engine import Engine
from devices import Card, project
from here import ROOT

PAGE = (ROOT / "docs/scripting.md").read_text()
SCRIPTS = re.findall(r"## (.+?)\n.*?```python\n(.*?)```", PAGE, re.S)


@pytest.mark.parametrize("script", [code for _, code in SCRIPTS], ids=[title for title, _ in SCRIPTS])
def test_the_scripts_of_the_page_run(script: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    exec(compile(script, "docs/scripting.md", "exec"), {})


def test_every_function_is_on_the_page() -> None:
    for name in api.__all__:
        if name[0].islower():
            assert f"`{name}(" in PAGE or f", `{name}(" in PAGE, name


def test_a_script_gets_what_a_window_shows() -> None:
    project = api.open("demo:beamformer")
    found = api.predict(project)
    shown = Engine().predict(project).report
    assert found.sensors_c == {row.id: row.value_c for row in shown.sensors}
    assert found.mesh_error_k == shown.mesh.refinement_k


def test_fields_and_joints_are_arrays_in_board_coordinates() -> None:
    project = api.open("demo:correlator")
    found = api.predict(project, mesh="coarse")
    die = next(body for body in project.device.bodies if body.id == "die")
    field = found.field("front")
    assert field.values.shape == (len(field.y_mm), len(field.x_mm))
    assert (np.diff(field.x_mm) > 0).all()
    j, i = np.unravel_index(np.nanargmax(field.values), field.values.shape)
    x0, y0, x1, y1 = die.footprint.bounds
    assert x0 < field.x_mm[i] < x1
    assert y0 < field.y_mm[j] < y1
    assert field.values[j, i] == pytest.approx(max(found.hottest_c.values()), abs=3.0)
    assert field.at(*die.footprint.centre) > found.ambient_c + 20
    bond_line = found.bond_line("die_joint")
    assert bond_line.unit == "µm"
    assert x0 < bond_line.x_mm[0] < bond_line.x_mm[-1] < x1
    row = found.report.joint_rows("die_joint")[0]
    assert np.nanmean(bond_line.values) == pytest.approx(row.bond_line_um.mean, rel=0.05)
    assert found.pressure("die_joint").unit == "kPa"


def test_a_tolerance_refines_until_it_is_met() -> None:
    project = api.open("demo:buoy")
    once = api.predict(project)
    assert once.mesh_error_k is not None
    found = api.predict(project, mesh="coarse", tolerance_k=once.mesh_error_k + 0.01)
    assert found.report.mesh.cells == once.report.mesh.cells


@pytest.mark.parametrize(
    ("ask", "words"),
    [
        (lambda: api.open("demo:nothing"), "There is no demo 'nothing'"),
        (lambda: api.make({"devise": {}}), "unknown field 'devise'"),
        (lambda: api.make({"builds": [{"id": "Now 1"}]}), "'Now 1' is no id: it must begin with a small letter"),
        (lambda: api.make({"points": [{"id": "load", "powers_w": {"Die": 5}}]}), "points.load.powers_w.Die: 'Die' is no id"),
        (lambda: api.change(api.open("demo:buoy"), {"device.bodies.nobody.height_mm": 1}), "nobody"),
        (
            lambda: api.change(api.open("demo:buoy"), {"device.bodies.processor.height_mm": -1}),
            "device.bodies.processor.height_mm",
        ),
        (lambda: api.predict(api.open("demo:buoy"), mesh=9), "A mesh is coarse, fine or a number"),
        (lambda: api.predict(api.open("demo:buoy"), build="other"), "There is no build 'other'"),
        (lambda: api.predict(api.open("demo:buoy"), mesh="coarse").field("attic"), "There is no storey 'attic'"),
        (lambda: api.predict(api.open("demo:buoy"), mesh="coarse").bond_line("seam"), "There is no map of joint 'seam'"),
        (lambda: api.over_time(api.open("demo:buoy"), "now and then"), "is not a load pattern"),
        (lambda: api.over_time(api.open("demo:buoy"), "step 10min after 2000%"), "soaked at up to ten times"),
    ],
)
def test_what_is_refused_is_said_in_one_sentence(ask: object, words: str) -> None:
    with pytest.raises(api.AshenError) as error:
        ask()  # type: ignore[operator]
    assert words in str(error.value)
    assert "\n" not in str(error.value)


def test_refusals_carry_what_they_are_about() -> None:
    buoy = api.open("demo:buoy")
    for values, place in (
        ({"device.bodies.processor.height_mm": -1}, "device.bodies.processor.height_mm"),
        ({"device.bodies.nobody.height_mm": 1}, "device.bodies.nobody"),
    ):
        with pytest.raises(api.AshenError) as refused:
            api.change(buoy, values)
        assert refused.value.place == place
    with pytest.raises(api.AshenError) as unfit:
        api.predict(api.change(buoy, {"device.bodies.processor.height_mm": 0.001}), mesh="coarse")
    assert unfit.value.about == ("processor",)
    with pytest.raises(api.AshenError) as misread:
        api.make({"points": [{"id": "load", "ambient_c": "warm"}]})
    assert misread.value.place == "points.load.ambient_c"


def test_changing_keeps_what_was_and_saving_keeps_all(tmp_path: Path) -> None:
    project = api.open("demo:buoy")
    path = "device.bodies.processor.height_mm"
    changed = api.change(project, {path: 1.3})
    assert api.value(project, path) != 1.3
    api.save(changed, tmp_path / "buoy.json")
    again = api.open(tmp_path / "buoy.json")
    assert again == changed
    assert api.paths(again)[path] == 1.3


def test_a_transient_starts_soaked_at_a_share() -> None:
    project = api.open("demo:buoy")
    cold, warm = (
        api.over_time(project, text, at_s=(0.0, 600.0), tolerance_k=0.5) for text in ("step 10min", "step 10min after 50%")
    )
    full = cold.steady_c - cold.values_c[0]
    assert warm.values_c[0] - cold.values_c[0] == pytest.approx(full / 2, rel=0.1)
    assert (warm.values_c[1] > cold.values_c[1]).all()


def test_chances_are_those_of_the_program() -> None:
    found = api.chances(project(Card()), count=200)
    assert found.count == 200
    assert all(one.low_c < one.shown_c < one.high_c for one in found.sensors)
