"""Everything that was seen of closings, held against what the model expected there, and weighed with all readings.

Draws are taken along the directions in which what was seen answers to the numbers, the rest as readings left them, and weighed by
the likelihood of every statement: so that what was seen moves the same numbers that readings do.
"""

from __future__ import annotations

from collections.abc import Generator, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.readings import before_readings, set_aside
from ashen_bridge.estimate.rows import EstimateError
from ashen_bridge.estimate.weighed import Weighed, weighed_draws
from ashen_bridge.evidence.contacts import Contact, Where, contacts_of
from ashen_bridge.evidence.likelihood import expected_mark, fitting, log_likelihood, off_mm, tells_length
from ashen_bridge.evidence.pictured import log_of_picture, picture_words
from ashen_bridge.evidence.practice import practice
from ashen_bridge.evidence.result import Culprit, Looked, Seen, SeenGap, Statement
from ashen_bridge.evidence.telling import contradictions, expected_words, statement_words
from ashen_bridge.measuring.expected import UnusedError, closing_build
from ashen_bridge.measuring.gauging import Gauging, gauging
from ashen_bridge.model.evidence import ContactPicture, Evidence
from ashen_bridge.model.project import Project
from ashen_bridge.model.signs import unit_of, without_unit
from ashen_bridge.uncertainty.drawing import highest, lowest

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_DRAWS, _LEAST, _TRIED = 1000, 200.0, 300
_SURPRISING = 0.15  # chance below which a mark is a finding
_STEP = 0.5
_SHOWN = ("gap_mm", "across_x_mm", "across_y_mm")
Said = Evidence | ContactPicture


def seeing(engine: Engine, project: Project, build: str | None = None) -> Iterator[tuple[float, Seen | None]]:
    """Yield (progress, None) and at the end (1, what was seen). Raises `AshenError` where the device cannot be assembled."""
    project = before_readings(project)
    name = project.build(build).id
    used, refused = _usable(project)
    builds = tuple(dict.fromkeys((*(where.build for _, where in used), *_own_closing(project, name))))
    gauged, odd = yield from _gauged(engine, project, name, builds)
    model = _Model(project, gauged, used)
    refused += [(one.id, why) for one, why in model.refused]
    refused += [(one, "It does not fit the other readings, so it is left out here.") for one in odd]
    yield 0.65, None
    statements = tuple(sorted(model.statements(), key=lambda one: (one.agrees, not one.silent)))
    gaps, effective, problem = _weighed(model, gauged)
    looked = tuple(model.looked(_closings(project, builds)))
    clash = contradictions([one for one, _ in model.used if isinstance(one, Evidence)], model.names)
    yield 1.0, Seen(name, statements, clash, tuple(refused), gaps, looked, effective, problem)


def _gauged(
    engine: Engine, project: Project, build: str, builds: Sequence[str]
) -> Generator[tuple[float, None], None, tuple[Gauging, tuple[str, ...]]]:
    """Return what readings say, and those that do not fit the others: they would be held against what was seen, too."""
    odd: tuple[str, ...] = ()
    gauged: Gauging | None = None
    for turn in (0, 1):
        for progress, found in gauging(engine, _without(project, odd), build, builds):
            gauged = found
            yield 0.3 * (turn + progress), None
        assert gauged is not None  # the last one always is
        if turn or not gauged.odd:
            break
        odd = tuple(one.label for one in gauged.odd)
    assert gauged is not None  # there is at least one turn
    return gauged, odd


def _without(project: Project, odd: Sequence[str]) -> Project:
    """Return the project with some readings set aside."""
    for one in odd:
        project = set_aside(project, one)
    return project


def _usable(project: Project) -> tuple[list[tuple[Said, Where]], list[tuple[str, str]]]:
    used: list[tuple[Said, Where]] = []
    refused: list[tuple[str, str]] = []
    said: tuple[Said, ...] = (*project.evidence, *project.pictures)
    for one in said:
        try:
            if one.aside:
                raise UnusedError("It was set aside.")
            used.append((one, Where(closing_build(project, one.closing, one.joint), one.joint, one.lower)))
        except UnusedError as error:
            refused.append((one.id, str(error)))
    return used, refused


def _own_closing(project: Project, build: str) -> tuple[str, ...]:
    """Return the build itself where a closing covers it: what it would show is known before anything is said."""
    return (build,) if any(build in one.builds for one in project.closings) else ()


