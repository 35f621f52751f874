"""What a plan must not do, whatever it is good for: amounts over each bound for many variants, and the sentence when one kills.

An amount of 0 or less holds. Thresholds without a source are common practice and named in `findings.rules` or practice.json.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats, Ints
from ashen_bridge.findings.holding_rules import CRUSHING_KPA
from ashen_bridge.findings.rules import BOW_BOARD_UM, BOW_DIE_UM
from ashen_bridge.model.bodies import Component, ComponentRole, Plate
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.candidate import Candidate
from ashen_bridge.planning.choosing.candidates import known_materials
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice
from ashen_bridge.planning.choosing.tryout import Tried, Tryout
from ashen_bridge.words.numbers import number, percent, short

_NEVER = -1e3
_FAR_TOO_HOT_C = 200.0


@dataclass(frozen=True)
class Broken:
    """One constraint that a variant breaks: its name, by how much (1 is a whole bound), the sentence, what it is about."""

    name: str
    by: float
    says: str
    about: str = ""


class Constraints:
    """The mechanical and material bounds of one tryout."""

    def __init__(self, project: Project, tryout: Tryout, places: Sequence[Place], options: Sequence[Sequence[Candidate]]) -> None:
        self._project, self._tryout, self._places, self._options = project, tryout, places, options
        self._bodies = {one.id: one for one in project.all_bodies}
        self._materials = known_materials(project)

    def over(self, choices: Ints, tried: Tried, unsure_mm: Mapping[str, float] | None = None) -> Floats:
        """Return by how much every constraint is broken (s, n_constraint), in shares of its bound; see `names`.

        `unsure_mm` is the standard uncertainty of every joint's gap.
        """
        found = [check(choices, tried, unsure_mm or {}) for check in self._checks.values()]
        return np.stack([np.where(tried.rests, np.nan_to_num(one, nan=_NEVER), _NEVER) for one in found], axis=1)

    @property
    def names(self) -> tuple[str, ...]:
        """What is checked."""
        return tuple(self._checks)

    @cached_property
    def _checks(self) -> dict[str, Callable[[Ints, Tried, Mapping[str, float]], Floats]]:
        return {
            "too thin": lambda choices, tried, unsure: self._thin(choices, tried, unsure).max(axis=1, initial=_NEVER),
            "too thick": lambda choices, tried, _: self._thick(choices, tried).max(axis=1, initial=_NEVER),
            "die pressure low": lambda choices, tried, _: self._windows(tried)[0].max(axis=1, initial=_NEVER),
            "die pressure high": lambda choices, tried, _: self._windows(tried)[1].max(axis=1, initial=_NEVER),
            "crushed": lambda choices, tried, _: self._crushed(tried).max(axis=1, initial=_NEVER),
            "too hot for it": lambda choices, tried, _: self._too_hot(choices, tried).max(axis=1, initial=_NEVER),
            "board bow": lambda choices, tried, _: (tried.bow / np.array([BOW_BOARD_UM, BOW_DIE_UM]) - 1).max(axis=1),
            "coil bind": lambda choices, tried, _: self._bind(tried).max(axis=1, initial=_NEVER),
            "will not close": lambda choices, tried, _: self._held_open(tried).max(axis=1, initial=_NEVER),
        }

    def broken(self, choices: Ints, tried: Tried, unsure_mm: Mapping[str, float]) -> list[Broken]:
        """Return what one variant (choices and tried of one row) breaks, in words, the gravest first."""
        if not tried.rests[0]:
            return [Broken("no rest", 10.0, "The plates do not come to rest: nothing holds them.")]
        row = self.over(choices, tried, unsure_mm)[0]
        found = [
            Broken(name, float(by), *self._words(name, choices, tried, unsure_mm))
            for name, by in zip(self.names, row, strict=True)
            if by > 0
        ]
        return sorted(found, key=lambda one: (one.name == "too hot for it", -one.by))  # causes before what follows from them

    # -- amounts -------------------------------------------------------------------------------------------------------------

    @cached_property
    def _place_of(self) -> list[int]:
        owner = {name: n for n, place in enumerate(self._places) for name in place.joints}
        return [owner[joint] for joint, _ in self._tryout.joints]

    def _sheets(self, choices: Ints) -> tuple[Floats, Floats, np.ndarray]:
        """Return the thickness of every joint's sheets and its standard uncertainty [mm] (s, n_joint), and what is bare."""
        thick, pm = (np.full((len(choices), len(self._tryout.joints)), np.nan) for _ in range(2))
        bare = np.zeros(thick.shape, dtype=bool)
        for at, (joint, _) in enumerate(self._tryout.joints):
            g = self._place_of[at]
            for n, one in enumerate(self._options[g]):
                rows = choices[:, g] == n
                pieces = one.fills.get(joint, ())
                compressed = [p for p in pieces if p.thickness_mm and self._materials[p.material].compression is not None]
                if compressed:
                    thick[rows, at] = sum(p.thickness_mm.value for p in compressed if p.thickness_mm)
                    own = [
                        max(p.thickness_mm.uncertainty, practice().stock_sd * p.thickness_mm.value)
                        for p in compressed
                        if p.thickness_mm
                    ]
                    pm[rows, at] = float(np.hypot.reduce(own))
                bare[rows, at] = not pieces
        return thick, pm, bare

    def _thin(self, choices: Ints, tried: Tried, unsure: Mapping[str, float]) -> Floats:
        """Sheets must be compressed by more than their own tolerance and the gap's ±, or they touch by luck; pastes must fill."""
        thick, pm, bare = self._sheets(choices)
        gap = np.array([unsure.get(joint, 0.0) for joint, _ in self._tryout.joints])
        wanted = np.maximum(practice().touch_surely * np.hypot(pm, gap), practice().least_compression * thick)
        left = tried.joints.compression * thick
        sheets = np.where(np.isnan(thick), np.nan, (wanted - left) / wanted)
        filled = np.where(np.isnan(thick), (0.9 - tried.joints.contact) / 0.9, np.nan)
        return np.where(bare, _NEVER, np.fmax(np.nan_to_num(sheets, nan=_NEVER), np.nan_to_num(filled, nan=_NEVER)))

    def _thick(self, choices: Ints, tried: Tried) -> Floats:
        most = practice().most_compression
        kept = np.array([[self._options[g][n].kind == "keep" for n in choices[:, g]] for g in self._place_of]).T
        over = tried.joints.compression / most - 1
        return np.asarray(np.nan_to_num(np.where(kept & (over < 0.2), _NEVER, over), nan=_NEVER))

    def _windows(self, tried: Tried) -> tuple[Floats, Floats]:
        kpa = tried.joints.pressure * 1e-3
        low, high = (np.full(kpa.shape, _NEVER) for _ in range(2))
        for at, (_, lower) in enumerate(self._tryout.joints):
            body = self._bodies[lower]
            least, most = getattr(body, "pressure_min_kpa", None), getattr(body, "pressure_max_kpa", None)
            if least is not None:
                low[:, at] = 1 - kpa[:, at] / least.value
            if most is not None:
                high[:, at] = kpa[:, at] / most.value - 1
        return low, high

    def _crushed(self, tried: Tried) -> Floats:
        """Parts that state no window of their own: packages bear less than a bare die does."""
        most = np.full(len(self._tryout.joints), np.inf)
        for at, (_, lower) in enumerate(self._tryout.joints):
            body = self._bodies[lower]
            if isinstance(body, Component) and body.pressure_max_kpa is None:
                most[at] = CRUSHING_KPA if body.role is ComponentRole.DIE else practice().part_pressure_kpa
        return np.where(np.isinf(most), _NEVER, tried.joints.pressure * 1e-3 / most - 1)

    def _too_hot(self, choices: Ints, tried: Tried) -> Floats:
        found = np.full((len(choices), len(self._tryout.joints)), _NEVER)
        for at, (joint, lower) in enumerate(self._tryout.joints):
            if lower not in self._tryout.parts:
                continue
            hot = tried.parts[:, self._tryout.parts.index(lower)]
            g = self._place_of[at]
            for n, one in enumerate(self._options[g]):
                most = [self._materials[p.material].max_temperature_c for p in one.fills.get(joint, ())]
                stated = [m.value for m in most if m is not None]
                if stated:
                    rows = choices[:, g] == n
                    found[rows, at] = (hot[rows] - min(stated)) / 10
        return found

    @cached_property
    def _sprung(self) -> list[tuple[int, Fastener]]:
        known = {one.id: one for one in self._project.device.fasteners}
        at = enumerate(self._tryout.assembly.fasteners)
        return [(n, known[name]) for n, name in at if known[name].kind == "sprung" and known[name].coil_bind_mm is not None]

    def _bind(self, tried: Tried) -> Floats:
        if not self._sprung:
            return np.full((len(tried.rests), 1), _NEVER)
        columns = []
        for n, one in self._sprung:
            assert one.coil_bind_mm is not None  # only such are listed
            columns.append(tried.fasteners[:, n] / one.rate / one.coil_bind_mm.value - 1)
        return np.stack(columns, axis=1)

    @cached_property
    def _closing(self) -> list[tuple[Plate, list[int]]]:
        """Return what closes over the stack and is held shut with a stated force, and which joints push against it."""
        uppers = {joint.id: joint.upper for joint in self._project.build(self._tryout.build).joints}
        found = []
        for body in self._project.bodies_known(self._project.build(self._tryout.build)).values():
            if isinstance(body, Plate) and body.on != "floating" and body.closing_force_n is not None:
                under = [n for n, (joint, _) in enumerate(self._tryout.joints) if uppers.get(joint) == body.id]
                if under:
                    found.append((body, under))
        return found

    def _held_open(self, tried: Tried) -> Floats:
        columns = [
            np.nansum(tried.joints.force[:, under], axis=1) / body.closing_force_n.value - 1
            for body, under in self._closing
            if body.closing_force_n is not None
        ]
        return np.stack(columns, axis=1) if columns else np.full((len(tried.rests), 1), _NEVER)

    # -- words ---------------------------------------------------------------------------------------------------------------

    def _words(self, name: str, choices: Ints, tried: Tried, unsure: Mapping[str, float]) -> tuple[str, str]:
        if name == "coil bind":
            _, one = self._sprung[int(self._bind(tried)[0].argmax())]
            return f"{one.label} is squeezed to its end: from there on it is a rigid screw.", one.id
        if name == "will not close":
            body, joints = self._closing[int(self._held_open(tried)[0].argmax())]
            force = float(np.nansum(tried.joints.force[0, joints]))
            most = body.closing_force_n.value  # type: ignore[union-attr]
            return f"{body.label} will not close over it: {number(force)} N push, {number(most)} N hold it shut.", body.id
        if name == "board bow":
            board, under = tried.bow[0]
            return f"The board bows by {number(board / 1000, 2)} mm between its screws, {number(under)} µm of it under a die.", ""
        amounts = {
            "too thin": lambda: self._thin(choices, tried, unsure),
            "too thick": lambda: self._thick(choices, tried),
            "die pressure low": lambda: self._windows(tried)[0],
            "die pressure high": lambda: self._windows(tried)[1],
            "crushed": lambda: self._crushed(tried),
            "too hot for it": lambda: self._too_hot(choices, tried),
        }[name]()[0]
        at = int(amounts.argmax())
        joint, lower = self._tryout.joints[at]
        label, kpa = self._bodies[lower].label, float(tried.joints.pressure[0, at]) * 1e-3
        squeezed = tried.joints.compression[0, at]
        if name == "too thin":
            return self._thin_words(label, at, choices, tried, unsure), joint
        if name == "too thick":
            return (
                f"Over {label} it is squeezed by {percent(squeezed)}; more than {percent(practice().most_compression)} harms it.",
                joint,
            )
        if name == "die pressure low":
            least = self._bodies[lower].pressure_min_kpa.value  # type: ignore[union-attr]
            return f"{label} is left with {number(kpa)} kPa; at least {number(least)} kPa are wanted.", joint
        if name == "die pressure high":
            most = self._bodies[lower].pressure_max_kpa.value  # type: ignore[union-attr]
            return f"{label} is pressed with {number(kpa)} kPa; it bears {number(most)} kPa.", joint
        if name == "crushed":
            return f"{label} is pressed with {number(kpa)} kPa, more than such a part should bear.", joint
        hot = float(tried.parts[0, self._tryout.parts.index(lower)])
        if hot > _FAR_TOO_HOT_C:
            return f"{label} runs away to far over {number(_FAR_TOO_HOT_C)} °C: its heat has no way out.", joint
        return f"It gets {number(hot)} °C on {label}, more than it bears.", joint

    def _thin_words(self, label: str, at: int, choices: Ints, tried: Tried, unsure: Mapping[str, float]) -> str:
        thick, pm, _ = self._sheets(choices)
        gap = unsure.get(self._tryout.joints[at][0], 0.0)
        if np.isnan(thick[0, at]):
            return f"It fills only {percent(float(tried.joints.contact[0, at]))} of the gap over {label}."
        squeezed = float(tried.joints.compression[0, at] * thick[0, at])
        if squeezed <= 0:
            short_by = max(float(tried.joints.gap[0, at]) * 1e3 - float(thick[0, at]), 0.0)
            return f"It does not reach {label}: {number(short_by, 2)} mm of air are left."
        return (
            f"Over {label} it is squeezed by {number(squeezed, 2)} mm only; its tolerance and the gap's ± come to "
            f"{short(practice().touch_surely * float(np.hypot(pm[0, at], gap)), 2)} mm: contact by luck."
        )
