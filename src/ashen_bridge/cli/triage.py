"""What logs say by themselves, from the command line."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import click

from ashen_bridge.cli.said import say


@click.command()
@click.argument("logs", nargs=-1, required=True, type=click.Path(dir_okay=False, path_type=Path), metavar="LOG ...")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of sentences.")
def triage(logs: tuple[Path, ...], as_json: bool) -> None:
    """Say what the logs of one test tell by themselves, one log per pass; no device is needed."""
    from ashen_bridge.logs.reading import read_log
    from ashen_bridge.logs.triage import triage as judge

    found = judge([read_log(path) for path in logs])
    if as_json:
        say(json.dumps(asdict(found), ensure_ascii=False, indent=2))
    else:
        say("\n".join(f"{number}. {one.text}" for number, one in enumerate(found.remarks, start=1)))
