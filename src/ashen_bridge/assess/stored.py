"""An assessment as bytes: a JSON report and an archive of its pictures, kept beside a project so that it opens with numbers."""

from __future__ import annotations

import io
import json
import math
import zipfile

import numpy as np
from pydantic import TypeAdapter

from ashen_bridge.assess.result import Assessment
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.errors import AshenError
from ashen_bridge.predict.maps import JointMap, Maps, Pose
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import Report

REPORT, MAPS = "prediction/report.json", "prediction/maps.npz"
MOST_BYTES, MOST_UNPACKED, MOST_SIDE = 16_000_000, 128_000_000, 4000


class StoredPredictionError(AshenError, ValueError):
    """A stored prediction that cannot be read; the project itself is not touched by that."""


def pack(assessment: Assessment) -> dict[str, bytes]:
    """Return an assessment as named files."""
    maps = assessment.prediction.maps
    text = {
        "report": assessment.report.model_dump(mode="json"),
        "findings": [finding.model_dump(mode="json") for finding in assessment.findings],
        "poses": [vars(pose) for pose in assessment.prediction.poses],
        "joint_maps": [{"joint": m.joint, "lower": m.lower, "box": m.box} for m in maps.joints],
    }
    arrays: dict[str, np.ndarray] = {"x_mm": maps.x_mm, "y_mm": maps.y_mm}
    for number, joint in enumerate(maps.joints):
        arrays[f"bond_{number}"] = joint.bond_line_um.astype(np.float32)
        arrays[f"pressure_{number}"] = joint.pressure_kpa.astype(np.float32)
    arrays["bow"] = maps.bow_um.astype(np.float32)
    arrays.update({f"storey_{name}": picture.astype(np.float32) for name, picture in maps.storeys.items()})
    arrays.update({f"flux_{name}": picture.astype(np.float32) for name, picture in maps.flux.items()})
    buffer = io.BytesIO()
    np.savez_compressed(buffer, **arrays)  # type: ignore[arg-type]
    return {REPORT: json.dumps(text, allow_nan=False).encode(), MAPS: buffer.getvalue()}


def unpack(files: dict[str, bytes]) -> Assessment:
    """Return the assessment kept in named files. Raises `StoredPredictionError` if they are not a sound one.

    It is a cache that anyone may have written: sizes are limited before anything is unpacked, every number must be finite and
    every picture as large as its grid.
    """
    try:
        _check_sizes(files)
        text = json.loads(files[REPORT])
        with np.load(io.BytesIO(files[MAPS]), allow_pickle=False) as arrays:
            joints = tuple(
                JointMap(meta["joint"], meta["lower"], tuple(meta["box"]), arrays[f"bond_{n}"], arrays[f"pressure_{n}"])
                for n, meta in enumerate(text["joint_maps"])
            )
            storeys = {name.removeprefix("storey_"): arrays[name] for name in arrays.files if name.startswith("storey_")}
            flux = {name.removeprefix("flux_"): arrays[name] for name in arrays.files if name.startswith("flux_")}
            maps = Maps(joints, arrays["x_mm"], arrays["y_mm"], storeys, flux, arrays["bow"])
        report = Report.model_validate(text["report"])
        found = TypeAdapter(tuple[Finding, ...]).validate_python(text["findings"])
        poses = tuple(Pose(**pose) for pose in text["poses"])
        assessment = Assessment(Prediction(report, maps, poses), found)
        _check(assessment)
    except Exception as error:
        # Like opening a file: damaged or forged ones fail in many ways, and all mean that it is computed again.
        raise StoredPredictionError(f"The stored prediction cannot be read ({type(error).__name__}).") from error
    return assessment


def named(assessment: Assessment) -> set[str]:
    """Return the ids of all bodies that an assessment shows something of."""
    report, maps = assessment.report, assessment.prediction.maps
    sides = {"front", "rear"}
    return {
        *(row.id for row in report.components),
        *(row.id for row in report.plates),
        *(row.body for row in report.sensors),
        *(row.lower for row in report.joints),
        *(pose.plate for pose in assessment.prediction.poses),
        *(one.lower for one in maps.joints),
        *(name for name in maps.storeys if name not in sides),
    }


def _check_sizes(files: dict[str, bytes]) -> None:
    if max(len(files[REPORT]), len(files[MAPS])) > MOST_BYTES:
        raise ValueError("too large")
    with zipfile.ZipFile(io.BytesIO(files[MAPS])) as archive:
        if sum(item.file_size for item in archive.infolist()) > MOST_UNPACKED:
            raise ValueError("unpacks to too much")
        for item in archive.infolist():
            with archive.open(item) as member:
                version = np.lib.format.read_magic(member)
                header = {(1, 0): np.lib.format.read_array_header_1_0, (2, 0): np.lib.format.read_array_header_2_0}[version]
                shape, _, dtype = header(member)
                if math.prod(shape) * dtype.itemsize > item.file_size:
                    raise ValueError("an array larger than what is stored")


def _check(assessment: Assessment) -> None:
    """Raise `ValueError` for what no prediction can hold."""
    _check_finite([assessment.report.model_dump(), [vars(pose) for pose in assessment.prediction.poses]])
    maps = assessment.prediction.maps
    if not all(isinstance(name, str) for one in maps.joints for name in (one.joint, one.lower)):
        raise ValueError("a joint's name")
    for pose in assessment.prediction.poses:
        if not isinstance(pose.plate, str) or not all(isinstance(v, float) for k, v in vars(pose).items() if k != "plate"):
            raise ValueError("a pose")
    for lines in (maps.x_mm, maps.y_mm):
        if lines.ndim != 1 or not 2 <= len(lines) <= MOST_SIDE or not (np.isfinite(lines).all() and (np.diff(lines) > 0).all()):
            raise ValueError("grid lines")
    shape = len(maps.y_mm) - 1, len(maps.x_mm) - 1
    for picture in (*maps.storeys.values(), *maps.flux.values(), *((maps.bow_um,) if maps.bow_um.size else ())):
        if picture.shape != shape or picture.dtype != np.float32 or np.isinf(picture).any():
            raise ValueError("a picture")
    for one in maps.joints:
        pictures = one.bond_line_um, one.pressure_kpa
        if len({picture.shape for picture in pictures}) > 1 or any(
            picture.ndim != 2 or max(picture.shape) > MOST_SIDE or picture.dtype != np.float32 for picture in pictures
        ):
            raise ValueError("a joint's picture")
        if len(one.box) != 4 or not all(isinstance(edge, int | float) and math.isfinite(edge) for edge in one.box):
            raise ValueError("a joint's place")


def _check_finite(node: object) -> None:
    if isinstance(node, float) and not math.isfinite(node):
        raise ValueError("a number that is none")
    for child in node.values() if isinstance(node, dict) else node if isinstance(node, list | tuple) else ():
        _check_finite(child)
