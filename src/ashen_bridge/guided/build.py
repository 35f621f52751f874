"""The project that follows from the answers: computable at once, everything not answered marked assumed with its ±."""

from __future__ import annotations

from typing import Any

from ashen_bridge.editing.boxes import Box, area, rect_of
from ashen_bridge.guided.answers import Answers, DeviceKind, Wish
from ashen_bridge.guided.layout import Layout, lay_out
from ashen_bridge.library import materials
from ashen_bridge.library.typical import typical
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q

Plain = dict[str, Any]
_FILM_MM = 0.04
_SQUEEZE = 0.8  # a pad that was right is closed to about four fifths
_UNKNOWN_PAD_MM = 1.0
_BOX_PAD_MM = 1.5
_GOAL_BELOW_LIMIT_K = 5.0


def project_from(answers: Answers) -> Project:
    """Return a complete project."""
    return Project.parse(_Maker(answers).project())


def typed(value: float, uncertainty: float, note: str = "as answered") -> Plain:
    """Return an answered number as plain data."""
    return q(value, uncertainty, "measured", note).model_dump(mode="json")


def assumed(key: str, **changes: Any) -> Plain:
    """Return a typical number as plain data, perhaps with another value or note."""
    return {**typical(key).model_dump(mode="json"), **changes}


