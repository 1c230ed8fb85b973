"""A platform on pads under machines: loads, six rigid modes, and what passes into this floor, now and then."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Final, Literal, NamedTuple

import numpy as np
from pydantic import Field
from shapely.geometry import MultiPoint, Point

from ..errors import BadInput
from ..levels.bands import NOMINAL_HZ, PREDICTED_HZ, Floats
from ..materials.model import Material, known_material
from ..paths.isolators import GRAVITY, MOST_DB, transmissibility
from ..schema import Strict
from ..worded import of
from ..words import listed, plural
from .box_parts import Slab, flat_parts
from .model import Built, Good, Millimetres, NotNegativeMm, Part, Sheet, Transmissibility, added_kg, curve
from .pads import PADS

Kg = Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False)]
Signed = Annotated[float, Field(ge=-50_000, le=50_000, strict=True, allow_inf_nan=False)]
THIRDS_HZ: Final = tuple(f for f in NOMINAL_HZ if 12.5 <= f <= 5000)
CONCRETE_KG_M3, CONCRETE_PA, POISSON = 2400.0, 30e9, 0.2
"""Of a slab that is given by its mass alone."""
FLOOR_LOSS = 0.06
"""Loss factor of a span, boards and what stands on it: a judgement."""
WORSE_DB = 1.0
EDGE_MM = 60.0
"""Boards reach so far beyond the pads."""
OFF_CENTRE = 0.05
"""How far the centre of mass may lie off that of the pads, of the pads' span."""


class Mass(Strict):
    """A block: its mass, its size, and the middle of its underside over the platform's top."""

    kg: Kg
    size_mm: tuple[Millimetres, Millimetres, Millimetres]
    at_mm: tuple[Signed, Signed, Signed] = (0.0, 0.0, 0.0)


class PadsIn(Strict):
    """Pads of one kind: dynamic stiffness over load (kg, N/mm), or what the shelf knows of ``material``; where each sits."""

    material: str | None = None
    stiffness_n_mm: Annotated[tuple[tuple[Kg, Kg], ...], Field(max_length=40)] = ()
    horizontal: Annotated[float, Field(gt=0, le=5, strict=True, allow_inf_nan=False)] = 0.7
    """Of its vertical stiffness."""
    damping_ratio: Annotated[float | None, Field(ge=0.005, le=1, strict=True, allow_inf_nan=False)] = None
    creep: Annotated[float | None, Field(ge=1, le=5, strict=True, allow_inf_nan=False)] = None
    at_mm: Annotated[tuple[tuple[Signed, Signed], ...], Field(min_length=3, max_length=60)]


class Floor(Strict):
    """A slab by its mass per area, taken as endless; or a span by its mass, size and first frequency."""

    kind: Literal["slab", "span"] = "slab"
    mass_kg_m2: Annotated[float, Field(ge=5, le=5000, strict=True, allow_inf_nan=False)]
    first_hz: Annotated[float | None, Field(ge=1, le=200, strict=True, allow_inf_nan=False)] = None
    size_mm: tuple[Millimetres, Millimetres] | None = None


class PlatformIn(Strict):
    """Machines on a platform: the frequencies they knock at are ``notes_hz``, or come of speeds."""

    kind: Literal["platform"]
    masses: Annotated[tuple[Mass, ...], Field(min_length=1, max_length=30)]
    pads: PadsIn
    floor: Floor
    notes_hz: Annotated[tuple[Annotated[float, Field(ge=1, le=5000, strict=True, allow_inf_nan=False)], ...],
                        Field(max_length=20)] = ()
    speeds_rpm: Annotated[tuple[Annotated[float, Field(ge=30, le=100_000, strict=True, allow_inf_nan=False)], ...],
                          Field(max_length=20)] = ()
    boards: Annotated[tuple[Sheet, ...], Field(max_length=6)] = ()
    """From the pads up, screwed and glued crosswise."""
    under_mm: NotNegativeMm = 25.0
    """How high the pads are."""


class Springs(NamedTuple):
    """Where the pads sit (n, 2) in m, what each carries, kg, and its stiffness, N/m; the whole's mass, centre and inertia about
    it (xx, yy, zz), kg·m²."""

    at_m: Floats
    load_kg: Floats
    k_n_m: Floats
    mass_kg: float
    centre_m: Floats
    inertia: Floats


