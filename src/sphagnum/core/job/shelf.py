"""The shelf as the core sees it: materials, source spectra, methods, rules and hazards, looked up by id."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from ..builds.rooms import Rooms
from ..cutting.buying import SPARE_SHARE
from ..cutting.rows import Habits, Offcut
from ..cutting.store import UsedBy
from ..fitting.afterwards import Look
from ..fitting.procedures import Procedures
from ..fitting.times import MINUTES
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.context import ContextItem
from ..materials.model import Material, composed, known_material
from ..paths.offers import Offers
from ..rules.engine import Rule
from ..schema import Strict
from .workshop import KIND_MONEY, WorkshopDocument, WorkshopIn

SCHOOL = "school-"
"""What settings begin with that keep the pick among a school's ways."""


class SourceSpectrum(Strict):
    """A source's spectrum by a few points (band label → dB), straight over log f between them."""

    id: str
    name: str
    points: dict[str, float] = {}
    of: tuple[str, ...] = ()
    """Of a sum: its parts, by their ids."""
    source: str
    at_km_h: float | None = None
    """The speed its levels are at, where it goes by speed."""
    per_decade_db: float = 0.0
    """How much louder at ten times the speed."""

    def levels(self, speed_km_h: float | None = None) -> Floats:
        """The 21 bands, dB; at a speed where it goes by one."""
        known = sorted((float(k), v) for k, v in self.points.items())
        x, y = zip(*known, strict=True)
        faster = 0.0 if not speed_km_h or not self.at_km_h else self.per_decade_db * math.log10(speed_km_h / self.at_km_h)
        return np.asarray(np.interp(np.log(PREDICTED_HZ), np.log(x), y) + faster)


class Method(Strict):
    """A way of measuring: the repeatability of one reading (standard deviation, dB), and the standard uncertainty that
    repeats taken in one go share (dB)."""

    id: str
    name: str
    repeatability_db: float
    setup_db: float


class Shelf(Strict):
    """Everything a job may name: what is shipped, with what the workshop owns over it."""

    materials: dict[str, Material]
    spectra: dict[str, SourceSpectrum]
    methods: dict[str, Method]
    different_instrument_db: float
    control_setup_db: float
    contexts: tuple[ContextItem, ...]
    rules: tuple[Rule, ...]
    hazards: dict[str, str]
    offers: Offers
    procedures: Procedures
    rooms: Rooms
    look_again: tuple[Look, ...]
    minutes: dict[str, float] = MINUTES
    """House minutes by phase of the work."""
    pace: float = 1.0
    """By what all minutes are multiplied."""
    spare_share: float = SPARE_SHARE
    """Of sheets opened, so many more are bought."""
    settled: dict[str, str] = {}
    """What the workshop picked among schools of the trade, with its reason, by school."""
    used: tuple[UsedBy, ...] = ()
    """What jobs have used of the store."""
    offcuts: tuple[Offcut, ...] = ()
    """Rests the workshop keeps, that no job has taken."""
    habits: Habits = Habits()
    """How the workshop cuts."""
    kind_money: float = KIND_MONEY
    """What each kind of material counts beside the money when plans are compared."""
    charges: WorkshopIn | None = None
    """What the workshop charges."""

    __eq__ = object.__eq__
    __hash__ = object.__hash__
    """One shelf is another only if it is the same one, so that figures kept by it are found at once."""

    def material(self, name: str) -> Material:
        """A material by id; BadInput naming the nearest one when unknown."""
        return known_material(name, self.materials, "material")

    def source(self, name: str, speed_km_h: float | None = None) -> Floats:
        """A source's spectrum at a speed, dB (21,): the energy sum of its parts where it has any; pink noise for none known."""
        spectrum = self.spectra.get(name, self.spectra["pink"])
        if not spectrum.of:
            return spectrum.levels(speed_km_h)
        parts = np.array([self.spectra[x].levels(speed_km_h) for x in spectrum.of])
        return np.asarray(10 * np.log10(np.sum(10 ** (parts / 10), axis=0)))

    def context_items(self, kind: str) -> tuple[ContextItem, ...]:
        """What to note with a round in a kind of job, in order."""
        return tuple(c for c in self.contexts if kind in c.kinds)

    def repeatability(self, method: str) -> float:
        """Repeatability of a method, dB; that of a typed level where the method is unknown."""
        return self.methods.get(method, self.methods["typed"]).repeatability_db

    def setup(self, method: str) -> float:
        """What repeats of a method taken in one go cannot show, dB; that of a typed level where the method is unknown."""
        return self.methods.get(method, self.methods["typed"]).setup_db


@lru_cache(maxsize=8)
def shelf_of(base: Shelf, workshop: WorkshopDocument) -> Shelf:
    """The shipped shelf with what the workshop owns over it; where both have an id, the workshop's counts."""
    own = {r.material.id: r.material for r in workshop.shelf_materials}
    methods = {r.method: Method(id=r.method, name=r.name, repeatability_db=r.repeatability_db, setup_db=r.setup_db)
               for r in workshop.methods}
    templates = {t.id: t for t in (*base.offers.templates, *(r.template for r in workshop.templates))}
    return base.model_copy(update={
        "materials": composed(base.materials | own), "methods": base.methods | methods,
        "offers": base.offers.model_copy(update={"templates": tuple(templates.values())}),
        "minutes": base.minutes | {r.phase: r.minutes for r in workshop.house_minutes},
        "offcuts": workshop.offcuts,
        "settled": {s.name.removeprefix(SCHOOL): s.words for s in workshop.settings if s.name.startswith(SCHOOL)},
        **_charging(workshop.workshop)})


def shelf_charging(base: Shelf, workshop: WorkshopIn) -> Shelf:
    """A shelf under what a workshop charges, how it buys, cuts and how fast it works."""
    return base.model_copy(update=_charging(workshop))


def _charging(workshop: WorkshopIn) -> dict[str, object]:
    return {"charges": workshop, "kind_money": workshop.kind_money, "pace": workshop.pace,
            "spare_share": workshop.spare_percent / 100, "habits": workshop.habits}


@lru_cache(maxsize=2)
def with_used(base: Shelf, used: tuple[UsedBy, ...]) -> Shelf:
    """The shelf with what jobs have used of the store."""
    return base.model_copy(update={"used": used}) if used else base


@lru_cache(maxsize=64)
def shelf_with(base: Shelf, copies: tuple[Material, ...]) -> Shelf:
    """The shelf as a job sees it: the materials it was planned with as they were then, all else as it is."""
    return base.model_copy(update={"materials": composed(base.materials | {m.id: m for m in copies})})
