"""Windows and doors in a wall: what stands, and what each remedy gives for sound, heat, sun, light and money."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Annotated, Final, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.families.air import Air
from ..materials.families.limp import Limp
from ..materials.family import Layer
from ..materials.model import Material, interlayer_of, known_material, to_layers
from ..schema import Strict
from ..stacks.heat import INSIDE, OUTSIDE
from ..stacks.model import Stack
from ..stacks.openings import slit_transmission
from ..stacks.predict import predict
from ..worded import in_mm, of
from .model import Built, Good, InsertionLoss, Millimetres, Remedy, curve

SLIT_MM: Final = {"none": 2.0, "worn": 0.5, "good": 0.1, "new": 0.03}
"""How wide a joint stands open in the mean, by the state of its seal; judged by what windows of each kind are found to give."""
JOINT_DEEP_MM = 40.0
REVEAL_ALPHA = {False: 0.1, True: 0.6}
"""Of what lies round the gap between two leaves, bare and lined."""
GAP = 0.18
"""Heat resistance of a closed gap of 25 mm and more, m²·K/W (ISO 6946)."""
HARDLY, HEARD, CLEARLY, HALF = 1.0, 3.0, 6.0, 9.5

SealState = Literal["none", "worn", "good", "new"]


class Stands(Strict):
    """What stands: panes from outside in, each of layers "id@mm"; the gap between them; the seal of the joint all round."""

    panes: Annotated[tuple[Annotated[tuple[str, ...], Field(min_length=1, max_length=6)], ...], Field(min_length=1, max_length=3)]
    gap_mm: Annotated[float, Field(ge=2, le=500, strict=True, allow_inf_nan=False)] = 12.0
    seal: SealState = "worn"
    sill_gap_mm: Annotated[float, Field(ge=0, le=60, strict=True, allow_inf_nan=False)] = 0.0
    """Under a door."""


class WindowIn(Strict):
    """A window or a door, and the remedies looked at: "name" or "name@mm"."""

    kind: Literal["window"]
    size_mm: tuple[Millimetres, Millimetres]
    stands: Stands
    remedies: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=20)] = ()


class Leaf(NamedTuple):
    """Another leaf before or behind what stands: its mass, gap and open edge; what it adds in heat, takes of light, and lets in
    of the sun."""

    kg_m2: float
    gap_mm: float
    edge_mm: float
    heat: float
    light: float
    sun: float
    says: str
    pane: str = ""
    """Of glass: what it is of, "id@mm"."""
    lined: bool = False


LEAVES: Final = {
    "second sash": Leaf(10.0, 100, 0.1, GAP, 0.9, 0.85, "The inner sash has to seal better than the outer, or water stands "
                        "between.", pane="window-glass@4"),
    "lined second sash": Leaf(10.0, 100, 0.1, GAP, 0.88, 0.85, "The reveal between both is lined with something open.",
                              pane="window-glass@4", lined=True),
    "lobby": Leaf(20.0, 1000, 0.5, GAP, 0.0, 0.1, "Two doors, never open at once.", pane="particle-board@30", lined=True),
    "foil board": Leaf(1.2, 30, 3.0, 1.1, 0.0, 0.1, "Keeps sun out and warmth in; the pane behind it gets cold and wet."),
    "blind": Leaf(0.3, 60, 10.0, 0.05, 0.2, 0.6, "Open at its edges it takes the glare, nothing else."),
    "blind in channels": Leaf(0.5, 60, 1.0, 0.2, 0.1, 0.5, "The pane behind it gets colder: wipe it."),
    "curtain": Leaf(0.8, 100, 20.0, 0.05, 0.05, 0.7, "It takes echo out of the room itself."),
    "curtain in channels": Leaf(0.8, 100, 3.0, 0.15, 0.02, 0.6, "Lap it at the middle and let it touch the floor."),
    "shutter": Leaf(5.0, 150, 5.0, 0.15, 0.0, 0.1, "Outside it keeps the sun off the pane; its box must be closed and lined."),
}
"""What hangs before a window; masses, edges, heat after EN ISO 10077-1's classes of tightness, judged."""


