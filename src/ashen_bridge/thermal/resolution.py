"""How fine a grid is: which edges of a scene its lines follow, and how wide the columns of each layer may be."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from ashen_bridge.geometry.region import MM, Box, region_of, region_of_rect
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.model.bodies import Board, Component, DieMakeUp, PackageMakeUp, Plate, Side, Substrate
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.thermal.films import sink_region
from ashen_bridge.thermal.lines import Feature, Lines, Spacing, grid_lines
from ashen_bridge.thermal.merging import CellSizes
from ashen_bridge.thermal.package import PackageMesh
from ashen_bridge.thermal.parts import Slab
from ashen_bridge.thermal.sheets import Sheet, sheets_of
from ashen_bridge.thermal.slabs import SlabSet, block_region, slabs_of


@dataclass(frozen=True)
class Resolution:
    """How fine a grid is.

    die : spacing on dies; part : on other parts; edge : at the edges of solid parts and of pieces that cover something in part;
    cap : at the edges of packages, whose fit takes in what the mesh costs; widest and closest : of all lines [m].
    follows : least weight of the features that count. covered : factor on `edge` and `cap` for parts that a joint covers wholly,
    whose heat goes up and not sideways. plate : narrowest column that parts other than dies ask of a plate, in its thickness.
    deep : narrowest column inside a body, in its depth below the face where flux turns, stretched by √(k in plane / k through);
    hot : the same below a die, whose peak wide columns would spread for nothing.
    halvings : how often every interval and every layer is halved after that.
    """

    die: float
    part: float
    edge: float
    cap: float
    widest: float
    closest: float
    follows: int = 0
    covered: float = 1.25
    plate: float = 0.5
    deep: float = 0.7
    hot: float = 0.4
    halvings: int = 0

    def relaxed(self) -> Resolution:
        """Return what is enough at the edges of a part that a joint covers."""
        return replace(self, edge=self.edge * self.covered, cap=self.cap * self.covered)

    def wider(self, factor: float) -> Resolution:
        """Return the same with all spacings wider."""
        sizes = {name: getattr(self, name) * factor for name in ("die", "part", "edge", "cap", "widest", "closest")}
        return replace(self, **sizes)


COARSE = Resolution(3.6e-3, 6e-3, 2e-3, 2e-3, 16e-3, 1e-3, follows=5, covered=2.0, plate=2.0, deep=4.0, hot=1.0)
FINE = Resolution(1.0e-3, 2.0e-3, 0.35e-3, 0.45e-3, 6.0e-3, 0.15e-3, plate=0.7)

_DIE, _BLOCK, _OUTLINE, _PIECE, _PART, _ACTIVE, _BODY, _LANDING = 9, 8, 7, 6, 5, 4, 3, 2


MOST_COLUMNS = 100_000
"""Of the plan of a field: three times what the largest of forty usual devices has."""
_WIDER, _WIDENINGS = 1.4, 10

_WIDE_PART = 10e-3  # [m]: parts wider than this need no finer edges
_WIDE_BLOCK = 6e-3  # [m]: power blocks wider than this need no finer spacing than their die


@dataclass(frozen=True)
class Frame:
    """The part of a heat model that no joint, power or fan changes: lines, slabs and sheets of one scene at one resolution."""

    lines: Lines
    slabs: SlabSet
    sheets: tuple[Sheet, ...] = ()


@dataclass(frozen=True)
class Turn:
    """A feature with the bodies in which it turns the flux: at their first face (0), their last (1), or all through (None)."""

    feature: Feature
    bodies: tuple[tuple[str, int | None], ...]


def frame_of(scene: Scene, resolution: Resolution) -> Frame:
    """Return the grid lines of a scene, and its bodies as slabs with columns and layers as wide as they may be.

    Of a device with very many parts all is wider, so that its plan has no more than `MOST_COLUMNS`. Raises `AssemblyError` for
    one that is too large even then.
    """
    return _frame_of(_Shape(scene), resolution)


@dataclass(frozen=True, eq=False)
class _Shape:
    """A scene as far as its frame goes: equal where bodies, what they are made of, the plan and its sheets are."""

    scene: Scene

    @cached_property
    def key(self) -> tuple[object, ...]:
        """What it is compared by."""
        resolved = self.scene.resolved
        made_of = sorted({name for body in resolved.bodies for name in body.made_of})
        return resolved.bodies, self.scene.plan, sheets_of(self.scene), tuple(resolved.materials[name] for name in made_of)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Shape) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)


@lru_cache(maxsize=16)
def _frame_of(shape: _Shape, resolution: Resolution) -> Frame:
    scene = shape.scene
    for _ in range(_WIDENINGS):
        lines, turns = _lines_of(scene, resolution)
        if math.prod(lines.shape) <= MOST_COLUMNS * 4**resolution.halvings:
            break
        resolution = resolution.wider(_WIDER)
    else:
        raise AssemblyError("The device has more parts, spread more widely, than a temperature field can be computed for.")
    found = slabs_of(scene, resolution.halvings, _packages(scene, resolution))
    slabs = tuple(_sized(slab, scene.bodies[slab.id], turns, resolution) for slab in found.slabs)
    sheets = sheets_of(scene)
    within = tuple(_sized_sheet(scene, sheet, turns, resolution) for sheet in sheets)
    return Frame(lines, replace(found, slabs=(*slabs, *within)), sheets)


def _lines_of(scene: Scene, resolution: Resolution) -> tuple[Lines, list[Turn]]:
    boxes = [body.region.bounds for body in scene.bodies.values()]
    extent = (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
    turns = [turn for turn in _turns(scene, resolution) if turn.feature.weight >= resolution.follows]
    spacing = Spacing(resolution.widest, resolution.closest, resolution.halvings)
    return grid_lines(extent, tuple(dict.fromkeys(turn.feature for turn in turns)), spacing), turns


def frame_like(frame: Frame, before: Scene, scene: Scene, resolution: Resolution) -> Frame:
    """Return the frame of a device with other numbers of the same shape, on the very cells of the frame of the one `before`.

    Bodies that are the same object in both scenes, of the same materials, are taken over as they are.
    """
    cut = {slab.id: slab for slab in frame.slabs.slabs}
    changed = {name for name, body in scene.bodies.items() if not _same_body(before, scene, body)}
    made = {
        slab.id: _cut_as(slab, cut[slab.id])
        for slab in slabs_of(scene, resolution.halvings, _packages(scene, resolution, changed), changed).slabs
    }
    sheets = sheets_of(scene, frozenset(sheet.id for sheet in frame.sheets))
    made |= {
        sheet.id: _cut_as(sheet.slab(), cut[sheet.id]) for sheet, old in zip(sheets, frame.sheets, strict=True) if sheet != old
    }
    slabs = tuple(made.get(slab.id, slab) for slab in frame.slabs.slabs)
    return Frame(frame.lines, replace(frame.slabs, slabs=slabs), sheets)


def _same_body(before: Scene, scene: Scene, body: SceneBody) -> bool:
    """Return whether a body is the same in two scenes, what it is made of included."""
    if before.bodies[body.id].model is not body.model:
        return False
    then, now = before.resolved.materials, scene.resolved.materials
    return all(then[name] is now[name] for name in body.model.made_of)


def _cut_as(slab: Slab, like: Slab) -> Slab:
    """Return a slab with its layers cut into the columns of another's."""
    layers = tuple(replace(a, sizes=b.sizes) for a, b in zip(slab.layers, like.layers, strict=True))
    return replace(slab, layers=layers)


