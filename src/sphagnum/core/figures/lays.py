"""A surface of a job as stacks: what is on it now, what is planned, and their transmission with gaps counted."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.rating import rate_predicted
from ..materials.families.plate import Plate
from ..materials.families.porous import Porous
from ..materials.family import Acts, Layer
from ..materials.model import Material, interlayer_of, to_layers
from ..materials.table import family, layer_mass
from ..stacks.known import predict_cached
from ..stacks.leaf import first_mode_hz
from ..stacks.model import Frame, Stack
from ..stacks.modes import plate_stiffness
from ..stacks.predict import Prediction
from ..surfaces.coverage import asked_share, laid_share, panel_share
from ..surfaces.geometry import areas, gap_width_mm
from ..surfaces.patches import Patch, patches
from ..surfaces.rows import Alternative, StackLayerIn, Surface
from .sure import narrowed


class Placed(NamedTuple):
    """A layer where it lies: ``far`` of the panel (on its source side), and whether it is ``new`` or stood there before."""

    layer: StackLayerIn
    new: bool = False
    far: bool = False


class Lay(NamedTuple):
    """What lies on a panel from the source's side to the listener's, how its leaves are tied, and how warm it is there (°C).

    ``frame`` ties the only cavity where no layer of one says what does. ``nothing``: not even the panel stands. ``as_asked``: new
    layers cover what they were asked to, not what their pieces reach: for a search, which cuts nothing. ``surround``: as left
    by hand, or as by those who build walls.
    """

    placed: tuple[Placed, ...]
    frame: Frame = Frame()
    temperature_c: float = 20.0
    nothing: bool = False
    as_asked: bool = False
    surround: Literal["laboratory", "fitted"] = "fitted"

    @property
    def layers(self) -> tuple[StackLayerIn, ...]:
        """The layers alone."""
        return tuple(p.layer for p in self.placed)

    def share(self, patch: Patch, one: Placed, shelf: Shelf) -> float:
        """Share of the whole patch that a layer covers, 0–1; new ones are laid in pieces cut for it."""
        if not one.new:
            return one.layer.coverage
        material = shelf.material(one.layer.material)
        return panel_share(patch, asked_share(one.layer, material) if self.as_asked else laid_share(patch, one.layer, material))

    def only(self, kept: Callable[[Placed], bool]) -> Lay:
        """The lay with those of its layers alone for which ``kept`` says so."""
        return self._replace(placed=tuple(p for p in self.placed if kept(p)))


def _surround(doc: JobDocument) -> Literal["laboratory", "fitted"]:
    return "laboratory" if doc.job.kind == "room" else "fitted"


def present_lay(doc: JobDocument, surface: Surface) -> Lay:
    """What lies on a surface now; nothing where it does not stand yet."""
    if surface.planned:
        return Lay((), temperature_c=doc.job.temperature_c, nothing=True)
    return Lay(tuple(Placed(x) for x in surface.present), surface.frame, doc.job.temperature_c, surround=_surround(doc))


def planned_lay(doc: JobDocument, surface: Surface, alternative: Alternative | None = None) -> Lay:
    """What will lie on a surface or patch: an alternative's layers (the chosen one's if none is named) with what stands and is
    not taken out, each where it goes; else what is there now."""
    zone = surface.zone if isinstance(surface, Patch) else ""
    one = alternative or doc.chosen(surface.id, zone)
    if one is None:
        return present_lay(doc, surface)
    new = [Placed(x, new=True, far=x.place == "far") for x in one.layers]
    stands = () if surface.planned else surface.present
    beside = {x.id for x in stands}
    placed = [p for p in reversed(new) if p.far]
    placed += [p for p in new if p.layer.place == "panel"]
    for layer in stands:
        if layer.id not in one.takes_out:
            placed.append(Placed(layer))
        placed += [p for p in new if p.layer.place == layer.id]
    placed += [p for p in new if not p.far and p.layer.place != "panel" and p.layer.place not in beside]
    return Lay(tuple(placed), one.frame or surface.frame, doc.job.temperature_c, surround=_surround(doc))


def new_layers(doc: JobDocument, patch: Surface, alternative: Alternative | None = None) -> tuple[StackLayerIn, ...]:
    """What is to be laid on a patch, from its panel outwards; of one that does not stand yet its panel first."""
    zone = patch.zone if isinstance(patch, Patch) else ""
    one = alternative or doc.chosen(patch.id, zone)
    return () if one is None else laid_of(patch, one)


def laid_of(patch: Surface, alternative: Alternative) -> tuple[StackLayerIn, ...]:
    """What an alternative lays on a patch; on one that does not stand yet its panel first."""
    if not patch.planned:
        return alternative.layers
    return (patch.substrate.model_copy(update={"id": PANEL}), *alternative.layers)


PANEL = "panel"
"""The id of a planned surface's own panel among what is to be laid."""
INTERLAYER_MM = 0.6
"""Thickness of damping compound at its usual dose of 0.55 l/m²."""
HELD_APART_MM = 400.0
"""Usual distance of screws and hangers through a lining."""
AT_POINTS = {hard: Frame(kind="point-fixings", spacing_mm=HELD_APART_MM, isolated=not hard) for hard in (True, False)}
"""What they make of the leaves on both sides: links at points, by whether they are hard."""


