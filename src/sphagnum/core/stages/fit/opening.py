"""Steps that open and close a place: access shared by surfaces is opened once and closed once, with the fixings that came off."""

from __future__ import annotations

from typing import NamedTuple

from ...figures.job_figures import JobFigures
from ...fitting.history import StepRef
from ...fitting.rows import Fixing
from ...fitting.taken_off import KINDS, driver_of, told
from ...fitting.times import FLAG_HAZARD, KIND_HAZARD, ZONE_HAZARD
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative
from ...words import listed
from .laying import low
from .model import Draft

OLD = {"keep": "this stays", "restore": "this is put right", "replace": "this comes out", "build on": "this stays under the new"}


MOST_NAMED = 6
"""So many kinds of fixings are named in a sentence; all stand in their list."""


class Group(NamedTuple):
    """Patches behind one access that something is done on, in the order of the job; ``name`` of a shared one."""

    name: str
    treated: tuple[tuple[Patch, Alternative], ...]

    @property
    def first(self) -> Patch:
        """The patch it is known by."""
        return self.treated[0][0]

    @property
    def where(self) -> str:
        """Its surfaces in words."""
        return listed([low(n) for n in dict.fromkeys(p.whole.name for p, _ in self.treated)])


def groups(treated: list[tuple[Patch, Alternative]]) -> list[Group]:
    """Patches by the access they share, in the order they first come; each other surface by itself."""
    found: dict[tuple[str, int], list[tuple[Patch, Alternative]]] = {}
    for patch, one in treated:
        key = (patch.shares_access, 0) if patch.shares_access else ("", patch.id)
        found.setdefault(key, []).append((patch, one))
    return [Group(name, tuple(own)) for (name, _), own in found.items()]


def hazards_of(job: JobFigures, patch: Patch) -> tuple[str, ...]:
    """Hazards of a place, by id: of what is kept clear, of how it is, of a vehicle's underside."""
    zones = [ZONE_HAZARD[z.kind] for z in patch.keep_clear if z.kind in ZONE_HAZARD]
    flags = [FLAG_HAZARD[f] for f in patch.flags if f in FLAG_HAZARD]
    raised = ["raised"] if job.doc.job.kind == "vehicle" and "salt" in patch.flags else []
    return (*zones, *flags, *raised)


def _fixings(job: JobFigures, group: Group) -> tuple[Fixing, ...]:
    mine = {p.id for p, _ in group.treated} | {s.id for s in job.doc.surfaces if group.name and s.shares_access == group.name}
    return tuple(f for f in job.doc.fixings if f.surface_id in mine)


def _area_m2(job: JobFigures, group: Group) -> float:
    """Of what is opened: one trim for all that lie behind it is as large whichever of them is treated."""
    if group.name:
        return max(areas(s).gross_m2 * s.count for s in job.doc.surfaces if s.shares_access == group.name)
    return sum(areas(p).gross_m2 * p.count for p, _ in group.treated)


def _trimmed(group: Group) -> bool:
    return any("trim over it" in p.flags for p, _ in group.treated)


def _ref(group: Group, phase: str) -> StepRef:
    return StepRef(phase=phase, surface_id=group.first.id)


def _covered(job: JobFigures, group: Group, fixings: tuple[Fixing, ...]) -> bool:
    """Whether something comes off: a trim, what lies over what is laid, or what the fixings held that somebody logged."""
    return _trimmed(group) or bool(fixings) or any(_reaches_under(job, p, one) for p, one in group.treated)


def _reaches_under(job: JobFigures, patch: Patch, one: Alternative) -> bool:
    """Whether what stands on a patch is moved: some of it comes out, or something goes under it, as damping does; a leaf that is
    built over stays where it is."""
    if patch.planned or not patch.present:
        return False
    under = {"panel", *(x.id for x in patch.present[:-1])}
    damps = (x for x in one.layers if x.place == "" and job.shelf.material(x.material).acts == "damping")
    handled = patch.survey_do in ("replace", "restore")
    return handled or bool(one.takes_out) or any(x.place in under for x in one.layers) or any(damps)


def _people(group: Group) -> int:
    """Two for a door card."""
    return 2 if _trimmed(group) and any("moves" in p.flags for p, _ in group.treated) else 1


def _tools(fixings: tuple[Fixing, ...], trim: bool) -> tuple[str, ...]:
    return tuple(dict.fromkeys((*(["trim lever"] if trim else []), *(t for f in fixings if (t := driver_of(f))))))


