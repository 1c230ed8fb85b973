"""Set-ups that scatter more than assumed: anywhere in a job they tell its own scatter, and intervals hold by it."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.cells import cell
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.readings import ENOUGH_DOF, setup_of
from sphagnum.core.figures.rounds import compare_rounds
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.comparison import SETUP_DOF, Comparison
from sphagnum.core.schema import parse
from sphagnum.demo import rows

TABLE_DB = 0.5
"""What the table has for a meter in a vehicle."""


def figures(cells: dict[tuple[int, int], list[list[float]]]) -> JobFigures:
    """A job of readings by (round, place): set-ups, each of repeats taken in one go."""
    readings = [{"round_id": r, "position_id": p, "condition_id": 1, "level_db": level, "afresh": bool(k) and n == 0}
                for (r, p), set_ups in cells.items() for k, repeats in enumerate(set_ups) for n, level in enumerate(repeats)]
    return JobFigures(parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Set-ups", "method": "meter-driving"},
        "positions": rows({"name": "Ear"}, {"name": "Bay"}, {"name": "Bench"}), "conditions": rows({"name": "80 km/h"}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Done", "follows_id": 1}),
        "goals": rows({"position_id": 1, "condition_id": 1, "aim": "change by", "value": 3}), "readings": rows(*readings)}),
        shelf())


def compared(job: JobFigures) -> Comparison:
    found = compare_rounds(job, *job.doc.rounds, 1, 1, "LAeq")
    assert found is not None
    return found


HEAD = {(1, 1): [[70.0, 70.1, 69.9]], (2, 1): [[69.0, 69.1, 68.9]]}
"""Two rounds at the goal's place, each taken in one go."""


def test_set_ups_at_any_place_and_round_pool_to_the_jobs_own_scatter() -> None:
    assert setup_of(figures(HEAD)) == (TABLE_DB, SETUP_DOF, False)
    far = {(1, 2): [[60.0], [62.0], [61.0]], (2, 3): [[55.0, 55.2], [57.1, 56.9]]}
    own = setup_of(figures({**HEAD, **far}))
    means = [np.array([60.0, 62.0, 61.0]), np.array([55.1, 57.0])]
    pooled = np.sqrt(sum(((m - m.mean()) ** 2).sum() for m in means) / 3)
    assert (own.db, own.dof, own.own) == (pytest.approx(pooled, abs=0.02), 3, True)
    assert ENOUGH_DOF == 3


def test_few_set_ups_count_only_where_they_scatter_more_than_the_table() -> None:
    small, large = ({**HEAD, (1, 2): [[60.0], [60.0 + d]]} for d in (0.2, 3.0))
    assert setup_of(figures(small)) == (TABLE_DB, SETUP_DOF, False)  # a small scatter of two may be luck
    assert setup_of(figures(large)) == (pytest.approx(3 / np.sqrt(2), abs=0.01), 1, True)
    enough = {**HEAD, (1, 2): [[60.0], [60.1], [60.0], [60.1]]}
    assert setup_of(figures(enough)).db < 0.1  # from three degrees of freedom on the job's own stands in, smaller too


def test_the_scatter_stands_in_the_budget_once_however_often_it_is_used() -> None:
    far = {(1, 2): [[60.0], [62.0], [61.0], [63.0]]}
    job = figures({**HEAD, **far})
    own = setup_of(job)
    lines = [x for x in compared(job).budget if x.source.startswith("set-up")]
    assert [x.standard_uncertainty_db for x in lines] == [own.db, own.db]
    # both rounds lean on one estimate of 3 degrees of freedom: together they have 3, not 6
    assert sum(x.degrees_of_freedom for x in lines) == pytest.approx(own.dof)
    alone = {**far, (1, 1): HEAD[1, 1], (2, 1): [[69.0], [69.4], [68.8]]}
    lines = [x for x in compared(figures(alone)).budget if x.source.startswith("set-up")]
    assert [x.degrees_of_freedom for x in lines] == [setup_of(figures(alone)).dof]
    assert cell(job, 1, 1, 1, "LAeq").half_width_db > cell(figures(HEAD), 1, 1, 1, "LAeq").half_width_db
    assert any(f"{own.db:g} dB stand in" in c.text for c in compared(job).cautions)


@pytest.mark.parametrize("scatter_db", [1.0, 2.0, 4.0])
def test_intervals_hold_and_quieter_is_seldom_false_at_scatters_of_one_two_and_four(scatter_db: float) -> None:
    """Nothing changed between two rounds taken in one go each; 0.5 dB stood in for 1 dB, and "quieter" was false in 13 %."""
    rng = np.random.default_rng(int(10 * scatter_db))

    def taken(level: float, set_ups: int, repeats: int) -> list[list[float]]:
        return [[round(float(level + b + 0.3 * rng.standard_normal()), 1) for _ in range(repeats)]
                for b in scatter_db * rng.standard_normal(set_ups)]
    held, false, trials = 0, 0, 400
    for _ in range(trials):
        cells: dict[tuple[int, int], Any] = {(1, 1): taken(70, 1, 3), (2, 1): taken(70, 1, 3), (1, 2): taken(60, 3, 2),
                                             (2, 2): taken(60, 2, 2), (1, 3): taken(65, 3, 1)}
        got = compared(figures(cells))
        held += got.interval95_db[0] <= 0 <= got.interval95_db[1]
        false += got.verdict == "quieter"
    assert 0.92 <= held / trials <= 0.98
    assert false / trials <= 0.045