class _Maker:
    """Writes one project as plain data."""

    def __init__(self, answers: Answers) -> None:
        self.answers = answers
        self.layout: Layout = lay_out(answers)
        self.kind = answers.kind
        self.pad_mm = answers.pad_now_mm or _UNKNOWN_PAD_MM
        self.die_top = typical("substrate_thickness_mm").value + typical("die_height_mm").value
        self.lid_mm = typical("lid_thickness_mm").value if self.kind is DeviceKind.LIDDED else 0.0
        self.plate_id = "spreader" if self.kind is DeviceKind.BOX else "cooler"
        # Where the plate's reference plane comes to rest above the board.
        self.rest = round(self.die_top + _FILM_MM + (self.lid_mm + _FILM_MM if self.lid_mm else 0.0), 3)
        self.memory = {f"mem_{name.lower()}": (name, side, box) for name, (side, box) in self.layout.parts.items()}
        self.rear = {f"mem_{name.replace(' ', '_')}": (name, box) for name, box in self.layout.rear.items()}

    def project(self) -> Plain:
        """Return the whole project as plain data."""
        answers = self.answers
        builds = [self._build("as_found", "As found", self.pad_mm, answers.pad_now_mm is not None)]
        if answers.pad_wanted_mm is not None:
            builds.append(self._build("plan_a", f"Plan A, {answers.pad_wanted_mm:g} mm", answers.pad_wanted_mm, True))
        library = materials()
        needed = ["board_fr4_6", "substrate_organic", "silicon", "copper", "aluminium_alloy", "paste_filled", "paste_general"]
        needed += ["pad_soft", "pad_medium", "pad_firm"]
        return {
            "format": "ashen-bridge",
            "version": 1,
            "name": answers.name.strip() or f"My {answers.kind.value}" if answers.kind is not DeviceKind.OTHER else "My device",
            "notes": f"Started from questions. Wanted: {answers.wish.value}.",
            "device": {
                "name": answers.kind.value,
                "bodies": self._bodies(),
                "fasteners": self._fasteners(),
                "sensors": self._sensors(),
                "limits": self._limits(),
            },
            "materials": [library[name].model_dump(mode="json") for name in needed],
            "builds": builds,
            "main_build": "as_found",
            "points": [self._point()],
            "groups": self._groups(),
            "goals": self._goals(),
            "measurements": self._measurements(),
        }

    # ---- bodies

    def _bodies(self) -> list[Plain]:
        layout = self.layout
        thin = self.kind is DeviceKind.BOX
        bodies: list[Plain] = [
            {
                "kind": "board",
                "id": "board",
                "name": "Board",
                "footprint": _outline(layout.board),
                "thickness_mm": assumed("thin_board_thickness_mm" if thin else "board_thickness_mm"),
                "material": "board_fr4_6",
            },
            {
                "kind": "substrate",
                "id": "substrate",
                "name": "Substrate",
                "on": "board",
                "footprint": _outline(layout.substrate),
                "thickness_mm": assumed("substrate_thickness_mm"),
                "material": "substrate_organic",
                "attach": {"resistance_mm2k_w": assumed("substrate_attach_mm2k_w")},
            },
            {
                "kind": "component",
                "role": "die",
                "id": "die",
                "name": "Die",
                "on": "substrate",
                "footprint": _outline(layout.die),
                "height_mm": assumed("die_height_mm"),
                "make_up": {"type": "die", "material": "silicon"},
                "attach": {"resistance_mm2k_w": assumed("die_attach_mm2k_w")},
            },
        ]
        bodies += [self._memory(name, f"Memory {label}", box, "front") for name, (label, _, box) in self.memory.items()]
        bodies += [self._memory(name, f"Memory {label}", box, "rear") for name, (label, box) in self.rear.items()]
        return bodies + self._plates()

    def _memory(self, name: str, label: str, box: Box, side: str) -> Plain:
        w, h = box[2] - box[0], box[3] - box[1]
        return {
            "kind": "component",
            "role": "memory",
            "id": name,
            "name": label,
            "on": "board",
            "side": side,
            "footprint": _outline(box),
            "height_mm": assumed("memory_height_mm"),
            "make_up": {
                "type": "package",
                "active_material": "silicon",
                "active_w_mm": round(0.72 * w, 2),
                "active_h_mm": round(0.72 * h, 2),
                "active_thickness_mm": q(0.2, 0.05, "assumed", "silicon in the package").model_dump(mode="json"),
                "ball_thickness_mm": q(0.3, 0.05, "assumed", "ball layer").model_dump(mode="json"),
                "junction_to_case_k_w": assumed("memory_junction_to_case_k_w"),
                "junction_to_board_k_w": assumed("memory_junction_to_board_k_w"),
            },
            "attach": {"resistance_mm2k_w": assumed("package_attach_mm2k_w")},
        }

    def _plates(self) -> list[Plain]:
        box = self.kind is DeviceKind.BOX
        plate: Plain = {
            "kind": "plate",
            "role": "spreader" if box else "cooler",
            "id": self.plate_id,
            "name": "Spreader" if box else "Cooler base",
            "footprint": _outline(self.layout.plate),
            "thickness_mm": assumed("spreader_thickness_mm" if box else "cooler_thickness_mm"),
            "material": "aluminium_alloy" if box else "copper",
            "landings": self._landings(),
        }
        if not box:
            plate["sink"] = self._sink("sink_convective_k_w", 0.7)
        plates = [plate]
        if self.lid_mm:
            x0, y0, x1, y1 = self.layout.substrate
            lid = (x0 + 2, y0 + 2, x1 - 2, y1 - 2)
            note = "joined to the die by paste until solder can be computed"
            plates.insert(
                0,
                {
                    "kind": "plate",
                    "role": "lid",
                    "id": "lid",
                    "name": "Lid",
                    "footprint": _outline(lid),
                    "thickness_mm": assumed("lid_thickness_mm", note=note),
                    "material": "copper",
                },
            )
        if box:
            top = self.rest + typical("spreader_thickness_mm").value
            plates.append(
                {
                    "kind": "plate",
                    "role": "case wall",
                    "id": "case_wall",
                    "name": "Case wall",
                    "on": "case",
                    "footprint": _outline(self.layout.board),
                    "thickness_mm": assumed("case_wall_thickness_mm"),
                    "height_mm": assumed(
                        "seat_mm", value=round(top + _SQUEEZE * _BOX_PAD_MM, 2), uncertainty=0.2, note="from the pad under it"
                    ),
                    "material": "aluminium_alloy",
                    "sink": self._sink("case_convective_k_w", 0.0),
                }
            )
        if self.rear:
            plates.append(
                {
                    "kind": "plate",
                    "role": "backplate",
                    "id": "backplate",
                    "name": "Backplate",
                    "side": "rear",
                    "footprint": _outline(self.layout.back),
                    "thickness_mm": assumed("backplate_thickness_mm"),
                    "material": "aluminium_alloy",
                }
            )
        return plates

    def _sink(self, key: str, exponent: float) -> Plain:
        return {
            "fixed_k_w": assumed("sink_fixed_k_w"),
            "convective_k_w": assumed(key),
            "exponent": q(exponent, 0.1 if exponent else 0.0, "assumed", "fan speed").model_dump(mode="json"),
        }

    def _landings(self) -> list[Plain]:
        """Return one landing over the parts of each side; its step is what a pad that was right would have needed."""
        flush = self.rest - typical("memory_height_mm").value
        step = round(_SQUEEZE * self.pad_mm - flush, 2)
        known = "from the pad that is there" if self.answers.pad_now_mm is not None else "no pad thickness known"
        spread = round(0.1 * self.pad_mm + 0.05, 3) if self.answers.pad_now_mm is not None else 0.4
        landings = []
        for side in ("left", "top", "right", "bottom"):
            if any(where == side for _, where, _ in self.memory.values()):
                quantity = q(step, spread, "assumed", f"{known}; measure it first").model_dump(mode="json")
                name = f"Memory landing, {side}"
                landings.append(
                    {"id": f"landing_{side}", "name": name, "area": rect_of(self.layout.landing(side)), "step_mm": quantity}
                )
        return landings

    # ---- what holds and fills

    def _fasteners(self) -> list[Plain]:
        answers = self.answers
        made: list[Plain] = []
        for n, (x, y) in enumerate(self.layout.screws, start=1):
            screw: Plain = {"id": f"screw_{n}", "joins": [self.plate_id, "board"], "x_mm": x, "y_mm": y}
            rest = q(self.rest, 0.1, "assumed", "from the heights under the plate").model_dump(mode="json")
            if self.kind is DeviceKind.BOX:
                screw.update(kind="fixed", name=f"Screw {n}", preload_n=assumed(f"screw_{answers.screw_feel}_n"), seat_mm=rest)
                screw["stiffness_n_mm"] = assumed("screw_stiffness_n_mm")
            else:
                screw.update(kind="sprung", name=f"Spring screw {n}", rate_n_mm=assumed(f"spring_{answers.screw_feel}_n_mm"))
                screw.update(
                    travel_mm=assumed("spring_travel_mm"), coil_bind_mm=assumed("spring_coil_bind_mm"), reference_mm=rest
                )
            made.append(screw)
        if self.rear:
            x0, y0, x1, y1 = self.layout.back
            seat = typical("memory_height_mm").value + _SQUEEZE * self.pad_mm
            for n, (x, y) in enumerate(((x0 + 3, y0 + 3), (x1 - 3, y1 - 3), (x1 - 3, y0 + 3), (x0 + 3, y1 - 3)), start=1):
                made.append(
                    {
                        "id": f"rear_screw_{n}",
                        "name": f"Rear screw {n}",
                        "kind": "fixed",
                        "joins": ["backplate", "board"],
                        "x_mm": round(x, 3),
                        "y_mm": round(y, 3),
                        "preload_n": assumed("screw_normal_n"),
                        "seat_mm": assumed("seat_mm", value=round(seat, 2), note="from the pad that is there"),
                        "stiffness_n_mm": assumed("screw_stiffness_n_mm"),
                    }
                )
        return made

    def _build(self, build_id: str, name: str, pad_mm: float, known: bool) -> Plain:
        joints = []
        if self.lid_mm:
            joints.append(self._paste("die_joint", "Die to lid", "lid", "die", self.layout.die))
            x0, y0, x1, y1 = self.layout.substrate
            joints.append(self._paste("lid_joint", "Lid to cooler", self.plate_id, "lid", (x0 + 2, y0 + 2, x1 - 2, y1 - 2)))
        else:
            joints.append(self._paste("die_joint", "Die joint", self.plate_id, "die", self.layout.die))
        joints += [self._pad(n, f"Pad {label}", self.plate_id, n, pad_mm, known) for n, (label, _, _) in self.memory.items()]
        joints += [self._pad(n, f"Pad {label}", "backplate", n, pad_mm, known) for n, (label, _) in self.rear.items()]
        if self.kind is DeviceKind.BOX:
            joints.append(self._pad("case", "Pad to the case", "case_wall", "spreader", _BOX_PAD_MM, False))
        return {"id": build_id, "name": name, "joints": joints}

    def _paste(self, joint_id: str, name: str, upper: str, lower: str, box: Box) -> Plain:
        film = typical("paste_film_mm")
        volume = {
            "value": round(film.value * area(box), 1),
            "uncertainty": round(film.uncertainty * area(box), 1),
            "origin": "assumed",
            "note": film.note,
        }
        piece = {"id": "paste", "material": "paste_filled", "volume_mm3": volume}
        return {"id": joint_id, "name": name, "upper": upper, "lower": [lower], "pieces": [piece]}

    def _pad(self, name: str, label: str, upper: str, lower: str, pad_mm: float, known: bool) -> Plain:
        spread = round(typical("pad_relative").value * pad_mm, 3)
        thickness = (
            typed(pad_mm, spread) if known else assumed("pad_relative", value=pad_mm, uncertainty=0.3, note="not known yet")
        )
        piece = {"id": "pad", "material": f"pad_{self.answers.pad_feel}", "thickness_mm": thickness}
        joint: Plain = {"id": f"pad_{name}", "name": label, "upper": upper, "lower": [lower], "pieces": [piece]}
        if lower == "spreader":
            # A pad between two plates lies over the die, not over the whole spreader.
            joint["pieces"][0]["footprint"] = _outline(self.layout.substrate)
        return joint

    def _groups(self) -> list[Plain]:
        groups = [
            ("memory", "Memory, front", [f"pad_{n}" for n in self.memory]),
            ("rear", "Memory, rear", [f"pad_{n}" for n in self.rear]),
        ]
        return [{"id": group, "name": name, "joints": joints} for group, name, joints in groups if joints]

    # ---- what is read and wanted

    def _sensors(self) -> list[Plain]:
        sensors = [{"id": "die_hot", "name": "Die hot spot", "body": "die", "reads": "max", "group": "Die"}]
        labels = {n: label for n, (label, _, _) in self.memory.items()} | {n: label for n, (label, _) in self.rear.items()}
        for name, label in labels.items():
            group = "Memory rear" if name in self.rear else "Memory front"
            sensors.append({"id": f"s_{name}", "name": f"Memory {label}", "body": name, "reads": "max", "group": group})
        if self.kind is DeviceKind.BOX:
            sensors.append({"id": "case", "name": "Case wall", "body": "case_wall", "reads": "max", "group": "Case"})
        return sensors

    def _limits(self) -> list[Plain]:
        limits = [{"id": "l_die", "name": "Die limit", "sensor": "die_hot", "max_c": assumed("die_limit_c")}]
        return limits + [
            {"id": f"l_{name}", "name": "Memory limit", "sensor": f"s_{name}", "max_c": assumed("memory_limit_c")}
            for name in (*self.memory, *self.rear)
        ]

    def _point(self) -> Plain:
        power = {DeviceKind.LIDDED: "processor_power_w", DeviceKind.BOX: "fanless_power_w"}.get(self.kind, "die_power_w")
        scale = 0.2 if self.kind is DeviceKind.BOX else 1.0
        memory = assumed("memory_power_w")
        memory.update(value=memory["value"] * scale, uncertainty=memory["uncertainty"] * scale)
        room = self.answers.room_c
        air = q(room + 10.0, 5.0, "assumed", "warmer than the room").model_dump(mode="json")
        point: Plain = {
            "id": "load",
            "name": "Full load",
            "powers_w": {"die": assumed(power), **dict.fromkeys((*self.memory, *self.rear), memory)},
            "ambient_c": typed(room, 1.5),
            "front_air_c": air,
            "rear_air_c": air,
        }
        if self.kind is not DeviceKind.BOX:
            point["fans_percent"] = {self.plate_id: q(100.0, 5.0, "assumed", "full fan").model_dump(mode="json")}
        return point

    def _goals(self) -> list[Plain]:
        wish = self.answers.wish
        aims = {
            Wish.MEMORY: [(f"s_{name}", "memory_limit_c") for name in (*self.memory, *self.rear)],
            Wish.DIE: [("die_hot", "die_limit_c")],
        }.get(wish, [])
        return [
            {
                "id": f"goal_{sensor}",
                "sensor": sensor,
                "at_most_c": {"value": typical(key).value - _GOAL_BELOW_LIMIT_K},
                "note": wish.value,
            }
            for sensor, key in aims
        ]

    def _measurements(self) -> list[Plain]:
        seen = [("die_hot", self.answers.die_seen_c)]
        if self.memory or self.rear:
            seen.append((f"s_{next(iter((*self.memory, *self.rear)))}", self.answers.memory_seen_c))
        return [
            {
                "id": f"seen_{sensor}",
                "about": f"device.sensors.{sensor}",
                "value": typed(value, 2.0, "seen before anything was changed"),
                "unit": "c",
                "method": "seen",
            }
            for sensor, value in seen
            if value is not None
        ]


def _outline(box: Box) -> Plain:
    return {"rects": [rect_of(box)]}
