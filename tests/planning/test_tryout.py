"""Plans tried in batches say what whole predictions of the same builds say, on the mesh that is shown."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.stats import norm

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.choosing.advise import likely_first
from ashen_bridge.planning.choosing.candidate import Candidate
from ashen_bridge.planning.choosing.candidates import candidates, hopeless
from ashen_bridge.planning.choosing.chances import Outlook
from ashen_bridge.planning.choosing.drawn import Moves, drawn_alike
from ashen_bridge.planning.choosing.limits import Bound
from ashen_bridge.planning.choosing.places import Place, places
from ashen_bridge.planning.choosing.tryout import Tryout, filled
from ashen_bridge.predict.engine import Engine
from described import truth
from devices import FOUR, Card, Part
from devices import project as card_project

RNG = np.random.default_rng(16)


def tryout_of(project: Project, engine: Engine) -> tuple[Tryout, tuple[Place, ...], list[list[Candidate]]]:
    build, point = project.build().id, project.point().id
    found = places(engine, project, build)
    options = [likely_first(place, candidates(project, build, place, project.aims.wishes)) for place in found]
    likely = [[n for n, one in enumerate(some) if not hopeless(place, one)] for place, some in zip(found, options, strict=True)]
    made = Tryout(
        engine, project, build, point, [one.joints for one in found], [[c.fills for c in some] for some in options], likely
    )
    return made, found, options


_SLOW = [pytest.param(one, marks=pytest.mark.long) for one in ("demo:correlator", "card 8")]


@pytest.mark.parametrize("name", ["demo:buoy", "card 3", *_SLOW])
def test_a_batch_says_what_each_prediction_says(name: str) -> None:
    """Forces to some hundredths, sensors within 0.5 K of the coarse field, where nothing runs away."""
    project = open_anything(name).project if name.startswith("demo") else truth(int(name.split()[1])).project
    # Plans are weighed without throttling: how hot it would get.
    project = paths.set_values(project, {f"points.{project.point().id}.throttle_at_c": {}})
    engine = Engine()
    tryout, found, options = tryout_of(project, engine)
    build, point = project.build().id, project.point().id

    fit = [[n for n, one in enumerate(some) if not hopeless(place, one)] for place, some in zip(found, options, strict=True)]
    choices = np.array([[RNG.choice(some) for some in fit] for _ in range(16)])
    washers = np.where(np.arange(16) % 4 == 3, 0.5, 0.0) if tryout.washers.any() else np.zeros(16)
    tried = tryout.tried(choices, washers)
    apart, compared = [], 0
    for n in np.flatnonzero(tried.rests):
        if washers[n]:
            continue  # they have a test of their own
        told = filled(project, build, [some[k] for some, k in zip(tryout.options, choices[n], strict=True)])
        report = engine.predict(told, build, point, fidelity="coarse").report
        shown = {row.id: row.value_c for row in report.sensors}
        if max(shown.values()) > 105:
            assert np.nanmax(tried.sensors[n]) > 100
            continue  # where leakage runs away, how far does not matter
        apart += [tried.sensors[n][k] - shown[one] for k, one in enumerate(tryout.sensors) if one in shown]
        rows = {(row.id, row.lower): row for row in report.joints}
        for k, key in enumerate(tryout.joints):
            assert tried.joints.force[n, k] == pytest.approx(rows[key].force_n, rel=0.05, abs=1.0)
            assert tried.joints.gap[n, k] * 1e3 == pytest.approx(rows[key].gap_mm, rel=0.02, abs=2e-3)
        compared += 1
    assert compared >= 2
    assert np.sqrt(np.mean(np.square(apart))) < 0.5


def test_washers_are_what_the_build_with_washers_has() -> None:
    from ashen_bridge.changes.plans import add_washers

    project = card_project(Card(parts=FOUR))
    engine = Engine()
    tryout, _, options = tryout_of(project, engine)
    plan = np.array([[0 for _ in options]])
    tried = tryout.tried(plan, np.array([0.8]))
    told = add_washers(project, "now", 0.8)
    report = engine.predict(told, "now", "load", fidelity="coarse").report
    forces = {row.id: row.force_n for row in report.fasteners}
    assert tried.fasteners[0] == pytest.approx([forces[name] for name in tryout.assembly.fasteners], rel=0.01)


def test_names_and_order_do_not_matter() -> None:
    """The same device with its joints the other way round, and others tried before it: the same temperatures."""
    project = card_project(Card(parts=FOUR))
    turned = replaced(project, builds=(replaced(project.builds[0], joints=project.builds[0].joints[::-1]),))
    shown = []
    for one in (project, turned):
        tryout, found, options = tryout_of(one, Engine())
        wanted = {
            place.role: next(n for n, c in enumerate(some) if c.id.endswith("1.25") or c.kind == "paste")
            for place, some in zip(found, options, strict=True)
        }
        tried = tryout.tried(np.array([[wanted[place.role] for place in found]]))
        shown.append(dict(zip(tryout.sensors, tried.sensors[0], strict=True)))
    assert shown[0] == pytest.approx(shown[1], abs=0.05)


def test_the_chance_of_contact_is_that_of_a_normal_thickness() -> None:
    """A pad in a gap that screws keep touches if it is thick enough. Closed form: the normal distribution."""
    project = card_project(Card(parts=FOUR, rate=2000.0, travel=0.5))  # so stiff that pads move nothing
    engine, joints = Engine(), ("pad_0", "pad_1", "pad_2", "pad_3")
    gap = min(row.gap_mm for row in engine.predict(project, "now", "load", fidelity="coarse").report.joints if row.id in joints)
    nominal, sd = gap + 0.01, 0.04
    pieces = (Piece(id="pad", material="pad_soft", thickness_mm=q(nominal, sd)),)
    tryout = Tryout(engine, project, "now", "load", [joints], [[dict.fromkeys(joints, pieces)]])
    count = 400
    drawn = drawn_alike(Moves.none(tryout.assembly), ["pad_soft"], count, 7)
    tried = tryout.tried(np.zeros((count, 1), dtype=int), None, drawn)
    touches = (tried.joints.force[:, 0] > 0.05).mean()
    expected = norm.cdf((nominal - gap) / sd)
    assert touches == pytest.approx(expected, abs=2.5 * np.sqrt(expected * (1 - expected) / count) + 0.02)


def test_chances_of_normal_temperatures_are_those_of_the_normal_distribution() -> None:
    found = (Bound("a", "A", 90.0), Bound("b", "B", 100.0))
    z = np.random.default_rng(3).standard_normal((40_000, 2))
    outlook = Outlook(np.array([85.0, 97.0]) + z * np.array([5.0, 3.0]), np.ones(40_000, dtype=bool))
    each, both = outlook.chance(found, ("a", "b"))
    assert each == pytest.approx(norm.cdf([1.0, 1.0]), abs=0.01)
    assert both == pytest.approx(norm.cdf(1.0) ** 2, abs=0.01)


def test_a_shim_as_a_piece_is_metal_in_series() -> None:
    """Over a gap of three millimetres: paste, copper, a thin pad. By hand: t/k of each, and it beats three millimetres of pad."""
    parts = tuple(Part(one.x, one.y, 0.2, 3.0) for one in FOUR)
    tall = {"device.bodies.die.height_mm": 3.2, **{f"device.fasteners.spring_{n}.reference_mm": 3.24 for n in range(4)}}
    wide = paths.set_values(card_project(Card(parts=parts)), tall)
    engine = Engine()
    _, found, options = tryout_of(wide, engine)
    at = next(n for n, place in enumerate(found) if place.role == "memory")
    copper = next(one for one in options[at] if one.kind == "shim" and one.id.startswith("copper"))
    assert not copper.refused
    report = engine.predict(filled(wide, "now", [copper.fills]), "now", "load").report
    row = next(row for row in report.joints if row.id == "pad_0")
    paste, shim, pad = row.layers
    assert shim.resistance_mm2k_w == pytest.approx(shim.thickness_um * 1e-3 / 401 * 1e3, rel=0.01)
    assert paste.resistance_mm2k_w + shim.resistance_mm2k_w + pad.resistance_mm2k_w < 3.0 / 6.0 * 1e3
    assert row.contact_fraction > 0.95
    hot = {one.id: one.value_c for one in engine.predict(wide, "now", "load").report.sensors}
    assert next(one.value_c for one in report.sensors if one.id == "s_part_0") < hot["s_part_0"] - 1
