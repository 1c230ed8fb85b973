"""Tests of rules about the job: its sums against its limits, hazards of its kind, what the shelf does not know."""

from __future__ import annotations

from ..worded import of
from ..words import listed
from .case import Case, Found, Test


def _over(what: str) -> Test:
    def test(case: Case) -> Found | None:
        found = next((b for b in case.budgets if b.what == what), None)
        if found is None or found.limit is None or found.value <= found.limit + 1e-9:
            return None
        return Found({"value": of(found.value, found.unit, ".1f"), "limit": of(found.limit, found.unit)})

    return test


def _hazard(name: str, *kinds: str) -> Test:
    def test(case: Case) -> Found | None:
        found = [p.name for p in case.new if name in p.material.hazards]
        return Found({"material": found[0]}) if found and (not kinds or case.kind in kinds) else None

    return test


def _machine_in_a_box(case: Case) -> Found | None:
    return Found() if case.kind == "enclosure" and not case.vented else None


def _box_too_warm(case: Case) -> Found | None:
    if case.warmer_k is None or case.warmer_limit_k is None or case.warmer_k <= case.warmer_limit_k:
        return None
    return Found({"rise": f"{case.warmer_k:.0f} K", "limit": f"{case.warmer_limit_k:g} K"})


def _box_heat_unknown(case: Case) -> Found | None:
    return Found() if case.kind == "enclosure" and (case.warmer_k is None or case.warmer_limit_k is None) else None


def _combustion(case: Case) -> Found | None:
    return Found() if case.kind == "enclosure" and case.combustion else None


def _old_building(case: Case) -> Found | None:
    return Found() if case.kind == "room" else None


def _heavy_roll(case: Case) -> Found | None:
    for part in case.new:
        density = part.material.properties.density_kg_m3 or 0.0
        for form in part.material.stock:
            if form.form == "roll" and form.width_mm and form.length_mm:
                kg = density * part.thickness_mm / 1e3 * form.width_mm * form.length_mm / 1e6
                if kg > 25 and (form.thickness_mm is None or abs(form.thickness_mm - part.thickness_mm) < 0.01):
                    return Found({"material": part.name, "kg": f"{kg:.0f}"})
    return None


def _unsold(case: Case) -> Found | None:
    return Found({"what": listed(case.unsold)}) if case.unsold else None


def _unpriced(case: Case) -> Found | None:
    return Found({"what": listed(sorted(case.unpriced)[:4])}) if case.unpriced else None


def _retired(case: Case) -> Found | None:
    found = sorted({p.name for p in case.new if p.material.retired})
    return Found({"what": listed(found)}) if found else None


def _moved_on(case: Case) -> Found | None:
    return Found({"what": listed(case.moved_on[:4])}) if case.moved_on else None


TESTS: dict[str, Test] = {
    "over_kg": _over("kg"), "over_money": _over("money"), "over_hours": _over("hours"), "machine_in_a_box": _machine_in_a_box,
    "box_too_warm": _box_too_warm, "box_heat_unknown": _box_heat_unknown,
    "combustion": _combustion, "old_building": _old_building, "isocyanates": _hazard("isocyanates"),
    "solvents": _hazard("solvents"), "spray_glue": _hazard("spray-glue"), "fibres": _hazard("fibres"),
    "foil_edges": _hazard("foil-edges"), "lead": _hazard("lead"), "heavy_roll": _heavy_roll,
    "unsold": _unsold, "unpriced": _unpriced, "retired": _retired, "moved_on": _moved_on,
}
