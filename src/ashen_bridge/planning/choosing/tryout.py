"""Plans tried in batches: exact equilibria with one law per variant and contact, the joints' own links, heat on few fields.

All options of all groups are assembled by the program's own code, the n-th of every group at once; a variant then only says
which option each group has. What does not stand there in a variant has a law that never pushes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats, Ints
from ashen_bridge.changes.plans import Filling, fill_joints
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.mechanics.assembly import Across, Assembly, ContactPatch, assemble
from ashen_bridge.mechanics.contact_state import AS_STATED
from ashen_bridge.mechanics.equilibrium import EquilibriumError, equilibrium
from ashen_bridge.mechanics.potential import LawTables, Variants
from ashen_bridge.mechanics.stack import NODES, StackLaw
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.planning.choosing.drawn import Drawn
from ashen_bridge.planning.choosing.fields import Fields
from ashen_bridge.planning.choosing.pressed import JointFigures, filled_share, note_figures, pressed
from ashen_bridge.predict.bow import bow_probe
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.joint_heat import JointNumbers, joint_numbers
from ashen_bridge.uncertainty.directions import Base
from ashen_bridge.uncertainty.heat_answers import HeatAnswers
from ashen_bridge.uncertainty.joint_links import JointLinks, PatchLinks

Fills = Mapping[str, tuple[Piece, ...]]
"""What lies in each joint of a group, lower face first."""

_ACROSS = Across(paste=10, pad=5, air=2)
_NOWHERE = StackLaw(-1.0, -0.5, np.zeros(NODES), np.zeros(NODES), 1e-12, 0.0, False)
_TRIALS, _SEED = 6, 4_181  # plans at random at which fields are found


@dataclass(frozen=True)
class _Option:
    """One option of one group: the contacts it has in the common assembly, their laws, and its links in the heat model."""

    scene: Scene
    links: JointLinks
    contacts: tuple[tuple[int, int, ContactPatch], ...]  # number in the common assembly, number of the law, as it is there
    patches: tuple[PatchLinks, ...]
    numbers: JointNumbers


@dataclass(frozen=True)
class Tried:
    """Some variants (s): which came to rest, what sensors show and how hot parts get [°C], joints, fastener forces [N]."""

    rests: np.ndarray
    sensors: Floats
    parts: Floats
    joints: JointFigures
    fasteners: Floats
    bow: Floats  # inside the screws, and the most under a die (s, 2) [µm]

    def rows(self, which: np.ndarray | slice) -> Tried:
        """Return some of the variants."""
        return Tried(
            self.rests[which],
            self.sensors[which],
            self.parts[which],
            self.joints.rows(which),
            self.fasteners[which],
            self.bow[which],
        )


class Tryout:
    """One build at one operating point, with options for some groups of its joints.

    `groups` are those of joints, `options` what each may hold. Around the first of each everything is linearised; the `likely`
    ones show what fields are needed. `refused` says in words what an option cannot be assembled for, by (group, option).
    """

    def __init__(
        self,
        engine: Engine,
        project: Project,
        build: str,
        point: str,
        groups: Sequence[tuple[str, ...]],
        options: Sequence[Sequence[Fills]],
        likely: Sequence[Sequence[int]] = (),
    ) -> None:
        self.project, self.build, self.point = project, build, point
        self.groups, self.options = tuple(groups), tuple(tuple(some) for some in options)
        self.refused: dict[tuple[int, int], str] = {}
        self._likely = [set(some) for some in likely]
        self._owner = {name: n for n, joints in enumerate(self.groups) for name in joints}
        half = engine.rest(self.project_of(self.first), build, None)
        self.coarse = CoarseModel(half, project.point(point))
        self.whole = half.assembly
        self.base = assemble(half.scene, like=half.assembly.motion, across=_ACROSS)
        self.start = half.coordinates
        self.scene = half.scene
        self._laws: list[StackLaw] = [_NOWHERE]
        self._contacts: list[ContactPatch] = []
        self._places: dict[tuple[object, ...], int] = {}
        self._parts: list[tuple[Assembly, ContactPatch]] = []
        self._made: dict[tuple[int, int], _Option] = {}
        self._lay_out()
        self.assembly, self._tables = self._together(), LawTables(self._laws)
        self._probe = bow_probe(half.scene, self.base)
        base = Base(project, build, point, half.scene, half.assembly, half.coordinates, self.links)
        self.fields = Fields(self.coarse, self.links, HeatAnswers(base, self.coarse).feedback(), self._trials())
        self.sensors = tuple(one.id for one in self.coarse.readings)
        self.parts = tuple(self.coarse.hottest(self.coarse.rises))

    @property
    def first(self) -> tuple[int, ...]:
        """The plan around which everything is linearised."""
        return (0,) * len(self.groups)

    def project_of(self, plan: Sequence[int]) -> Project:
        """Return the project with one option in each group."""
        return filled(self.project, self.build, [some[n] for some, n in zip(self.options, plan, strict=True)])

    @property
    def washers(self) -> np.ndarray:
        """Which fasteners washers act on."""
        sprung = {ramp.fastener for ramp in self.assembly.ramps if ramp.washers_count}
        return np.array([n in sprung for n in range(len(self.assembly.fasteners))])

    # -- assembling ----------------------------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        system, rises = self.coarse.system, self.coarse.rises
        base = JointLinks(self.scene, self.base, system, rises)
        self.links = base
        fixed = [n for n, one in enumerate(self.base.contacts) if self._group_of(one) is None]
        self._fixed = self._option(self.scene, self.base, base, fixed, None)
        for turn in range(max(len(some) for some in self.options)):
            picks = [min(turn, len(some) - 1) for some in self.options]
            new = [g for g, some in enumerate(self.options) if turn < len(some)]
            try:
                self._take(picks, new)
            except AshenError:
                for g in new:
                    self._take_alone(g, turn)

    def _take_alone(self, group: int, turn: int) -> None:
        picks = [turn if g == group else 0 for g in range(len(self.groups))]
        try:
            self._take(picks, [group])
        except AshenError as error:
            self.refused[group, turn] = str(error)

    def _take(self, picks: Sequence[int], new: Sequence[int]) -> None:
        """Assemble one option of every group, and keep those of the `new` ones."""
        resolved = resolve(self.project_of(picks), self.build)
        check_assembly(resolved)
        scene = make_scene(resolved)
        assembly = assemble(scene, like=self.base.motion, across=_ACROSS)
        links = JointLinks(scene, assembly, self.coarse.system, self.coarse.rises)
        for g in new:
            own = [n for n, one in enumerate(assembly.contacts) if self._group_of(one) == g]
            self._made[g, picks[g]] = self._option(scene, assembly, links, own, g)

    def _group_of(self, contact: ContactPatch) -> int | None:
        return None if contact.facing.joint is None else self._owner.get(contact.facing.joint)

    def _option(self, scene: Scene, assembly: Assembly, links: JointLinks, own: Sequence[int], group: int | None) -> _Option:
        contacts = []
        for n in own:
            contact = assembly.contacts[n]
            points = contact.points.stop - contact.points.start
            facing = contact.facing
            key = (facing.lower, facing.upper, facing.side, facing.joint, contact.patch.region, points)
            if key not in self._places:
                self._places[key] = len(self._parts)
                self._parts.append((assembly, contact))
            law = next((m for m, one in enumerate(self._laws) if one is contact.law), len(self._laws))
            if law == len(self._laws):
                self._laws.append(contact.law)
            contacts.append((self._places[key], law, contact))
        patches = tuple(one for one in links.patches if self._group_of(one.contact) == group)
        return _Option(scene, links, tuple(contacts), patches, joint_numbers(scene.resolved))

    def _together(self) -> Assembly:
        """Return the common assembly: every contact that any option has, side by side."""
        slices, at = [], 0
        for _, contact in self._parts:
            count = contact.points.stop - contact.points.start
            slices.append(slice(at, at + count))
            at += count
        pick = [(a, contact.points) for a, contact in self._parts]
        return replace(
            self.base,
            contacts=tuple(replace(one, points=part) for (_, one), part in zip(self._parts, slices, strict=True)),
            x=np.concatenate([a.x[part] for a, part in pick]),
            y=np.concatenate([a.y[part] for a, part in pick]),
            weight=np.concatenate([a.weight[part] for a, part in pick]),
            free_gap=np.concatenate([a.free_gap[part] for a, part in pick]),
            jacobian=np.concatenate([a.jacobian[part] for a, part in pick]),
            point_patch=np.repeat(np.arange(len(slices)), [one.stop - one.start for one in slices]),
        )

    def _trials(self) -> Floats:
        """Return the joints' links [W/K] of plans that show every option: the n-th of each group together, and some at random."""
        chance = np.random.default_rng(_SEED)
        able = [self._shown(g) for g in range(len(self.groups))]
        turns = [[some[min(n, len(some) - 1)] for some in able] for n in range(max(map(len, able)))]
        drawn = [[chance.choice(some) for some in able] for _ in range(_TRIALS)]
        choices = np.array([*turns, *drawn])
        coordinates, rests, _ = self._at_rest(choices, np.zeros(len(choices)), None)
        return self._conducted(choices[rests], coordinates, None)[0]

    def _shown(self, group: int) -> list[int]:
        """Return the options of a group at which fields are found: the likely ones."""
        able = self.able(group)
        likely = [n for n in able if n in self._likely[group]] if self._likely else able
        return likely or able

    def able(self, group: int) -> list[int]:
        """Return which options of a group can be assembled."""
        return [n for n in range(len(self.options[group])) if (group, n) not in self.refused]

    # -- trying --------------------------------------------------------------------------------------------------------------

    def tried(self, choices: Ints, washers_mm: Floats | None = None, drawn: Drawn | None = None) -> Tried:
        """Return what becomes of variants: the option of each group (s, n_group), washers added under sprung screws [mm] (s,)."""
        more = np.zeros(len(choices)) if washers_mm is None else np.asarray(washers_mm, dtype=float)
        coordinates, rests, force = self._at_rest(choices, more, drawn)
        part = None if drawn is None else drawn.rows(rests)
        links, figures = self._conducted(choices[rests], coordinates, part)
        sensors, parts = (np.full((len(choices), len(names)), np.nan) for names in (self.sensors, self.parts))
        found = self.fields.solved(links)
        sensors[rests], parts[rests] = self.fields.sensors(found), self.fields.parts(found)
        return Tried(rests, sensors, parts, figures.spread(rests), force, self._bows(coordinates, rests))

    def _bows(self, coordinates: Floats, rests: np.ndarray) -> Floats:
        found = np.full((len(rests), 2), np.nan)
        found[rests] = 0.0
        if self._probe is not None:
            board, under = self._probe.at(coordinates)
            found[rests] = np.stack([board, np.max([*under.values()] or [np.zeros(len(board))], axis=0)], axis=1)
        return found

    def _at_rest(self, choices: Ints, washers: Floats, drawn: Drawn | None) -> tuple[Floats, np.ndarray, Floats]:
        """Return coordinates of those that come to rest, which those are, and every fastener's force (s, n_fastener) [N]."""
        laws = self._laws_of(choices)
        coordinates = np.zeros((len(choices), self.assembly.n_dof))
        force = np.full((len(choices), len(self.assembly.fasteners)), np.nan)
        rests = np.zeros(len(choices), dtype=bool)
        travel = washers[:, None] * 1e-3 * self.washers
        # What stands nowhere among variants alike is left out of their arrays, so they go together.
        kinds, kind = np.unique(laws > 0, axis=0, return_inverse=True)
        for n in range(len(kinds)):
            some = np.flatnonzero(kind.ravel() == n)
            variants = Variants(len(some), travel=travel[some], law=laws[some], tables=self._tables)
            if drawn is not None:
                variants = self._varied(variants, choices[some], drawn.rows(some))
            try:
                found = equilibrium(self.assembly, variants, self.start)
                coordinates[some], force[some], rests[some] = found.coordinates, found.fastener_force, True
            except EquilibriumError:
                for row, one in enumerate(some):
                    try:
                        found = equilibrium(self.assembly, variants.rows(slice(row, row + 1)), self.start)
                        coordinates[one], force[one], rests[one] = found.coordinates[0], found.fastener_force[0], True
                    except EquilibriumError:
                        continue
        return coordinates[rests], rests, force

    def _varied(self, variants: Variants, choices: Ints, drawn: Drawn) -> Variants:
        scale, firmness = (np.ones((len(choices), len(self._parts))) for _ in range(2))
        for g, n, rows in self._chosen(choices):
            option, some = self._made[g, n], drawn.rows(rows)
            for at, _, contact in option.contacts:
                stacks = some.stacks(option.scene, contact)
                scale[rows, at], firmness[rows, at] = np.ravel(stacks.scale), np.ravel(stacks.firmness)
        return replace(
            variants,
            gap_shift=drawn.gap,
            ramp_shift=drawn.ramp_shift,
            ramp_scale=drawn.ramp_scale,
            thickness_scale=scale,
            firmness=firmness,
        )

    def _laws_of(self, choices: Ints) -> Ints:
        """Return which law every contact has (s, n_contact); 0 is that which never pushes."""
        laws = np.zeros((len(choices), len(self._parts)), dtype=np.intp)
        for at, law, _ in self._fixed.contacts:
            laws[:, at] = law
        for g, n, rows in self._chosen(choices):
            for at, law, _ in self._made[g, n].contacts:
                laws[rows, at] = law
        return laws

    def _chosen(self, choices: Ints) -> list[tuple[int, int, np.ndarray]]:
        """Return (group, option, the variants that have it)."""
        every = [(g, int(n)) for g in range(len(self.groups)) for n in np.unique(choices[:, g])]
        return [(g, n, np.flatnonzero(choices[:, g] == n)) for g, n in every]

    def _conducted(self, choices: Ints, coordinates: Floats, drawn: Drawn | None) -> tuple[Floats, JointFigures]:
        """Return what every link conducts (s, n_link) [W/K], and the joints' figures."""
        count = len(choices)
        total = np.zeros((count, len(self.links.links))) + self.links.glow
        figures = JointFigures.empty(count, self.joints)
        everywhere = np.arange(count)
        chosen = [(self._fixed, everywhere, False), *((self._made[g, n], rows, True) for g, n, rows in self._chosen(choices))]
        for option, rows, counts in chosen:
            here, some = coordinates[rows], None if drawn is None else drawn.rows(rows)
            stacks = None if some is None else [some.stacks(option.scene, contact) for _, _, contact in option.contacts]
            numbers = option.numbers if some is None else some.numbers(option.scene, option.numbers)
            states = pressed(self.assembly, option.contacts, here, None if some is None else some.gap, stacks)
            if counts:
                note_figures(figures, self.joints, option.scene, states, rows)
            coverage = filled_share(option.scene, states)
            place = {id(contact): n for n, (_, _, contact) in enumerate(option.contacts)}
            part = total[rows]
            for patch in option.patches:
                n = place[id(patch.contact)]
                mounted = patch.gap + here @ patch.rows.T
                if some is not None:
                    mounted = mounted + some.gap[:, [option.contacts[n][0]]]
                option.links.lead(part, patch, mounted, AS_STATED if stacks is None else stacks[n], coverage, numbers)
            total[rows] = part
        return self.links.through(total), figures

    @cached_property
    def joints(self) -> tuple[tuple[str, str], ...]:
        """Every joint over every lower body that is chosen for, as figures are listed."""
        found = dict.fromkeys(
            (c.facing.joint or "", c.facing.lower) for c in self.assembly.contacts if self._group_of(c) is not None
        )
        return tuple(found)


def filled(project: Project, build: str, options: Sequence[Fills]) -> Project:
    """Return the project with one option in each group."""
    fillings = tuple(Filling(joints=(name,), pieces=pieces) for fills in options for name, pieces in fills.items())
    return fill_joints(project, build, fillings)
