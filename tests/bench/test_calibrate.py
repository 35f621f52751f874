"""Calibration against the simulated device, whose numbers were moved where the program does not know it."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from ashen_bridge.bench.calibrate import calibrate
from ashen_bridge.bench.judgement import TOLD, Calibration
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.bench.recording import with_run
from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.outcome import RunError
from ashen_bridge.logs.packing import as_csv
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.model.sinks import RatedSink
from ashen_bridge.predict.engine import Engine
from devices import certain, without_runs
from planted import BUILD, POINT, hidden, minute_at_rest, really

UNCERTAIN = ("convective_k_w", "die", "offset_k", "conductivity_w_mk", "resistance_mm2k_w", "compliance_um_n")


@pytest.fixture(scope="module")
def project() -> Project:
    """Few of its numbers are uncertain, so that a fit takes no time; `./check long intervals` fits all of them."""
    return certain(without_runs(open_anything("demo:beamformer").project), but=UNCERTAIN)


@pytest.fixture(scope="module")
def fits(project: Project, tmp_path_factory: pytest.TempPathFactory) -> list[tuple[dict[tuple[str, ...], float], Calibration]]:
    store = BlobStore(tmp_path_factory.mktemp("blobs"))
    engine, found = Engine(), []
    for seed in (3,):
        truth = hidden(project, seed)
        logs = [minute_at_rest(engine, project, really(project, truth), 10 * seed + n) for n in range(3)]
        kept = record_run(project, "r", logs, build=BUILD, point=POINT, store=store)
        found.append((truth, calibrate(engine, project, [figures_of(kept, "r", store)])))
    return found


def test_hidden_numbers_lie_within_the_stated_intervals(fits: list[tuple[dict[tuple[str, ...], float], Calibration]]) -> None:
    away = np.array(
        [(truth[one.paths] - one.after) / one.after_u for truth, fit in fits for one in fit.numbers if one.told >= TOLD]
    )
    assert len(away) >= 4
    assert np.abs(away).max() < 3.5
    assert (np.abs(away) < 2).mean() >= 0.85


def test_readings_fit_afterwards(fits: list[tuple[dict[tuple[str, ...], float], Calibration]]) -> None:
    for _, fit in fits:
        assert fit.misfit_after_k < 0.7
        assert fit.misfit_after_k < 0.3 * fit.misfit_before_k
        assert all(abs(one.after - one.measured) < 3 * one.uncertainty for one in fit.residuals)


def test_no_number_is_known_worse_than_before(fits: list[tuple[dict[tuple[str, ...], float], Calibration]]) -> None:
    for _, fit in fits:
        assert all(one.after_u <= one.before_u * (1 + 1e-9) for one in fit.numbers)
        assert max(one.told for one in fit.numbers) > 0.6
        assert [one.told for one in fit.numbers] == sorted((one.told for one in fit.numbers), reverse=True)


def test_the_calibrated_project_predicts_the_run(
    project: Project, fits: list[tuple[dict[tuple[str, ...], float], Calibration]], tmp_path: Path
) -> None:
    _, fit = fits[0]
    kept = fit.recorded(with_run(project, "r", ["0" * 64], (), build=BUILD, point=POINT))
    assert kept.calibration == "fit_1"
    report = Engine().predict(in_force(kept), BUILD, POINT).report
    for one in fit.residuals:
        shown = next(row.value_c for row in report.sensors if row.id == one.sensor)
        assert shown == pytest.approx(one.measured, abs=1.5)
    plain = kept.model_dump(mode="json") | {"calibration": None}
    assert in_force(Project.parse(plain)).device == project.device, "it can be switched off"


def test_what_was_changed_after_the_fit_stays_as_it_was_said(
    project: Project, fits: list[tuple[dict[tuple[str, ...], float], Calibration]]
) -> None:
    kept = fits[0][1].recorded(with_run(project, "r", ["0" * 64], (), build=BUILD, point=POINT))
    path = kept.calibrations[0].numbers[0].path
    said = float(paths.get(project, path)) * 1.01
    assert paths.get(in_force(paths.set_values(kept, {path: said})), path) == said
    assert paths.get(in_force(kept), path) != paths.get(project, path)


def test_nothing_to_fit_to_is_refused(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    labels = [f"{one.label}=other" for one in project.device.sensors]
    kept = record_run(
        project, "r", [minute_at_rest(Engine(), project, project, 1)], build=BUILD, point=POINT, mapped=labels, store=store
    )
    with pytest.raises(RunError, match="nothing to fit"):
        calibrate(Engine(), kept, [figures_of(kept, "r", store)])


def test_calibrate_by_the_command_line(
    project: Project, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """On a device of which only the sink and the power are uncertain, so that it takes no time."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    project = certain(project, but=("convective_k_w", "die"))
    real = paths.set_values(project, {"device.bodies.cooler.sink.convective_k_w": 0.16})
    log = tmp_path / "log.csv"
    log.write_text(as_csv(minute_at_rest(Engine(), project, real, 1)))
    file, fitted = tmp_path / "card.ashb", tmp_path / "fitted.ashb"
    save_project(file, project)
    main_quietly(["import-log", str(log), "--project", str(file), "--run", "r", "--build", BUILD, "--point", POINT])
    capsys.readouterr()
    main_quietly(["calibrate", str(file), "r", "--json", "-o", str(fitted)])
    told = json.loads(capsys.readouterr().out)
    sink = next(one for one in told["numbers"] if one["field"] == "sink.convective_k_w")
    assert abs(sink["after"] - 0.16) < 2.5 * sink["after_u"]
    cooler = next(body for body in in_force(open_project(fitted).project).device.bodies if body.id == "cooler")
    assert isinstance(cooler, Plate)
    assert isinstance(cooler.sink, RatedSink)
    assert cooler.sink.convective_k_w.origin == "calibrated"
    assert cooler.sink.convective_k_w.note == "from run r"


def main_quietly(arguments: list[str]) -> None:
    try:
        main(arguments)
    except SystemExit as stop:
        assert not stop.code
