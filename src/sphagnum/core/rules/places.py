"""Tests of rules about where a layer goes and how it is held: water, heat, curves, weight, what moves, what must work."""

from __future__ import annotations

from itertools import pairwise

from ..words import listed
from .case import Case, Found, Part, Test, add_after, add_last, first, set_on, spoken_of, take_out

FIRM = ("hangers", "screws", "isolated screws", "staples")
HEAVY_UPRIGHT_KG_M2 = 4.5
GLUES = ("", "self-adhesive", "spray glue", "tape", "friction", "loose")


def _open_in_wet(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.soaks)) if case.flag("wet") else None


def _closed_in_wet(case: Case) -> Found | None:
    fit = case.flag("wet") and case.new and all(p.material.limits.wet or p.material.family == "air" for p in case.new)
    return spoken_of(first(case.new, lambda p: p.acts == "damping")) if fit else None


def _membrane(case: Case) -> Found | None:
    return Found() if case.flag("membrane") else None


def _crushed_underfoot(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.crushable) if case.flag("walked on") else None
    if part is None:
        return None
    mend = set_on(part, "material", "wool-felt") + set_on(part, "thickness_mm", 10.0) if part.has("decoupler") and (
        part.layer is not None and part.layer.material == part.material.id) else ()
    return spoken_of(part, mend)


def _too_hot(case: Case) -> Found | None:
    if not case.flag("hot"):
        return None
    part = first(case.new, lambda p: p.material.limits.most_c is not None and p.material.limits.most_c < 150)
    return spoken_of(part, most=f"{part.material.limits.most_c:.0f}") if part is not None else None


def _heat_unknown(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.material.lies and p.material.family != "air" and p.material.limits.most_c is None
                           and p.acts != "plate")) if case.flag("hot") else None


def _flame_near_heat(case: Case) -> Found | None:
    near = case.flag("hot") or case.zone("hot part") or case.kind == "enclosure"
    return spoken_of(first(case.new, lambda p: "flame" in p.material.hazards)) if near else None


def _too_cold(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.limits.least_c is not None and case.temperature_c < p.material.limits.least_c)
    return spoken_of(part, least=f"{part.material.limits.least_c:g}", at=f"{case.temperature_c:g}") if part is not None else None


def _tape_in_weather(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.id == "alu-tape")
    if part is None or not case.flag("wet", "salt", "outdoors"):
        return None
    return Found(mend=set_on(part, "material", "seam-tape"))


def _salt(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.limits.salt is False and p.material.id != "alu-tape")
    return spoken_of(part) if case.flag("salt") else None


def _food(case: Case) -> Found | None:
    if not case.flag("food"):
        return None
    part = first(case.new, lambda p: p.material.limits.food is not True and p.material.family != "air")
    return spoken_of(part, known="is not for rooms with food" if part.material.limits.food is False else
                     "is not known to be fit for food") if part is not None else None


def _outdoors(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.limits.outdoors is not True and p.material.lies and p.material.family != "air")
    return spoken_of(part) if case.flag("outdoors") else None


def _board_on_curve(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.material.rigid and p.material.lies)) if case.flag("curved") else None


def _curve_lets_go(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.holds_curved is False and not p.material.rigid)
    return spoken_of(part) if case.flag("curved") else None


def _heavy_overhead(case: Case) -> Found | None:
    load = case.added_kg / max(case.areas.treatable_m2, 1e-6)
    outermost = first(case.new[::-1], lambda p: p.material.lies and p.material.family != "air")
    if not case.flag("overhead") or load <= 4 or outermost is None or outermost.held in FIRM:
        return None
    return Found({"kg": f"{load:.1f}"}, set_on(outermost, "held", "hangers"))


def _falls_off_overhead(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.holds_overhead is False and p.held not in FIRM and p.material.lies)
    return spoken_of(part, set_on(part, "held", "hangers")) if part is not None and case.flag("overhead") else None


def _sags_upright(case: Case) -> Found | None:
    if case.flag("walked on", "overhead"):
        return None

    def heavy(p: Part) -> bool:
        density = p.material.properties.density_kg_m3 or 0.0
        return p.acts == "limp" and p.thickness_mm / 1e3 * density >= HEAVY_UPRIGHT_KG_M2 and p.held in GLUES

    part = first(case.new, heavy)
    return spoken_of(part, set_on(part, "held", "hangers")) if part is not None and case.areas.height_mm >= 400 else None


