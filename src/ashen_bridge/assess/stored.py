"""An assessment as bytes: a JSON report and an archive of its pictures, kept beside a project so that it opens with numbers."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
from pydantic import TypeAdapter, ValidationError

from ashen_bridge.assess.result import Assessment
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.errors import AshenError
from ashen_bridge.predict.maps import JointMap, Maps, Pose
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import Report

REPORT, MAPS = "prediction/report.json", "prediction/maps.npz"


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
    """Return the assessment kept in named files. Raises `StoredPredictionError` if they are not one."""
    try:
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
    except (KeyError, TypeError, ValueError, OSError, ValidationError, zipfile.BadZipFile) as error:
        raise StoredPredictionError(f"The stored prediction cannot be read ({type(error).__name__}).") from error
    return Assessment(Prediction(report, maps, poses), found)
