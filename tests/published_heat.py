"""Conduction, spreading, radiation and time against closed forms and series."""

from __future__ import annotations

import math

import numpy as np
from scipy.optimize import brentq

from ashen_bridge.geometry.region import Region
from ashen_bridge.thermal import layering
from ashen_bridge.thermal.contact import bare_contact_cooper
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.parts import Contact, Film, Heat, HeatModel, Layer, Leak, Slab, cell_areas
from ashen_bridge.thermal.spreading import spreading_lee
from ashen_bridge.thermal.steady import RunawayError, SteadySolver
from ashen_bridge.thermal.surfaces import STEFAN_BOLTZMANN, effective_emissivity
from ashen_bridge.thermal.transient import Body, Stage, Steps, march
from published import Check
from test_heat_published import HOLD, PLATE, block, even, grid_mean, series

INCROPERA = "Incropera & DeWitt, Fundamentals of Heat and Mass Transfer (from memory)"
MUZYCHKA = "Muzychka, Culham & Yovanovich, J. Electronic Packaging 125, 2003 (series summed here)"


def wall() -> float:
    side, region = 0.02, Region(((0, 0, 0.02, 0.02),))
    lines = Lines(even(side, 4), even(side, 4))
    slabs = (block("a", region, 1e-3, 401, 3), block("b", region, 2e-3, 0.5, 3))
    area = cell_areas(region, lines)
    joints = (Contact(("a", "b"), (1, 0), area, area * 1e5),)
    films = (Film("a", 0, region, HOLD, 400.0), Film("b", 1, region, HOLD, 300.0))
    return float(SteadySolver().solve(HeatModel(lines, slabs, joints, films, (), reference=300.0)).film_power[1])


TWO = ((0.012, 0.024, 1.0), (0.042, 0.018, 0.6))  # middle x, y [m] and power [W] of two sources of 12 × 12 mm


def _two_sources_series() -> float:
    """Mean rise of the first source with both on: superposition, the cross term from the same series at its middle region."""
    a, b, t, k, h = (PLATE[name] for name in "abtkh")
    (x1, y1, p1), (x2, y2, p2) = TWO
    own, _ = series(**PLATE, c=0.012, d=0.012, xc=x1, yc=y1)
    m = np.arange(1, 161)
    lam, dlt = m * np.pi / a, m * np.pi / b

    def phi(z: np.ndarray) -> np.ndarray:
        th = np.tanh(z * t)
        return (z * th + h / k) / (z + h / k * th)

    c = d = 0.012

    def over(freq: np.ndarray, middle: float, size: float) -> np.ndarray:
        return np.cos(freq * middle) * np.sin(freq * size / 2) / (freq * size / 2)

    cross = (t / k + 1 / h) / (a * b)
    cross += (2 / (a * b * k * lam * phi(lam)) * over(lam, x1, c) * over(lam, x2, c)).sum()
    cross += (2 / (a * b * k * dlt * phi(dlt)) * over(dlt, y1, d) * over(dlt, y2, d)).sum()
    lm, dn = np.meshgrid(lam, dlt, indexing="ij")
    beta = np.hypot(lm, dn)
    both = over(lm, x1, c) * over(lm, x2, c) * over(dn, y1, d) * over(dn, y2, d)
    cross += (4 / (a * b * k * beta * phi(beta)) * both).sum()
    return p1 * own + p2 * float(cross)


def two_sources() -> float:
    region = Region(((0, 0, PLATE["a"], PLATE["b"]),))
    slab = block("plate", region, PLATE["t"], PLATE["k"], 12)
    lines = Lines(even(PLATE["a"], 60), even(PLATE["b"], 48))
    sources = [Region(((x - 0.006, y - 0.006, x + 0.006, y + 0.006),)) for x, y, _ in TWO]
    heats = tuple(Heat("plate", (11,), p, where) for where, (_, _, p) in zip(sources, TWO, strict=True))
    field = SteadySolver().solve(HeatModel(lines, (slab,), (), (Film("plate", 0, region, PLATE["h"], 0.0),), heats, 0.0))
    area = cell_areas(sources[0], lines).ravel()
    top = field.temperature[field.grid.slabs["plate"].layer(-1)]
    half_cell = PLATE["t"] / 12 / 2 / PLATE["k"] / sources[0].area
    return float(top @ area / area.sum()) + half_cell


def silicon() -> float:
    region = Region(((0, 0, 0.01, 0.01),))
    films = (Film("si", 0, region, HOLD, 420.0), Film("si", 1, region, HOLD, 300.0))
    model = HeatModel(Lines(even(0.01, 2), even(0.01, 2)), (block("si", region, 8e-4, 148, 40, -1.3),), (), films, (), 300.0)
    return float(SteadySolver().solve(model).film_power[1])


