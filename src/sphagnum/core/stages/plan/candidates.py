"""Which stacks could go on a patch, by the roles of the trade and what the shelf sells."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ...cutting.stock import price_m2
from ...fitting.fixings import HANGER
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...materials.model import Material, kg_per_m2
from ...rules.places import HEAVY_UPRIGHT_KG_M2
from ...stacks.model import Frame
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative, Held, StackLayerIn
from ...worded import in_mm

Layers = tuple[StackLayerIn, ...]
COVERAGES = (0.25, 0.4, 0.6, 0.8)
"""Shares of a panel that damping is laid on; more gives little, for it is the middle that bends."""
CHANNELS = (("channels", 25.0, 600.0), ("channels", 50.0, 600.0))
"""How boards are set off a wall: on resilient channels, never on battens, which tie both leaves hard; cavity, spacing (mm)."""
BENDS_KG_M2 = 15.0
"""Panels heavier than this are not damped by a sheet: it is too light to bend with them."""


class Kit(NamedTuple):
    """What stacks of a patch are made of: dampings on the panel, linings over them, absorbers that may close a lining."""

    dampings: tuple[Layers, ...]
    linings: tuple[Layers, ...]
    tops: tuple[Layers, ...]


Lasts = Callable[[Material, float], bool]
"""Whether a material laid alone there would last and harm nobody."""
ROLES = {"damping", "decoupler", "barrier", "absorber", "substrate"}


def kit_of(doc: JobDocument, patch: Patch, shelf: Shelf, struck: frozenset[str], lasts: Lasts, room: float, width: float) -> Kit:
    """The parts stacks of a patch are put together from: sold, priced, not struck, fit for the place, no deeper than
    ``room``, mm; of each about that share (``width``)."""
    sold = [(m, mm) for m in shelf.materials.values() if not m.retired and m.id not in struck and m.lies
            and ROLES & {*m.roles} for mm in m.thicknesses_mm if mm <= room and price_m2(m, mm) is not None]
    bad = {m.id for m in {m.id: m for m, _ in sold}.values() if not lasts(m, next(mm for n, mm in sold if n is m))}
    sold = [(m, mm) for m, mm in sold if m.id not in bad]
    place = side_of(doc, patch)
    under = "panel" if patch.present else ""
    dampings = [(_layer(m, mm, under, share),) for m, mm in sold if m.acts == "damping" and not m.hold.startswith("between")
                for share in COVERAGES]
    bare = kg_per_m2(shelf.material(patch.substrate.material), patch.substrate.thickness_mm)
    if (patch.survey_do == "keep" and patch.present) or bare > BENDS_KG_M2 or doc.job.kind == "room":
        dampings = []  # what lies on the panel stays there
    trodden = "walked on" in patch.flags
    linings = list(_rooms(sold, place, shelf, struck)) if doc.job.kind == "room" else list(_panels(sold, place, trodden))
    tops: list[Layers] = [(_layer(m, mm, place),) for m, mm in sold if _absorbs(m) and doc.job.kind != "room" and not trodden]
    linings = [_fastened(x, patch, shelf, struck) for x in thinned([x for x in linings if _depth(x) <= room + 1e-9], width)]
    tops = [_fastened(x, patch, shelf, struck) for x in thinned(tops, width)]
    return Kit(tuple(thinned(dampings, width)), tuple(_sealed(x, shelf, struck) for x in linings), tuple(tops))


LEAST_STACKS = 60


def thinned(stacks: Sequence[Layers], width: float) -> Sequence[Layers]:
    """About that share of stacks, evenly through their list, where the clock lets no more be predicted."""
    kept = max(round(width * len(stacks)), LEAST_STACKS)
    return stacks if len(stacks) <= kept else [stacks[int(i)] for i in np.linspace(0, len(stacks) - 1, kept)]


TAPE, SEALANT = "seam-tape", "elastic-sealant"
LIGHT_KG_M2 = 3.0
"""Glue alone holds so much overhead, with a margin for what is under it."""


def _fastened(layers: Layers, patch: Patch, shelf: Shelf, struck: frozenset[str]) -> Layers:
    """Layers hung where glue alone would let them sag or fall, as the trade asks."""
    if HANGER not in shelf.materials or HANGER in struck or "walked on" in patch.flags:
        return layers
    out = list(layers)
    for i, layer in enumerate(layers):
        material = shelf.material(layer.material)
        heavy = kg_per_m2(material, layer.thickness_mm)
        sags = material.acts == "limp" or material.family == "combined"
        if "overhead" in patch.flags:
            falls = i == len(layers) - 1 and (sum(kg_per_m2(shelf.material(x.material), x.thickness_mm) for x in layers)
                                              > LIGHT_KG_M2)
            if (falls or material.holds_overhead is False) and material.acts != "plate" and material.family != "air":
                out[i] = _held(layer, "hangers")
        elif sags and heavy >= HEAVY_UPRIGHT_KG_M2:
            out[i] = _held(layer, "hangers")
    return tuple(out)


def _sealed(layers: Layers, shelf: Shelf, struck: frozenset[str]) -> Layers:
    """Layers with tape over the seams of a barrier, or sealant round boards, where there is one to be had."""
    materials = [shelf.material(x.material) for x in layers]
    boards = any(m.acts == "plate" for m in materials)
    barrier = any("barrier" in m.roles and m.acts != "plate" for m in materials)
    line = SEALANT if boards else TAPE if barrier else ""
    if not line or line in struck or line not in shelf.materials:
        return layers
    return (*layers, _layer(shelf.material(line), 1.0))


def side_of(doc: JobDocument, patch: Patch) -> str:
    """Where linings of a patch go: on the side its own alternatives are laid on, else the listener's."""
    own = [x.place for a in doc.alternatives if a.surface_id == patch.id for x in a.layers]
    return "far" if own and own.count("far") * 2 > len(own) else ""


