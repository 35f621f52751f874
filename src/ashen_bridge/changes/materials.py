"""Changes of the materials of a project."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ashen_bridge.library import materials as library
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.material import CurvePoint, Material, Source
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced, with_each, with_more, with_part

_LIMP = 1e-3  # of a pad's pressure: it still conducts, but no longer pushes


def in_material(project: Project, material: str, change: Callable[[Material], Material]) -> Project:
    """Return the project with one material changed."""
    return with_each(project, "materials", change, (material,))


def add_material(project: Project, material: Material) -> Project:
    """Add a material."""
    return with_more(project, "materials", material)


def with_library(project: Project, names: Iterable[str]) -> Project:
    """Return the project with these library materials, those it has not yet added."""
    known = {material.id for material in project.materials}
    shipped = library()
    return with_more(project, "materials", *(shipped[name] for name in dict.fromkeys(names) if name not in known))


def take_from_library(project: Project, material: str) -> Project:
    """Take a material of the shipped library into the project."""
    if any(one.id == material for one in project.materials):
        raise ProjectError(f"The project has '{project.material(material).name}' already.")
    if material not in library():
        raise ProjectError(f"The library has no material '{material}'.")
    return with_library(project, [material])


def remove_material(project: Project, material: str) -> Project:
    """Remove a material and the stock of it. Raises `ProjectError` that says where it is used, if it is."""
    used = where_used(project, material)
    name = project.material(material).name
    if used:
        more = f" and {len(used) - 3} more" if len(used) > 3 else ""
        raise ProjectError(f"'{name}' is in use: {', '.join(used[:3])}{more}. Choose another material there first.")
    return replaced(
        project,
        materials=tuple(one for one in project.materials if one.id != material),
        stock=tuple(one for one in project.stock if one.material != material),
    )


def where_used(project: Project, material: str) -> list[str]:
    """Return what is made of a material, in words."""
    found = []
    for body in project.all_bodies:
        inner = body.make_up if isinstance(body, Component) else body
        if material in (getattr(inner, "material", None), getattr(inner, "active_material", None)):
            found.append(body.label)
    return found + [
        f"{joint.label} ({build.label})"
        for build in project.builds
        for joint in build.joints
        if any(piece.material == material for piece in joint.pieces)
    ]


def set_source(project: Project, material: str, text: str, method: str, claimed: bool) -> Project:
    """Say where the figures of a material come from and how its conductivity was measured."""
    first = Source(text=text, method=method, claimed=claimed)
    return in_material(project, material, lambda one: replaced(one, sources=(first, *one.sources[1:])))


def set_curve(project: Project, material: str, points: tuple[CurvePoint, ...]) -> Project:
    """Give a pad material another pressure curve."""
    return in_material(project, material, lambda one: with_part(one, "compression", lambda old: replaced(old, points=points)))


def make_pads_limp(project: Project) -> Project:
    """Let pads conduct as they do but push back with next to nothing."""
    return with_each(project, "materials", _limp)


def _limp(material: Material) -> Material:
    if material.compression is None:
        return material
    points = [replaced(point, pressure_kpa=point.pressure_kpa * _LIMP) for point in material.compression.points]
    return with_part(material, "compression", lambda old: replaced(old, points=tuple(points)))


def weaken_joint(project: Project, build: str, joint: str, factor: float) -> Project:
    """Let a joint's layers conduct worse, by materials of their own, so that no other joint changes."""

    def weak(material: Material) -> Material:
        return replaced(
            material,
            conductivity_w_mk=replaced(material.conductivity_w_mk, value=material.conductivity_w_mk.value / factor),
            contact_mm2k_w=replaced(material.contact_mm2k_w, value=material.contact_mm2k_w.value * factor),
        )

    return with_joint_of_its_own(project, build, joint, "weak", weak)


def with_joint_of_its_own(project: Project, build: str, joint: str, name: str, change: Callable[[Material], Material]) -> Project:
    """Give a joint's layers changed materials of their own, so that no other joint changes; `name` begins their ids."""
    made, pieces = [], []
    for number, piece in enumerate(project.build(build).joint(joint).pieces):
        new = replaced(change(project.material(piece.material)), id=f"{name}_{number}_{joint}"[:48])
        made.append(new)
        pieces.append(replaced(piece, material=new.id))
    project = with_more(project, "materials", *made)
    own = tuple(pieces)
    return with_each(
        project, "builds", lambda one: with_each(one, "joints", lambda j: replaced(j, pieces=own), (joint,)), (build,)
    )


def fitted_series(project: Project, material: str, conductivity: tuple[float, float], face: tuple[float, float]) -> Project:
    """Set conductivity [W/m·K] and face resistance [mm²·K/W], each with its ±, from a thickness series of one's own."""
    said = "thickness series"
    sources = (Source(text="tests of one's own", method=said),)

    def change(one: Material) -> Material:
        k, contact = q(*conductivity, "measured", said), q(max(face[0], 0.0), face[1], "measured", said)
        return replaced(one, conductivity_w_mk=k, contact_mm2k_w=contact, sources=sources)

    return in_material(project, material, change)


def fitted_curve(
    project: Project, material: str, points: tuple[tuple[float, float], ...], free_mm: float, area_mm2: float, relative_u: float
) -> Project:
    """Set the compression curve from a squeeze under a scale: the sample's size, and by how much of itself it scatters."""
    curve = tuple(CurvePoint(strain=x, pressure_kpa=y) for x, y in points)

    def change(one: Material) -> Material:
        if one.compression is None:
            raise ProjectError(f"“{one.name}” is no pad, so it has no compression curve.")
        said = "squeezed under a scale"
        fields = {
            "points": curve,
            "sample_thickness_mm": q(free_mm, 0.02 * free_mm, "measured", said),
            "sample_area_mm2": q(area_mm2, 0.02 * area_mm2, "measured", said),
            "relative_uncertainty": q(min(max(relative_u, 0.03), 1.0), 0.0, "measured", said),
        }
        return replaced(one, compression=replaced(one.compression, **fields))

    return in_material(project, material, change)