def _sized(slab: Slab, body: SceneBody, turns: list[Turn], resolution: Resolution) -> Slab:
    """Return a slab with the width that the columns of each layer may have."""
    own = [(turn.feature, face) for turn in turns for name, face in turn.bodies if name == body.id]
    least = resolution.plate * body.thickness if isinstance(body.model, Plate) else 0.0
    layers, depth = [], 0.0
    for layer in slab.layers:
        stretch = math.sqrt(layer.in_plane / layer.through)
        below = {0: depth * stretch, 1: (body.thickness - depth - layer.thickness) * stretch, None: 0.0}

        def floor(feature: Feature, face: int | None, below: dict[int | None, float] = below) -> float:
            # A column is of one temperature: wide ones below a die would spread its heat for nothing.
            hot = feature.weight >= _BLOCK
            deep = below[face] * (resolution.hot if hot else resolution.deep)
            # In whole tenths of a millimetre, so that dragging a height keeps the columns.
            return round(max(0.0 if hot else least, deep), 4)

        features = dict.fromkeys(_no_finer(feature, floor(feature, face), resolution.halvings) for feature, face in own)
        layers.append(replace(layer, sizes=CellSizes(tuple(features), resolution.widest / 2**resolution.halvings)))
        depth += layer.thickness
    return replace(slab, layers=tuple(layers))