def window(given: WindowIn, materials: Mapping[str, Material]) -> Built:
    """What stands in a wall, and each remedy. BadInput for panes nobody knows, and remedies that are none."""
    area = math.prod(given.size_mm) / 1e6
    if not 0.05 <= area <= 30:
        raise BadInput(f"a window of {of(area, 'm²', '.2f')} is none", "size_mm", "give its clear size in mm")
    stands = _Stack(tuple(tuple(_layers(name, materials, f"stands.panes[{i}]") for name in pane)
                          for i, pane in enumerate(given.stands.panes)), given.stands.gap_mm)
    now = _Standing(given, stands, _joint(given.size_mm, SLIT_MM[given.stands.seal], given.stands.sill_gap_mm),
                    _heat(given, materials), 1.0, 1.0)
    found, then = [], now
    for i, text in enumerate(given.remedies):
        name, number = _remedy(text, f"remedies[{i}]")
        alone, says, money = _with(now, name, number, materials, f"remedies[{i}]")
        then, _, _ = _with(then, name, number, materials, f"remedies[{i}]")
        gain = heard_db(alone) - heard_db(now)
        found.append(Remedy(name=text, sound_db=round(gain, 1) + 0.0, words=f"{_felt(gain)} {says}".strip(),
                            u_w_m2k=round(1 / alone.heat, 2), light_share=round(alone.light, 2), summer_share=round(alone.sun, 2),
                            money=money))
    by = {"panes": -10 * np.log10(then.panes()), "joints": -10 * np.log10(np.maximum(then.joint, 1e-12))}
    total = -10 * np.log10(sum(10 ** (-x / 10) for x in by.values()))
    seals = any(_remedy(t, "")[0] == "seal" for t in given.remedies)
    return Built(
        goods=(Good(material="d-seal", amount=round(_round_m(given.size_mm), 2), unit="m"),) if seals else (),
        change_dba=None if not found else round(heard_db(now) - heard_db(then), 2) + 0.0,
        effect_db=None if not found else curve(total + 10 * np.log10(now.panes() + now.joint)),
        insertion_loss_db=InsertionLoss(
            frequency_hz=PREDICTED_HZ, total=curve(total), by={k: curve(v) for k, v in by.items()}),
        remedies=tuple(found), notes=tuple(_notes(now, then, found)))


class _Stack(NamedTuple):
    """Panes from outside in and the gap before each further one, mm."""

    panes: tuple[tuple[list[Layer], ...], ...]
    gap_mm: float
    more: tuple[tuple[float, tuple[Layer, ...], bool], ...] = ()
    """Each with whether it shuts in the air before it."""

    def layers(self, more: int) -> tuple[Layer, ...]:
        """All layers, with so many of the leaves that were added."""
        out: list[Layer] = []
        for i, pane in enumerate(self.panes):
            if i:
                out.append(Air(kind="air", thickness_mm=self.gap_mm))
            out += [x for made in pane for x in made]
        for gap, leaf, _ in self.more[:more]:
            out += [Air(kind="air", thickness_mm=gap), *leaf]
        return tuple(out)


class _Standing(NamedTuple):
    """A window as it is, or would be: panes, what its joints let through, heat resistance, light and sun that come in."""

    given: WindowIn
    stack: _Stack
    joint: Floats
    heat: float
    light: float
    sun: float

    def panes(self) -> Floats:
        """Transmission of the panes and leaves alone; one whose edges are open makes nothing worse."""
        tau = _tau(self.given.size_mm, self.stack.layers(0))
        for i, (_, _, tight) in enumerate(self.stack.more, start=1):
            with_it = _tau(self.given.size_mm, self.stack.layers(i))
            tau = with_it if tight else np.minimum(tau, with_it)
        return tau


@lru_cache(maxsize=256)
def _tau(size_mm: tuple[float, float], layers: tuple[Layer, ...]) -> Floats:
    w, h = (x / 1e3 for x in size_mm)
    return np.asarray(10 ** (-np.array(predict(Stack(width_m=w, height_m=h, layers=layers)).transmission_loss_db) / 10))