def stack_of(surface: Surface, lay: Lay, shelf: Shelf) -> Stack:
    """The physical stack of a surface: substrate and layers from the source's side; seals and goods are no layers of it.

    The panel is taken as a rectangle of the whole outline's proportions and area; a frame counts once there is a cavity to
    bridge. Raises BadInput for unknown materials.
    """
    width_m, height_m = _rectangle_m(surface.whole if isinstance(surface, Patch) else surface)
    patch = surface if isinstance(surface, Patch) else patches(surface)[0]
    physical: list[Layer] = []
    glued: list[bool] = []
    """Whether each sticks to the one before it."""
    ties: list[tuple[int, Frame]] = []
    for one in _in_order(surface, lay):
        layer, material = one.layer, shelf.material(one.layer.material)
        if not material.lies:
            continue
        share = lay.share(patch, one, shelf) if material.acts == "damping" else 1.0
        made = [*_made(material, layer.thickness_mm, share, "fixed", lay.temperature_c)]
        if layer.joined and physical and isinstance(made[0], Plate) and isinstance(physical[-1], Plate):
            made[0] = _joined(made[0], layer.joined, shelf, lay.temperature_c)
        frame = layer.tie or _as_held(layer, physical)
        if frame is not None:
            ties.append((len(physical) - (layer.tie is None), frame))
        physical += made
        glued += [_glued(layer.held or material.hold)] * len(made)
    for i, after in enumerate(physical):
        if isinstance(after, Plate) and after.join and (i == 0 or not isinstance(physical[i - 1], Plate)):
            physical[i] = after.model_copy(update={"join": None, "interlayer": None})
    for i, (own, upon) in enumerate(pairwise(glued)):
        foam = physical[i]
        if own and upon and isinstance(foam, Porous) and foam.frame_modulus_kpa is not None:
            physical[i] = _bonded(foam)
    frames = _frames(ties, physical, lay.frame)
    return Stack.model_construct(  # sound by how it is made, and made by the thousand
        width_m=width_m, height_m=height_m, layers=tuple(physical), frames=frames, temperature_c=lay.temperature_c,
        surround=lay.surround, frame=UNTIED, leak_cm2=0.0, leak_slit_mm=None, leak_depth_mm=None, edge_losses=True,
    )


def _rectangle_m(surface: Surface) -> tuple[float, float]:
    size = areas(surface)
    scale = (size.gross_m2 / (size.width_mm * size.height_mm / 1e6)) ** 0.5
    return max(size.width_mm * scale / 1e3, 0.02), max(size.height_mm * scale / 1e3, 0.02)


