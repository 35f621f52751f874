"""The end by the command line: closing, the first minutes, burn-in, the record, recipes and service, as programs read them."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner
from icalendar import Calendar

from ashen_bridge.cli.main import cli
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.model.errors import AshenError
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def card(tmp_path_factory: pytest.TempPathFactory) -> str:
    path = tmp_path_factory.mktemp("device") / "Karte – 板.ashb"
    save_project(path, card_project(Card(parts=FOUR)))
    return str(path)


def run(*words: str) -> str:
    done = CliRunner().invoke(cli, list(words))
    assert done.exit_code == 0, done.output
    return done.output


def refused(*words: str) -> str:
    done = CliRunner().invoke(cli, list(words))
    assert done.exit_code != 0
    assert isinstance(done.exception, AshenError | SystemExit), "what goes wrong is one sentence"
    return f"{done.output}{done.exception}"


def test_closing_and_burn_in(card: str, tmp_path: Path) -> None:
    steps = json.loads(run("close-up", card, "--json"))["procedure"]["steps"]
    assert any("crosswise" in one["text"].lower() for one in steps)
    run("close-up", card, "-o", str(tmp_path / "close.pdf"))
    assert (tmp_path / "close.pdf").read_bytes().startswith(b"%PDF")
    burn = json.loads(run("burn-in", card, "--json"))
    assert {"cycles", "shares", "hot_min", "cold_min", "melting", "says", "minutes"} <= burn.keys()
    assert ".odt" in refused("close-up", card, "-o", str(tmp_path / "close.odt"))


def test_the_first_minutes_have_the_keys_that_programs_read(card: str, tmp_path: Path) -> None:
    found = json.loads(run("first-power", card, "--json"))
    assert (found["says"], found["suspects"]) == (None, [])
    assert {"times_s", "expected", "pm", "faults"} <= found.keys()
    name = next(iter(found["expected"]))
    told = json.loads(run("first-power", card, "--read", f"{name}=160", "--at", "60", "--json"))
    assert told["says"].startswith("Stop")
    assert "SENSOR=°C" in refused("first-power", card, "--read", "nothing")
    assert "SENSOR=°C" in refused("first-power", card, "--read", f"{name}=nan")
    assert "one of this device" in refused("first-power", card, "--read", "another=50")
    refused("first-power", card, "--log", str(tmp_path / "none.csv"))


def test_record_and_card_are_written_and_refused_in_words(card: str, tmp_path: Path) -> None:
    run("report", card, "-o", str(tmp_path / "record.html"))
    assert "<html" in (tmp_path / "record.html").read_text("utf-8")
    run("card", card, "-o", str(tmp_path / "card.html"), "--size", "Letter")
    assert ".odt" in refused("report", card, "-o", str(tmp_path / "record.odt"))
    (tmp_path / "own.html").write_text("<p>{{ title }</p>", encoding="utf-8")
    assert "line 1" in refused("report", card, "--template", str(tmp_path / "own.html"), "-o", str(tmp_path / "r.html"))
    assert not (tmp_path / "r.html").exists()
    refused("report", card, "-o", str(tmp_path / "no/where.html"))


def test_a_recipe_begins_the_next_device_and_a_folder_lists_both(card: str, tmp_path: Path) -> None:
    run("recipe", card, "--name", "Kind of card", "-o", str(tmp_path / "kind.ashb"))
    run("new", "--from", str(tmp_path / "kind.ashb"), "--name", "Second", "-o", str(tmp_path / "second.ashb"))
    second = open_project(tmp_path / "second.ashb").project
    first = open_project(Path(card)).project
    assert second.name == "Second"
    assert second.builds == first.builds
    assert not second.runs
    assert not second.readings
    (tmp_path / "broken.ashb").write_bytes(b"nothing")
    listed = json.loads(run("service", str(tmp_path), "--json", "--ics", str(tmp_path / "due.ics")))["devices"]
    assert len(listed) == 3
    Calendar.from_ical((tmp_path / "due.ics").read_bytes())
    (tmp_path / "empty").mkdir()
    assert "no device files" in refused("service", str(tmp_path / "empty"))
