"""What the documents promise is there: their commands run, their pictures and links exist, their keys are the window's."""

from __future__ import annotations

import json
import re
import runpy
import shlex
import struct
from collections.abc import Callable
from pathlib import Path

import pytest

from ashen_bridge.cli.main import main
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.library import materials
from ashen_bridge.library.touch import Surface, touch_limits
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import PHYSICS_VERSION
from here import ROOT

PAGES = (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md")))
README = PAGES[0].read_text()


def commands() -> list[str]:
    lines = (line.split("#")[0].strip() for line in README.splitlines())
    return [line.removeprefix("./run ") for line in lines if line.startswith("./run ") and len(line.split()) > 1]


def is_elsewhere(command: str) -> bool:
    """Opens a window, takes long, or changes the user's menu: these have tests of their own."""
    return (
        "FILE" in command
        or "FOLDER" in command
        or command.startswith("evidence ")
        or "LOG.csv" in command
        or "--transient" in command
        or "--assumptions" in command
        or "--chance" in command
        or "--ask" in command
        or "--mesh 1" in command
        or command.startswith(("install", "uninstall"))
    )


@pytest.mark.parametrize("command", [one for one in commands() if not is_elsewhere(one)])
def test_commands_of_the_readme_run(
    command: str, capsys: pytest.CaptureFixture[str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    main(shlex.split(command))
    output = capsys.readouterr()
    assert output.err == ""
    assert output.out or list(tmp_path.iterdir()), "it prints something or writes something"


def test_the_readme_shows_the_commands_of_each_kind() -> None:
    shown = {command.split()[0] for command in commands()}
    assert {"predict", "set", "paths"} <= shown


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_links_and_pictures_exist(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#\s]+)", page.read_text()):
        if not target.startswith("http"):
            assert (page.parent / target).exists(), target


def test_every_picture_is_shown_and_has_the_size_of_a_window() -> None:
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    text = "".join(page.read_text() for page in PAGES)
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert picture.name in text, picture.name
        head = picture.read_bytes()[:24]
        assert head[:8] == b"\x89PNG\r\n\x1a\n"
        assert struct.unpack(">II", head[16:24]) == (1280, 800), picture.name


def test_keys_in_the_readme_are_those_of_the_window(opened: Callable[..., MainWindow]) -> None:
    keys = {command.keys for command in opened().commands.listed if command.keys}
    section = README.split("## Keys")[1].split("##")[0]
    for key in re.findall(r"`([^`]+)`", section):
        if key not in ("+", "-", "6"):  # the thickness strip's own keys, and the end of a range
            assert any(key in known.split(", ") or known == key for known in keys), key


def test_no_two_commands_share_a_key_and_every_one_is_in_words(opened: Callable[..., MainWindow]) -> None:
    listed = opened().commands.listed
    keys = [key for command in listed for key in command.keys.split(", ") if key]
    assert len(keys) == len(set(keys))
    for command in listed:
        assert command.words[0].isupper(), command.words
        assert not command.words.endswith("."), command.words


def test_the_file_format_page_names_every_part_of_a_project() -> None:
    page = (ROOT / "docs/file-format.md").read_text()
    for name in Project.model_fields:
        assert name in page, name
    schema = json.dumps(Project.model_json_schema())
    for kind in re.findall(r"`kind`: (.+?)\.\n", page, re.S)[:1]:
        for word in re.findall(r"`([a-z]+)`", kind):
            assert f'"{word}"' in schema, word


def test_every_material_has_a_source_and_numbers_of_its_kind() -> None:
    """Ranges are those of handbooks: silver conducts best of the metals, 429 W/m·K (CRC Handbook, from memory), diamond aside."""
    library = materials()
    assert len(library) >= 20
    for material in library.values():
        assert material.sources, material.id
        assert all(source.text.strip() for source in material.sources), material.id
        conductivity = material.conductivity_w_mk.value
        low, high = {"pad": (0.5, 20), "paste": (0.5, 15), "putty": (0.5, 15), "solder": (20, 90), "liquid metal": (10, 80)}.get(
            material.kind, (0.02, 2000)
        )
        assert low <= conductivity <= high, (material.id, conductivity)
        if material.density_kg_m3 is not None:
            assert (0.1 if material.kind == "gas" else 50) <= material.density_kg_m3.value <= 20_000, material.id
        if material.poisson_ratio is not None:
            assert 0 <= material.poisson_ratio.value < 0.5, material.id


@pytest.mark.parametrize(
    ("name", "conductivity", "density", "specific_heat"),
    [
        ("copper", 401, 8933, 385),
        ("aluminium", 237, 2702, 903),
        ("silicon", 148, 2330, 712),
    ],
)
def test_solids_against_a_handbook(name: str, conductivity: float, density: float, specific_heat: float) -> None:
    """Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, table A.1, pure solids at 300 K (from memory)."""
    found = materials()[name]
    assert found.conductivity_w_mk.value == pytest.approx(conductivity, rel=0.05)
    assert found.density_kg_m3 is not None
    assert found.density_kg_m3.value == pytest.approx(density, rel=0.02)
    assert found.specific_heat_j_kgk is not None
    assert found.specific_heat_j_kgk.value == pytest.approx(specific_heat, rel=0.03)


@pytest.mark.parametrize("surface", ["metal", "glass", "plastic", "wood"])
def test_touch_limits_fall_with_longer_touch(surface: Surface) -> None:
    limits = list(touch_limits(surface).values())
    assert limits == sorted(limits), "the longest touch comes first and bears least"
    for metal, other in zip(touch_limits("metal").values(), limits, strict=True):
        assert metal <= other, "metal leads heat into the finger best"


@pytest.mark.parametrize("script", sorted((ROOT / "scripts").glob("*.py")), ids=lambda script: script.name)
def test_scripts_still_fit_the_program(script: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Their imports resolve; what they do is started by hand."""
    monkeypatch.syspath_prepend(str(script.parent))
    names = runpy.run_path(str(script), run_name="not_main")
    assert "main" in names or any(callable(value) for value in names.values())


def test_every_picture_is_made_by_the_script() -> None:
    script = (ROOT / "scripts/screenshots.py").read_text()
    named = set(re.findall(r'"([a-z]+(?:-[a-z]+)+|assumptions|cut|materials|measure|palette|triage)"', script))
    pictures = {picture.stem for picture in (ROOT / "docs/screenshots").glob("*.png")}
    assert pictures <= named, "none is left over from an older program"


def test_measured_figures_are_those_the_benchmark_takes() -> None:
    """Each line of the table has its counterpart in the benchmark, so that no figure outlives what it measured."""
    table = (ROOT / "docs/architecture.md").read_text().split("## Measured")[1]
    script = "".join(one.read_text() for one in sorted((ROOT / "scripts").glob("bench*.py")))
    names = [line.split("|")[1].strip() for line in table.splitlines() if line.startswith("| ")][1:]
    assert len(names) > 10
    for name in names:
        fixed = re.split(r"\d[\d,]*", name)[0].strip()
        assert fixed[:25] in script, name


def test_studies_are_of_this_physics_and_passed() -> None:
    """Proofs by statistics rot: a page that was written with other physics is written anew by `./check long NAME`."""
    pages = {page.stem: page.read_text() for page in (ROOT / "docs/studies").glob("*.md")}
    assert {"described", "faults", "intervals", "mesh_once", "tests", "fuzz"} <= set(pages)
    for name, text in pages.items():
        assert f"`./check long {name}`, physics version {PHYSICS_VERSION}." in text, name
        assert "failed" not in text, name


def test_limits_named_in_the_physics_page_are_those_in_the_code() -> None:
    page = (ROOT / "docs/physics.md").read_text()
    from ashen_bridge.findings import bond_line_rules, rules

    assert f"barely touching below {rules.BARELY * 100:g} %" in page
    assert f"over-compressed above {rules.TOO_MUCH * 100:g} %" in page
    assert f"wedge from {bond_line_rules.WEDGE_UM:g} µm and {bond_line_rules.WEDGE_SHARE * 100:g} % of the mean" in page
    assert f"nothing left below {rules.NOTHING * 100:g} % of the force" in page.replace("\n", " ")
