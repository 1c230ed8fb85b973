"""What is compared from below comes out as if all of it had been predicted."""

from __future__ import annotations

import os

import numpy as np
import pytest

from core.test_plan_sense import from_presets
from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.outlook import QUANTITY
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import Floats, Ints
from sphagnum.core.planning.plan import weights_db
from sphagnum.core.planning.problem import unbeaten_rows
from sphagnum.core.schema import parse
from sphagnum.core.stages.plan.candidates import Layers, alternative_of
from sphagnum.core.stages.plan.compared import Compared, Tried
from sphagnum.core.stages.plan.options import Seeker
from sphagnum.core.stages.plan.sought import goal_of
from sphagnum.core.stages.plan.unit import Wish
from sphagnum.core.stages.plan.units import units_of
from sphagnum.demo import hood, van

SWEEP = int(os.environ.get("SWEEP_SENSE", "0"))


@pytest.mark.parametrize("seed", range(8))
def test_rows_known_from_below_give_the_front_of_all_rows_whatever_is_struck(seed: int) -> None:
    rng = np.random.default_rng(seed)
    true = np.round(rng.random((400, 6)) * 9) if seed % 2 else rng.random((400, 6))
    below = true.copy()
    below[:, :3] *= rng.uniform(0.5, 1.0, (400, 1))
    known = rng.random(400) < 0.1
    below[known] = true[known]
    asked: list[int] = []

    def look(places: Ints) -> Floats:
        asked.extend(places.tolist())
        return true[places]
    left = Compared(below, known, look)
    for _ in range(12):
        front = left.front()
        alive = np.flatnonzero(np.isfinite(true).all(axis=1))
        best = true[alive[unbeaten_rows(true[alive])]]
        assert sorted(map(tuple, true[front])) == sorted(map(tuple, best))
        struck = rng.choice(front, 5, replace=False)
        left.strike(struck.tolist())
        true[struck] = np.inf
    assert len(asked) == len({*asked})  # each at most once
    assert not known[asked].any()
    assert len(asked) < 400 - known.sum()


def _alike(layers: Layers) -> tuple[int, ...]:
    return tuple(id(x) for x in layers)


JOBS = {"van": van, "hood": hood, **{f"{k} {n}": lambda n=n, k=k: from_presets(n, k)
                                     for n in range(3, 3 + SWEEP) for k in ("vehicle", "enclosure")}}


@pytest.mark.parametrize("name", JOBS)
@pytest.mark.broad
def test_no_two_parts_do_more_together_than_is_reckoned_with(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every damping under every lining of a job's kits, predicted, against what is known of both before."""
    seen: list[tuple[int, int]] = []
    left_out: list[int] = []
    joined = Seeker.joined

    def checked(self: Seeker, dampings: Tried, linings: Tried) -> object:
        left, stack = joined(self, dampings, linings)
        below, before = left.rows.copy(), self.predicted
        front = left.front()
        asked = self.predicted - before
        stacks = [stack(i) for i in range(len(below))]
        full = self.tried(stacks)
        true = np.where(self._resonates(full.effects)[:, None], np.inf, full.rows)
        assert (below[:, :3] <= true[:, :3] * (1 + 1e-12)).all()
        kept = np.isfinite(true).all(axis=1)
        assert np.allclose(below[kept, 3:], true[kept, 3:], rtol=1e-9, atol=1e-9)
        assert set(front) == set(Compared(true, np.ones(len(true), dtype=bool), lambda _: true).front())
        # what was left out unseen resonates where the noise is strong, as Build then says
        there = {*map(_alike, stacks)}
        out = [(*d, *x) for d in dampings.stacks for x in linings.stacks if _alike((*d, *x)) not in there
               and sum(y.thickness_mm for y in (*d, *x)) <= self.how.depth_mm]
        assert self._resonates(self.tried(out).effects).all()
        for one in out[::97]:
            assert "low-resonance" in self.against(alternative_of(self.patch, one), 0.0, by_curve=True)
        left_out.append(len(out))
        seen.append((asked, len(below)))
        return left, stack
    monkeypatch.setattr(Seeker, "joined", checked)
    job = JobFigures(parse(JobDocument, JOBS[name]()), shelf())
    width = 1.0 if SWEEP else 0.3
    wish = Wish(weights_db(QUANTITY[goal_of(job).quantity]), frozenset(), frozenset(), width=lambda _before, _all: width)
    every = [*units_of(job, wish)]
    assert every
    assert len(seen) > 1
    asked, every_one = sum(n for n, _ in seen), sum(n for _, n in seen) + sum(left_out)
    assert asked < 0.7 * every_one
    assert sum(left_out) > 50 or name not in ("van", "hood")