def _screwed_hard(case: Case) -> Found | None:
    for before, part in pairwise(case.parts):
        if part.new and part.held == "screws" and before.acts == "soft":
            return spoken_of(part, set_on(part, "held", "isolated screws"))
    return None


def _isolated_well(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.held == "isolated screws"))


def _rigid_link(case: Case) -> Found | None:
    rigid = next((t for t in case.ties if t.kind in ("wood-studs", "battens", "staggered-wood-studs") or (
        t.kind == "point-fixings" and not t.isolated)), None)
    if rigid is None or rigid.resilient_channel_spacing_mm is not None or rigid.kind == "staggered-wood-studs":
        return None
    cavity = first(case.parts, lambda p: p.layer is not None and p.layer.tie is not None and p.layer.tie.kind == rigid.kind)
    hung = rigid.model_dump(mode="json", exclude={"between"}) | {"resilient_channel_spacing_mm": 600.0}
    mend = set_on(cavity, "tie", hung) if cavity is not None and rigid.kind in ("wood-studs", "battens") else ()
    return Found({"what": rigid.kind.replace("-", " ")}, mend)


def _slumps(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.fibrous and p.held in ("", "friction", "loose") and "glue" not in p.material.hold)
    return spoken_of(part, set_on(part, "held", "spray glue")) if part is not None and case.flag("moves") else None


def _ask_the_maker(case: Case) -> Found | None:
    return Found({"kg": f"{case.added_kg:.1f}"}) if (
        case.flag("moves") and case.surface.kg_limit is None and case.added_kg >= 1) else None


def _rigid_foam_behind_skin(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.id == "hard-void-foam")
    exposed = case.flag("sun") or (case.kind == "vehicle" and case.substrate is not None and case.substrate_mm < 2)
    return Found(mend=set_on(part, "material", "soft-void-foam")) if part is not None and exposed else None


def _loudspeaker_open(case: Case) -> Found | None:
    if not case.flag("loudspeaker"):
        return None
    closed = any(p.acts in ("plate", "damping", "limp") and p.coverage >= 0.9 for p in case.parts)
    return None if closed else Found()


def _loudspeaker_gasket(case: Case) -> Found | None:
    seal = any(p.has("seal") or p.has("isolator") for p in case.new)
    return None if not case.flag("loudspeaker") or seal or not case.new else Found(mend=add_last("foam-tape", 3.0))


def _under_module(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.lies and p.material.comes_off is False and p.has("barrier"))
    return spoken_of(part) if case.zone("module") or (case.flag("trim over it") and case.zone("cable run")) else None


def _airbag(case: Case) -> Found | None:
    return Found() if case.zone("airbag seam") and case.new else None


def _moving_part(case: Case) -> Found | None:
    return Found() if case.zone("moving part") and case.new else None


def _stays_clear(case: Case) -> Found | None:
    kinds = sorted({z.kind for z in case.surface.keep_clear})
    return Found({"zones": listed([f"{k.capitalize() if i == 0 else k}s" for i, k in enumerate(kinds)])}) if kinds else None


def _fire_rated(case: Case) -> Found | None:
    return Found() if case.flag("fire-rated") and (case.new or case.takes_out) else None


def _structural(case: Case) -> Found | None:
    screwed = any(p.held in ("screws", "isolated screws") for p in case.new)
    return Found() if case.flag("structural") and (case.takes_out or screwed) else None


def _too_deep(case: Case) -> Found | None:
    limit = case.depth_limit_mm
    if limit is None or case.depth_mm <= limit or not case.new:
        return None
    over = case.depth_mm - limit
    part = next((p for p in reversed(case.new) if p.material.family == "air" and p.thickness_mm > over + 1), None)
    mend = () if part is None else set_on(part, "thickness_mm", round(part.thickness_mm - over, 1))
    return Found({"depth": f"{case.depth_mm:.1f}", "limit": f"{limit:g}"}, mend)


def _deeper_than_usual(case: Case) -> Found | None:
    """Nobody said how deep it may be, and it is deeper than such places usually allow."""
    usual = case.usual_depth_mm
    if usual is None or case.depth_mm <= usual or not case.new:
        return None
    return Found({"depth": f"{case.depth_mm:.1f}", "usual": f"{usual:g}"})