def _sized_sheet(scene: Scene, sheet: Sheet, turns: list[Turn], resolution: Resolution) -> Slab:
    """Return a sheet between faces as a slab whose columns are as narrow as those of what it lies on."""
    joint, halved = scene.joints[sheet.joint], 2**resolution.halvings
    near = [turn.feature for turn in turns if any(name in joint.lower for name, _ in turn.bodies)]
    features = tuple(dict.fromkeys(_no_finer(feature, 0.0, resolution.halvings) for feature in near))
    slab = sheet.slab()
    sizes = CellSizes(features, resolution.widest / halved)
    return replace(slab, layers=tuple(replace(layer, sizes=sizes) for layer in slab.layers))


def _no_finer(feature: Feature, floor: float, halvings: int) -> Feature:
    inside, edge = (max(wanted, floor) / 2**halvings for wanted in (feature.inside, feature.edge))
    return replace(feature, inside=inside, edge=edge)


def _packages(scene: Scene, resolution: Resolution, only: Collection[str] | None = None) -> dict[str, PackageMesh]:
    """Return, for every package, the mesh on which its conductivities are fitted: that which it has in the device."""
    found, covered = {}, _covered(scene)
    for name, body in scene.bodies.items():
        if only is not None and name not in only:
            continue
        if isinstance(body.model, Component) and isinstance(body.model.make_up, PackageMakeUp):
            x0, y0, x1, y1 = body.region.bounds
            inner = body.model.make_up
            active = (inner.active_w_mm * MM, inner.active_h_mm * MM)
            fit = resolution.relaxed() if name in covered else resolution
            found[name] = package_mesh((round(x1 - x0, 9), round(y1 - y0, 9)), active, fit)
    return found


def package_mesh(size: tuple[float, float], active: tuple[float, float], resolution: Resolution) -> PackageMesh:
    """Return the mesh that a package of this size [m] would have, were it alone."""
    (w, d), (aw, ad) = size, active
    box, inner = (0.0, 0.0, w, d), ((w - aw) / 2, (d - ad) / 2, (w + aw) / 2, (d + ad) / 2)
    features = tuple(one for one in _package_features(box, inner, resolution) if one.weight >= resolution.follows)
    halved = resolution.halvings
    lines = grid_lines(box, features, Spacing(resolution.widest, resolution.closest, halved))
    sizes = CellSizes(tuple(_no_finer(one, 0.0, halved) for one in features), resolution.widest / 2**halved)
    return PackageMesh(lines, sizes, halved)


def _turns(scene: Scene, resolution: Resolution) -> Iterator[Turn]:
    """Yield everything at which flux turns."""
    over, covered = _plates_over(scene), _covered(scene)
    for body in scene.bodies.values():
        model = body.model
        above = tuple((plate, 0) for plate in sorted(over[body.id]))
        if isinstance(model, Component):
            near = ((body.id, None), (model.on, _face_towards(scene, model)), *above)
            fit = resolution.relaxed() if body.id in covered else resolution
            yield from (Turn(one, near) for one in _component_features(body, model, fit))
        elif isinstance(model, Substrate):
            near = ((body.id, None), (model.on, _face_towards(scene, model)))
            yield Turn(Feature(body.region.bounds, _BODY, edge=resolution.part), near)
        elif isinstance(model, Plate):
            if model.sink is not None:
                yield Turn(Feature(sink_region(body).bounds, _OUTLINE, edge=resolution.part), ((body.id, 1),))
            yield Turn(Feature(body.region.bounds, _BODY, edge=2 * resolution.part), ((body.id, None), *above))
            for landing in model.landings:
                if shared := region_of_rect(landing.area) & body.region:
                    yield Turn(Feature(shared.bounds, _LANDING), ())
            for recess in model.recesses:
                if shared := region_of_rect(recess.area) & body.region:
                    yield Turn(Feature(shared.bounds, _PIECE, edge=resolution.part), ((body.id, 1),))
        else:
            yield Turn(Feature(body.region.bounds, _OUTLINE), ())
            for region in model.regions:
                if shared := region_of_rect(region.area) & body.region:
                    yield Turn(Feature(shared.bounds, _PART, edge=resolution.part), ((body.id, None),))
    yield from _pieces(scene, resolution)


