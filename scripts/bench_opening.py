"""Speed of what is done while a device lies open: gaps again after a reading, evidence, a film of 12 megapixels, a sheet."""

from __future__ import annotations

from collections.abc import Callable

from ashen_bridge.evidence.film import read_film
from ashen_bridge.evidence.picture import opened
from ashen_bridge.evidence.seeing import seeing
from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.finding import finding
from ashen_bridge.measuring.verdict_route import routing
from ashen_bridge.planning.opening import opening
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.sheet import sheet_pdf
from ashen_bridge.simulated.film import Scanner, scan

Say = Callable[[str, float, str, str], None]
Seconds = Callable[[Callable[[], object]], float]
_PIXELS = 3464  # squared: 12 million


def opened_up(say: Say, seconds: Seconds) -> None:
    """Print the figures."""
    project, engine = open_anything("demo:correlator").project, Engine()
    say("gaps from readings, demo, first", seconds(lambda: list(finding(engine, project, "as_found"))), "s", "none stated")
    say("gaps from readings, demo, again", seconds(lambda: list(finding(engine, project, "as_found"))), "s", "none stated")
    say("evidence weighed with readings, demo", seconds(lambda: list(seeing(engine, project, "as_found"))), "s", "none stated")
    say("route for the verdict, demo, first", seconds(lambda: list(routing(engine, project, "as_found"))), "s", "none stated")
    say("route for the verdict, demo, again", seconds(lambda: list(routing(engine, project, "as_found"))), "s", "none stated")
    there = next(one for one in engine.predict(project, "as_found", None).maps.joints if one.joint == "die_joint")
    w, h = there.box[2] - there.box[0], there.box[3] - there.box[1]
    made = scan(there.pressure_kpa.astype(float), w, h, Scanner(pixels=_PIXELS), "jpg")
    say("film picture of 12 megapixels", seconds(lambda: read_film(opened(made.content), made.corners, w, h)), "s", "<= 2")
    procedure = opening(project, "as_found")
    sheet_pdf(project, procedure)
    say("sheet of a procedure as PDF", seconds(lambda: sheet_pdf(project, procedure)), "s", "<= 3")