def platform(given: PlatformIn, materials: Mapping[str, Material]) -> Built:
    """A platform. BadInput for what cannot be worked out; overload, and a centre of mass outside the feet, are refused."""
    table, damping, creep, horizontal = _pad(given, materials)
    parts = _boards(given, materials)
    springs = _settled(given, parts, table)
    refused = _refused(springs, table)
    modes = _modes(springs, horizontal)
    f = np.array(THIRDS_HZ)
    vertical = math.sqrt(springs.k_n_m.sum() / springs.mass_kg) / (2 * math.pi)
    rigid = 20 * np.log10(transmissibility(f, vertical, damping))
    worse = _against_straight_db(f, given.floor, springs, damping)
    goods = () if given.pads.material is None else (
        Good(material=given.pads.material, amount=float(len(given.pads.at_mm)), unit="piece"),)
    bands = np.array(PREDICTED_HZ)
    less = np.clip(-_against_straight_db(bands, given.floor, springs, damping), -MOST_DB, MOST_DB)
    return Built(
        parts=parts or None, goods=goods, added_kg=added_kg(parts, goods, materials),
        effect_db=curve(less), modes_hz=tuple(round(float(x), 2) for x in modes),
        transmissibility_db=Transmissibility(frequency_hz=THIRDS_HZ, rigid=curve(rigid), worse_db=curve(worse)),
        refused=tuple(refused), notes=tuple(_notes(given, springs, table, modes, damping, creep)))


Table = tuple[tuple[float, float], ...]


def _pad(given: PlatformIn, materials: Mapping[str, Material]) -> tuple[Table, float, float, float]:
    """Table, damping ratio, creep, horizontal ratio: as given, else of the shelf's pad. BadInput where nobody knows the table."""
    pads = given.pads
    known = None
    if pads.material is not None:
        known_material(pads.material, materials, "pads.material")
        known = PADS.get(pads.material)
    table = tuple(sorted(pads.stiffness_n_mm)) or (known.table if known else ())
    if not table:
        raise BadInput("nobody knows how stiff these pads are", "pads.stiffness_n_mm",
                       f"give kg and N/mm from the maker's table, or one of: {', '.join(PADS)}")
    if len({kg for kg, _ in table}) < len(table):
        raise BadInput("the table of the pads gives one load twice", "pads.stiffness_n_mm", "give each load once")
    if len(set(pads.at_mm)) < len(pads.at_mm):
        raise BadInput("two pads sit in one place", "pads.at_mm", "move one")
    damping = pads.damping_ratio if pads.damping_ratio is not None else known.damping_ratio if known else 0.06
    creep = pads.creep if pads.creep is not None else known.creep if known else 1.3
    return table, damping, creep, pads.horizontal


def _boards(given: PlatformIn, materials: Mapping[str, Material]) -> tuple[Part, ...]:
    """The layers on top, over all pads and a rim."""
    xs, ys = zip(*given.pads.at_mm, strict=True)
    low = min(xs) - EDGE_MM, min(ys) - EDGE_MM
    wide, deep = max(xs) - min(xs) + 2 * EDGE_MM, max(ys) - min(ys) + 2 * EDGE_MM
    out, z = list[Part](), given.under_mm
    for i, board in enumerate(given.boards):
        material = known_material(board.material, materials, f"boards[{i}].material")
        slab = Slab((low[0], low[1], z), (wide, deep, board.thickness_mm), 2)
        out += flat_parts(f"board {i + 1}", material, slab)
        z += board.thickness_mm
    return tuple(p.model_copy(update={"id": f"P{n}"}) for n, p in enumerate(out, start=1))


def mass_blocks(given: PlatformIn) -> list[tuple[tuple[float, float, float], tuple[float, float, float]]]:
    """The machines as blocks: least corner, over pads and boards, and size, mm."""
    top = given.under_mm + sum(b.thickness_mm for b in given.boards)
    return [((m.at_mm[0] - m.size_mm[0] / 2, m.at_mm[1] - m.size_mm[1] / 2, top + m.at_mm[2]), m.size_mm) for m in given.masses]


