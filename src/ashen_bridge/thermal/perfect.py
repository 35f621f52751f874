"""A heat model with some of its layers, faces or ways made perfect: the most that any work on them could gain."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from ashen_bridge.thermal.names import Name, slab
from ashen_bridge.thermal.parts import Contact, Film, HeatModel, Layer, Slab

PERFECT = 1e4  # times better than it is: what is left is below what anyone could measure


def perfected(model: HeatModel, wanted: Collection[Name]) -> HeatModel:
    """Return the model with the contacts, films and slabs of these names perfect."""
    return replace(
        model,
        contacts=tuple(_contact(one) if one.name in wanted else one for one in model.contacts),
        films=tuple(_film(one) if one.name in wanted else one for one in model.films),
        slabs=tuple(_slab(one) if slab(one.id) in wanted else one for one in model.slabs),
    )


def _contact(contact: Contact) -> Contact:
    through = contact.through * PERFECT if contact.through is not None else None
    return replace(contact, conductance=contact.conductance * PERFECT, through=through)


def _film(film: Film) -> Film:
    # A law counts as still air at its best; a thousand watts per square metre and kelvin is far beyond any air.
    return replace(film, coefficient=(film.coefficient or 1e3) * PERFECT, law=None)


def _slab(slab: Slab) -> Slab:
    return replace(slab, layers=tuple(_layer(layer) for layer in slab.layers))


def _layer(layer: Layer) -> Layer:
    inlay = layer.inlay
    if inlay is not None:
        inlay = (inlay[0], inlay[1] * PERFECT, inlay[2] * PERFECT, inlay[3])
    inlays = tuple(replace(one, in_plane=one.in_plane * PERFECT, through=one.through * PERFECT) for one in layer.inlays)
    conducts = (layer.in_plane * PERFECT, layer.through * PERFECT)
    return replace(layer, in_plane=conducts[0], through=conducts[1], exponent=0.0, inlay=inlay, inlays=inlays)