def _too_heavy(case: Case) -> Found | None:
    limit = case.surface.kg_limit
    return None if limit is None or case.added_kg <= limit else Found({"kg": f"{case.added_kg:.1f}", "limit": f"{limit:g}"})


def _condenses(case: Case) -> Found | None:
    soaking = any(p.material.family == "porous" for p in case.parts)
    return Found({"where": case.wet_faces[0]}) if case.wet_faces and soaking else None


def _brush_is_no_seal(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.id == "brush-seal")
    return None if part is None else Found({}, take_out(part))


def where_it_lies(case: Case) -> str:
    """How a surface lies: "floor", "overhead" or "wall"."""
    return "floor" if case.flag("walked on") else "overhead" if case.flag("overhead") else "wall"


def _not_its_place(case: Case) -> Found | None:
    here = where_it_lies(case)
    part = first(case.new, lambda p: bool(p.material.limits.places) and here not in p.material.limits.places)
    return None if part is None else spoken_of(part, places=listed([_ON[x] for x in part.material.limits.places]), here=_ON[here])


_ON = {"floor": "floors", "wall": "upright panels", "overhead": "what hangs overhead", "pipe": "pipes and ducts",
       "rail": "a rail, as a curtain"}


def _loose_fill(case: Case) -> Found | None:
    plates = [i for i, p in enumerate(case.parts) if p.acts == "plate"]
    stands = case.substrate is not None and case.substrate_mm > 0
    for i, part in enumerate(case.parts):
        between = any(k > i for k in plates) and (any(k < i for k in plates) or (stands and not part.far))
        if part.new and part.material.limits.fill and not between:
            return spoken_of(part, take_out(part))
    return None


def _only_lying(case: Case) -> Found | None:
    return None if case.flag("walked on") else spoken_of(first(case.new, lambda p: p.material.limits.lying))


def _bears_nothing(case: Case) -> Found | None:
    top = first(case.parts[::-1], lambda p: p.material.lies and p.material.family != "air" and not p.far)
    if not case.flag("walked on") or top is None or not top.new or top.material.limits.bears:
        return None
    return spoken_of(top, add_after("plywood", 9.0, top, held="loose"))


def _seen_bare(case: Case) -> Found | None:
    face = first(case.parts[::-1], lambda p: p.material.lies and p.material.family != "air" and not p.far)
    return spoken_of(face) if case.flag("seen") and face is not None and face.new and face.material.limits.sheds else None


def _flame_in_sleep(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: "flame" in p.material.hazards)) if case.flag("slept in") else None


TESTS: dict[str, Test] = {
    "not_its_place": _not_its_place, "loose_fill": _loose_fill, "only_lying": _only_lying, "bears_nothing": _bears_nothing,
    "seen_bare": _seen_bare, "flame_in_sleep": _flame_in_sleep, "deeper_than_usual": _deeper_than_usual,
    "open_in_wet": _open_in_wet, "closed_in_wet": _closed_in_wet, "membrane": _membrane, "crushed_underfoot": _crushed_underfoot,
    "too_hot": _too_hot, "heat_unknown": _heat_unknown, "flame_near_heat": _flame_near_heat, "too_cold": _too_cold,
    "tape_in_weather": _tape_in_weather, "salt": _salt, "food": _food, "outdoors": _outdoors, "board_on_curve": _board_on_curve,
    "curve_lets_go": _curve_lets_go, "heavy_overhead": _heavy_overhead, "falls_off_overhead": _falls_off_overhead,
    "sags_upright": _sags_upright, "screwed_hard": _screwed_hard, "isolated_well": _isolated_well, "rigid_link": _rigid_link,
    "slumps": _slumps, "ask_the_maker": _ask_the_maker, "rigid_foam_behind_skin": _rigid_foam_behind_skin,
    "loudspeaker_open": _loudspeaker_open, "loudspeaker_gasket": _loudspeaker_gasket, "under_module": _under_module,
    "airbag": _airbag, "moving_part": _moving_part, "stays_clear": _stays_clear, "fire_rated": _fire_rated,
    "structural": _structural, "too_deep": _too_deep, "too_heavy": _too_heavy, "condenses": _condenses,
    "brush_is_no_seal": _brush_is_no_seal,
}
