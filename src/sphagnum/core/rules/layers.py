"""Tests of rules about layers: their order, what they are good for, what they do to one another."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from ..levels.bands import PREDICTED_HZ, Bools, Floats
from ..materials.elements import SPEED_OF_SOUND
from ..materials.table import family
from ..stacks.damping import first_mode_share
from .case import Case, Found, Part, Test, add_after, add_last, first, named, set_on, spoken_of, take_out

LIGHT_BOARD_MM, SMALL_GAP_MM = 13.0, 15.0
THICK_BOARD_MM, THICKEST_BOARD_MM = 15.0, 30.0
RIGID_INSULATION = ("xps-board", "pir-board")


def _damping_off_plate(case: Case) -> Found | None:
    on_plate, plate = True, None
    for i, part in enumerate(case.parts):
        if part.acts == "damping" and not on_plate:
            move = () if part.layer is None or not part.new else (
                {"op": "move", "at": ["layers"], "id": part.layer.id, "after": ""},)
            return Found({"place": i + 1}, move if plate is None else ())
        on_plate = part.acts in ("plate", "damping")
        plate = part if part.acts == "plate" else plate
    return None


def _absorber_covered(case: Case) -> Found | None:
    for i, part in enumerate(case.parts):
        rest = case.parts[i + 1 :]
        closing = [p for p in rest if _closes(p)]
        # under a barrier it serves as the decoupler; between two leaves it takes the boom out of their cavity
        closed = bool(closing) and not rest[0].has("barrier") and not any(p.acts == "plate" for p in rest)
        only_absorbs = part.has("absorber") and not part.has("decoupler")
        if only_absorbs and (closed or part.material.facing_on_listener_side):
            return Found(named(part), take_out(closing[0]) if closed else ())
    return None


def _closes(part: Part) -> bool:
    return family(part.material.family).closes


def _barrier_gaps(case: Case) -> Found | None:
    """What is left out of what may be covered; what must stay clear is no fault of the plan."""
    part = max((p for p in case.new if p.has("barrier")), key=lambda p: 1 - p.reached, default=None)
    bare = 0.0 if part is None else 1 - part.reached
    if part is None or bare <= 0.03:
        return None
    return Found({"percent": f"{100 * bare:.0f}", "cap": f"{10 * math.log10(1 / bare):.1f}"}, set_on(part, "coverage", 1.0))


def _clear_caps(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.has("barrier"))
    clear = 1 - case.areas.treatable_m2 / max(case.areas.gross_m2, 1e-9)
    return None if part is None or clear < 0.01 else Found(
        {"percent": f"{100 * clear:.0f}", "cap": f"{10 * math.log10(1 / clear):.1f}"})


def _barrier_hard(case: Case) -> Found | None:
    soft, before = False, None
    for part in case.parts:
        soft = soft or part.acts == "soft"
        if part.has("barrier") and not soft and part.new and part.acts != "plate":
            return Found(named(part), add_after("wool-felt", 10.0, before))
        before = part
    return None


def _limp_and_parted(case: Case) -> Found | None:
    for before, part in pairwise(case.parts):
        if part.acts == "limp" and part.has("barrier") and before.acts == "soft" and part.coverage >= 0.97:
            return spoken_of(part)
    return None


def _absorber_alone(case: Case) -> Found | None:
    if case.kind == "enclosure" or case.flag("trim over it"):
        return None  # in a box or a closed cavity it takes the build-up away, which is what it is for
    if any(p.has("barrier") for p in case.parts) or any(p.acts == "plate" for p in case.parts):
        return None
    return spoken_of(first(case.new, lambda p: p.has("absorber")))


def _damping_share(case: Case) -> Found | None:
    part = first(case.parts, lambda p: p.acts == "damping" and 0 < p.coverage < 0.97)
    if part is None:
        return None
    share = first_mode_share(part.coverage, case.areas.width_mm / case.areas.height_mm)
    return Found({"coverage": f"{100 * part.coverage:.0f}", "first": f"{100 * share:.0f}"})


def _damping_all_over(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.acts == "damping" and p.coverage >= 0.9))


def _absorber_thin(case: Case) -> Found | None:
    part = first(case.parts, lambda p: p.has("absorber") and not p.has("decoupler") and p.thickness_mm < 100)
    if part is None:
        return None
    quarter = SPEED_OF_SOUND / (4 * part.thickness_mm / 1e3)
    return Found(named(part, thickness=f"{part.thickness_mm:g}", hz=f"{round(quarter, -2):.0f}"))


def _gap_behind_helps(case: Case) -> Found | None:
    limit = case.depth_limit_mm
    open_face = bool(case.parts) and case.parts[-1].has("absorber") and not case.parts[-1].has("decoupler")
    if not open_face or limit is None or limit - case.depth_mm < 20 or any(p.material.family == "air" for p in case.parts):
        return None
    part = case.parts[-1]
    before = case.parts[-2] if len(case.parts) > 1 else None
    left = limit - case.depth_mm
    return Found(named(part, left=f"{left:.0f}"), add_after("air-gap", 10.0 * (left // 10), before))


LOSES_DB = -0.5
"""R that falls so far where a lining resonates is more than its model leaves open."""
COUNTS_DB = 3.0
"""A band within so much of the loudest that comes through is one that counts."""


def _loses(case: Case, hz: float) -> bool:
    """Whether less is gained than lost at a frequency where the noise is strong."""
    return bool(case.change_db) and bool(loses_at(np.array([case.change_db]), np.array([[hz]]), case.strong_hz)[0])


def loses_at(change_db: Floats, hz: Floats, strong_hz: tuple[float, float], most_db: float = LOSES_DB) -> Bools:
    """Of stacks whether one of their frequencies, (stacks, frequencies), is where the noise is strong and R falls there, by
    ``most_db`` or below; ``change_db`` (stacks, 21). NaN is no frequency."""
    near = np.argmin(np.abs(np.log(np.array(PREDICTED_HZ) / np.nan_to_num(hz, nan=1.0)[..., None])), axis=-1)
    loses = np.take_along_axis(change_db, near, axis=-1) <= most_db
    return np.asarray(np.any((hz >= strong_hz[0]) & (hz <= strong_hz[1]) & loses, axis=-1))


def _low_resonance(case: Case) -> Found | None:
    if case.prediction is None:
        return None
    for f in case.prediction.resonances.mass_air_mass_hz:
        if _loses(case, f):
            barrier = next((p.name for p in case.parts if p.has("barrier")), "The lining")
            return Found({"material": barrier, "hz": f"{f:.0f}"})
    return None


def _coincidence_loud(case: Case) -> Found | None:
    """Only a panel stiff enough to bend with the sound, hardly damped, whose dip is among what comes through loudest."""
    p = case.prediction
    if p is None or p.loss_factor is None:
        return None
    low, high = case.strong_hz
    for place, f in enumerate(p.resonances.critical_hz):
        if f is None or not low <= f <= high or min(p.loss_factor) >= 0.1:
            continue
        through = case.at(case.through_db, f)
        if through is not None and through >= max(case.through_db) - COUNTS_DB:
            return Found({"what": "The panel" if place == 0 else "A layer of it", "hz": f"{f:.0f}"})
    return None


def _third_leaf(case: Case) -> Found | None:
    cavities = case.prediction.resonances.mass_air_mass_hz if case.prediction else ()
    low, high = case.strong_hz
    strong = len(cavities) > 1 and any(low <= f <= high for f in cavities)
    return Found({"hz": " and ".join(f"{f:.0f}" for f in cavities)}) if strong else None


def _plates(case: Case) -> list[tuple[str, float, int]]:
    """Boards and panels in order: material, thickness, and how many soft layers lie before each."""
    own = [] if case.substrate is None else [Part(case.substrate, case.substrate_mm, 1.0, None, False)]
    far = [p for p in case.parts if p.far]
    order = [*far, *own, *case.parts[len(far):]]
    soft = [sum(p.acts == "soft" for p in order[:i]) for i in range(len(order))]
    return [(p.material.id, p.thickness_mm, s) for p, s in zip(order, soft, strict=True) if p.acts == "plate"]


def _like_leaves(case: Case) -> Found | None:
    plates = _plates(case)
    for (a, mm, s), (b, other, t) in pairwise(plates):
        if t > s and a == b and abs(mm - other) < 0.1:
            return Found({"mm": f"{mm:g}"})
    return None


def _empty_cavity(case: Case) -> Found | None:
    far = [p for p in case.parts if p.far]
    rest = case.parts[len(far):]
    for i, part in enumerate(rest):
        alone = part.material.family == "air" and (i == 0 or rest[i - 1].acts != "soft") and (
            i + 1 < len(rest) and rest[i + 1].acts == "plate")
        if alone and part.thickness_mm >= 25:
            fill = 50.0 if part.thickness_mm >= 50 else 30.0
            mend = () if part.layer is None else (
                set_on(part, "thickness_mm", part.thickness_mm - fill) + add_after("stone-wool", fill, part)
                if part.new and part.thickness_mm > fill else ())
            return Found({"mm": f"{part.thickness_mm:g}"}, mend)
    return None


def _stiff_filling(case: Case) -> Found | None:
    for before, part, after in zip([None, *case.parts], case.parts, case.parts[1:], strict=False):
        beside = before is None or before.acts == "plate"
        if part.material.family == "foam" and beside and after.acts == "plate" and part.thickness_mm >= 10:
            return spoken_of(part)
    return None


def _thick_board(case: Case) -> Found | None:
    for i, part in enumerate(case.parts):
        if part.new and part.acts == "plate" and part.thickness_mm >= THICK_BOARD_MM and (
                i == 0 or case.parts[i - 1].acts != "plate"):
            return spoken_of(part, mm=f"{part.thickness_mm:g}")
    return None


def _boards_undamped(case: Case) -> Found | None:
    panel_is_board = case.substrate is not None and case.substrate.rigid and case.substrate_mm < THICKEST_BOARD_MM
    before_is_board = panel_is_board
    for part in case.parts:
        if part.far:
            continue
        board = part.acts == "plate"
        if part.new and board and before_is_board and part.layer is not None and not part.layer.joined:
            return Found(named(part), set_on(part, "joined", "compound"))
        before_is_board = board
    return None


def _board_over_small_gap(case: Case) -> Found | None:
    for before, part in pairwise(case.parts):
        if part.new and part.acts == "plate" and part.thickness_mm <= LIGHT_BOARD_MM and before.acts == "soft" and (
                before.thickness_mm <= SMALL_GAP_MM):
            return spoken_of(part, gap=f"{before.thickness_mm:g}")
    return None


def _foil_without_gap(case: Case) -> Found | None:
    for i, part in enumerate(case.parts):
        beside = [case.parts[k].material.family for k in (i - 1, i + 1) if 0 <= k < len(case.parts)]
        if part.material.id == "radiant-foil" and "air" not in beside:
            return spoken_of(part, add_after("air-gap", 20.0, case.parts[i - 1] if i else None))
    return None


def _insulation_no_sound(case: Case) -> Found | None:
    return spoken_of(first(case.new, lambda p: p.material.id in RIGID_INSULATION))


def _vinyl_where_capped(case: Case) -> Found | None:
    if case.leak_cm2 <= 0 or not any(p.has("barrier") for p in case.new):
        return None
    share = case.leak_cm2 / 1e4 / max(case.areas.gross_m2, 1e-6)
    cap = 10 * math.log10(1 / min(share, 1.0))
    return Found({"cm2": f"{case.leak_cm2:g}", "cap": f"{cap:.0f}"}) if cap < 40 else None


def _deadening_paint(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.id == "deadening-paint")
    return None if part is None else Found(named(part), take_out(part))


def _loss_off_temperature(case: Case) -> Found | None:
    def cold(p: Part) -> bool:
        known = p.material.properties
        return p.acts == "damping" and known.loss_peak_c is not None and known.loss_width_c is not None and (
            abs(case.temperature_c - known.loss_peak_c) > known.loss_width_c)

    part = first(case.new, cold)
    if part is None:
        return None
    return spoken_of(part, peak=f"{part.material.properties.loss_peak_c:g}", at=f"{case.temperature_c:g}")


def _seams_open(case: Case) -> Found | None:
    barrier = any(p.has("barrier") and p.acts != "plate" for p in case.new)
    return Found(mend=add_last("seam-tape", 1.0)) if barrier and not any(p.has("seal") for p in case.parts) else None


def _boards_unsealed(case: Case) -> Found | None:
    boards = any(p.acts == "plate" for p in case.new) or case.surface.planned
    return Found(mend=add_last("elastic-sealant", 1.0)) if (
        case.kind == "room" and boards and not any(p.has("seal") for p in case.parts)) else None


def _filler_as_seal(case: Case) -> Found | None:
    part = first(case.new, lambda p: p.material.id == "gap-filler")
    return None if part is None else Found(named(part), set_on(part, "material", "elastic-sealant"))


def _layer_order(case: Case) -> Found | None:
    """A decoupler over its barrier and nothing under it: the two are turned round."""
    for i, part in enumerate(case.new):
        under = case.new[:i]
        soft_after = first(case.new[i + 1 :], lambda p: p.has("decoupler") and p.acts == "soft" and not p.has("absorber"))
        if part.has("barrier") and part.acts == "limp" and not any(p.acts == "soft" for p in under) and soft_after is not None:
            before = under[-1].layer.id if under and under[-1].layer is not None else ""
            move = () if soft_after.layer is None else (
                {"op": "move", "at": ["layers"], "id": soft_after.layer.id, "after": before},)
            return Found(named(part, soft=f"{soft_after.name[0].lower()}{soft_after.name[1:]}"), move)
    return None


TESTS: dict[str, Test] = {
    "damping_off_plate": _damping_off_plate, "absorber_covered": _absorber_covered,
    "barrier_gaps": _barrier_gaps, "clear_caps": _clear_caps,
    "barrier_hard": _barrier_hard, "limp_and_parted": _limp_and_parted, "absorber_alone": _absorber_alone,
    "damping_share": _damping_share, "damping_all_over": _damping_all_over, "absorber_thin": _absorber_thin,
    "gap_behind_helps": _gap_behind_helps, "low_resonance": _low_resonance, "coincidence_loud": _coincidence_loud,
    "third_leaf": _third_leaf, "like_leaves": _like_leaves, "empty_cavity": _empty_cavity, "stiff_filling": _stiff_filling,
    "thick_board": _thick_board, "boards_undamped": _boards_undamped, "board_over_small_gap": _board_over_small_gap,
    "foil_without_gap": _foil_without_gap, "insulation_no_sound": _insulation_no_sound, "vinyl_where_capped": _vinyl_where_capped,
    "deadening_paint": _deadening_paint, "loss_off_temperature": _loss_off_temperature, "seams_open": _seams_open,
    "boards_unsealed": _boards_unsealed, "filler_as_seal": _filler_as_seal, "layer_order": _layer_order,
}