def strip_drafts(job: JobFigures, group: Group) -> list[Draft]:
    """Taking off what covers a group, and logging what held it."""
    if all(p.planned for p, _ in group.treated):
        return []
    fixings, trim, minutes = _fixings(job, group), _trimmed(group), job.shelf.minutes
    hazards = tuple(h for p, _ in group.treated for h in hazards_of(job, p))
    kind = (KIND_HAZARD[job.doc.job.kind],) if job.doc.job.kind in KIND_HAZARD else ()
    out, count = [], sum(f.count for f in fixings)
    if _covered(job, group, fixings):
        named = [told(f) for f in fixings[:MOST_NAMED]] + (
            [f"{len(fixings) - MOST_NAMED} more kinds"] if len(fixings) > MOST_NAMED else [])
        known = f" Held by {listed(named)}." if fixings else ""
        out.append(Draft(
            ref=_ref(group, "strip"), surface=group.first.name, what=f"Take off: {group.where}",
            text=f"{'Take the trim off' if trim else 'Uncover'} the {group.where}{_old(job, group)}.{known}",
            minutes=minutes["strip"] * _area_m2(job, group), hazards=(*hazards, *kind), tools=_tools(fixings, trim),
            people=_people(group), fixings=fixings, access=group.name,
            how=(*_minds(fixings), *(["Look behind before you pull: cables and pulls hang on the trim."] if trim else [])),
            photograph=f"The {group.where} as found, before anything comes off."))
    if not out:
        return []
    out.append(Draft(
        ref=_ref(group, "log fixings"), surface=group.first.name, what=f"Fixings: {group.where}",
        text=f"Log and bag the fixings of the {group.where}: kind, size, count, place.",
        minutes=minutes["log fixings"] * sum({p.id: p.count for p, _ in group.treated}.values()) + minutes["a fixing"] * count,
        tools=("bags and pen",), fixings=fixings, access=group.name,
        photograph="The bare panel with its holes, so that each fixing finds its place again."))
    return out


def refit_drafts(job: JobFigures, group: Group) -> list[Draft]:
    """Putting back what covered a group, its fixings last out first in."""
    if all(p.planned for p, _ in group.treated):
        return []
    trim, fixings = _trimmed(group), _fixings(job, group)[::-1]
    stays = any(x.id not in one.takes_out for p, one in group.treated if _reaches_under(job, p, one) for x in p.present)
    if not trim and not fixings and not stays:
        return []
    count = sum(f.count for f in fixings)
    text = (f"Refit the trim of the {group.where} with its own fixings; nothing pinched, nothing loose." if trim else
            f"Put back what covered the {group.where}; nothing pinched, nothing loose.")
    broken = [f"{told(f)} ({f.state}: new ones)" for f in fixings if f.state != "good"][:MOST_NAMED]
    return [Draft(
        ref=_ref(group, "refit"), surface=group.first.name, what=f"Put back: {group.where}",
        text=text + (f" Replace {listed(broken)}." if broken else ""),
        minutes=job.shelf.minutes["refit"] * _area_m2(job, group) + job.shelf.minutes["a fixing"] * count,
        hazards=tuple(h for p, _ in group.treated for h in hazards_of(job, p)), tools=_tools(fixings, trim),
        people=_people(group), fixings=fixings, how=_minds(fixings), access=group.name,
        photograph=f"The {group.where} closed, as it is handed over.")]


def _minds(fixings: tuple[Fixing, ...]) -> tuple[str, ...]:
    """What is easily forgotten with the kinds of fixings there are."""
    kinds = dict.fromkeys(f.kind for f in fixings)
    return tuple(f"{KINDS[k].many[0].upper()}{KINDS[k].many[1:]}: {KINDS[k].mind}." for k in kinds if KINDS[k].mind)


def _old(job: JobFigures, group: Group) -> str:
    """What lies there, what of it comes out and what stays."""
    said = []
    for patch, one in group.treated:
        old = [job.shelf.material(x.material).name.lower() for x in patch.present]
        off = [job.shelf.material(x.material).name.lower() for x in patch.present if x.id in one.takes_out]
        if off and patch.survey_do != "replace":
            said.append(f"take out: {listed(off)}")
            old = [x for x in old if x not in off]
        if old:
            said.append(f"{OLD.get(patch.survey_do, 'what lies there')}: {listed(old)}")
    return "".join(f"; {x}" for x in dict.fromkeys(said))
