"""Diagnosis against planted faults: the right one first, none on a healthy device, and none where nothing usual explains it."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from ashen_bridge.bench import diagnose
from ashen_bridge.bench.diagnose import Trial
from ashen_bridge.bench.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.judgement import Diagnosis
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.logs.packing import as_csv
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from devices import without_runs

BUILD, POINT = "lid_off", "listen"
PLANTED = [("worn-bare_die", n) for n in range(3)] + [
    (name, n)
    for name, times in (
        ("sink-cooler", 2),
        ("air", 2),
        ("power", 2),
        ("offset-die_hot-high", 1),
        ("offset-die_mean-low", 1),
        ("offset-s_bank_2-high", 1),
    )
    for n in range(times)
]


class Bench:
    """One device, its trial prepared once, and logs of it with faults."""

    def __init__(self, folder: Path) -> None:
        self.engine, self.store = Engine(), BlobStore(folder)
        self.project = without_runs(open_anything("demo:beamformer").project)
        self.listed = {one.id: one for one in hypotheses(self.project, BUILD, POINT)}
        self.trial = self._trial()

    def _trial(self) -> Trial:
        *_, (_, found) = Trial.preparing(self.engine, self.project, [self.run(self.log(self.project, 0))])
        assert found is not None
        return found

    def log(self, real: Project, seed: int, offsets: dict[str, float] | None = None) -> Log:
        """A minute of a device at rest: every sensor a little off for good, and noise."""
        report = self.engine.predict(real, BUILD, POINT).report
        chance = np.random.default_rng(seed)
        shown = {row.id: row.value_c + (offsets or {}).get(row.id, 0.0) for row in report.sensors}
        columns = [
            Column(one.label, "°C", shown[one.id] + chance.normal(0, 0.2) + chance.normal(0, 0.1, 60))
            for one in self.project.device.sensors
        ]
        columns.append(Column("Board power", "W", report.power_w * (1 + chance.normal(0, 0.003)) + chance.normal(0, 0.2, 60)))
        columns.append(Column("Room", "°C", np.full(60, self.project.point(POINT).ambient_c.value)))
        return Log(np.arange(60.0), tuple(columns))

    def run(self, log: Log) -> RunFigures:
        return figures_of(record_run(self.project, "r", [log], build=BUILD, point=POINT, store=self.store), "r", self.store)

    def diagnosed(self, log: Log) -> Diagnosis:
        *_, (_, found) = self.trial.judging([self.run(log)])
        assert found is not None
        return found

    def planted(self, one: Hypothesis, share: float, seed: int) -> Log:
        value = one.healthy + share * (one.worst - one.healthy)
        if one.sensor:
            return self.log(self.project, seed, {one.sensor: value})
        return self.log(one.applied(self.project, value), seed)


@pytest.fixture(scope="module")
def here(tmp_path_factory: pytest.TempPathFactory) -> Bench:
    return Bench(tmp_path_factory.mktemp("blobs"))


def test_planted_faults_are_named_first(here: Bench) -> None:
    hits, told = 0, []
    assert len(PLANTED) == 12
    for number, (name, n) in enumerate(PLANTED):
        share = (0.4, 0.45, 0.5, 0.55)[n]  # beyond, the heat runs away: the device would not survive its fault
        found = here.diagnosed(here.planted(here.listed[name], share, seed=100 + number))
        hits += found.suspects[0].id == name and found.suspects[0].weight > found.healthy_weight
        told.append((name, share, found.suspects[0].id, found.named))
    assert hits >= 11, told


def test_the_number_of_a_fault_is_found_too(here: Bench) -> None:
    one = here.listed["sink-cooler"]
    found = here.diagnosed(here.planted(one, 0.5, seed=7))
    assert found.named == "sink-cooler"
    assert found.suspects[0].value == pytest.approx(2.0, abs=0.25)
    assert found.suspects[0].misfit_k < 0.3 * found.healthy_misfit_k
    assert one.confirm in found.verdict


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_healthy_device_is_left_alone(here: Bench, seed: int) -> None:
    found = here.diagnosed(here.log(here.project, seed))
    assert found.named is None
    assert "no fault is needed" in found.verdict
    assert found.healthy_weight > 0.5


def test_what_nothing_usual_explains_is_said(here: Bench) -> None:
    offsets = {"die_hot": 18.0, "s_bank_1": -20.0, "s_bank_3": 22.0}
    found = here.diagnosed(here.log(here.project, 5, offsets))
    assert found.named is None
    assert found.verdict.startswith("None")


def test_beliefs_sum_to_one_and_come_in_order(here: Bench) -> None:
    found = here.diagnosed(here.planted(here.listed["air"], 0.5, seed=9))
    weights = [one.weight for one in found.suspects]
    assert sum(weights) + found.healthy_weight == pytest.approx(1.0)
    assert weights == sorted(weights, reverse=True)


def test_every_hypothesis_can_be_applied_and_says_its_number(here: Bench) -> None:
    card = open_anything("demo:correlator").project
    for one in hypotheses(card, "plan_a", "correlate"):
        moved = one.applied(card, one.worst)
        assert (moved == card) == bool(one.sensor), one.id
        assert one.says(one.worst)
        assert one.confirm.endswith(".")


def test_runs_of_several_builds_are_refused(here: Bench) -> None:
    other = record_run(here.project, "s", [here.log(here.project, 1)], build="as_found", point=POINT, store=here.store)
    runs = [here.run(here.log(here.project, 1)), figures_of(other, "s", here.store)]
    with pytest.raises(RunError, match="of several"):
        list(Trial.preparing(here.engine, here.project, runs))


def test_diagnose_by_the_command_line(
    here: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """What does not depend on the run has been prepared; the weighing itself is real."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setattr(diagnose, "diagnose", lambda _, project, runs: list(here.trial.judging(runs))[-1][1])
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
