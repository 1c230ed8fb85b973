"""The days on which a job's work is looked at again."""

from __future__ import annotations

from datetime import date

from ...figures.job_figures import JobFigures
from ...figures.lays import new_layers
from ...fitting.afterwards import LookAgain
from ...surfaces.patches import patches
from ...words import listed
from .laying import is_laid, low


def look_again(job: JobFigures, done_on: date) -> tuple[LookAgain, ...]:
    """Days to look again at work done on a day, each rule once with the surfaces it is about, the earliest first."""
    found: dict[str, list[str]] = {}
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            for layer in new_layers(job.doc, patch):
                material = job.shelf.material(layer.material)
                rule = next((r for r in job.shelf.look_again if is_laid(material) and r.fits(
                    material.id, material.family, layer.held or material.hold, patch.flags)), None)
                if rule is not None and low(surface.name) not in found.setdefault(rule.id, []):
                    found[rule.id].append(low(surface.name))
    days = [LookAgain(due_on=r.due(done_on).isoformat(), what=f"Look at the {listed(found[r.id])} {r.what}.")
            for r in job.shelf.look_again if r.id in found]
    return tuple(sorted(days, key=lambda d: d.due_on))