def _joint(size_mm: tuple[float, float], slit_mm: float, sill_mm: float = 0.0) -> Floats:
    """Share of the energy that joints let through: a slit all round, and one under a door (Gomperts and Kihlman 1967)."""
    f, area = np.array(PREDICTED_HZ), math.prod(size_mm) / 1e6
    out = np.zeros(len(f))
    for wide, long in ((slit_mm, _round_m(size_mm)), (sill_mm, size_mm[0] / 1e3)):
        if wide:
            out += slit_transmission(f, wide / 1e3, JOINT_DEEP_MM / 1e3, edge=True) * wide / 1e3 * long / area
    return np.minimum(out, 1.0)


def _round_m(size_mm: tuple[float, float]) -> float:
    return 2 * sum(size_mm) / 1e3


def _layers(name: str, materials: Mapping[str, Material], where: str) -> list[Layer]:
    """Layers of "id@mm"."""
    material, _, mm = name.partition("@")
    return to_layers(known_material(material, materials, where), _millimetres(mm, where))


def _millimetres(text: str, where: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not 0.02 <= value <= 3000:
        raise BadInput(f"'{text[:20]}' is no thickness or gap", where, "write it in mm, as window-glass@4")
    return value


KNOWN: Final = ("seal", "film", "thicker pane", "laminated pane", "drop seal", *LEAVES)


def _remedy(text: str, where: str) -> tuple[str, str]:
    name, _, number = text.strip().partition("@")
    if name.strip() not in KNOWN:
        raise BadInput(f"no remedy '{name[:40]}' is known", where, f"give one of: {', '.join(KNOWN)}")
    return name.strip(), number.strip()


def remedy_words(text: str) -> str:
    """A remedy as it is said: "second sash@100" is one at 100 mm."""
    name, _, number = text.partition("@")
    return f"{name.strip()}, {in_mm(_millimetres(number.strip(), ''))}" if number else name.strip()


def _with(now: _Standing, name: str, number: str, materials: Mapping[str, Material], where: str
          ) -> tuple[_Standing, str, float | None]:
    """A window with a remedy, what is to be said of it, and what it costs where that is known."""
    given, size = now.given, now.given.size_mm
    if name == "seal":
        return (now._replace(joint=np.minimum(now.joint, _joint(size, SLIT_MM["new"], given.stands.sill_gap_mm))),
                "Draughts end with it.", _price(materials, "d-seal", _round_m(size)))
    if name == "drop seal":
        if not given.stands.sill_gap_mm:
            raise BadInput("under it is no gap for a drop seal", where, "give stands.sill_gap_mm")
        return (now._replace(joint=np.minimum(now.joint, _joint(size, SLIT_MM[given.stands.seal], SLIT_MM["good"]))),
                "It must touch the floor all along.", _price(materials, "drop-seal", 0.9 * math.ceil(size[0] / 900)))
    if name == "film":
        film: list[Layer] = [Limp(kind="limp", thickness_mm=0.1, surface_mass_kg_m2=0.14)]
        panes = (*now.stack.panes[:-1], (*now.stack.panes[-1], film))
        return (now._replace(stack=now.stack._replace(panes=panes), light=now.light * 0.7, sun=now.sun * 0.5),
                "Against sun and splinters.", None)
    if name in ("thicker pane", "laminated pane"):
        mm = _millimetres(number or "8", where)
        pane = (_laminated(mm / 2, materials, where) if name == "laminated pane"
                else _layers(f"window-glass@{mm:g}", materials, where))
        stack = now.stack._replace(panes=((pane,), *now.stack.panes[1:]))
        return now._replace(stack=stack), f"Frame and hinges carry {of(2.5 * mm, 'kg/m²', '.0f')} then: ask.", None
    leaf = LEAVES[name]
    gap = _millimetres(number, where) if number else leaf.gap_mm
    layers = tuple(_layers(leaf.pane, materials, where)) if leaf.pane else (
        Limp(kind="limp", thickness_mm=1.0, surface_mass_kg_m2=leaf.kg_m2),)
    joint2, tau2, tau1 = _joint(size, leaf.edge_mm), _tau(size, layers), now.panes()
    stack = now.stack._replace(more=(*now.stack.more, (gap, layers, leaf.edge_mm <= TIGHT_MM)))
    # sound that leaks through one leaf builds up in the gap and has the other before it: area over what the reveal takes up
    built_up = math.prod(size) / 1e6 / (_round_m(size) * gap / 1e3 * REVEAL_ALPHA[leaf.lined])
    leaks = built_up * (now.joint * joint2 + now.joint * tau2 + tau1 * joint2)
    then = now._replace(stack=stack, heat=now.heat + leaf.heat, light=now.light * leaf.light, sun=now.sun * leaf.sun)
    # no leaf lets more through by its own edges than came through before it was there
    return then._replace(joint=np.minimum(leaks, np.maximum(tau1 + now.joint - then.panes(), now.joint * tau2))), leaf.says, None


def _laminated(mm: float, materials: Mapping[str, Material], where: str) -> list[Layer]:
    """Two panes and what joins them: with a viscous film between, else bonded."""
    one, two = (_layers(f"window-glass@{mm:g}", materials, where)[0] for _ in range(2))
    film = materials.get("interlayer-film")
    join = {"join": "bonded"} if film is None else {"join": "viscous", "interlayer": interlayer_of(film.properties, 0.76, 20.0)}
    return [one, two.model_copy(update=join)]


def _price(materials: Mapping[str, Material], name: str, metres: float) -> float | None:
    stock = materials[name].stock if name in materials else ()
    if not stock or stock[0].price is None:
        return None
    return round(math.ceil(metres / (stock[0].covers_m or 1.0) - 1e-9) * stock[0].price, 2)


def _heat(given: WindowIn, materials: Mapping[str, Material]) -> float:
    """Heat resistance of the panes from air to air, m²·K/W (ISO 6946); frames left out."""
    solid = sum(_millimetres(mm, "stands.panes") / 1e3 / (materials[m].properties.conductivity_w_mk or 1.0)
                for pane in given.stands.panes for m, _, mm in (n.partition("@") for n in pane))
    gaps = (len(given.stands.panes) - 1) * min(GAP, 0.10 + 0.005 * given.stands.gap_mm)
    return INSIDE + OUTSIDE + solid + gaps


TRAFFIC_DB: Final = np.array(
    [-25.0, -23, -21, -20, -20, -18, -16, -15, -14, -13, -12, -11, -9, -8, -9, -10, -11, -13, -15, -16, -18])
"""A-weighted road noise, 50–5000 Hz: ISO 717-1:2020, spectrum No. 2 for the wider range (beyond 100–3150 Hz recalled)."""
TIGHT_MM = 0.5
"""A leaf whose edges stand further open shuts no air in that could ring as a spring."""


def heard_db(now: _Standing) -> float:
    """What a window takes off road noise, dB(A)."""
    noise = 10 ** (TRAFFIC_DB / 10)
    return float(-10 * np.log10(np.sum(noise * (now.panes() + now.joint)) / np.sum(noise)))


def _felt(gain_db: float) -> str:
    """What a change means to an ear."""
    if gain_db < -0.5:
        return f"{-gain_db:.0f} dB worse: a thin gap rings."
    steps = ((HARDLY, "Almost nothing."), (HEARD, "A little; hardly heard."), (CLEARLY, f"{gain_db:.0f} dB: heard."),
             (HALF, f"{gain_db:.0f} dB: clearly quieter."))
    return next((words for most, words in steps if gain_db < most), f"{gain_db:.0f} dB: half as loud or less.")


def _notes(now: _Standing, then: _Standing, found: list[Remedy]) -> list[str]:
    panes, joints = (-10 * np.log10(np.sum(10 ** (TRAFFIC_DB / 10) * x) / np.sum(10 ** (TRAFFIC_DB / 10)))
                     for x in (now.panes(), now.joint))
    said = "its joints" if joints < panes else "its panes"
    out = [f"As it stands it takes {heard_db(now):.0f} dB(A) off road noise; most comes by {said} (panes alone {panes:.0f}, "
           f"joints alone {joints:.0f}). Joints are judged by their state: ±\u00a04\u00a0dB."]
    if len(found) > 1:
        out.append(f"All of it together: {heard_db(then) - heard_db(now):.0f} dB(A) less; each alone is in the list.")
    cold = 20 - 25 / now.heat * INSIDE
    out.append(f"At −5 °C outside its inner face is at {cold:.0f} °C now" + (
        f", {20 - 25 / then.heat * INSIDE:.0f} °C with all of it; a leaf inside that lets room air behind it makes the pane wet."
        if found else "."))
    out.append("The wall round it caps all of this: a window is never quieter than what stands beside it.")
    return out
