"""The command line: JSON of the promised shape, aligned tables, one sentence and exit code 2 for errors."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import open_project

DEMO = "demo:correlator"


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[str, str, int]:
    code = 0
    try:
        main(list(arguments))
    except SystemExit as stop:
        code = int(stop.code or 0)
    captured = capsys.readouterr()
    return captured.out, captured.err, code


def test_predict_json_has_the_promised_shape(capsys: pytest.CaptureFixture[str]) -> None:
    out, _, code = run(capsys, "predict", DEMO, "--build", "as_found", "--point", "correlate", "--json")
    assert code == 0
    told = json.loads(out)
    assert (told["build"], told["point"]) == ("as_found", "correlate")
    shape = {
        "components": {"id", "kind", "t_max_c", "t_mean_c"},
        "sensors": {"id", "reads", "value_c", "limit_c", "margin_k"},
        "joints": {
            "id",
            "lower",
            "upper",
            "gap_mm",
            "bond_line_um",
            "compression",
            "pressure_kpa",
            "force_n",
            "contact_fraction",
            "drop_k",
        },
        "plates": {"id", "z_mm", "tilt_x_mrad", "tilt_y_mrad", "t_mean_c"},
        "fasteners": {"id", "force_n"},
        "findings": {"code", "severity", "about", "text"},
    }
    for name, keys in shape.items():
        assert told[name], name
        assert all(keys <= row.keys() for row in told[name]), name
    assert told["joints"][0]["bond_line_um"].keys() == {"min", "mean", "max", "harmonic"}
    assert told["joints"][0]["pressure_kpa"].keys() == {"min", "mean", "max"}
    assert told["balance"]["energy_rel"] <= 1e-6
    assert told["balance"]["force_rel"] <= 1e-3
    assert told["mesh"]["cells"] >= 20_000
    assert told["mesh"]["refinement_k"] >= 0
    assert told["seconds"] > 0


def test_predict_prints_aligned_tables(capsys: pytest.CaptureFixture[str]) -> None:
    out, _, code = run(capsys, "predict", DEMO)
    assert code == 0
    assert "Plan A" in out
    joints = out[out.index("joint ") :].split("\n\n")[0].splitlines()
    assert len({line.index("mem_l1") for line in joints if "mem_l1" in line} | {joints[0].index("over")}) == 1
    assert "energy balance" in out


def test_set_changes_values_and_saves(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    target = tmp_path / "changed.ashb"
    _, _, code = run(
        capsys,
        "set",
        DEMO,
        "device.bodies.die.height_mm=0.7",
        "builds.plan_a.joints.pad_l1.pieces.pad.thickness_mm=1.25",
        "-o",
        str(target),
    )
    assert code == 0
    changed = open_project(target).project
    assert changed.build("plan_a").joint("pad_l1").pieces[0].thickness_mm.value == 1.25  # type: ignore[union-attr]
    out, _, _ = run(capsys, "paths", str(target))
    assert "device.bodies.die.height_mm = 0.7\n" in out


def test_schema_is_json_schema(capsys: pytest.CaptureFixture[str]) -> None:
    told = json.loads(run(capsys, "schema")[0])
    assert told["title"] == "Project"
    assert {"device", "builds", "points", "materials"} <= told["properties"].keys()
    assert "Fastener" in told["$defs"]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("predict", "nowhere.ashb"), "Cannot open 'nowhere.ashb'"),
        (("predict", "demo:moon"), "There is no demo 'moon'"),
        (("predict", DEMO, "--build", "x"), "There is no build 'x'; there are: as_found, plan_a, stock."),
        (("predict", DEMO, "--point", "x"), "There is no operating point 'x'"),
        (("set", DEMO, "device.bodies.die.height_mm", "-o", "x.json"), "not of the form PATH=VALUE"),
        (("set", DEMO, "device.bodies.dye.height_mm=1", "-o", "x.json"), "there is no 'dye'"),
        (("set", DEMO, "device.bodies.die.height_mm=-1", "-o", "x.json"), "out of range"),
        (("set", DEMO, "device.bodies.die.height_mm=0.8", "-o", "/nonexistent/x.json"), "Cannot write into"),
        (("nonsense",), "No such command"),
    ],
)
def test_errors_are_one_sentence_and_exit_code_2(
    capsys: pytest.CaptureFixture[str], arguments: tuple[str, ...], words: str
) -> None:
    out, err, code = run(capsys, *arguments)
    assert code == 2
    assert out == ""
    assert words in err
    assert "Traceback" not in err


def test_impossible_assembly_exits_with_2(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    target = tmp_path / "x.json"
    run(capsys, "set", DEMO, "device.bodies.mem_l1.footprint.rects.0.y_mm=35", "-o", str(target))
    out, err, code = run(capsys, "predict", str(target))
    assert (out, code) == ("", 2)
    assert err == "Bodies 'mem_l1' and 'mem_l2' overlap by 48 mm² on 'board' (front).\n"


def test_window_start_loads_no_heavy_package() -> None:
    """The window paints first from the stored prediction: solvers load in the worker."""
    code = (
        "import sys; import ashen_bridge.desktop.__main__\n"
        "heavy = [m for m in ('scipy', 'pyamg', 'pandas', 'click', 'skfem') if m in sys.modules]\n"
        "sys.exit(f'loaded at start: {heavy}' if heavy else 0)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr


@pytest.mark.long
def test_measure_says_gaps_budgets_and_what_to_read_next(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    out, _, code = run(capsys, "measure", DEMO, "--build", "as_found", "--joint", "pad_l1", "--json", "--covariance")
    assert code == 0
    told = json.loads(out)
    assert told.keys() >= {"methods", "budget", "combined", "odd", "next", "closed", "unchecked", "refused", "covariance_mm2"}
    one = told["combined"][0]
    assert one.keys() == {"joint", "lower", "gap_mm", "sd_mm", "before_mm", "before_sd_mm"}
    assert told["covariance_mm2"][0][0] == pytest.approx(one["sd_mm"] ** 2)
    assert told["next"][0].keys() == {"form", "of", "words", "minutes", "now_mm", "then_mm"}
    saved = tmp_path / "taken.ashb"
    out, _, code = run(capsys, "measure", DEMO, "--build", "as_found", "--take-over", "-o", str(saved))
    assert code == 0
    assert "What makes up the ± of" in out
    again, _, _ = run(capsys, "measure", str(saved), "--build", "as_found", "--joint", "pad_l1", "--json")
    assert json.loads(again)["combined"][0]["gap_mm"] == pytest.approx(one["gap_mm"], abs=1e-6), "no reading counts twice"


def test_measure_refuses_in_a_sentence(capsys: pytest.CaptureFixture[str]) -> None:
    for arguments, why in (
        (("--joint", "gone"), "no joint 'gone'"),
        (("--take-over",), "Say with -o"),
        (("--build", "gone"), "gone"),
    ):
        _, error, code = run(capsys, "measure", DEMO, *arguments)
        assert code == 2
        assert why in error
        assert error.count("\n") == 1