UNTIED = Frame()
GLUED = re.compile(r"self-adhesive|contact glue|spray glue")
"""What holds a layer by the whole of its face."""


@lru_cache(maxsize=1024)
def _bonded(foam: Porous) -> Porous:
    """A foam glued on both sides: one and the same for many stacks, which share what is computed of it."""
    return foam.model_copy(update={"bonded": True})


@lru_cache(maxsize=1024)
def _glued(hold: str) -> bool:
    return GLUED.search(hold) is not None


@lru_cache(maxsize=8192)
def _made(material: Material, thickness_mm: float, share: float, join: str | None, temperature_c: float) -> tuple[Layer, ...]:
    return tuple(to_layers(material, thickness_mm, share, join, temperature_c))


def _in_order(surface: Surface, lay: Lay) -> tuple[Placed, ...]:
    far = tuple(p for p in lay.placed if p.far)
    return (*far, Placed(surface.substrate), *lay.placed[len(far):])


def _joined(plate: Layer, how: str, shelf: Shelf, temperature_c: float) -> Layer:
    """A board joined to the one under it by damping compound (a viscous layer of its usual dose) or a plain adhesive."""
    if how == "adhesive":
        return plate.model_copy(update={"join": "bonded"})
    known = shelf.material("damping-compound").properties
    return plate.model_copy(update={"join": "viscous", "interlayer": interlayer_of(known, INTERLAYER_MM, temperature_c)})


def _as_held(layer: StackLayerIn, under: list[Layer]) -> Frame | None:
    """What screws and hangers through a soft layer make of the leaves on both sides: links at points."""
    if layer.held not in ("screws", "isolated screws", "hangers") or not under or family(under[-1].kind).acts != "soft":
        return None
    return AT_POINTS[layer.held != "isolated screws"]


def _frames(ties: list[tuple[int, Frame]], physical: list[Layer], usual: Frame) -> tuple[Frame, ...]:
    """Frames with the leaves they join; what stands in no cavity is left out, and of two in one cavity the first counts."""
    if not ties and usual.kind == "none":
        return ()
    acts = [family(layer.kind).acts for layer in physical]
    cavities = _cavities(acts)
    out: dict[tuple[int, int], Frame] = {}
    for at, frame in ties:
        pair = next((c for c in cavities if c[0] < at < c[1]), None)
        if pair is not None and (frame.kind != "none"):
            out.setdefault(pair, _between(frame, pair))
    if not out and usual.kind != "none" and len(cavities) == 1:
        out[cavities[0]] = _between(usual, cavities[0])
    elif not out and usual.kind != "none" and usual.between is not None and cavities:
        out[usual.between] = usual
    return tuple(out[c] for c in sorted(out))


@lru_cache(maxsize=256)
def _between(frame: Frame, pair: tuple[int, int]) -> Frame:
    return frame.model_copy(update={"between": pair})


def _cavities(acts: list[Acts]) -> list[tuple[int, int]]:
    """Pairs of places of the leaves (or limp layers) nearest to each run of soft layers between them."""
    heavy = [i for i, a in enumerate(acts) if a != "soft"]
    return [(a, b) for a, b in pairwise(heavy) if b > a + 1]


