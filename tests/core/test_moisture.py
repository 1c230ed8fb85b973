"""Glaser's tangents: water condenses where the taut string of vapour pressure touches saturation, and only there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sphagnum.core.schema import parse
from sphagnum.core.stacks.heat import AIR_VAPOUR, Climate, HeatLayer, heat_answer, saturation_pa, through

STEEL, BUTYL = HeatLayer("steel", 0.0008, 50, 1e6), HeatLayer("butyl", 0.002, 0.25, 1e5)
FELT, WOOL = HeatLayer("felt", 0.02, 0.04, 1.5), HeatLayer("wool", 0.05, 0.035, 1.1)
BOARD = HeatLayer("board", 0.0125, 0.25, 8)


def test_of_two_tight_layers_only_the_face_the_vapour_reaches_is_wet() -> None:
    """Steel and butyl both hold vapour back; the straight line lies above saturation between them, and no vapour gets there."""
    found = through([STEEL, BUTYL, FELT], Climate())
    assert found.wet == [2]
    said = heat_answer([STEEL, BUTYL, FELT], Climate()).sentence
    assert "between butyl and felt" in said
    assert "steel" not in said
    # by the straight line both faces would be
    s = np.cumsum([0.0, *(x.thickness_m * x.vapour_mu for x in (STEEL, BUTYL, FELT))])
    outside, inside = 0.8 * float(saturation_pa(-5.0)), 0.5 * float(saturation_pa(20.0))
    straight = outside + (inside - outside) * s / s[-1]
    assert (straight[1:3] > saturation_pa(found.temperatures_c[1:3])).all()


def test_a_wall_by_hand() -> None:
    """Brick, wool, board at −5 and 20 °C: R, the temperature behind the wool, and the face that is wet."""
    brick = HeatLayer("brick", 0.1, 0.8, 10)
    found = through([brick, HeatLayer("wool", 0.1, 0.035, 1.1), BOARD], Climate())
    whole = 0.04 + 0.125 + 0.1 / 0.035 + 0.05 + 0.13
    assert found.resistance == pytest.approx(whole)
    behind = -5 + 25 * (0.04 + 0.125) / whole
    assert found.temperatures_c[1] == pytest.approx(behind)
    assert 0.5 * float(saturation_pa(20.0)) > float(saturation_pa(behind))
    assert found.wet == [1]
    dry = through([brick, HeatLayer("wool", 0.1, 0.035, 1.1), HeatLayer("foil", 0.0002, 0.2, 1e7), BOARD], Climate())
    assert dry.wet == []  # a tight layer on the warm side


def test_inside_a_thick_layer_is_looked_at_too() -> None:
    """A thick layer between two damp airs has its tangent inside it; its face to the damp room is wet as well."""
    humid = parse(Climate, {"inside_c": 20.0, "inside_humidity": 0.95, "outside_c": -15.0, "outside_humidity": 0.95})
    found = through([HeatLayer("wood", 0.3, 0.13, 40)], humid)
    assert found.wet == [0.5, 1.0]
    assert "inside wood" in heat_answer([HeatLayer("wood", 0.3, 0.13, 40)], humid).sentence


def pulled_taut(vapour: np.ndarray, saturation: np.ndarray, outside: float, inside: float) -> np.ndarray:
    """The taut string by brute force: at every face the lowest of all lines between two points it may be fastened at."""
    held = np.array([min(outside, saturation[0]), *saturation[1:-1], min(inside, saturation[-1])])
    n = len(held)
    return np.array([min(np.interp(vapour[i], [vapour[j], vapour[k]], [held[j], held[k]])
                         for j in range(i + 1) for k in range(i, n) if j < k) for i in range(n)])


layers = st.builds(HeatLayer, st.just("x"), st.sampled_from([0.002, 0.01, 0.05]), st.sampled_from([0.25, 1.0, 5.0]),
                   st.sampled_from([1.0, 20.0, 1000.0]))


@given(stack=st.lists(layers, min_size=2, max_size=5), outside=st.floats(-20, 10), humidity=st.floats(0.3, 0.9))
@example([HeatLayer("x", 0.05, 0.25, 1000.0), HeatLayer("x", 0.002, 0.25, 1.0), HeatLayer("x", 0.01, 0.25, 1000.0)], 0.0, 0.5)
def test_the_hull_is_the_string_pulled_taut(stack: list[HeatLayer], outside: float, humidity: float) -> None:
    climate = parse(Climate, {"outside_c": outside, "inside_humidity": humidity})
    found = through(stack, climate)
    vapour = np.cumsum([0.0, *(x.thickness_m * x.vapour_mu for x in stack)])
    saturation = np.asarray(saturation_pa(found.temperatures_c))
    pulled = pulled_taut(vapour, saturation, climate.outside_humidity * float(saturation_pa(climate.outside_c)),
                         climate.inside_humidity * float(saturation_pa(climate.inside_c)))
    # vapour flows in faster than out where water stays
    flow = np.diff(pulled) * AIR_VAPOUR / np.diff(vapour)
    wet = [i for i in range(1, len(vapour) - 1) if flow[i] - flow[i - 1] > 1e-3 * np.abs(flow).max() + 1e-18]
    assert set(wet) <= set(found.wet)
    clear = [i for i in found.wet if 0 < i < len(vapour) - 1 and saturation[int(i)] - pulled[int(i)] > 1.0]
    assert clear == []