def _depth(layers: Layers) -> float:
    return sum(x.thickness_mm for x in layers)


@lru_cache(maxsize=1024)
def _held(layer: StackLayerIn, how: Held) -> StackLayerIn:
    return layer.model_copy(update={"held": how})


def _absorbs(material: Material) -> bool:
    return "absorber" in material.roles and material.acts == "soft" and material.family != "combined"


def _panels(sold: list[tuple[Material, float]], place: str, trodden: bool) -> Iterable[Layers]:
    """Linings of thin panels: an absorber (not where feet go); a barrier, straight on or over something soft (where feet go, one
    that is not crushed under a sheet that bears them); a sheet that is both."""
    for material, mm in sold:
        if (_absorbs(material) and not trodden) or (material.family == "combined" and "barrier" in material.roles):
            yield (_layer(material, mm, place),)
    soft = [(m, mm) for m, mm in sold if "decoupler" in m.roles and m.acts == "soft" and m.family not in ("combined", "air")
            and not m.rigid and not (trodden and (m.crushable or "fibres" in m.hazards))]
    for barrier, mm in sold:
        if barrier.acts == "limp" and "barrier" in barrier.roles and not (trodden and not barrier.limits.bears):
            yield (_layer(barrier, mm, place),)
            for under, under_mm in soft:
                yield (_layer(under, under_mm, place), _layer(barrier, mm, place))


def _rooms(sold: list[tuple[Material, float]], place: str, shelf: Shelf, struck: frozenset[str]) -> Iterable[Layers]:
    """Linings of walls and ceilings: one or two boards, straight on, or set off with wool in the cavity, which booms empty."""
    # a pane that stands in a frame is no board, and what burns is shut into no wall
    boards = [(m, mm) for m, mm in sold if m.acts == "plate" and m.rigid and m.family != "combined" and mm >= 9
              and not m.hold.startswith("in a frame")]
    wools = _wools([(m, mm) for m, mm in sold if _absorbs(m) and m.family == "porous" and 40 <= mm <= 100
                    and "flame" not in m.hazards])
    joins = [j for j, needs in (("", ""), ("compound", "damping-compound")) if not needs or (needs in shelf.materials
                                                                                             and needs not in struck)]
    for board, mm in boards:
        one = _layer(board, mm, place)
        skins = [(one,), *((one, _joined(one, j)) for j in joins)]
        for join in joins:
            yield (_joined(one, join),)
        for kind, gap, apart in CHANNELS:
            air = _layer(shelf.material("air-gap"), gap, place)
            tied = air.model_copy(update={"tie": Frame.model_validate({"kind": kind, "spacing_mm": apart})})
            for skin in skins:
                for wool, deep in wools:
                    # the wool takes the cavity; what is left of it stays air
                    yield (tied, _layer(wool, deep, place), *skin)


def _wools(sold: list[tuple[Material, float]]) -> list[tuple[Material, float]]:
    """Of each thickness of wool the cheapest and the one that resists flow most: those between differ by tenths of a decibel."""
    out: dict[tuple[str, float], tuple[Material, float]] = {}
    for thick in sorted({mm for _, mm in sold}):
        same = [m for m, mm in sold if mm == thick]
        for one in (min(same, key=lambda m: price_m2(m, thick) or 0.0),
                    max(same, key=lambda m: m.properties.flow_resistivity_pa_s_m2 or 0.0)):
            out[(one.id, thick)] = (one, thick)
    return list(out.values())


@lru_cache(maxsize=4096)
def _layer(material: Material, thickness_mm: float, place: str = "", coverage: float = 1.0) -> StackLayerIn:
    return StackLayerIn(material=material.id, thickness_mm=thickness_mm, coverage=coverage, place=place)


@lru_cache(maxsize=1024)
def _joined(layer: StackLayerIn, how: str) -> StackLayerIn:
    return layer.model_copy(update={"joined": how})


def alternative_of(patch: Patch, layers: Layers, numbered: bool = True) -> Alternative:
    """Layers as an alternative of a patch that nobody keeps yet; far ones run from the panel outwards as they are laid."""
    own = tuple(x if x.id else x.model_copy(update={"id": str(i)}) for i, x in enumerate(layers, start=1)) if numbered else layers
    return Alternative.model_construct(id=0, version=0, surface_id=patch.id, zone=patch.zone, name="", takes_out=(), frame=None,
                                       chosen=True, overrides=(), layers=own)


def name_of(layers: Layers, shelf: Shelf) -> str:
    """A stack in words: "butyl damping sheet 2 mm on 40 %, cotton felt 20 mm"."""
    parts = []
    for layer in layers:
        material = shelf.material(layer.material)
        name = material.name.partition(",")[0]
        name = f"{name[:1].lower()}{name[1:]}" if not name[:2].isupper() else name
        share = f" on {100 * layer.coverage:.0f} %" if material.acts == "damping" and layer.coverage < 1 else ""
        parts.append(f"{name} {in_mm(layer.thickness_mm)}{share}" if material.lies else name)
    return ", ".join(parts)