def radiating() -> float:
    region = Region(((0, 0, 0.05, 0.05),))
    film = Film("p", 1, region, 0.0, 300.0, 0.9)
    model = HeatModel(
        Lines(even(0.05, 4), even(0.05, 4)), (block("p", region, 1e-3, 400, 1),), (), (film,), (Heat("p", (0,), 2.0),), 300.0
    )
    return float(SteadySolver().solve(model).temperature.mean())


STACK = ((0.7e-3, 148.0), (50e-6, 4.0), (2.0e-3, 390.0), (40e-6, 6.0), (6e-3, 200.0))
"""Die, paste, lid, paste, base: thickness [m] and conductivity [W/m·K]."""
FACES = (2e-6, 1e-6)
"""Contact resistance of both faces of each paste together [m²·K/W]; the second case has none."""


def stacked(faces: tuple[float, float]) -> float:
    """Rise of a die's active face for 100 W through three plates and two pastes, on the layers that a device gets."""
    (die, lid, base), (one, other) = (STACK[n] for n in (0, 2, 4)), (STACK[n] for n in (1, 3))
    cuts = (
        layering.layered(die[0], layering.DIE),
        layering.layered(lid[0], layering.PLATE),
        layering.layered(base[0], layering.SINK),
    )
    slabs = tuple(
        Slab(name, SQUARE, tuple(Layer(cut.thickness, k, k, 2e6, node=cut.node) for cut in layers))
        for name, layers, (_, k) in zip(("die", "lid", "base"), cuts, (die, lid, base), strict=True)
    )
    area = cell_areas(SQUARE, COARSE)
    joints = tuple(
        Contact((low, high), (1, 0), area, area / (t / k + face))
        for (low, high), (t, k), face in zip((("die", "lid"), ("lid", "base")), (one, other), faces, strict=True)
    )
    film = Film("base", 1, SQUARE, 5000.0, 300.0)
    field = SteadySolver().solve(HeatModel(COARSE, slabs, joints, (film,), (Heat("die", (0,), 100.0),), 300.0))
    return float(field.temperature[field.grid.slabs["die"].layer(0)].max()) - 300.0


def stacked_by_hand(faces: tuple[float, float]) -> float:
    return 100 / SQUARE.area * (sum(t / k for t, k in STACK) + sum(faces) + 1 / 5000.0)


def hot_die(watts: float) -> float:
    """Rise of the active face of 0.775 mm of silicon with k ~ T^-1.3 whose other face is held at 350 K."""
    layers = tuple(Layer(cut.thickness, 148, 148, 1.6e6, -1.3, node=cut.node) for cut in layering.layered(0.775e-3, layering.DIE))
    model = HeatModel(
        COARSE, (Slab("si", SQUARE, layers),), (), (Film("si", 1, SQUARE, HOLD, 350.0),), (Heat("si", (0,), watts),), 300.0
    )
    field = SteadySolver().solve(model)
    return float(field.temperature[field.grid.slabs["si"].layer(0)].max())


def hot_die_kirchhoff(watts: float) -> float:
    """∫k dT = q″·t with k = 148·(T/300)^-1.3, the held face's own film included."""
    flux = watts / SQUARE.area
    held = 350.0 + flux / HOLD
    return float((held**-0.3 - 0.3 * flux * 0.775e-3 / (148 * 300**1.3)) ** (-1 / 0.3))


def flushed(seconds: float) -> float:
    """Rise of the heated face of a thick copper base under sudden even flux, on the layers that a device gets."""
    layers = tuple(Layer(cut.thickness, 390, 390, 3.45e6, node=cut.node) for cut in layering.layered(8e-3, layering.SINK))
    model = HeatModel(
        COARSE, (Slab("base", SQUARE, layers),), (), (Film("base", 1, SQUARE, 1.0, 300.0),), (Heat("base", (0,), 400.0),), 300.0
    )
    steady = SteadySolver().solve(model)
    *_, last = march(Body(model, steady), np.full(steady.grid.n_cell, 300.0), (Stage(seconds, 1.0),), Steps(0.01))
    return float(last.temperature[steady.grid.slabs["base"].layer(0)].max()) - 300.0


def flushed_series(seconds: float) -> float:
    """Slab under constant flux, its other face insulated: Carslaw & Jaeger, section 3.8 (from memory)."""
    k, c, t, flux = 390.0, 3.45e6, 8e-3, 400.0 / SQUARE.area
    fourier = k / c * seconds / t**2
    series = sum((-1) ** n / n**2 * math.exp(-((n * math.pi) ** 2) * fourier) * math.cos(n * math.pi) for n in range(1, 400))
    return flux * t / k * (fourier + 1 / 3 - 2 / math.pi**2 * series)


