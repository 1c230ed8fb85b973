"""From a stack to its predicted transmission loss, ratings, mass, resonances and the working behind them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..errors import BadInput, NotCovered
from ..levels.bands import POINTS_PER_BAND, PREDICTED_HZ, Floats, grid_hz
from ..levels.rating import rate
from ..schema import Strict
from ..working import Working, inputs
from . import multilayer, single_leaf
from .leaf import Leaf, make_leaf
from .model import Air, Damping, Foam, Limp, PhysicalLayer, Plate, Porous, ShelfLayer, Stack


class Note(Strict):
    """Something the reader of a result should know; ``rule`` is its stable name."""

    rule: str
    severity: str
    text: str


class Resonances(Strict):
    """Critical frequency of each leaf (None for a limp one) and mass–air–mass frequency of each cavity, Hz."""

    critical_hz: tuple[float | None, ...]
    mass_air_mass_hz: tuple[float, ...]


class Prediction(Strict):
    """What ``predict`` prints: 21 bands 50 Hz–5 kHz, ratings, mass and thickness, notes."""

    frequency_hz: tuple[float, ...]
    transmission_loss_db: tuple[float, ...]
    Rw: int | None
    C: int | None
    Ctr: int | None
    STC: int | None
    surface_mass_kg_m2: float
    thickness_mm: float
    resonances: Resonances
    loss_factor: tuple[float, ...] | None
    expected_error_db: float
    notes: tuple[Note, ...]


class _Group(NamedTuple):
    """Layers that move as one leaf, or a single other layer; ``place`` of the first of them."""

    place: int
    layers: list[tuple[int, PhysicalLayer]]
    leaf: bool


SINGLE_ERROR_DB, LINED_ERROR_DB = 2.0, 4.0


def predict(stack: Stack) -> Prediction:
    """Predict a stack these models cover: one plate leaf (or limp layer) with any linings on either side.

    The leaf follows ISO 12354-1, Annex B; linings add the improvement that transfer matrices give over the bare leaf.
    Raises NotCovered naming the layer for a second plate leaf, a frame or a slit, BadInput for misplaced damping.
    """
    groups = _group(_physical(stack))
    _refuse_uncovered(stack, groups)
    f = grid_hz().ravel()
    size = (stack.width_m, stack.height_m)
    leaf = _only_leaf(groups, f, size)
    tau, loss = _tau(stack, groups, leaf, f)
    tau = np.maximum(single_leaf.with_leak(tau, stack.leak_cm2 / 1e4 / (size[0] * size[1])), 1e-12)
    curve = [round(float(v), 2) + 0.0 for v in -10 * np.log10(_band_mean(tau))]
    ratings = rate(dict(zip(PREDICTED_HZ, curve, strict=True)))
    lined = sum(1 for g in groups if not g.leaf) > (0 if leaf else 1)
    return Prediction(
        frequency_hz=PREDICTED_HZ,
        transmission_loss_db=tuple(curve),
        **ratings.model_dump(),
        surface_mass_kg_m2=round(surface_mass(stack), 2),
        thickness_mm=round(sum(_depth_mm(layer) for layer in stack.layers), 2),
        resonances=_resonances(groups, leaf),
        loss_factor=None if loss is None else tuple(round(float(v), 4) for v in _band_mean(loss)),
        expected_error_db=LINED_ERROR_DB if lined else SINGLE_ERROR_DB,
        notes=tuple(_notes(stack, leaf, lined)),
    )


def surface_mass(stack: Stack) -> float:
    """Mass of all layers, kg/m²; damping counts by its coverage. Shelf layers must be resolved before."""
    return sum(layer_mass(layer) for layer in _physical(stack))


def layer_mass(layer: PhysicalLayer) -> float:
    """Mass of one layer averaged over the panel, kg/m²."""
    if isinstance(layer, Limp):
        return layer.surface_mass_kg_m2
    if isinstance(layer, Damping):
        from .damping import damping_mass

        return damping_mass(layer)
    if isinstance(layer, Air):
        return 0.0
    extra = layer.interlayer.thickness_mm * 1.0 if isinstance(layer, Plate) and layer.interlayer else 0.0
    return layer.thickness_mm / 1e3 * layer.density_kg_m3 + extra


def _physical(stack: Stack) -> list[PhysicalLayer]:
    out: list[PhysicalLayer] = []
    for i, layer in enumerate(stack.layers):
        if isinstance(layer, ShelfLayer):
            raise BadInput(f"'{layer.material}' is not resolved", f"layers[{i}].material", "resolve shelf layers first")
        out.append(layer)
    return out


def _group(layers: list[PhysicalLayer]) -> list[_Group]:
    groups: list[_Group] = []
    for i, layer in enumerate(layers):
        solid = isinstance(layer, Plate | Damping)
        if solid and groups and groups[-1].leaf:
            groups[-1].layers.append((i, layer))
        else:
            groups.append(_Group(i, [(i, layer)], solid))
    for group in groups:
        if group.leaf and not any(isinstance(layer, Plate) for _, layer in group.layers):
            raise BadInput("a damping layer needs a plate beside it", f"layers[{group.place}]", "put it against one")
    return groups


def _refuse_uncovered(stack: Stack, groups: list[_Group]) -> None:
    mend = "predict the leaves one by one"
    leaves = [g for g in groups if g.leaf]
    if len(leaves) > 1:
        raise NotCovered("a second plate leaf behind a cavity is not modelled yet", f"layers[{leaves[1].place}]", mend)
    if stack.frame.kind != "none" or stack.frame.resilient_channel_spacing_mm is not None:
        raise NotCovered("frames need two leaves, which are not modelled yet", "frame.kind", 'use "none"')
    if stack.leak_slit_mm is not None:
        raise NotCovered(
            "slits of finite depth are not modelled yet", "leak_slit_mm", "leave it out to count the leak as fully open"
        )


def _only_leaf(groups: list[_Group], f: Floats, size: tuple[float, float]) -> Leaf | None:
    for group in groups:
        if group.leaf:
            return make_leaf(group.layers, f, size)
    return None


def _tau(stack: Stack, groups: list[_Group], leaf: Leaf | None, f: Floats) -> tuple[Floats, Floats | None]:
    size = (stack.width_m, stack.height_m)
    sine, weight = multilayer.angles()
    loss: Floats | None = None
    if leaf is not None:
        loss = single_leaf.total_loss(leaf, f, stack.edge_losses)
        base = single_leaf.leaf_transmission(leaf, f, size, loss)
        base_matrix = multilayer.leaf_matrix(leaf, loss, f, sine)
        lead = next(g for g in groups if g.leaf)
    else:
        masses = [g for g in groups if isinstance(g.layers[0][1], Limp)]
        if not masses:
            return multilayer.diffuse_transmission([_matrix(g, f, sine) for g in groups], sine, weight), None
        lead = max(masses, key=lambda g: layer_mass(g.layers[0][1]))
        base = single_leaf.limp_transmission(layer_mass(lead.layers[0][1]), f, size)
        base_matrix = _matrix(lead, f, sine)
    if len(groups) == 1:
        return base, loss
    matrices = [base_matrix if g is lead else _matrix(g, f, sine) for g in groups]
    bare = multilayer.diffuse_transmission([base_matrix], sine, weight)
    return np.minimum(base * multilayer.diffuse_transmission(matrices, sine, weight) / bare, 1.0), loss


def _matrix(group: _Group, f: Floats, sine: Floats) -> multilayer.Matrix:
    layer = group.layers[0][1]
    assert isinstance(layer, Limp | Foam | Porous | Air)
    return multilayer.layer_matrix(layer, f, sine)


def _band_mean(values: Floats) -> Floats:
    return np.asarray(values.reshape(-1, POINTS_PER_BAND).mean(axis=1))


def _depth_mm(layer: object) -> float:
    depth = float(getattr(layer, "thickness_mm", 0.0))
    for part in ("facing", "interlayer"):
        extra = getattr(layer, part, None)
        depth += extra.thickness_mm if extra is not None else 0.0
    return depth


def _resonances(groups: list[_Group], leaf: Leaf | None) -> Resonances:
    """Critical frequencies per leaf and, between neighbouring masses, √(s″(1/m₁ + 1/m₂))/2π per cavity."""
    critical: list[float | None] = []
    cavities: list[float] = []
    mass_before, compliance = 0.0, 0.0
    for group in groups:
        first = group.layers[0][1]
        if group.leaf or isinstance(first, Limp):
            mass = leaf.mass if group.leaf and leaf else layer_mass(first)
            middle = float(leaf.stiffness.real[leaf.stiffness.size // 2]) if leaf else 1.0
            critical.append(round(float(single_leaf.critical_hz(mass, middle)), 2) if group.leaf else None)
            if mass_before and compliance:
                spring = (1 / mass + 1 / mass_before) / compliance
                cavities.append(round(float(np.sqrt(spring) / (2 * np.pi)), 2))
            mass_before, compliance = mass, 0.0
        else:
            compliance += _compliance(first)
    return Resonances(critical_hz=tuple(critical), mass_air_mass_hz=tuple(cavities))


def _compliance(layer: PhysicalLayer) -> float:
    """m³/N: a spring's 1/s′; air between masses adiabatic, in a porous filling isothermal."""
    if isinstance(layer, Foam):
        return 1 / (layer.dynamic_stiffness_mn_m3 * 1e6)
    bulk = single_leaf.AIR_DENSITY * single_leaf.SPEED_OF_SOUND**2
    return layer.thickness_mm / 1e3 / (bulk / 1.4 if isinstance(layer, Porous) else bulk)


