"""Prints published against predicted, and with --write puts the tables into docs/models.md between their marks."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from fit import errors as unrounded_errors
from published import ROOT, Case, all_cases, checks, predicted

MODELS = ROOT / "docs" / "models.md"
START, END = "<!-- tables: written by make validate -->", "<!-- end of tables -->"


def tables() -> str:
    """Both tables as Markdown, with mean and largest error."""
    cases = all_cases()
    got = predicted(cases)
    errors = np.array([g - c.value for c, g in zip(cases, got, strict=True)])
    seen = np.array(["recalled" not in c.source for c in cases])
    lines = ["| construction | | published | predicted | error | where from |", "| --- | --- | ---: | ---: | ---: | --- |"]
    lines += [f"| {c.name} | {c.rating} | {c.value:.4g} | {g:.4g} | {e:+.3g} | {c.source} |"
              for c, g, e in zip(cases, got, errors, strict=True)]
    size = np.abs(errors)
    lines += ["",
              f"{len(cases)} constructions: mean absolute error {size.mean():.2f} dB, largest {size.max():.1f} dB, mean error "
              f"{errors.mean():+.2f} dB. Of the {int(seen.sum())} whose value was seen in its source: "
              f"mean {size[seen].mean():.2f} dB, largest {size[seen].max():.1f} dB.", "",
              by_family(cases), "",
              "| beyond walls | expected | computed | unit | tolerance | against |", "| --- | ---: | ---: | --- | ---: | --- |"]
    lines += [f"| {c.name} | {c.expected:.4g} | {c.got:.4g} | {c.unit} | {c.tolerance:.2g} | {c.source} |" for c in checks()]
    return "\n".join(lines)


def by_family(cases: list[Case]) -> str:
    """How far each family is off before anything is rounded, in a sentence."""
    off = unrounded_errors(cases)
    names = dict.fromkeys(c.family for c in cases)
    each = ", ".join(f"{n} {off[[c.family == n for c in cases]].mean():+.1f}" for n in names)
    return f"Before rounding: mean absolute error {np.abs(off).mean():.2f} dB; mean error by family, dB: {each}."


def main() -> None:
    text = tables()
    print(text)
    if "--write" in sys.argv:
        page = MODELS.read_text("utf-8")
        before, after = page.split(START)[0], page.split(END)[1]
        Path(MODELS).write_text(f"{before}{START}\n{text}\n{END}{after}", "utf-8")


if __name__ == "__main__":
    main()