@lru_cache(maxsize=2048)
def panel_loss(surface: Surface, lay: Lay, shelf: Shelf) -> tuple[Floats, Prediction]:
    """R per band of a surface or patch, dB, and its prediction, both with what stays bare counted.

    What is kept clear, and the gaps a coverage leaves, are panel without its linings and, where a gap is wider than the bending
    wave is long, without its damping too; the parts add by area. Where nothing stands R is 0. Raises BadInput naming the layer.
    """
    kinds = {m.id: m for p in lay.placed for m in (shelf.materials.get(p.layer.material),) if m is not None and m.sources}
    whole = narrowed(predict_cached(stack_of(surface, lay, shelf)), kinds.values(), shelf,
                     lambda other: predict_cached(stack_of(surface, lay, other)))
    if lay.nothing:
        return _still(np.zeros(len(PREDICTED_HZ))), whole
    loss = _still(np.array(whole.transmission_loss_db))
    gaps = beside_gaps(surface, lay, shelf)
    if gaps is None:
        return loss, whole
    shared, bare = (np.array(predict_cached(stack_of(surface, x, shelf)).transmission_loss_db) for x in (gaps.shared, gaps.bare))
    both = _still(with_gaps(loss, shared, bare, gaps.alone, gaps.covered))
    rw, c, ctr, stc = rate_predicted(both[None, :])[0]
    return both, whole.model_copy(update={"transmission_loss_db": tuple(both.tolist()), "Rw": rw, "C": c, "Ctr": ctr, "STC": stc})


@lru_cache(maxsize=1024)
def without_gaps(surface: Surface, lay: Lay, shelf: Shelf) -> Floats:
    """R per band of a surface or patch as if its linings left nothing bare, dB."""
    if lay.nothing:
        return _still(np.zeros(len(PREDICTED_HZ)))
    return _still(np.array(predict_cached(stack_of(surface, lay, shelf)).transmission_loss_db))


class Gaps(NamedTuple):
    """What the linings of a lay leave bare: what lies there where a wave in the panel takes gap and surroundings together, what
    lies there in truth, by how much the latter counts per band (21,), and the share of the panel that is covered."""

    shared: Lay
    bare: Lay
    alone: Floats
    covered: float


def beside_gaps(surface: Surface, lay: Lay, shelf: Shelf) -> Gaps | None:
    """The gaps beside the linings of a lay; None where they leave none.

    No piece of new damping lies in them: they are what is kept clear, and what no piece reaches.
    """
    patch = surface if isinstance(surface, Patch) else patches(surface)[0]
    linings = {i: lay.share(patch, one, shelf) for i, one in enumerate(lay.placed)
               if shelf.material(one.layer.material).acts not in ("damping", "line", "thing")}
    gaps = {i: share for i, share in linings.items() if share < 1 - 1e-9}
    if not gaps:
        return None
    shared = lay._replace(placed=tuple(one for i, one in enumerate(lay.placed) if i not in gaps))
    bare = shared.only(lambda one: not one.new or shelf.material(one.layer.material).acts != "damping")
    covered = min(gaps.values())
    return Gaps(shared, bare, _alone(patch, round(covered, 6), shelf), covered)


@lru_cache(maxsize=1024)
def _alone(patch: Patch, covered: float, shelf: Shelf) -> Floats:
    """By how much a gap is a panel of its own, 0–1 per band: where the bending wave of the bare panel is shorter than the gap is
    wide; below it moves with what is round it, gradually. Half where half a wave fits into it: a judgement."""
    wave = bending_wave_m(patch, shelf) / 2
    width = gap_width_mm(patch, covered) / 1e3
    return _still(np.asarray(width**2 / (width**2 + wave**2)))


def bending_wave_m(surface: Surface, shelf: Shelf) -> Floats:
    """Length of the free bending wave of a surface's bare panel per band, m: 2π·(B/(m′·ω²))^¼; 0 where it has no stiffness."""
    panel = stack_of(surface, Lay(()), shelf).layers[0]
    omega = 2 * np.pi * np.array(PREDICTED_HZ)
    if not isinstance(panel, Plate):
        return np.zeros(len(omega))
    stiffness = plate_stiffness(panel.youngs_modulus_gpa * 1e9, panel.thickness_mm / 1e3, panel.poisson)
    return np.asarray(2 * np.pi * (stiffness / (layer_mass(panel) * omega**2)) ** 0.25)


