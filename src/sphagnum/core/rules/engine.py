"""Rules as data, tests as functions: which rules of the trade speak up for a stack on a surface."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

from ..materials.elements import SPEED_OF_SOUND
from ..materials.model import Material
from ..materials.table import family
from ..schema import Strict
from ..stacks.damping import first_mode_share
from ..stacks.predict import Prediction
from ..surfaces.geometry import Areas
from ..surfaces.rows import Surface
from ..words import listed

Severity = Literal["danger", "warn", "info", "good"]
Words = dict[str, object]


class Rule(Strict):
    """One rule of the trade; ``when`` names its test, ``text`` is filled with the words the test gives."""

    id: str
    when: str
    severity: Severity
    text: str
    why: str
    mend: str
    source: str


class Spoken(Strict):
    """A rule that speaks up, filled in."""

    rule: str
    severity: Severity
    text: str
    why: str
    mend: str
    source: str


class Part(NamedTuple):
    """A layer of the stack as the rules see it."""

    material: Material
    thickness_mm: float
    coverage: float


class Case(NamedTuple):
    """A stack on a surface. ``prediction`` None where no model covers it; depth mm, kg of one surface."""

    surface: Surface
    areas: Areas
    parts: tuple[Part, ...]
    depth_mm: float
    added_kg: float
    prediction: Prediction | None
    strong_hz: tuple[float, float]
    """Band range in which this noise is strong, Hz."""


def _has(part: Part, role: str) -> bool:
    return role in part.material.roles


def _named(part: Part) -> Words:
    name = part.material.name
    return {"material": name, "it": f"{name[0].lower()}{name[1:]}"}


def _damping_off_plate(case: Case) -> Words | None:
    on_plate = True
    for i, part in enumerate(case.parts):
        if part.material.acts == "damping" and not on_plate:
            return {"place": i + 1}
        on_plate = part.material.acts in ("plate", "damping")
    return None


def _first(case: Case, test: Callable[[Part], bool]) -> Words | None:
    found = next((p for p in case.parts if test(p)), None)
    return _named(found) if found else None


def _open_in_wet(case: Case) -> Words | None:
    soaks = lambda p: family(p.material.family).soaks and not p.material.closed_to_water  # noqa: E731
    return _first(case, soaks) if "wet" in case.surface.flags else None


def _crushed_underfoot(case: Case) -> Words | None:
    return _first(case, lambda p: p.material.crushable) if "walked on" in case.surface.flags else None


def _absorber_covered(case: Case) -> Words | None:
    for i, part in enumerate(case.parts):
        rest = case.parts[i + 1 :]
        closed = any(family(p.material.family).closes for p in rest)
        # under a barrier it serves as the decoupler; between two leaves it takes the boom out of their cavity
        closed = closed and not _has(rest[0], "barrier") and not any(p.material.acts == "plate" for p in rest)
        only_absorbs = _has(part, "absorber") and not _has(part, "decoupler")
        if only_absorbs and (closed or part.material.facing_on_listener_side):
            return _named(part)
    return None


def _barrier_gaps(case: Case) -> Words | None:
    bare = max((1 - p.coverage for p in case.parts if _has(p, "barrier")), default=0.0)
    return {"percent": f"{100 * bare:.0f}", "cap": f"{10 * math.log10(1 / bare):.1f}"} if bare > 0.03 else None


def _barrier_hard(case: Case) -> Words | None:
    soft = False
    for part in case.parts:
        soft = soft or part.material.acts == "soft"
        if _has(part, "barrier") and not soft:
            return _named(part)
    return None


def _absorber_alone(case: Case) -> Words | None:
    if any(_has(p, "barrier") for p in case.parts):
        return None
    return _first(case, lambda p: _has(p, "absorber"))


def _too_hot(case: Case) -> Words | None:
    if "hot" not in case.surface.flags:
        return None
    part = next((p for p in case.parts if p.material.most_c is not None and p.material.most_c < 150), None)
    return {"material": part.material.name, "most": f"{part.material.most_c:.0f}"} if part else None


def _damping_share(case: Case) -> Words | None:
    part = next((p for p in case.parts if p.material.acts == "damping" and 0 < p.coverage < 0.97), None)
    if part is None:
        return None
    share = first_mode_share(part.coverage, case.areas.width_mm / case.areas.height_mm)
    return {"coverage": f"{100 * part.coverage:.0f}", "first": f"{100 * share:.0f}"}


def _absorber_thin(case: Case) -> Words | None:
    part = next((p for p in case.parts if _has(p, "absorber") and not _has(p, "decoupler")), None)
    if part is None:
        return None
    quarter = SPEED_OF_SOUND / (4 * part.thickness_mm / 1e3)
    return {"thickness": f"{part.thickness_mm:g}", **_named(part), "hz": f"{round(quarter, -2):.0f}"}


def _too_deep(case: Case) -> Words | None:
    limit = case.surface.depth_limit_mm
    if limit is None or case.depth_mm <= limit:
        return None
    return {"depth": f"{case.depth_mm:.1f}", "limit": f"{limit:g}"}


def _too_heavy(case: Case) -> Words | None:
    limit = case.surface.kg_limit
    return None if limit is None or case.added_kg <= limit else {"kg": f"{case.added_kg:.1f}", "limit": f"{limit:g}"}


def _board_on_curve(case: Case) -> Words | None:
    return _first(case, lambda p: p.material.rigid) if "curved" in case.surface.flags else None


def _heavy_overhead(case: Case) -> Words | None:
    load = case.added_kg / max(case.areas.treatable_m2, 1e-6)
    return {"kg": f"{load:.1f}"} if "overhead" in case.surface.flags and load > 4 else None


def _seams_open(case: Case) -> Words | None:
    barrier = any(_has(p, "barrier") for p in case.parts)
    return {} if barrier and not any(_has(p, "seal") for p in case.parts) else None


def _low_resonance(case: Case) -> Words | None:
    if case.prediction is None:
        return None
    low, high = case.strong_hz
    for f in case.prediction.resonances.mass_air_mass_hz:
        if low <= f <= high:
            barrier = next((p.material.name for p in case.parts if _has(p, "barrier")), "The lining")
            return {"material": barrier, "hz": f"{f:.0f}"}
    return None


def _coincidence_loud(case: Case) -> Words | None:
    """Only a panel stiff enough to bend with the sound, hardly damped, with its dip among the strong bands."""
    p = case.prediction
    if p is None or p.loss_factor is None:
        return None
    low, high = case.strong_hz
    for place, f in enumerate(p.resonances.critical_hz):
        if f is not None and low <= f <= high and min(p.loss_factor) < 0.1:
            what = "The panel" if place == 0 else "A layer of it"
            return {"what": what, "hz": f"{f:.0f}"}
    return None


def _third_leaf(case: Case) -> Words | None:
    cavities = case.prediction.resonances.mass_air_mass_hz if case.prediction else ()
    return {"hz": " and ".join(f"{f:.0f}" for f in cavities)} if len(cavities) > 1 else None


def _tape_in_weather(case: Case) -> Words | None:
    taped = any(p.material.id == "alu-tape" for p in case.parts)
    return {} if taped and "wet" in case.surface.flags else None


def _stays_clear(case: Case) -> Words | None:
    kinds = sorted({z.kind for z in case.surface.keep_clear})
    if not kinds:
        return None
    return {"zones": listed([f"{k.capitalize() if i == 0 else k}s" for i, k in enumerate(kinds)])}


TESTS: dict[str, Callable[[Case], Words | None]] = {
    "damping_off_plate": _damping_off_plate, "open_in_wet": _open_in_wet, "crushed_underfoot": _crushed_underfoot,
    "absorber_covered": _absorber_covered, "barrier_gaps": _barrier_gaps, "barrier_hard": _barrier_hard,
    "absorber_alone": _absorber_alone, "too_hot": _too_hot, "damping_share": _damping_share,
    "absorber_thin": _absorber_thin, "too_deep": _too_deep, "too_heavy": _too_heavy,
    "board_on_curve": _board_on_curve, "heavy_overhead": _heavy_overhead, "seams_open": _seams_open,
    "low_resonance": _low_resonance, "tape_in_weather": _tape_in_weather,
    "coincidence_loud": _coincidence_loud, "third_leaf": _third_leaf, "stays_clear": _stays_clear,
}

ORDER = {"danger": 0, "warn": 1, "info": 2, "good": 3}


def speak(rules: tuple[Rule, ...], case: Case) -> tuple[Spoken, ...]:
    """The rules that apply to a case, gravest first. KeyError for a rule whose test does not exist."""
    out = []
    for rule in rules:
        words = TESTS[rule.when](case)
        if words is not None:
            filled = rule.model_dump(exclude={"id", "when", "text"})
            out.append(Spoken(rule=rule.id, text=rule.text.format(**words), **filled))
    return tuple(sorted(out, key=lambda s: ORDER[s.severity]))
