"""What is printed: one door, so that nothing a file says can command the terminal."""

from __future__ import annotations

import click

from ashen_bridge.model.cells import printable


def say(text: object = "", *, err: bool = False, nl: bool = True) -> None:
    """Print a text without control characters."""
    click.echo(printable(str(text)), err=err, nl=nl)
