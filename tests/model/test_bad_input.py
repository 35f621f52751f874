"""Every nonsense gets one clear sentence that names the place."""

from __future__ import annotations

import copy
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from ashen_bridge.files.archive import open_project
from ashen_bridge.logs.reading import parse_log, read_log
from ashen_bridge.model import paths
from ashen_bridge.model.base import Frozen
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.errors import AshenError, AssemblyError, PathError, ProjectError
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import predict
from devices import FOUR, Card, Part, project

PLAIN = json.loads(project(Card(FOUR)).model_dump_json())


def refused(change: Callable[[Any], None]) -> str:
    data = copy.deepcopy(PLAIN)
    change(data)
    with pytest.raises(ProjectError) as caught:
        Project.parse(data)
    text = str(caught.value)
    assert "\n" not in text
    assert text.endswith(".")
    return text


def body(data: Any, name: str) -> Any:
    return next(b for b in data["device"]["bodies"] if b["id"] == name)


SCHEMA = [
    (lambda d: body(d, "die").update(colour="red"), "device.bodies.die: unknown field 'colour'"),
    (lambda d: body(d, "die").update(height=body(d, "die").pop("height_mm")), "did you mean 'height_mm'"),
    (
        lambda d: body(d, "die").update(height_mm={"value": -1}),
        "device.bodies.die.height_mm: -1 is out of range: must be above 0",
    ),
    (lambda d: body(d, "plate").update(thickness_mm={"value": 1e6}), "out of range"),
    (lambda d: body(d, "die").update(height_mm="thick"), "device.bodies.die.height_mm"),
    (lambda d: body(d, "die").update(height_mm=True), "a number is needed"),
    (lambda d: body(d, "die").pop("height_mm"), "'height_mm' is missing"),
    (lambda d: body(d, "die").update(kind="wheel"), "'wheel' is not a known kind"),
    (lambda d: body(d, "die")["footprint"].update(circle=3), "axis-parallel rectangles minus holes"),
    (lambda d: body(d, "die").update(on="table"), "carried by 'table', which does not exist"),
    (lambda d: body(d, "die").update(on="die"), "in a circle"),
    (lambda d: body(d, "plate").update(material="unobtainium"), "made of 'unobtainium'"),
    (lambda d: d["builds"][0]["joints"][0].update(upper="nowhere"), "Joint 'die_joint' of build 'now' leads to 'nowhere'"),
    (lambda d: d["builds"][0]["joints"][0]["pieces"][0].update(thickness_mm=1.0), "needs just one of thickness_mm"),
    (lambda d: d["builds"][0]["joints"].append(d["builds"][0]["joints"][0]), "have the id 'die_joint'"),
    (lambda d: d["device"]["fasteners"][0].pop("travel_mm"), "needs travel_mm"),
    (lambda d: d["device"]["fasteners"][0].update(joins=["plate", "plate"]), "to itself"),
    (lambda d: d["points"][0]["powers_w"].update(ghost=3), "gives power to 'ghost'"),
    (lambda d: d["device"]["sensors"][0].update(reads="spot"), "needs the spot's area"),
    (lambda d: d["groups"][0].update(joints=["nothing"]), "names joint 'nothing'"),
    (lambda d: d["device"]["bodies"][0].update(bends="maybe"), "bodies.board.bends: must be true or false, not 'maybe'"),
    (lambda d: d.update(main_build="other"), "main build 'other' does not exist"),
    (lambda d: d["materials"][0].update(sources=[]), "sources"),
    (
        lambda d: next(m for m in d["materials"] if m["id"] == "pad_soft")["compression"]["points"][2].update(pressure_kpa=1),
        "must rise everywhere",
    ),
    (lambda d: next(m for m in d["materials"] if m["id"] == "pad_soft").update(compression=None), "needs a compression curve"),
]


@pytest.mark.parametrize(("change", "words"), SCHEMA, ids=[words[:40] for _, words in SCHEMA])
def test_schema_refusals_name_the_place(change: Callable[[Any], None], words: str) -> None:
    assert words in refused(change)


def impossible(card: Card | None = None, **values: Any) -> str:
    made = project(card or Card(FOUR))
    made = paths.set_values(made, {k.replace("__", "."): v for k, v in values.items()})
    with pytest.raises(AssemblyError) as caught:
        predict(made, fidelity="coarse")
    return str(caught.value)


def test_assemblies_that_cannot_exist() -> None:
    assert "'die' stands 2 mm outside 'board'" in impossible(device__bodies__die__footprint__rects__0__x_mm=62.0)
    assert "'part_0' and 'part_1' overlap by 144 mm² on 'board'" in impossible(Card((FOUR[0], FOUR[0])))
    outside = Card((Part(0.5, 66, 1.2, 1.0, (4, 4)),))
    assert "'part_0' and 'plate' do not face each other" in impossible(outside)
    assert "Nothing holds 'plate'" in impossible(Card(die=True, springs=()))
    assert "washers change the force of sprung fasteners only" in impossible_washer()


def impossible_washer() -> str:
    made = project(Card(FOUR))
    plain = json.loads(made.model_dump_json())
    plain["device"]["fasteners"][0].update(kind="fixed", preload_n=20, seat_mm=2)
    plain["builds"][0]["fastener_settings"] = [{"fastener": "spring_0", "washers_mm": 0.5}]
    with pytest.raises(AssemblyError) as caught:
        predict(Project.parse(plain), fidelity="coarse")
    return str(caught.value)