def _notes(stack: Stack, leaf: Leaf | None, lined: bool) -> list[Note]:
    notes = []
    if leaf is not None:
        from .leaf import first_mode_hz

        first = first_mode_hz(float(leaf.stiffness.real[0]) / leaf.mass, (stack.width_m, stack.height_m))
        if first > PREDICTED_HZ[0]:
            notes.append(Note(rule="below-first-mode", severity="info",
                              text=f"Bands below the panel's first mode ({first:.0f} Hz) are outside the model."))
    for layer in stack.layers:
        if isinstance(layer, Porous):
            low, high = 0.01 * layer.flow_resistivity_pa_s_m2, layer.flow_resistivity_pa_s_m2
            if low > 50 or high < 5000:
                notes.append(Note(rule="miki-range", severity="info",
                                  text=f"The porous model is proven from {low:.0f} to {high:.0f} Hz; "
                                       "bands outside are marked less sure."))
    if lined:
        notes.append(Note(rule="lining-estimate", severity="info",
                          text="Linings are computed as the gain of an endless lined panel over the bare one."))
    if stack.temperature_c != 20 and any(isinstance(layer, Damping) for layer in stack.layers):
        notes.append(Note(rule="temperature", severity="warn",
                          text="Damping properties are those at 20 °C; at other temperatures the loss is less."))
    return notes


def working(stack: Stack, prediction: Prediction) -> Working:
    """The working behind a predicted curve."""
    return Working(
        figure="transmission loss R",
        formula="forced and resonant transmission of a finite leaf; linings by transfer matrices, 78° field incidence",
        inputs=inputs(
            panel=f"{stack.width_m:g} × {stack.height_m:g} m",
            surface_mass=f"{prediction.surface_mass_kg_m2} kg/m²",
            critical_frequency=", ".join(f"{f:.0f} Hz" for f in prediction.resonances.critical_hz if f) or "none",
            leak=f"{stack.leak_cm2:g} cm²",
        ),
        source="ISO 12354-1:2017 Annex B and C; Ross, Ungar and Kerwin 1959; Miki 1990",
        accuracy=f"± {prediction.expected_error_db:g} dB expected on the single number",
        valid="above the panel's first mode; 0.01 < f/σ < 1 in porous layers",
    )