SIDE = 0.02
SQUARE = Region(((0, 0, SIDE, SIDE),))
COARSE = Lines(even(SIDE, 2), even(SIDE, 2))


def marched(model: HeatModel, start: float, end: float) -> np.ndarray:
    steady = SteadySolver().solve(model)
    *_, last = march(Body(model, steady), np.full(steady.grid.n_cell, start), (Stage(end, 1.0),), Steps(0.01))
    return np.asarray(last.temperature)


def plane_wall(fourier: float) -> float:
    """Rise of the insulated face over the start's, Bi = 1."""
    thickness, k, capacity = 10e-3, 1.0, 2e6
    slab = Slab("wall", SQUARE, (Layer(thickness / 80, k, k, capacity),) * 80)
    model = HeatModel(COARSE, (slab,), (), (Film("wall", 1, SQUARE, k / thickness, 300.0),), (), 300.0)
    end = fourier * thickness**2 * capacity / k
    return (float(marched(model, 400.0, end).reshape(80, -1)[0].mean()) - 300.0) / 100.0


def heisler(fourier: float) -> float:
    roots = [brentq(lambda z: z * math.tan(z) - 1.0, n * math.pi + 1e-9, n * math.pi + math.pi / 2 - 1e-9) for n in range(20)]
    return sum(4 * math.sin(z) / (2 * z + math.sin(2 * z)) * math.exp(-(z**2) * fourier) for z in roots)


CAP_1, CAP_2, G_12, G_AIR, STEP_W = 8.0, 40.0, 2.0, 0.5, 10.0


def two_nodes(seconds: float) -> float:
    """Two isothermal plates joined by a contact, the second to air: rise of the first after a power step."""
    thick = 1e-3
    volume = SQUARE.area * thick
    slabs = tuple(
        Slab(name, SQUARE, (Layer(thick, 1e5, 1e5, capacity / volume),)) for name, capacity in (("one", CAP_1), ("two", CAP_2))
    )
    area = cell_areas(SQUARE, COARSE)
    joint = Contact(("one", "two"), (1, 0), area, area * G_12 / SQUARE.area)
    film = Film("two", 1, SQUARE, G_AIR / SQUARE.area, 300.0)
    model = HeatModel(COARSE, slabs, (joint,), (film,), (Heat("one", (0,), STEP_W),), 300.0)
    return float(marched(model, 300.0, seconds)[0]) - 300.0


def two_nodes_exact(seconds: float) -> float:
    matrix = np.array([[-G_12 / CAP_1, G_12 / CAP_1], [G_12 / CAP_2, -(G_12 + G_AIR) / CAP_2]])
    final = np.linalg.solve(-matrix, np.array([STEP_W / CAP_1, 0.0]))
    values, vectors = np.linalg.eig(matrix)
    weights = np.linalg.solve(vectors, -final)
    return float(final[0] + (vectors[0] * weights * np.exp(values * seconds)).sum())


RESISTANCE, LEAK = 2.0, Leak(0.3, 320.0, 25.0)


def leaking(power: float) -> float:
    """Temperature of an isothermal plate over 300 K air whose power leaks: share 0.3 at 320 K, e-fold 25 K, 2 K/W."""
    film = Film("p", 1, SQUARE, 1 / (RESISTANCE * SQUARE.area), 300.0)
    slab = Slab("p", SQUARE, (Layer(1e-3, 1e5, 1e5, 1e6),))
    model = HeatModel(COARSE, (slab,), (), (film,), (Heat("p", (0,), power, None, LEAK),), 300.0)
    return float(SteadySolver().solve(model).temperature.mean())


def _balance(temperature: float, power: float) -> float:
    return 300 + RESISTANCE * power * (1 - LEAK.share + LEAK.share * math.exp((temperature - LEAK.at) / LEAK.per)) - temperature


def threshold() -> float:
    """Power at which line and exponential just touch: dP/dT·R = 1 and balance, solved for both."""

    def power_at(temperature: float) -> float:
        return LEAK.per / (RESISTANCE * LEAK.share * math.exp((temperature - LEAK.at) / LEAK.per))

    touching = brentq(lambda t: _balance(t, power_at(t)), 301.0, 420.0)
    return power_at(touching)


def highest_stable_power() -> float:
    low, high = 1.0, 60.0
    while high - low > 0.01:
        middle = (low + high) / 2
        try:
            leaking(middle)
            low = middle
        except RunawayError:
            high = middle
    return low