def test_no_way_out_for_heat_and_standing_fan() -> None:
    made = project(Card(FOUR, board_film=0.0))
    plain = json.loads(made.model_dump_json())
    for b in plain["device"]["bodies"]:
        b["finish"] = {"emissivity": {"value": 0.0}}
        if b["id"] == "plate":
            b["sink"] = None
    with pytest.raises(AssemblyError, match="Heat has no way out of 'board'"):
        predict(Project.parse(plain), fidelity="coarse")
    assert "standing fan" in impossible(points__load__fans_percent__plate=0.0)


def test_what_the_schema_says_but_the_physics_cannot_yet_is_refused_in_words() -> None:
    plain = copy.deepcopy(PLAIN)
    putty = {**next(m for m in plain["materials"] if m["id"] == "paste_filled"), "id": "putty", "kind": "putty"}
    plain["materials"].append(putty)
    plain["builds"][0]["joints"][1]["pieces"] = [{"id": "p", "material": "putty", "thickness_mm": 1.0}]
    with pytest.raises(AssemblyError, match="is putty, so it needs a dispensed volume"):
        predict(Project.parse(plain))
    plain["builds"][0]["joints"][1]["pieces"] = [{"id": "p", "material": "copper", "thickness_mm": 1.0}]
    with pytest.raises(AssemblyError, match="it is a plate between two joints"):
        predict(Project.parse(plain))


def test_paths_get_set_and_refuse() -> None:
    made = project(Card(FOUR))
    assert paths.get(made, "device.bodies.die.height_mm") == 2.0
    changed = paths.set_values(
        made, {"device.bodies.die.height_mm": 2.1, "builds.now.joints.pad_0.pieces.pad.material": "pad_soft"}
    )
    assert paths.get(changed, "device.bodies.die.height_mm") == 2.1
    assert paths.get(changed, "builds.now.joints.pad_0.pieces.pad.material") == "pad_soft"
    assert made.device.bodies[1].height_mm.value == 2.0  # type: ignore[union-attr]
    for path, words in (
        ("device.bodies.dye.height_mm", "there is no 'dye'; there are die"),
        ("device.bodies.die.hight_mm", "did you mean 'height_mm'"),
        ("x", "leads to nothing"),
    ):
        with pytest.raises(PathError, match=words):
            paths.set_values(made, {path: 1})
    with pytest.raises(ProjectError, match="out of range"):
        paths.set_values(made, {"device.bodies.die.height_mm": -3})


def test_every_listed_path_can_be_read_and_set_to_itself() -> None:
    made = project(Card(FOUR[:1]))
    listed = dict(paths.list_paths(made))
    assert len(listed) > 200
    assert all(paths.get(made, path) == value for path, value in listed.items())
    assert paths.set_values(made, listed) == made


ONE = project(Card(FOUR[:1]))
PATHS = [path for path, _ in paths.list_paths(ONE)]
values = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-10, 10),
    st.floats(),
    st.text(max_size=5),
    st.lists(st.integers(), max_size=2),
    st.dictionaries(st.text(max_size=3), st.integers(), max_size=2),
)


@given(st.sampled_from(PATHS), values)
def test_any_edit_is_taken_or_refused_in_words(path: str, value: Any) -> None:
    """Fuzz of path edits: a valid project or one sentence, nothing else."""
    try:
        changed = paths.set_values(ONE, {path: value})
    except AshenError as error:
        assert str(error).strip()
        assert "\n" not in str(error)
    else:
        assert isinstance(changed, Project)


def test_a_sensor_cannot_be_off_by_more_than_any_sensor_is() -> None:
    plain = project(Card(FOUR)).model_dump(mode="json")
    plain["device"]["sensors"][0]["offset_k"] = {"value": 400.0}
    with pytest.raises(ProjectError, match="offset_k.*400 is out of range: must be at least -50 and at most 50"):
        Project.parse(plain)


def test_pipes_and_devices_are_refused_and_never_waited_for(tmp_path: Path) -> None:
    pipe = tmp_path / "project.ashb"
    os.mkfifo(pipe)
    for path in (pipe, Path("/dev/zero"), tmp_path):
        with pytest.raises(AshenError, match="not a file"):
            open_project(path)
        with pytest.raises(AshenError, match="not a file"):
            read_log(path)
    real, link = tmp_path / "real.csv", tmp_path / "link.csv"
    real.write_text("Time,Core [°C]\n0,40\n1,41\n2,42\n")
    link.symlink_to(real)
    assert len(read_log(link).time_s) == 3, "links are followed"


@pytest.mark.parametrize("sign", ["\x0b", "\x0c", "\x1c", "\x85", "\u2028", "\u2029"])
def test_signs_that_only_some_splitters_know_neither_loop_nor_drop_a_reading(sign: str) -> None:
    text = f"made by {sign} nobody\nTime,Core{sign} [°C],Board [W]\n" + "".join(f"{n},{40 + n},{150 + n}\n" for n in range(20))
    log = parse_log(text.encode(), "x.csv")
    assert len(log.time_s) == 20
    assert log.columns[-1].values.tolist() == [150.0 + n for n in range(20)]


@pytest.mark.parametrize(
    ("kind", "data"),
    [
        (Plate, {"kind": "plate", "id": "p", "base": {}}),
        (Material, {"id": "m", "kind": []}),
    ],
)
def test_a_thing_where_a_word_belongs_is_refused(kind: type[Frozen], data: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        kind.model_validate(data)