def _pieces(scene: Scene, resolution: Resolution) -> Iterator[Turn]:
    """Yield the edges of pieces that cover a face in part."""
    for joint in scene.joints.values():
        for piece in joint.pieces:
            for lower in joint.lower if piece.footprint is not None else ():
                body = scene.bodies[lower]
                shared = region_of(piece.footprint) & body.region
                if shared and shared.area < 0.999 * body.region.area:
                    face = 1 if isinstance(body.model, Plate | Board) else None
                    yield Turn(Feature(shared.bounds, _PIECE, edge=resolution.edge), ((lower, face), (joint.upper, 0)))


def _face_towards(scene: Scene, model: Component | Substrate) -> int:
    """Return the face of its carrier that a body stands on."""
    return 0 if isinstance(scene.bodies[model.on].model, Board) and model.side is Side.REAR else 1


def _covered(scene: Scene) -> set[str]:
    """Return the bodies whose outer face a joint covers all over."""
    under: dict[str, float] = {}
    for facing in scene.plan.facings:
        if facing.joint is not None:
            under[facing.lower] = under.get(facing.lower, 0.0) + sum(one.region.area for one in facing.patches if one.pieces)
    return {name for name, area in under.items() if area > 0.95 * scene.bodies[name].region.area}


def _plates_over(scene: Scene) -> dict[str, set[str]]:
    """Return, for every body, the plates that its heat passes through one after the other by joints."""
    direct: dict[str, set[str]] = {}
    for joint in scene.joints.values():
        for lower in joint.lower:
            direct.setdefault(lower, set()).add(joint.upper)
    found = {}
    for name in scene.bodies:
        reached, more = set[str](), direct.get(name, set())
        while more - reached:
            reached |= more
            more = {upper for plate in more for upper in direct.get(plate, ())}
        found[name] = reached - {name}
    return found


def _component_features(body: SceneBody, model: Component, resolution: Resolution) -> Iterator[Feature]:
    box = body.region.bounds
    if isinstance(model.make_up, DieMakeUp):
        yield Feature(box, _DIE, resolution.die, resolution.edge)
        for block in model.make_up.power_map:
            if region := block_region(body, block.area.bounds):
                x0, y0, x1, y1 = region.bounds
                # Heat of a small block spreads within its own size.
                size = min(x1 - x0, y1 - y0)
                yield Feature(region.bounds, _BLOCK, resolution.die * min(1.0, max(size / _WIDE_BLOCK, 0.25)))
        return
    if isinstance(model.make_up, PackageMakeUp):
        cx, cy = body.region.centre
        w, h = model.make_up.active_w_mm / 2e3, model.make_up.active_h_mm / 2e3
        yield from _package_features(box, (cx - w, cy - h, cx + w, cy + h), resolution)
    else:
        # Flux gathers at the edges of a part within a share of its size.
        size = min(body.region.bounds[2] - body.region.bounds[0], body.region.bounds[3] - body.region.bounds[1])
        yield Feature(box, _PART, resolution.part, resolution.edge * min(1.0, max(size / _WIDE_PART, 0.5)))


def _package_features(box: Box, active: Box, resolution: Resolution) -> tuple[Feature, Feature]:
    return Feature(box, _PART, resolution.part, resolution.cap), Feature(active, _ACTIVE, edge=resolution.cap)