def with_gaps(loss_db: Floats, shared_db: Floats, bare_db: Floats, alone: Floats, covered: Floats | float) -> Floats:
    """R of a panel of which a share is covered and the rest bare, dB: both add by area, what is bare partly as it shares what is
    round it and partly (``alone``) as it is by itself; any shape of bands last."""
    rest = alone * 10 ** (-bare_db / 10) + (1 - alone) * 10 ** (-shared_db / 10)
    return np.asarray(np.round(-10 * np.log10(covered * 10 ** (-loss_db / 10) + (1 - covered) * rest), 2) + 0.0)


def surface_loss(
    doc: JobDocument, surface: Surface, shelf: Shelf, planned: bool, instead: tuple[str, Lay] | None = None
) -> Floats:
    """R per band of a whole surface, dB: of its patches by their area and by how much louder it is there.

    ``planned``: with the chosen stacks; ``instead``: a zone with another lay than its own. Raises BadInput naming the layer.
    """
    parts = patches(surface)
    losses = []
    for patch in parts:
        own = planned_lay(doc, patch) if planned else present_lay(doc, patch)
        losses.append(panel_loss(patch, instead[1] if instead is not None and instead[0] == patch.zone else own, shelf)[0])
    if len(parts) == 1:
        return losses[0]
    weights = np.array([p.share * 10 ** (p.excitation_db / 10) for p in parts])
    return np.asarray(-10 * np.log10(np.sum(weights[:, None] * 10 ** (-np.array(losses) / 10), axis=0)))


def _still(values: Floats) -> Floats:
    """An array that is shared, so that nobody can change it."""
    values.flags.writeable = False
    return values


MOUNTED_LOSS = 0.02
"""Loss factor of a bare panel as it is mounted, welded or screwed all round: 0.01 to 0.03, recalled."""


def shaken_change_db(surface: Surface, before: Lay, after: Lay, shelf: Shelf, mounted_loss: float = MOUNTED_LOSS) -> Floats:
    """By how much less a shaken panel radiates with ``after`` on it than with ``before``, dB per band.

    Its motion at resonance falls with its loss factor, 10·lg(η_after/η_before), from its first mode up; ``mounted_loss`` is
    what it has as it stands with ``before`` on it, and what is laid adds to that. Whatever lies over it and is no damping takes
    off what it adds to R: a lining does not know what moves the panel (assumed).
    """
    losses = [panel_loss(surface, lay, shelf)[1].loss_factor for lay in (before, after)]
    hung = [panel_loss(surface, lay.only(lambda p: shelf.material(p.layer.material).acts != "damping"), shelf)[0]
            for lay in (before, after)]
    change: Floats = hung[1] - hung[0]
    if losses[0] is None or losses[1] is None:
        return change
    rings = np.array(PREDICTED_HZ) >= rings_from_hz(surface, shelf)
    more = np.maximum(np.array(losses[1]) - np.array(losses[0]), 1e-3 - mounted_loss)
    return np.asarray(change + np.where(rings, 10 * np.log10(1 + more / mounted_loss), 0.0))


def mounted_loss(doc: JobDocument, surface: Surface) -> float | None:
    """Loss factor that knocks on a panel told before the work (mean), None where nobody knocked."""
    before = {r.id for r in doc.rounds if r.state in ("as found", "stripped")}
    found = [k.loss_factor for k in doc.knocks if k.surface_id == surface.id and k.round_id in before]
    return sum(found) / len(found) if found else None


def rings_from_hz(surface: Surface, shelf: Shelf) -> float:
    """First natural frequency of a surface's bare panel, Hz; 0 where it is no plate."""
    bare = stack_of(surface, Lay(()), shelf)
    panel = bare.layers[0]
    if not isinstance(panel, Plate):
        return 0.0
    stiffness = plate_stiffness(panel.youngs_modulus_gpa * 1e9, panel.thickness_mm / 1e3, panel.poisson)
    return float(first_mode_hz(np.array(stiffness / layer_mass(panel)), bare.width_m, bare.height_m))
