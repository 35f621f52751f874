"""A prediction as a small network of resistances between bodies and ambient, exact for any powers as far as heat is linear.

Nodes are all bodies: one that makes heat where it makes it, any other as the mean of its volume. A watt in a node raises every
node by what the field says (Θ, the matrix of rises per watt); the network's conductances are its inverse: a resistive network
reduced to its ports (texts on circuits call that Kron reduction). Ports that are means over a body lead to weak ways
of negative resistance, up to half of all; they belong to it.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.refusals import one_line
from ashen_bridge.predict.joint_heat import joint_conductance
from ashen_bridge.predict.operating import Operating
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.linearised import InsideNode, LinearSystem, linearised
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.resolution import Frame
from ashen_bridge.thermal.solve_system import SystemSolver
from ashen_bridge.thermal.surfaces import KELVIN

AMBIENT = "ambient"
_NOTHING = 1e-9  # of the largest conductance: what is smaller is round-off


@dataclass(frozen=True)
class Network:
    """Nodes by body id; rise_per_w (n, n) Θ [K/W]; conductance (n, n) Θ⁻¹ [W/K]; fed_w (n,) what feeds each node [W].

    `fed_w` is the power made in it; other air than ambient, and all else that warms without power, are in it too, so that the
    network shows `rises_k` (n,) [K] at this operating point exactly.
    """

    title: str
    nodes: tuple[str, ...]
    ambient_c: float
    rise_per_w: Floats
    conductance: Floats
    rises_k: Floats
    fed_w: Floats

    def resistances(self) -> Iterator[tuple[str, str, float]]:
        """Yield (node, node or `ambient`, resistance [K/W]) of every way that there is, the best first."""
        g, n = self.conductance, len(self.nodes)
        ways = [(one, other, -g[one, other]) for one in range(n) for other in range(one + 1, n)]
        ways += [(one, n, g[one].sum()) for one in range(n)]
        names = (*self.nodes, AMBIENT)
        least = _NOTHING * float(np.abs(g).max(initial=0.0))
        for one, other, conducts in sorted(ways, key=lambda way: -abs(way[2])):
            if abs(conducts) > least:
                yield names[one], names[other], float(1 / conducts)

    def netlist(self) -> str:
        """Return it as a netlist for circuit programs: 1 V is 1 °C, 1 A is 1 W, 1 Ω is 1 K/W; an operating point is asked for."""
        # A name of several lines would become elements.
        lines = [f"* {one_line(self.title)}: 1 V is 1 degC, 1 A is 1 W, 1 Ohm is 1 K/W", f"V1 {AMBIENT} 0 {self.ambient_c:.9g}"]
        lines += [f"R{n} {_node(a)} {_node(b)} {r:.12g}" for n, (a, b, r) in enumerate(self.resistances(), 1)]
        lines += [f"I{n} 0 {_node(one)} {fed:.12g}" for n, (one, fed) in enumerate(zip(self.nodes, self.fed_w, strict=True), 1)]
        return "\n".join([*lines, ".op", ".end", ""])

    def table(self) -> str:
        """Return it as comma-separated lines: kind, from, to, value, unit."""
        text = io.StringIO()
        rows = csv.writer(text, lineterminator="\n")
        rows.writerow(["kind", "from", "to", "value", "unit"])
        rows.writerow(["temperature", AMBIENT, "", f"{self.ambient_c:.9g}", "degC"])
        for one, rise, fed in zip(self.nodes, self.rises_k, self.fed_w, strict=True):
            rows.writerow(["temperature", one, "", f"{self.ambient_c + rise:.9g}", "degC"])
            rows.writerow(["fed", one, "", f"{fed:.12g}", "W"])
        rows.writerows(["resistance", a, b, f"{r:.12g}", "K/W"] for a, b, r in self.resistances())
        return text.getvalue()


def _node(name: str) -> str:
    # A node that is called 0 would be the ground of every circuit program.
    return name if name == AMBIENT else f"n_{name}"


def network(half: AtRest, found: Operating, frame: Frame, ambient_c: float, title: str) -> Network:
    """Return the network of a field, linearised at its own temperatures."""
    conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
    model = heat_model(half.scene, frame, found.point, conductance, found.inside)
    temperature = found.field.temperature
    node = None
    if found.inside is not None:
        vent = found.point.vent_k_w
        node = InsideNode(ambient_c + KELVIN, 1 / vent.value if found.point.inside == "vented" and vent is not None else 0.0)
        temperature = np.append(temperature, found.inside)
    reference = ambient_c + KELVIN
    system = linearised(model, temperature, reference, node, found.field.grid)
    names, ports = _ports(half, model, system)
    rise_per_w = ports @ SystemSolver(system).each(ports.T)
    rise_per_w = (rise_per_w + rise_per_w.T) / 2
    conductance_ = np.asarray(np.linalg.inv(rise_per_w), dtype=np.float64)
    rises = ports @ (temperature - reference)
    return Network(title, names, ambient_c, rise_per_w, conductance_, rises, conductance_ @ rises)


def _ports(half: AtRest, model: HeatModel, system: LinearSystem) -> tuple[tuple[str, ...], Floats]:
    """Return the nodes, and where each is: weights (n, n_unknown) that sum to 1, those with which its heat is spread."""
    made = Sources(system.grid, model).steady
    names, rows = [], []
    for name, cells in system.grid.slabs.items():
        if name not in half.scene.bodies:
            continue
        at = cells.cells
        weight = np.zeros(system.n)
        weight[at] = made[at] if made[at].sum() > 0 else cells.volume
        names.append(name)
        rows.append(weight / weight.sum())
    return tuple(names), np.array(rows)
