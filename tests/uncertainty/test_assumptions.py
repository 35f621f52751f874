"""What a prediction stands on: which numbers play a part, and what they do together, against random trials."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.cli.main import main
from ashen_bridge.cli.tables import as_plain, as_text
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.base import Frozen
from ashen_bridge.model.plays import Heat, When, numbers, unsaid
from ashen_bridge.model.project import Project
from ashen_bridge.model.units import Thickness
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.together import combined
from ashen_bridge.uncertainty.weighing import weigh
from devices import Card, Part, project

ENGINE = Engine()
SMALL = Card((Part(60, 34, 1.2, 1.0),), bends=False)


def weighed(made: Project, wanted: list[Assumption] | None = None) -> list[Assumption]:
    return list(weigh(ENGINE, made, "now", "load", wanted))


def uncertain(made: Project, **spreads: tuple[str, float]) -> Project:
    """Return the project with only these numbers uncertain: name=(path, standard uncertainty)."""
    values = {}
    known = dict(paths.list_paths(made))
    for path, spread in spreads.values():
        value = known[path] if path in known else known[f"{path}.value"]
        value = value["value"] if isinstance(value, dict) else value
        values[path] = {"value": value, "uncertainty": spread, "origin": "measured", "note": ""}
    return paths.set_values(made, values)


def one(effect: float | None, **effects: float) -> Assumption:
    return Assumption(("a",), "height_mm", ("A",), 1.0, 0.1, "assumed", "", effect, "S", tuple(effects.items()))


def test_single_effects_combine_as_the_root_of_their_squares() -> None:
    assert combined([one(3.0, die=3.0, memory=1.0), one(4.0, die=4.0)]) == {"die": 5.0, "memory": 1.0}
    assert combined([]) == {}
    assert combined([one(3.0, die=3.0), one(None)]) is None, "what has not been weighed is not counted as nothing"


def test_the_combined_uncertainty_against_random_trials() -> None:
    """JCGM 101:2008: the spread of the outcome over trials in which every number is drawn at random."""
    spreads = {
        "resistance": ("device.bodies.plate.sink.convective_k_w", 0.02),
        "power": ("points.load.powers_w.die", 5.0),
        "air": ("points.load.ambient_c", 1.5),
        "paste": ("materials.paste_filled.conductivity_w_mk", 0.6),
    }
    made = uncertain(project(SMALL), **spreads)
    listed = [a for a in assumptions(made, "now", "load") if any(path in a.paths for path, _ in spreads.values())]
    assert len(listed) == len(spreads)
    together = combined(weighed(made, listed))
    assert together is not None
    rng = np.random.default_rng(7)
    middle = {a.paths[0]: a.value for a in listed}
    spread = {a.paths[0]: a.uncertainty for a in listed}
    seen = []
    for _ in range(100):
        drawn = {path: value + spread[path] * rng.standard_normal() for path, value in middle.items()}
        report = ENGINE.predict(paths.set_values(made, drawn), fidelity="coarse").report
        seen.append(next(row.value_c for row in report.sensors if row.id == "s_die"))
    # 100 trials know a standard deviation to 7 %.
    assert np.std(seen, ddof=1) == pytest.approx(together["s_die"], rel=0.2)


def test_moduli_count_only_where_the_board_bends_and_only_those_of_what_bends() -> None:
    def moduli(made: Project) -> set[str]:
        return {a.owners[0] for a in assumptions(made, "now", "load") if a.field == "youngs_modulus_gpa"}

    names = {material.id: material.name for material in project(SMALL).materials}
    assert moduli(project(SMALL)) == set()
    found = moduli(project(replace(SMALL, bends=True)))
    assert names["board_fr4_6"] in found
    assert names["silicon"] in found, "the die stiffens the board"
    assert names["copper"] not in found, "the cooler is rigid"


def test_a_modulus_moves_temperatures_where_the_board_bends() -> None:
    made = project(replace(SMALL, bends=True))
    wanted = [a for a in assumptions(made, "now", "load") if "materials.board_fr4_6.youngs_modulus_gpa" in a.paths]
    assert len(wanted) == 1
    softer = replace(wanted[0], uncertainty=8.0)
    assert (weighed(made, [softer])[0].effect_k or 0.0) > 0.001


def test_roughness_counts_only_under_liquid_metal() -> None:
    made = project(SMALL)
    assert not any("roughness" in a.field for a in assumptions(made, "now", "load"))
    wet = paths.set_values(made, {"builds.now.joints.die_joint.pieces.paste.material": "liquid_metal"})
    rough = [a for a in assumptions(wet, "now", "load") if "roughness" in a.field]
    owners = {owner for a in rough for owner in a.owners}
    assert owners == {"Die", "Cooler"}


def test_tables_and_json_show_the_spread_and_the_heaviest_number_first() -> None:
    made = project(SMALL)
    assessment = assess(made, engine=ENGINE, fidelity="coarse")
    stands_on = weighed(made)
    text = as_text(made, assessment, stands_on)
    assert "± K" in text
    assert "± K" not in as_text(made, assessment)
    plain = as_plain(made, assessment, stands_on)
    effects = [a["effect_k"] or 0.0 for a in plain["assumptions"]]
    assert effects == sorted(effects, reverse=True)
    assert set(plain["uncertainty_k"]) == {"s_die", "s_part_0"}
    assert plain["uncertainty_k"]["s_die"] >= effects[0] * 0.99 or plain["uncertainty_k"]["s_part_0"] >= effects[0] * 0.99
    assert json.dumps(plain, allow_nan=False)


def test_the_command_line_weighs_on_request(tmp_path: object, capsys: pytest.CaptureFixture[str]) -> None:
    from pathlib import Path

    from ashen_bridge.files.archive import save_project

    path = Path(str(tmp_path)) / "small.ashb"
    save_project(path, project(SMALL))
    main(["predict", str(path), "--json", "--assumptions"])
    plain = json.loads(capsys.readouterr().out)
    assert plain["uncertainty_k"]["s_die"] > 0
    assert {"paths", "origin", "note", "effect_k"} <= set(plain["assumptions"][0])
    main(["predict", str(path), "--json"])
    assert "assumptions" not in json.loads(capsys.readouterr().out)


def test_every_number_of_the_model_says_which_part_it_plays() -> None:
    assert list(unsaid(Project)) == []


class Unsaid(Frozen):
    one: Heat[Thickness]
    other: Thickness | None = None
    table: dict[str, Thickness] = {}


def test_a_field_that_does_not_say_its_part_is_found() -> None:
    assert list(unsaid(Unsaid)) == ["Unsaid.other", "Unsaid.table"]


def test_numbers_are_found_with_path_part_and_range() -> None:
    found = {one.path: one for one in numbers(open_anything("demo:beamformer").project, "")}
    plate = found[".device.bodies.cooler.thickness_mm"]
    assert (plate.plays.heat, plate.plays.mechanics, plate.bounds.high) == (True, True, 200.0)
    power = next(one for path, one in found.items() if ".powers_w." in path)
    assert (power.field, power.key, power.plays.each) == ("powers_w", power.path.rsplit(".", 1)[1], "power_w")
    curve = next(one for path, one in found.items() if path.endswith("compression.relaxed_share"))
    assert curve.plays.when is When.SERVED