def _settled(given: PlatformIn, parts: tuple[Part, ...], table: Table) -> Springs:
    """What each pad carries: a stiff plate on springs whose stiffness goes by their load, found by going round."""
    blocks = [(m.kg, np.array([m.at_mm[0], m.at_mm[1], m.at_mm[2] + m.size_mm[2] / 2]) / 1e3, np.array(m.size_mm) / 1e3)
              for m in given.masses]
    top = sum(b.thickness_mm for b in given.boards)
    for p in parts:
        at = np.array([p.at_mm[0] + p.size_mm[0] / 2, p.at_mm[1] + p.size_mm[1] / 2,
                       p.at_mm[2] + p.size_mm[2] / 2 - given.under_mm - top]) / 1e3
        blocks.append((p.kg, at, np.array(p.size_mm) / 1e3))
    mass = sum(kg for kg, _, _ in blocks)
    centre = np.asarray(sum(kg * at for kg, at, _ in blocks)) / mass
    inertia = np.zeros(3)
    for kg, at, size in blocks:
        own = kg / 12 * np.array([size[1]**2 + size[2]**2, size[0]**2 + size[2]**2, size[0]**2 + size[1]**2])
        d = at - centre
        inertia += own + kg * np.array([d[1]**2 + d[2]**2, d[0]**2 + d[2]**2, d[0]**2 + d[1]**2])
    pads = np.array(given.pads.at_mm) / 1e3
    kgs, stiff = np.array([kg for kg, _ in table]), np.array([k for _, k in table]) * 1e3
    load = np.full(len(pads), mass / len(pads))
    geometry = np.column_stack([np.ones(len(pads)), pads])

    def stiffness() -> Floats:
        return np.asarray(np.interp(np.maximum(load, 0.0), kgs, stiff))

    for _ in range(60):
        k = stiffness()
        matrix = geometry.T @ (k[:, None] * geometry)
        plane, *_ = np.linalg.lstsq(matrix, mass * np.array([1.0, centre[0], centre[1]]), rcond=None)
        load = 0.5 * load + 0.5 * k * (geometry @ plane)
    # the pads stand under the boards: the centre of mass over them
    return Springs(pads, load, stiffness(), float(mass), centre + np.array([0.0, 0.0, top / 1e3]), inertia)


def _refused(springs: Springs, table: Table) -> list[str]:
    out = []
    hull = MultiPoint([tuple(p) for p in springs.at_m]).convex_hull
    if not hull.contains(Point(springs.centre_m[:2])):
        out.append("The centre of mass lies outside the pads: it tips over. Move the pads out, or the machine in.")
    most = table[-1][0]
    over = int((springs.load_kg > most * 1.001).sum())
    if over and not out:
        out.append(f"{plural(over, 'pad')} would carry up to {of(springs.load_kg.max(), 'kg', '.0f')}, and "
                   f"{of(most, 'kg', 'g')} is the most: use more, or larger ones.")
    return out


def _modes(springs: Springs, horizontal: float) -> Floats:
    """The six rigid modes, Hz, ascending: mass and stiffness of a block about its centre of mass (x, y, z, and round each)."""
    k = np.zeros((6, 6))
    for (x, y), kz in zip(springs.at_m - springs.centre_m[:2], springs.k_n_m, strict=True):
        r = np.array([x, y, -springs.centre_m[2]])
        cross = np.array([[0, r[2], -r[1]], [-r[2], 0, r[0]], [r[1], -r[0], 0]])  # how a point moves as the block turns
        g = np.hstack([np.eye(3), cross])
        k += g.T @ np.diag([horizontal * kz, horizontal * kz, kz]) @ g
    m = np.diag([springs.mass_kg] * 3 + list(np.maximum(springs.inertia, 1e-6)))
    half = np.diag(1 / np.sqrt(np.diag(m)))
    found = np.linalg.eigvalsh(half @ k @ half)
    return np.asarray(np.sqrt(np.maximum(found, 0.0)) / (2 * math.pi))