def _closings(project: Project, builds: Sequence[str]) -> dict[str, str]:
    """Return the last closing of each build."""
    return {name: one.id for one in project.closings for name in one.builds if name in builds}


@dataclass(frozen=True)
class _Directions:
    """Where what was seen answers to: numbers are mean + root·z, and only z along `basis` (n_number, k) matters for it."""

    mean: Floats
    root: Floats
    basis: Floats

    def states(self, u: Floats, rng: np.random.Generator) -> Floats:
        """Return numbers (n_draw, n_number) at u (n_draw, k), all else drawn as readings left it."""
        rest = rng.standard_normal((len(u), self.root.shape[1]))
        rest -= (rest @ self.basis) @ self.basis.T
        return np.asarray(self.mean + (u @ self.basis.T + rest) @ self.root.T)


class _Model:
    """Contacts in states of the numbers, and what was said of them."""

    def __init__(self, project: Project, gauged: Gauging, used: Sequence[tuple[Said, Where]]) -> None:
        self.project, self.gauged = project, gauged
        self.names = {one.id: one.label for one in (*project.all_bodies, *(j for b in project.builds for j in b.joints))}
        self.used, self.refused = [], []
        for one, where in used:
            if where.key in gauged.closed[where.build].keys:
                self.used.append((one, where))
            else:
                self.refused.append((one, f"The joint '{where.joint}' does not reach '{where.lower}'."))
        count = len(gauged.numbers)
        self._count, self._low, self._high = count, lowest(gauged.numbers), highest(gauged.numbers)
        root = gauged.found.root[:count]
        self.directions = _Directions(gauged.found.mean[:count], root, np.zeros((root.shape[1], 0)))
        self._sensed = {name for sensor in project.device.sensors for name in (sensor.body, *sensor.also)}

    def contacts(self, x: Floats) -> Mapping[Where, Contact]:
        """Return the contacts that were spoken of, in states of the numbers."""
        spoken = {where.build: self.gauged.closed[where.build] for _, where in self.used}
        return contacts_of(self.project, spoken, np.clip(x, self._low, self._high))

    def statements(self) -> Iterator[Statement]:
        """Yield every statement against what was expected."""
        rng = np.random.default_rng(1)
        nominal = self.contacts(self.directions.mean[None])
        drawn = self.contacts(self.directions.states(np.zeros((_TRIED, 0)), rng))
        for one, where in self.used:
            there, spread, name = nominal[where], drawn[where], self.names.get(where.lower, where.lower)
            silent = where.lower not in self._sensed
            if isinstance(one, ContactPicture):
                chance = float(np.mean(np.exp(log_of_picture(one, spread))))
                words, agrees = picture_words(one, there, name)
                yield Statement(one.id, one.joint, one.lower, name, "picture", "", chance, 0.0, None, words, agrees, silent)
                continue
            mark, _ = expected_mark(there.shape)
            if not tells_length(there.shape.kind, one.says):
                words = f"{name}: {one.says}. It says nothing of lengths; it speaks for what may be wrong."
                yield Statement(one.id, *where.key, name, one.says, mark, 1.0, 0.0, None, words, True, silent)
                continue
            fits = fitting(spread.shape, one.says, one.toward_deg)
            chance = float(np.nanmean(fits)) * (1 - one.misread) + one.misread / len(practice().bands[there.shape.kind])
            off = off_mm(there.shape, one.says)
            agrees = chance > _SURPRISING
            culprit = None if agrees or not off else self._culprit(self._slopes[where]["gap_mm"], off)
            words = statement_words(name, one, there, mark, off, culprit, agrees)
            yield Statement(one.id, *where.key, name, one.says, mark, chance, off, culprit, words, agrees, silent)

    @cached_property
    def _slopes(self) -> dict[Where, dict[str, Floats]]:
        """What one standard uncertainty of each number does to gap and tilt of each contact spoken of [mm] (n_number,)."""
        steps, mean = _STEP * np.eye(self._count), self.directions.mean
        found: dict[Where, dict[str, Floats]] = {}
        for build in dict.fromkeys(where.build for _, where in self.used):
            pushed = self.gauged.closed[build]
            shapes = pushed.shapes(np.vstack([mean + steps, mean - steps]))
            for n, key in enumerate(pushed.keys):
                both = {name: getattr(shapes, name)[:, n] for name in _SHOWN}
                found[Where(build, *key)] = {
                    name: np.nan_to_num((one[: self._count] - one[self._count :]) / (2 * _STEP)) for name, one in both.items()
                }
        return found

    def _culprit(self, slopes: Floats, off: float) -> Culprit | None:
        """Return the number that would explain a gap most cheaply by itself, by what is known of it after readings."""
        left = np.linalg.norm(self.directions.root, axis=1)
        reach = np.abs(slopes) * left
        n = int(np.argmax(reach))
        if reach[n] < 1e-4:
            return None
        one = self.gauged.numbers[n]
        by = off / float(slopes[n])
        field = one.field.rpartition(".")[2]
        label = f"{without_unit(field).replace('_', ' ')} of {one.owners[0]}"
        return Culprit(one.paths[0], label, by * one.uncertainty, unit_of(field), abs(by) / max(float(left[n]), 1e-9))

    def along(self) -> _Directions:
        """Return the directions in which what was seen answers to the numbers: gaps and tilts, one by one."""
        mean, root = self.directions.mean, self.directions.root
        telling = [where for one, where in self.used if isinstance(one, ContactPicture) or self._tells(one, where)]
        if not telling:
            return self.directions
        rows = [self._slopes[where][name] @ root for where in dict.fromkeys(telling) for name in _SHOWN]
        rows = [row / max(float(np.linalg.norm(row)), 1e-12) for row in rows]
        left, size, _ = np.linalg.svd(np.array(rows).T, full_matrices=False)
        return _Directions(mean, root, left[:, size > 0.05 * size[0]])

    def _tells(self, one: Evidence, where: Where) -> bool:
        return tells_length(Contact.kind_of(self.project.build(where.build).joint(where.joint)), one.says)

    def log_likelihood(self, x: Floats) -> Floats:
        """Return the logarithm of the likelihood of all that was seen (n_state,); −inf for a state that does not come to rest."""
        there = self.contacts(x)
        total = np.zeros(len(x))
        for one, where in self.used:
            if isinstance(one, ContactPicture):
                total += log_of_picture(one, there[where])
            elif tells_length(there[where].shape.kind, one.says):
                total += log_likelihood(there[where].shape, one.says, one.misread, one.toward_deg)
        return np.where(np.isnan(total), -np.inf, total)

    def looked(self, closings: Mapping[str, str]) -> Iterator[Looked]:
        """Yield what the model expects at every contact of the closings."""
        there = np.clip(self.directions.mean[None], self._low, self._high)
        for where, contact in contacts_of(self.project, self.gauged.closed, there).items():
            closing = closings.get(where.build)
            if closing is not None and np.isfinite(contact.shape.gap_mm[0]):
                mark, _ = expected_mark(contact.shape)
                name = self.names.get(where.lower, where.lower)
                silent = where.lower not in self._sensed
                words = expected_words(contact, mark)
                yield Looked(closing, where.joint, where.lower, name, contact.shape.kind, mark, words, silent)


