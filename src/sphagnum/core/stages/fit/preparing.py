"""Steps that make a place ready, and look at it before it is closed."""

from __future__ import annotations

from ...figures.job_figures import JobFigures
from ...fitting.history import StepRef
from ...fitting.times import CHECKS, DEGREASED, MACHINE_CHECKS, SWINGS, WORKS
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative
from ...worded import of
from ...words import listed
from ..cut.bought import USES
from .laying import low, used_of
from .model import Draft
from .opening import hazards_of

WIPED = {"panel-cleaner": "l", "lint-free-cloth": ""}
"""What a panel is wiped with, and in what it is told."""


def clean_draft(job: JobFigures, patch: Patch, damped_m2: float, off: bool) -> Draft:
    """Cleaning a patch for what is laid on it; ``off``: something old comes off it; ``damped_m2``: so much of it is wiped for
    damping."""
    wiped, area = patch.substrate.material in DEGREASED, areas(patch).gross_m2 * patch.count
    how = ["Vacuum it, edges and seams too."]
    if off:
        how.append("Old glue and fibre come off with a scraper and cleaner; open the doors, gloves on.")
    if wiped:
        how += ["Wipe with cleaner and a fresh cloth, one way, until the cloth stays clean.",
                "Let it dry before anything is stuck."]
    used = [used_of(job.shelf.material(n), USES[n].per_m2 * damped_m2, unit)
            for n, unit in WIPED.items() if wiped and damped_m2 > 0 and n in job.shelf.materials]
    solvent = ("solvents",) if wiped and damped_m2 > 0 else ()
    text = f"{'Clean and degrease' if wiped else 'Brush and dust'} {of(area, 'm²', '.1f')} of the {low(patch.name)}"
    return Draft(
        ref=StepRef(phase="clean", surface_id=patch.id, zone=patch.zone), surface=patch.name, what=f"Clean: {low(patch.name)}",
        text=text + ("; let it dry." if wiped else "."), minutes=job.shelf.minutes["clean"] * area,
        hazards=(*hazards_of(job, patch), *solvent), how=tuple(how), consumables=tuple(used),
        hold="Bare, dry and free of wax: wipe with a white cloth." if wiped else "Dry, firm and free of dust.",
        tools=("vacuum", "cloths") if wiped else ("vacuum", "brush"))


def dry_fit_draft(job: JobFigures, patch: Patch) -> Draft:
    """Laying every piece dry."""
    kept = _kept_clear(patch)
    text = f"Lay every piece of the {low(patch.name)} dry, its backing on, and mark it.{kept}"
    return Draft(
        ref=StepRef(phase="dry-fit", surface_id=patch.id, zone=patch.zone), surface=patch.name,
        what=f"Dry-fit: {low(patch.name)}", text=text, hazards=hazards_of(job, patch),
        minutes=job.shelf.minutes["dry-fit"] * areas(patch).gross_m2 * patch.count,
        tools=("marking pen", "masking tape"),
        how=("Try each piece with the backing on; trim what does not lie.", "Mark its edges and its number on the panel.",
             "Mask the lines of what stays clear."))


def check_draft(job: JobFigures, patch: Patch) -> Draft:
    """What must work before a place is closed."""
    checks = checks_of(job, patch)
    return Draft(
        ref=StepRef(phase="check function", surface_id=patch.id, zone=patch.zone), surface=patch.name,
        what=f"Check: {low(patch.name)}", text=f"Check before closing the {low(patch.name)}: {listed(checks)}.",
        minutes=job.shelf.minutes["check function"] * patch.count, hazards=hazards_of(job, patch), checks=tuple(checks),
        hold="Nothing is refitted before this works.")


def checks_of(job: JobFigures, patch: Patch) -> list[str]:
    """What is looked at on a patch, from its zones and what it is part of."""
    kinds = sorted({str(z.kind) for z in patch.keep_clear})
    swings = list(SWINGS) if "moves" in patch.flags else []
    return [*swings, *(CHECKS[z] for z in kinds if z in CHECKS)] or list(WORKS[job.doc.job.kind])


def box_check_draft(job: JobFigures) -> Draft:
    """What must hold once a box stands round a machine and runs."""
    return Draft(
        ref=StepRef(phase="check function"), surface="", what="Check: the box", minutes=job.shelf.minutes["check function"],
        text=f"Run the machine with the box closed and check: {listed(MACHINE_CHECKS)}.", checks=MACHINE_CHECKS,
        hazards=("machine-heat",), hold="It does not go on running before this holds.")


def patch_drafts(job: JobFigures, patch: Patch, one: Alternative, damped_m2: float) -> list[Draft]:
    """What makes a patch ready for its layers."""
    off = any(x.id in one.takes_out for x in patch.present)
    return [*([] if patch.planned else [clean_draft(job, patch, damped_m2, off)]), dry_fit_draft(job, patch)]


def _kept_clear(patch: Patch) -> str:
    zones = sorted({str(z.kind) for z in patch.keep_clear})
    return f" Keep {listed([f'{z}s' for z in zones])} clear." if zones else ""