def floor_mobility(f: Floats, floor: Floor) -> np.typing.NDArray[np.complex128]:
    """Mobility of a floor in its middle, m/(N·s), shape of ``f``: 1/(8·√(B′·m″)) of an endless slab (Cremer and Heckl); a span by
    its modes. BadInput for a span without its size or first frequency."""
    if floor.kind == "slab":
        thick = floor.mass_kg_m2 / CONCRETE_KG_M3
        bending = CONCRETE_PA * thick**3 / (12 * (1 - POISSON**2))
        return np.full(f.shape, 1 / (8 * math.sqrt(bending * floor.mass_kg_m2)), dtype=complex)
    if floor.first_hz is None or floor.size_mm is None:
        raise BadInput("a span needs its size and its first frequency", "floor", "give size_mm and first_hz, or take a slab")
    a, b = (x / 1e3 for x in floor.size_mm)
    modal = floor.mass_kg_m2 * a * b / 4
    odd = np.arange(1, 60, 2)
    shape = (odd[:, None] ** 2 / a**2 + odd[None, :] ** 2 / b**2) / (1 / a**2 + 1 / b**2)
    omega = 2 * math.pi * floor.first_hz * shape.ravel()
    w = 2 * math.pi * f[..., None]
    return np.asarray((1j * w / (modal * (omega**2 * (1 + 1j * FLOOR_LOSS) - w**2))).sum(axis=-1))


def _against_straight_db(f: Floats, floor: Floor, springs: Springs, damping: float) -> Floats:
    """Force into this floor over that of the same machine standing straight on it, dB: positive is worse."""
    w = 2 * math.pi * f
    y_floor = floor_mobility(f, floor)
    y_mass = 1 / (1j * w * springs.mass_kg)
    k = springs.k_n_m.sum()
    omega = math.sqrt(k / springs.mass_kg)
    y_pads = 1j * w / (k + 1j * w * 2 * damping * springs.mass_kg * omega)
    return np.asarray(20 * np.log10(np.abs((y_mass + y_floor) / (y_mass + y_floor + y_pads))))


def worse_ranges(f: Floats, worse_db: Floats) -> list[tuple[float, float]]:
    """From where to where pads make it worse by 1 dB and more."""
    bad = np.concatenate([[False], worse_db >= WORSE_DB, [False]])
    begins, ends = np.flatnonzero(bad[1:] & ~bad[:-1]), np.flatnonzero(bad[:-1] & ~bad[1:])
    return [(float(f[i]), float(f[k - 1])) for i, k in zip(begins, ends, strict=True)]


def _notes(given: PlatformIn, springs: Springs, table: Table, modes: Floats, damping: float, creep: float) -> list[str]:
    sag = springs.load_kg * GRAVITY / springs.k_n_m * 1e3
    carries, sinks = (f"{x.min():.1f} to {x.max():.1f}" for x in (springs.load_kg, sag))
    out = [f"Each pad carries {of(carries, 'kg')} and sinks {of(sinks, 'mm')} by its dynamic stiffness, up to "
           f"{of(sag.max() * creep, 'mm', '.1f')} in years; modes at {listed([f'{x:.1f}' for x in modes])} Hz."]
    if springs.load_kg.min() < table[0][0] * 0.999:
        out.append(f"A pad carries less than the {of(table[0][0], 'kg', 'g')} its table begins at: it is stiffer than it need "
                   "be. Use smaller ones, or fewer.")
    centre = (springs.k_n_m[:, None] * springs.at_m).sum(axis=0) / springs.k_n_m.sum()
    span = np.ptp(springs.at_m, axis=0)
    off = np.abs(springs.centre_m[:2] - centre)
    if (off > OFF_CENTRE * np.maximum(span, 0.01)).any():
        out.append(f"The centre of mass lies {of(off.max() * 1e3, 'mm', '.0f')} off that of the pads: it rocks, and "
                   f"stands askew by {of(sag.max() - sag.min(), 'mm', '.1f')}. Move pads towards the heavier side.")
    fine = np.geomspace(5, 200, 400)
    worse = worse_ranges(fine, _against_straight_db(fine, given.floor, springs, damping))
    if worse:
        out.append(f"Worse than straight on this floor {listed([f'from {a:.0f} to {b:.0f}' for a, b in worse])} Hz.")
    notes = (*given.notes_hz, *(rpm / 60 for rpm in given.speeds_rpm))
    for note in notes:
        change = float(_against_straight_db(np.array([note]), given.floor, springs, damping)[0])
        way = "more" if change > 0 else "less"
        out.append(f"At {note:.3g} Hz {abs(change):.1f} dB {way} goes into the floor than from straight on it.")
    near = [x for x in modes if any(abs(x - n) < 0.15 * n for n in notes)]
    if near:
        out.append(f"A mode at {listed([f'{x:.1f}' for x in near])} Hz lies near a note: it rocks there.")
    out.append("What flies stays: what the machine gives to the air reaches the room as before. Nothing may touch beside the "
               "pads: pipes, cables and skirting on loops.")
    return out