def _weighed(model: _Model, gauged: Gauging) -> tuple[tuple[SeenGap, ...], float, str]:
    """Return every gap with what was seen, how many effective draws are left, and why it could not be weighed, if so."""
    plain = tuple(SeenGap(one.joint, one.lower, one.name, one.now, one.now) for one in gauged.gaps)
    along = model.along()
    size = along.basis.shape[1]
    if not size:
        return plain, 0.0, ""
    rng = np.random.default_rng(2)
    kept: list[Floats] = []

    def likely(u: Floats) -> Floats:
        x = along.states(u, rng)
        kept[:] = [x]
        return model.log_likelihood(x)

    try:
        found: Weighed = weighed_draws(rng, np.zeros(size), np.eye(size), likely, count=_DRAWS, least=_LEAST)
    except EstimateError as error:
        return plain, 0.0, str(error)
    gaps = gauged.fill.gaps(kept[0])
    # What does not come to rest has no weight.
    gaps = np.where(np.isnan(gaps), 0.0, gaps)
    mean = found.mean(gaps)
    sd = np.sqrt(np.maximum(found.mean((gaps - mean) ** 2), 0.0))
    told = tuple(
        SeenGap(one.joint, one.lower, one.name, one.before, (float(m), float(s)))
        for one, m, s in zip(plain, mean, sd, strict=True)
    )
    return told, found.effective, ""
