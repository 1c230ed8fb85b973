"""How sure a prediction is where properties of what lies there were measured in the shop: narrowed to first order in each."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Final

import numpy as np

from ..job.shelf import Shelf
from ..levels.decibels import a_weighted
from ..materials.model import Material
from ..stacks.predict import Prediction

TYPICAL: Final = {"loss_factor": 1.5, "youngs_dynamic_mpa": 1.5, "flow_resistivity_pa_s_m2": 1.5}
"""By what factor a property of a kind of material is known that nobody measured (standard uncertainty; judged)."""
MEASURED: Final = 1.1
"""The same of one that was."""
LEAST_SHARE: Final = 0.6
"""What the models themselves miss: no measured property takes off more of an expected error."""


def narrowed(
    found: Prediction, materials: Iterable[Material], shelf: Shelf, predicted: Callable[[Shelf], Prediction]
) -> Prediction:
    """A prediction with its expected error less what was uncertain of the properties that were measured in the shop.

    ``predicted`` gives the same on another shelf. e² less (∂R/∂ln p · ln u_typical)² and with (∂R/∂ln p · ln u_measured)², R by
    what it leaves of pink noise, A-weighted.
    """
    error2 = found.expected_error_db**2
    for material in materials:
        for name, factor in TYPICAL.items():
            value = getattr(material.properties, name)
            if value is None or material.sources.get(name) != "measured":
                continue
            other = material.model_copy(update={"properties": material.properties.model_copy(update={name: value * MEASURED})})
            there = predicted(shelf.model_copy(update={"materials": {**shelf.materials, material.id: other}}))
            slope = (_leaves(there) - _leaves(found)) / math.log(MEASURED)
            error2 += (slope * math.log(MEASURED)) ** 2 - (slope * math.log(factor)) ** 2
    least = LEAST_SHARE * found.expected_error_db
    error = max(math.sqrt(max(error2, 0.0)), least)
    return found if error >= found.expected_error_db else found.model_copy(update={"expected_error_db": round(error, 2)})


def _leaves(found: Prediction) -> float:
    return a_weighted(-np.array(found.transmission_loss_db))
