"""The door for scripts: open or make a project, change it, predict, read fields as arrays, save.

Projects are values: a change returns a new one. Temperatures are in °C, lengths in mm, powers in W, times in s, unless a name
says otherwise. What is refused comes as an `AshenError` whose text is one sentence, with the parts
that it is `about` and the `place` of a value.

>>> from ashen_bridge import api
>>> project = api.open("demo:correlator")
>>> thicker = api.change(project, {"device.bodies.die.height_mm": 0.85})
>>> api.value(thicker, "device.bodies.die.height_mm")
0.85
>>> found = api.predict(thicker, build="as_found", mesh="coarse")
>>> round(found.sensors_c["die_hot"] - found.ambient_c) > 40
True
"""

from __future__ import annotations

from ashen_bridge.api.chances import chances
from ashen_bridge.api.compare import Difference, compare
from ashen_bridge.api.courses import Course, over_time
from ashen_bridge.api.fields import Network, SolidMesh, network, save_mesh, solid_mesh
from ashen_bridge.api.predict import Raster, Result, predict
from ashen_bridge.api.projects import change, make, open, paths, save, value
from ashen_bridge.model.errors import AshenError

__all__ = [
    "AshenError",
    "Course",
    "Difference",
    "Network",
    "Raster",
    "Result",
    "SolidMesh",
    "chances",
    "change",
    "compare",
    "make",
    "network",
    "open",
    "over_time",
    "paths",
    "predict",
    "save",
    "save_mesh",
    "solid_mesh",
    "value",
]
