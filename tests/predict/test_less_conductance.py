"""What must hold whenever heat is led away worse: the device as a whole gets hotter, and so does a part that alone is heated."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.joint_heat import joint_conductance
from ashen_bridge.predict.readings import active_extremes
from ashen_bridge.simulated.devices import KINDS, device
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.resolution import COARSE, frame_of
from ashen_bridge.thermal.steady import Accuracy, SteadySolver

EXACT = Accuracy(residual=1e-9, settled=1e-5, energy=1e-8)


def worth(model: HeatModel) -> float:
    """Sum of power times rise over the one ambient [W·K]: it falls with every conductance that is added (Thomson's principle)."""
    field = SteadySolver().solve(model, EXACT)
    return float(Sources(field.grid, model).steady @ (field.temperature - model.reference))


@pytest.mark.long
@pytest.mark.parametrize("kind", KINDS)
def test_a_conductance_taken_away_never_helps(kind: str) -> None:
    project = Project.parse(device(1006, kind))  # type: ignore[arg-type]
    point = project.point(None).model_copy(update={"convection": "stated", "inside": "given"})
    engine = Engine()
    half = engine.rest(project, None, point)
    frame = frame_of(half.scene, COARSE)
    conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
    whole = heat_model(half.scene, frame, point, conductance)
    # Without what depends on temperature the principle is exact.
    slabs = tuple(replace(slab, layers=tuple(replace(one, exponent=0.0) for one in slab.layers)) for slab in whole.slabs)
    films = tuple(replace(film, emissivity=0.0) for film in whole.films)
    contacts = tuple(replace(one, radiation=None) for one in whole.contacts)
    model = replace(whole, slabs=slabs, films=films, contacts=contacts)
    alone = {name: value for name, value in point.powers_w.items() if name == "die"} or {"die": q(1.0)}
    only = replace(model, heats=tuple(heat for heat in model.heats if heat.slab in alone))
    before = worth(model)
    hot = active_extremes(SteadySolver().solve(only, EXACT), "die", frame.slabs.active["die"])[1]
    for n in np.random.default_rng(1).choice(len(contacts), min(6, len(contacts)), replace=False):
        weaker = replace(contacts[n], conductance=contacts[n].conductance * 0.2)
        less = (*contacts[:n], weaker, *contacts[n + 1 :])
        assert worth(replace(model, contacts=less)) >= before * (1 - 1e-7), contacts[n].name
        hotter = active_extremes(SteadySolver().solve(replace(only, contacts=less), EXACT), "die", frame.slabs.active["die"])[1]
        assert hotter >= hot - 1e-4, contacts[n].name