def checks() -> list[Check]:
    exact, centre = series(0.05, 0.05, 0.012, 0.012, 4e-3, 200.0, 1500.0, 0.025, 0.025, terms=300)
    del exact
    spread = (4e-3 / 200 + 1 / 1500) / 0.05**2
    off = [("centred", 0.030, 0.024), ("eccentric", 0.018, 0.018), ("in a corner", 0.006, 0.006)]
    silicon_flux = 148 * 300**1.3 / -0.3 * (420**-0.3 - 300**-0.3) / 8e-4 * 1e-4
    topic = "Conduction and spreading"
    return [
        Check(
            topic,
            "wall of copper, contact and plastic, 100 K",
            f"{INCROPERA}, ch. 3",
            "W",
            wall,
            100 / (1e-3 / 401 + 1e-5 + 2e-3 / 0.5) * 4e-4,
            1e-4,
        ),
        *(
            Check(
                topic,
                f"source 12 × 12 mm, {name}: mean rise",
                MUZYCHKA,
                "K/W",
                lambda x=x, y=y: grid_mean(x, y, 12, 12),
                series(**PLATE, c=0.012, d=0.012, xc=x, yc=y)[0],
                0.01,
            )
            for name, x, y in off
        ),
        Check(topic, "two eccentric sources, mean rise under the first", MUZYCHKA, "K", two_sources, _two_sources_series(), 0.01),
        Check(
            topic,
            "closed form of the centre rise",
            "Lee, Song, Au & Moran, ASME/JSME 1995, against the series above",
            "K/W",
            lambda: spreading_lee(0.012**2, 0.05**2, 4e-3, 200.0, 1500.0) + spread,
            centre,
            0.08,
        ),
        *(
            Check(
                topic,
                f"die, lid and base, {name}: rise of the active face",
                "t/k in series, by hand",
                "K",
                lambda faces=faces: stacked(faces),
                stacked_by_hand(faces),
                1e-3,
            )
            for name, faces in (("faces that resist", FACES), ("perfect faces", (0.0, 0.0)))
        ),
        Check(
            topic,
            "die of 0.775 mm, k(T), 1 W/mm²: active face",
            "Kirchhoff transform, closed form",
            "K",
            lambda: hot_die(400.0),
            hot_die_kirchhoff(400.0),
            1e-4,
            digits=6,
        ),
        Check(
            topic, "silicon k(T) by the Kirchhoff transform, 420 to 300 K", "closed form, ∫k dT", "W", silicon, silicon_flux, 2e-3
        ),
        Check(
            topic,
            "bare copper on copper, 1 MPa, σ 1 µm, m 0.1, H 1 GPa",
            "Cooper, Mikic & Yovanovich 1969 (from memory), by hand",
            "W/m²K",
            lambda: float(bare_contact_cooper(np.array(1e6), 400.0, 1e-6, 0.1, 1e9)),
            1.25 * 400 * 0.1 / 1e-6 * (1e6 / 1e9) ** 0.95,
            1e-3,
        ),
        Check(
            "Radiation",
            "plate that only radiates, 2 W, ε 0.9",
            "Stefan-Boltzmann, closed form",
            "K",
            radiating,
            (300**4 + 2.0 / (0.9 * STEFAN_BOLTZMANN * 0.0025)) ** 0.25,
            1e-4,
        ),
        Check(
            "Radiation",
            "two parallel grey plates, ε 0.8 and 0.5",
            f"{INCROPERA}, ch. 13",
            "1",
            lambda: effective_emissivity(0.8, 0.5),
            1 / (1 / 0.8 + 1 / 0.5 - 1),
            1e-9,
        ),
        *(
            Check(
                "Time",
                f"plane wall, Bi 1, Fo {fourier:g}: insulated face",
                f"{INCROPERA}, eq. 5.39 (Heisler)",
                "1",
                lambda f=fourier: plane_wall(f),
                heisler(fourier),
                0.01,
            )
            for fourier in (0.2, 0.5, 1.0)
        ),
        *(
            Check(
                "Time",
                f"copper base 8 mm under sudden flux, after {seconds:g} s",
                "Carslaw & Jaeger, Conduction of Heat in Solids, section 3.8 (from memory)",
                "K",
                lambda s=seconds: flushed(s),
                flushed_series(seconds),
                0.03,
            )
            for seconds in (0.1, 0.3, 1.0)
        ),
        *(
            Check(
                "Time",
                f"two nodes, power step, after {seconds:g} s",
                "eigenvalues of the two-node network",
                "K",
                lambda s=seconds: two_nodes(s),
                two_nodes_exact(seconds),
                0.01,
            )
            for seconds in (3.0, 30.0, 200.0)
        ),
        Check(
            "Leakage",
            "fixed point at 8 W",
            "scalar equation, solved by bracketing",
            "K",
            lambda: leaking(8.0),
            brentq(lambda t: _balance(t, 8.0), 300.0, 335.0),
            1e-4,
            digits=5,
        ),
        Check(
            "Leakage",
            "runaway threshold, dP/dT·R = 1",
            "tangent of line and exponential, closed form",
            "W",
            highest_stable_power,
            threshold(),
            0.01,
        ),
    ]
