"""Commands about what was seen: statements against the model, pictures of contact, and a simulated scanner."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    from ashen_bridge.evidence.film import Scale
    from ashen_bridge.evidence.picture import Corners
    from ashen_bridge.evidence.result import FilmReading, Seen
    from ashen_bridge.model.project import Project
    from ashen_bridge.predict.maps import JointMap


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build whose gaps are asked for; the main build if not given.")
@click.option("--add", "table", type=click.Path(path_type=Path), help="Take what a CSV table says in.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Write all that was said as CSV; with --add, the project.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def evidence(project_file: str, build: str | None, table: Path | None, output: Path | None, as_json: bool) -> None:
    """Hold what old pads, pastes and films show against what the model expected there, and weigh it with all readings."""
    if table is not None or output is not None:
        _tabled(opened(project_file).project, table, output)
        return
    from ashen_bridge.evidence.seeing import seeing
    from ashen_bridge.predict.engine import Engine

    *_, (_, seen) = seeing(Engine(), opened(project_file).project, build)
    assert seen is not None  # the last one always is
    say(json.dumps(_plain(seen), ensure_ascii=False, indent=1) if as_json else _text(seen))


def _tabled(project: Project, table: Path | None, output: Path | None) -> None:
    """Write what was said as a table, or take one in."""
    from ashen_bridge.changes.evidence import notice
    from ashen_bridge.changes.evidence import say as stated
    from ashen_bridge.cli.saving import save_changed
    from ashen_bridge.evidence.as_table import from_csv, to_csv

    if output is None:
        raise AshenError("Say with -o where to save the project with what the table says.")
    if table is None:
        write_atomically(output, to_csv(project).encode())
        return
    try:
        text = table.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise AshenError(f"The table '{table}' cannot be read: {error}.") from error
    (statements, signs), before = from_csv(text), project
    for one in statements:
        project = stated(project, one)
    for sign in signs:
        project = notice(project, sign)
    save_changed(output, before, project, what="Marks from a table")
    say(f"{len(statements) + len(signs)} statement{'s' if len(statements) + len(signs) != 1 else ''} taken in.")


def _plain(seen: Seen) -> dict[str, Any]:
    return {
        "build": seen.build,
        "statements": [
            {**vars(one), "culprit": vars(one.culprit) if one.culprit is not None else None} for one in seen.statements
        ],
        "contradictions": list(seen.contradictions),
        "refused": [{"id": name, "why": why} for name, why in seen.refused],
        "gaps": [
            {
                **{"joint": one.joint, "lower": one.lower, "gap_mm": one.now[0], "sd_mm": one.now[1]},
                **{"by_readings_mm": one.before[0], "by_readings_sd_mm": one.before[1]},
            }
            for one in seen.gaps
        ],
        "expected": [vars(one) for one in seen.looked],
        "effective": seen.effective,
        "problem": seen.problem,
    }


def _text(seen: Seen) -> str:
    lines = [f"{'  ' if one.agrees else '! '}{one.words}" for one in seen.statements] or ["Nothing was seen yet."]
    lines += [f"! {one}" for one in seen.contradictions]
    lines += [f"'{name}' is not used. {why}" for name, why in seen.refused]
    moved = [one for one in seen.gaps if _moved(one.before, one.now)]
    lines += ["", "Gaps that it moved [mm]:"] if moved else []
    lines += [f"    {one.name}: {one.before[0]:.3f} ± {one.before[1]:.3f} → {one.now[0]:.3f} ± {one.now[1]:.3f}" for one in moved]
    lines += [seen.problem] if seen.problem else []
    return "\n".join(lines)


def _moved(before: tuple[float, float], now: tuple[float, float]) -> bool:
    return abs(now[0] - before[0]) > 0.2 * before[1] or now[1] < 0.95 * before[1]


class _Points(click.ParamType[list[tuple[float, float]]]):
    """Points in pixels: x,y x,y x,y x,y."""

    name = "X,Y X,Y X,Y X,Y"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        if not isinstance(value, str):
            return value
        try:
            points = [tuple(float(part) for part in one.split(",")) for one in value.split()]
        except ValueError:
            points = []
        if len(points) != 4 or any(len(one) != 2 for one in points):
            self.fail(
                "four corners are needed: lower left, lower right, upper right, upper left, each as x,y in pixels", param, ctx
            )
        return points


@click.command()
@click.argument("image", type=click.Path(path_type=Path))
@click.option("--corners", type=_Points(), required=True, help="Of what was clamped, seen from the front of the board.")
@click.option("--size", metavar="WxH", help="Its size in mm, such as 26x18; else that of the lower body of --joint.")
@click.option("--strip", type=_Points(), help="Corners of a strip of patches of known pressure, left to right.")
@click.option("--pressures", metavar="P,P,…", help="With --strip: the pressures of its patches.")
@click.option("--project", "project_file", help="Hold it against this project's model.")
@click.option("--build", help="With --project: the build; the main build if not given.")
@click.option("--joint", help="With --project: the joint in which it lay.")
@click.option("--lower", help="With --project: the lower body, where the joint has several.")
@click.option("--closing", help="With -o: the closing in which it lay.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Take it into the project as evidence, and save that here.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def film(
    image: Path,
    corners: Corners,
    size: str | None,
    strip: Corners | None,
    pressures: str | None,
    project_file: str | None,
    build: str | None,
    joint: str | None,
    lower: str | None,
    closing: str | None,
    output: Path | None,
    as_json: bool,
) -> None:
    """Read a pressure film or a stamped pad off a picture: covered share, centre of pressure, tilt, hollow or crown."""
    from ashen_bridge.evidence.film import difference, read_film
    from ashen_bridge.evidence.picture import opened as picture

    try:
        content = image.read_bytes()
    except OSError as error:
        raise AshenError(f"The picture '{image}' cannot be read: {error.strerror}.") from error
    project = opened(project_file).project if project_file is not None else None
    there = _map(project, build, joint, lower) if project is not None and joint is not None else None
    w, h = _size(size, there)
    made = picture(content)
    reading = read_film(made, corners, w, h, _scale(made, strip, pressures, corners, w, h))
    plain = {
        key: getattr(reading, key)
        for key in ("covered", "covered_sd", "centre_x_mm", "centre_y_mm", "centre_sd_mm", "toward_deg", "ratio", "middle")
    }
    if there is not None:
        rows, columns = there.pressure_kpa.shape
        x, y = _middles(there.box[0], there.box[2], columns), _middles(there.box[1], there.box[3], rows)
        plain["difference"] = difference(reading, there.pressure_kpa.astype(float), x, y)
    if output is not None:
        if project is None or there is None or closing is None:
            raise AshenError("To take a picture in as evidence, say --project, --joint and --closing.")
        scale = (strip, [float(one) for one in (pressures or "").split(",")]) if strip is not None else None
        _take(project, content, reading, corners, there, closing, image, output, scale)
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else _told(plain))


def _told(plain: dict[str, Any]) -> str:
    x, y, sd, toward = (plain[name] for name in ("centre_x_mm", "centre_y_mm", "centre_sd_mm", "toward_deg"))
    tilt = "no tilt" if toward is None else f"presses {plain['ratio']:.1f} times harder towards {toward:.0f}°"
    lines = [
        f"covered {100 * plain['covered']:.0f} ± {100 * plain['covered_sd']:.0f} %",
        f"centre of pressure {x:+.2f}, {y:+.2f} ± {sd:.2f} mm off the middle",
        tilt,
        f"the middle is {plain['middle']}",
    ]
    if "difference" in plain:
        lines.append(f"{100 * plain['difference']:.0f} % of the pressure lies elsewhere than the model has it")
    return "\n".join(lines)


def _size(size: str | None, there: JointMap | None) -> tuple[float, float]:
    if size is not None:
        try:
            w, h = (float(part) for part in size.lower().split("x"))
        except ValueError:
            raise AshenError(f"'{size}' is no size: write it as 26x18, in mm.") from None
        if not (0.5 <= w <= 1000 and 0.5 <= h <= 1000):
            raise AshenError(f"'{size}' is no size of a film: each side is 0.5 to 1000 mm.")
        return w, h
    if there is None:
        raise AshenError("Say how large it is: --size WxH, or --project and --joint.")
    return there.box[2] - there.box[0], there.box[3] - there.box[1]


def _scale(made: Any, strip: Corners | None, pressures: str | None, corners: Corners, w: float, h: float) -> Scale | None:
    from ashen_bridge.evidence.film import learnt_scale

    if strip is None:
        return None
    try:
        values = [float(one) for one in (pressures or "").split(",")]
    except ValueError:
        raise AshenError("A strip needs --pressures, as numbers with commas between.") from None
    return learnt_scale(made, strip, values, corners, w, h)


def _map(project: Project, build: str | None, joint: str, lower: str | None) -> JointMap:
    from ashen_bridge.predict.engine import Engine

    prediction = Engine().predict(project, build, None)
    found = [one for one in prediction.maps.joints if one.joint == joint and lower in (None, one.lower)]
    if not found:
        raise AshenError(f"The build has no joint '{joint}'" + (f" over '{lower}'." if lower else "."))
    return found[0]


def _middles(low: float, high: float, count: int) -> Any:
    import numpy as np

    return ((np.arange(count) + 0.5) / count - 0.5) * (high - low)


def _take(
    project: Project,
    content: bytes,
    reading: FilmReading,
    corners: Corners,
    there: JointMap,
    closing: str,
    image: Path,
    output: Path,
    strip: tuple[Corners, list[float]] | None = None,
) -> None:
    from ashen_bridge.cli.saving import save_changed
    from ashen_bridge.editing.evidence import take_film
    from ashen_bridge.files.blobs import BlobStore, default_folder

    suffix = "png" if content[:4] == b"\x89PNG" else "jpg"
    BlobStore(default_folder()).put(content)
    digest = hashlib.sha256(content).hexdigest()
    edit = take_film(project, reading, corners, closing, there.joint, there.lower, image.name, digest, suffix, strip)
    save_changed(output, project, edit.applied(project), what=edit.name)


@click.command(name="simulate-film")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="The build; the main build if not given.")
@click.option("--joint", help="The joint whose film it is; the first with pressure if not given.")
@click.option("--lower", help="The lower body, where the joint has several.")
@click.option("--seed", type=int, default=1, show_default=True, help="Of grain and how it lies.")
@click.option("--ghost", type=float, default=0.0, metavar="MM", help="Stamped twice, this far apart.")
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="Where to write the picture: .png or .jpg.")
def simulate_film(
    project_file: str, build: str | None, joint: str | None, lower: str | None, seed: int, ghost: float, output: Path
) -> None:
    """Scan an invented pressure film of a prediction; corners and truth go into a .json beside it."""
    import numpy as np

    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.simulated.film import Scanner, scan

    if output.suffix.lower() not in (".png", ".jpg", ".jpeg"):
        raise AshenError(f"A picture is written as .png or .jpg, not as '{output.suffix or output.name}'.")
    prediction = Engine().predict(opened(project_file).project, build, None)
    found = [
        one
        for one in prediction.maps.joints
        if joint in (None, one.joint) and lower in (None, one.lower) and np.nan_to_num(one.pressure_kpa).max() > 0
    ]
    if not found:
        raise AshenError("There is no such joint in which anything presses.")
    one, random = found[0], np.random.default_rng(seed)
    scanner = Scanner(
        turned_deg=float(random.uniform(-30, 30)),
        lean=float(random.uniform(0, 0.1)),
        falls=float(random.uniform(0.1, 0.4)),
        gamma=float(random.uniform(0.7, 1.0)),
        ghost_mm=ghost,
        seed=seed,
    )
    box = one.box
    pressure = one.pressure_kpa.astype(float)
    suffix = "png" if output.suffix.lower() == ".png" else "jpg"
    made = scan(pressure, box[2] - box[0], box[3] - box[1], scanner, suffix)
    write_atomically(output, made.content)
    write_atomically(output.with_suffix(".json"), made.truth.encode())
    say(f"{one.joint} over {one.lower}: {output}")
