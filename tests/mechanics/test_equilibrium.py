"""Equilibrium of plates against hand calculations and an independent minimiser."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from ashen_bridge.changes.layers import thicken_sheets
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.mechanics import equilibrium as module
from ashen_bridge.mechanics.assembly import Assembly, assemble
from ashen_bridge.mechanics.equilibrium import EquilibriumError, equilibrium, slopes
from ashen_bridge.mechanics.motion import SLOPE_LENGTH
from ashen_bridge.mechanics.potential import Variants
from ashen_bridge.model.fasteners import Fastener, FastenerSetting
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.resolve import resolve
from devices import FOUR, Card, Part, linear_pad, project


def assembled(made: Project) -> Assembly:
    return assemble(make_scene(resolve(made)))


def test_seesaw_of_two_pads_by_hand() -> None:
    """A plate on four springs and two linear pads of different gaps: three unknowns, three equations, solved by hand."""
    pad = linear_pad(1000.0)
    left = Part(8, 35, 1.2, 1.0, (10, 10), "linear_pad")
    right = Part(62, 35, 1.0, 1.0, (10, 10), "linear_pad")
    made = project(Card((left, right), die=False, rate=3.0, travel=2.0, extra_materials=(pad,), compliance=1e-6))
    pose = slopes(equilibrium(assembled(made)).coordinates)[0, 0]
    # z at x = 40 mm, slope θ: pads push A·E·(1 − g/t) with g = z ± 0.027·θ − h and resist tilt by their own width;
    # springs pull k·(travel + z − reference) at ±25 mm.
    area, modulus, t, arm, w = 1e-4, 1e6, 1e-3, 0.027, 0.010
    k, spring_arm = 3e3, 0.025
    stiff = area * modulus / t
    own = stiff * w**2 / 12
    matrix = np.array([[2 * stiff + 4 * k, 0.0], [0.0, 2 * stiff * arm**2 + 2 * own + 4 * k * spring_arm**2]])
    force = 2 * area * modulus + stiff * (1.2e-3 + 1.0e-3) - 4 * k * (2.0e-3 - 2.04e-3)
    moment = stiff * arm * (1.0e-3 - 1.2e-3)
    z, slope = np.linalg.solve(matrix, [force, moment])
    assert pose[0] == pytest.approx(z, abs=1e-6)
    assert pose[1] == pytest.approx(slope, rel=5e-3)
    assert abs(pose[2]) < 1e-9


def independent(assembly: Assembly) -> tuple[np.ndarray, float]:
    """Minimise the same potential with a general-purpose minimiser and our own reading of the pressure laws.

    Energy of a point: ∫p dg by trapezoids over a fine table made from the layers alone (bisection-free inverse by sorting).
    """
    tables = []
    for contact in assembly.contacts:
        pressure = np.concatenate([[0.0], np.geomspace(0.5, 5e7, 20_000)])
        thickness = np.zeros_like(pressure)
        for layer in contact.layers:
            with np.errstate(divide="ignore"):
                thickness = thickness + layer(np.maximum(pressure, 0.5 if contact.law.fills else 0.0))
        gap = thickness - contact.law.compliance * pressure
        order = np.argsort(gap)
        g, p = gap[order], pressure[order]
        work = np.concatenate([np.cumsum(((p[1:] + p[:-1]) / 2 * np.diff(g))[::-1])[::-1], [0.0]])
        tables.append((g, p, work))

    def energy(u: np.ndarray) -> float:
        coordinates = u * 1e-4
        total = 0.0
        for contact, (g, p, work) in zip(assembly.contacts, tables, strict=True):
            part = contact.points
            gap = assembly.free_gap[part] + assembly.jacobian[part] @ coordinates
            inside = np.interp(gap, g, work) + np.where(gap < g[0], p[0] * (g[0] - gap), 0.0)
            total += float(inside @ assembly.weight[part])
        for ramp in assembly.ramps:
            reach = assembly.fastener_jacobian[ramp.fastener] @ coordinates + assembly.separation[ramp.fastener]
            total += 0.5 * ramp.stiffness * max(0.0, ramp.sign * float(reach) + ramp.offset) ** 2
        return total

    best = np.array([30.0, 0.0, 0.0])
    for method in ("Powell", "Nelder-Mead", "Powell", "Nelder-Mead"):
        found = minimize(
            energy, best, method=method, options={"maxiter": 6000, "xtol": 1e-7, "ftol": 1e-13, "xatol": 1e-6, "fatol": 1e-13}
        )
        best = found.x
    return best * 1e-4, energy(best)


@st.composite
def cards(draw: st.DrawFn) -> Card:
    heights = [draw(st.floats(0.9, 1.5)) for _ in range(4)]
    pads = [draw(st.sampled_from([0.5, 0.75, 1.0, 1.5])) for _ in range(4)]
    kinds = [draw(st.sampled_from(["pad_soft", "pad_medium", "pad_firm"])) for _ in range(4)]
    parts = tuple(Part(p.x, p.y, h, t, p.size, kind) for p, h, t, kind in zip(FOUR, heights, pads, kinds, strict=True))
    return Card(parts, rate=draw(st.floats(4.0, 30.0)), travel=draw(st.floats(1.5, 4.0)), plate_crown_um=draw(st.floats(-20, 20)))


@pytest.mark.filterwarnings("ignore:Unknown solver options")
@settings(max_examples=8)
@given(cards())
def test_against_an_independent_minimiser(card: Card) -> None:
    assembly = assembled(project(card))
    rest = equilibrium(assembly)
    other, _ = independent(assembly)
    ours = rest.coordinates[0]
    assert rest.residual[0] < 1e-8
    assert ours == pytest.approx(other, abs=1.5e-6), "heights and edge deflections within 1.5 µm"


@settings(max_examples=25)
@given(cards(), st.floats(0.05, 0.6))
def test_more_pad_never_unloads_the_springs(card: Card, more: float) -> None:
    """Thicker pads all round lift the plate, and a plate that is held up loads its springs more."""
    symmetric = Card(
        tuple(Part(p.x, p.y, card.parts[0].height, card.parts[0].pad, p.size, card.parts[0].pad_material) for p in FOUR),
        rate=card.rate,
        travel=card.travel,
    )
    made = project(symmetric)
    before = equilibrium(assembled(made)).fastener_force[0]
    after = equilibrium(assembled(thicken_sheets(made, "now", made.groups[0].joints, more))).fastener_force[0]
    assert (after >= before - 1e-6).all()


def test_forces_balance_and_a_mirrored_card_does_not_tilt() -> None:
    assembly = assembled(project(Card(FOUR)))
    rest = equilibrium(assembly)
    pose = slopes(rest.coordinates)[0, 0]
    assert abs(pose[1]) < 1e-9
    assert abs(pose[2]) < 1e-9
    gap = assembly.free_gap + assembly.jacobian @ rest.coordinates[0]
    carried = sum(float(c.law.pressure_at(gap[c.points]) @ assembly.weight[c.points]) for c in assembly.contacts)
    assert carried == pytest.approx(float(rest.fastener_force.sum()), rel=1e-6)


def test_variants_in_one_batch_equal_single_solves() -> None:
    rng = np.random.default_rng(7)
    assembly = assembled(project(Card(FOUR)))
    n = len(assembly.contacts)
    shift = rng.normal(0, 40e-6, (6, n))
    travel = rng.normal(0, 2e-4, (6, 4))
    scale = rng.normal(1, 0.03, (6, n))
    together = equilibrium(assembly, Variants(6, shift, scale, travel))
    for k in range(6):
        alone = equilibrium(assembly, Variants(1, shift[k : k + 1], scale[k : k + 1], travel[k : k + 1]))
        assert alone.coordinates[0] == pytest.approx(together.coordinates[k], abs=1e-9)


def test_the_start_does_not_matter() -> None:
    assembly = assembled(project(Card(FOUR)))
    one = equilibrium(assembly).coordinates
    other = equilibrium(assembly, start=np.array([3.5e-3, 2e-4, -3e-4])).coordinates
    assert one == pytest.approx(other, abs=1e-9)


def with_fastener(made: Project, **values: object) -> Project:
    fixed = tuple(
        Fastener(id=f.id, kind="fixed", joins=f.joins, x_mm=f.x_mm, y_mm=f.y_mm, **values) for f in made.device.fasteners
    )
    return Project.parse({**dict(made), "device": {**dict(made.device), "fasteners": fixed}})


def test_a_seat_only_pushes_and_a_screw_only_pulls() -> None:
    """Seated at 2.5 mm with nothing under the plate: preload closes on the seat, the plate rests where both agree."""
    made = with_fastener(project(Card(die=False)), preload_n=q(50), seat_mm=q(2.5), stiffness_n_mm=q(1000))
    rest = equilibrium(assembled(made))
    # screw k·(preload/k + z − seat) against seat k·(seat − z): z = seat − preload/2k
    assert slopes(rest.coordinates)[0, 0, 0] == pytest.approx(2.5e-3 - 50 / 2e6, abs=1e-8)
    assert rest.fastener_force[0] == pytest.approx(25.0, rel=1e-6)
    high = with_fastener(project(Card(FOUR)), preload_n=q(0), seat_mm=q(1.0), stiffness_n_mm=q(1000))
    assert (equilibrium(assembled(high)).fastener_force >= 0).all()


def test_washers_raise_the_force_by_their_rate() -> None:
    made = project(Card(FOUR))
    build = made.builds[0]
    settings_ = tuple(FastenerSetting(fastener=f.id, washers_mm=q(0.5)) for f in made.device.fasteners)
    more = Project.parse({**dict(made), "builds": ({**dict(build), "fastener_settings": settings_},)})
    plain, washed = equilibrium(assembled(made)), equilibrium(assembled(more))
    settled = slopes(plain.coordinates)[0, 0, 0] - slopes(washed.coordinates)[0, 0, 0]
    assert washed.fastener_force[0] - plain.fastener_force[0] == pytest.approx(12e3 * (0.5e-3 - settled), rel=1e-6)


def test_coil_bind_adds_the_solid_stiffness() -> None:
    made = project(Card(FOUR, travel=3.0))
    bound = Project.parse(
        {
            **dict(made),
            "device": {
                **dict(made.device),
                "fasteners": tuple({**dict(f), "coil_bind_mm": q(2.0)} for f in made.device.fasteners),
            },
        }
    )
    assert equilibrium(assembled(bound)).fastener_force.sum() > 5 * equilibrium(assembled(made)).fastener_force.sum()


def test_no_rest_is_an_error_that_names_the_plate(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MAX_ITERATIONS", 2)
    with pytest.raises(EquilibriumError, match="'plate' does not come to rest") as caught:
        equilibrium(assembled(project(Card(FOUR))))
    assert caught.value.residual > 1e-5


def test_slope_units() -> None:
    assert slopes(np.array([1e-3, SLOPE_LENGTH * 2e-3, 0.0]))[0] == pytest.approx([1e-3, 2e-3, 0.0])
