"""Diagnosis against planted faults: the right one first, none on a healthy device, and none where nothing usual explains it."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from scipy.integrate import quad

from ashen_bridge.bench.diagnosis import diagnose
from ashen_bridge.bench.diagnosis.diagnose import judging
from ashen_bridge.bench.diagnosis.explaining import Misfit, explained_sensor
from ashen_bridge.bench.diagnosis.hypotheses import hypotheses
from ashen_bridge.bench.diagnosis.priors import usual_priors
from ashen_bridge.bench.diagnosis.since import Case, cases
from ashen_bridge.bench.diagnosis.trial import Trial
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.bench.modelled import modelled_figures
from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.logs.packing import as_csv
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from planted import BUILD, POINT, Planted, faults


@pytest.fixture(scope="module")
def here(tmp_path_factory: pytest.TempPathFactory) -> Planted:
    return Planted(tmp_path_factory.mktemp("blobs"))


@pytest.mark.parametrize("fault", [one for one in faults() if one[0] in ("worn-bare_die", "offset-die_mean-low")][1::2], ids=str)
def test_planted_faults_are_named_first(here: Planted, fault: tuple[str, float, int]) -> None:
    """Two of the twelve; `./check long faults` plants all."""
    hit, found = here.named_first(*fault)
    assert hit, [(one.id, one.weight) for one in found.suspects[:3]]


@pytest.mark.long
def test_the_number_of_a_fault_is_found_too(here: Planted) -> None:
    one = here.listed["sink-cooler"]
    found = here.diagnosed(here.planted(one, 0.5, seed=7))
    assert found.named == "sink-cooler"
    assert found.suspects[0].value == pytest.approx(2.0, abs=0.25)
    assert found.suspects[0].misfit_k < 0.3 * found.healthy_misfit_k
    assert one.confirm in found.verdict


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_healthy_device_is_left_alone(here: Planted, seed: int) -> None:
    found = here.diagnosed(here.log(here.project, seed))
    assert found.named is None
    assert found.verdict.startswith("One run by itself fits"), "one run alone never clears a device"
    assert "would tell" in found.verdict
    assert found.healthy_weight > 0.5


def test_what_nothing_usual_explains_is_said(here: Planted) -> None:
    offsets = {"die_hot": 18.0, "s_bank_1": -20.0, "s_bank_3": 22.0}
    found = here.diagnosed(here.log(here.project, 5, offsets))
    assert found.named is None
    assert found.verdict.startswith("None")


@pytest.mark.long
def test_beliefs_sum_to_one_and_come_in_order(here: Planted) -> None:
    found = here.diagnosed(here.planted(here.listed["air"], 0.5, seed=9))
    weights = [one.weight for one in found.suspects]
    assert sum(weights) + found.healthy_weight == pytest.approx(1.0)
    assert weights == sorted(weights, reverse=True)


def test_every_hypothesis_can_be_applied_and_says_its_number(here: Planted) -> None:
    card = open_anything("demo:correlator").project
    for one in hypotheses(card, "plan_a", "correlate"):
        moved = one.applied(card, one.worst)
        assert (moved == card) == bool(one.sensor), one.id
        assert one.says(one.worst)
        assert one.confirm.endswith(".")


@pytest.fixture(scope="module")
def card() -> tuple[Project, list[RunFigures], Engine]:
    engine, made = Engine(), open_anything("demo:correlator").project
    return made, modelled_figures(made, *[run.id for run in made.runs], engine=engine), engine


@pytest.mark.long
def test_all_runs_speak_and_the_pad_of_the_demo_is_named(card: tuple[Project, list[RunFigures], Engine]) -> None:
    """A rear pad that covers a third (the demo's script says so) was fitted at the repair; the runs before it know it whole."""
    project, (stock, pads, repaired), engine = card
    found = diagnose.diagnose(engine, project, [repaired], [stock, pads])
    assert found.named == "touch-pad_b2"
    assert found.groups[0].ids[0] == "touch-pad_b2"
    # Of two rear pads the one on this side, were it too thick, would press as little: nothing that is read tells them apart.
    assert set(found.groups[0].ids) <= {"touch-pad_b2", "film-pad_b2", "oneside-memory_rear-left", "oneside-memory_rear-right"}
    assert found.groups[0].weight > 0.9
    assert 1 / found.suspects[0].value == pytest.approx(1 / 3, abs=0.06)
    assert "since it was closed" in found.verdict
    assert set(found.judged) == {"stock", "pads", "repaired"}
    assert found.priors["touch"] > found.priors["offset"]
    # Seen from a run before it, it is said where the fault lies, and nothing of this run is accused.
    earlier = diagnose.diagnose(engine, project, [stock], [pads, repaired])
    assert earlier.named is None
    assert earlier.suspects[0].id == "touch-pad_b2@plan_a"
    assert f"“{repaired.run.label}”: Pad B2" in earlier.verdict


@pytest.mark.long
def test_one_run_alone_of_the_same_device_cannot_tell_as_much(card: tuple[Project, list[RunFigures], Engine]) -> None:
    project, (*_, repaired), engine = card
    alone = diagnose.diagnose(engine, project, [repaired])
    assert max(one.weight for one in alone.suspects if one.id == "touch-pad_b2") < 0.9
    assert alone.judged == ("repaired",)


def test_a_fault_of_the_device_is_not_one_of_the_closing(card: tuple[Project, list[RunFigures], Engine]) -> None:
    project, (stock, pads, _), _ = card
    listed = cases(project, [pads], [stock], hypotheses(project, "as_found", "correlate"), usual_priors())
    by_id: dict[str, list[Case]] = {}
    for one in listed:
        by_id.setdefault(one.hypothesis.id, []).append(one)
    assert [one.runs for one in by_id["touch-pad_l1"]] == [{"pads"}], "a pad lies in its own closing only"
    assert {one.runs for one in by_id["sink-cooler"]} == {frozenset({"stock", "pads"}), frozenset({"pads"})}
    assert [one.runs for one in by_id["offset-die_hot-high"]] == [{"stock", "pads"}], "a sensor is off in every run"
    rear, front = by_id["touch-pad_b1"][0].odds, by_id["touch-pad_l1"][0].odds
    assert front == usual_priors()["touch"].opened, "its plate was lifted for other pads"
    assert rear in (usual_priors()["touch"].odds, usual_priors()["touch"].opened)


def test_evidence_against_the_closed_form() -> None:
    """A sensor off by N(0, 3 K) to one side, read with ± 1 K: its evidence by the quadrature that a library makes of it."""
    misfit = Misfit(np.array([4.0]), np.array([[1.0]]))
    found = explained_sensor(misfit, np.array([1.0]), 25.0)
    odds = lambda v: np.exp(-0.5 * (v / 3.0) ** 2)  # noqa: E731
    both, _ = quad(lambda v: odds(v) * np.exp(-0.5 * (4.0 - v) ** 2), 0, 25)
    prior, _ = quad(odds, 0, 25)
    assert found.evidence == pytest.approx(np.log(both / prior), abs=0.05)
    assert found.share * 25 == pytest.approx(4.0 / (1 + 1 / 9), abs=0.3)
    assert misfit.apart(np.array([1.0]), np.array([3.0])) == pytest.approx(2.0)


def test_runs_of_several_builds_are_refused(here: Planted) -> None:
    other = record_run(here.project, "s", [here.log(here.project, 1)], build="as_found", point=POINT, store=here.store)
    runs = [here.run(here.log(here.project, 1)), figures_of(other, "s", here.store)]
    with pytest.raises(RunError, match="of several"):
        list(Trial.preparing(here.engine, here.project, runs))


@pytest.mark.long
def test_diagnose_by_the_command_line(
    here: Planted, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """What does not depend on the run has been prepared; the weighing itself is real."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setattr(diagnose, "diagnose", lambda _, project, runs, others: list(judging(here.trial, runs))[-1][1])
    log, file = tmp_path / "log.csv", tmp_path / "card.ashb"
    log.write_text(as_csv(here.planted(here.listed["air"], 0.6, seed=3)))
    save_project(file, here.project)
    said = []
    for arguments in (
        ["diagnose", str(file)],
        ["import-log", str(log), "--project", str(file), "--run", "r", "--build", BUILD, "--point", POINT],
        ["diagnose", str(file), "r", "--json"],
        ["diagnose", str(file)],
    ):
        try:
            main(arguments)
        except SystemExit as stop:
            said.append(stop.code)
        said.append(capsys.readouterr())
    assert "holds no runs yet" in said[1].err
    assert json.loads(said[-2].out)["named"] == "air"
    assert "warmer than said" in said[-1].out
