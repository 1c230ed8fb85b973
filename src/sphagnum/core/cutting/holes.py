"""Small pieces laid in the holes of larger ones, so that hole and piece are moved as one."""

from __future__ import annotations

from shapely import Polygon
from shapely.geometry.base import BaseGeometry

from .greedy import lay_part, less
from .parts import STRICTEST, Part


def filled(parts: list[Part], gap_mm: float) -> list[Part]:
    """The parts that are laid by themselves; some hold others in their holes, and turn only as all in them may.

    A part that is laid in a hole is not turned over with its host: a host with others inside is not mirrored.
    """
    hosts = sorted((p for p in parts if p.shape.interiors), key=lambda p: -p.shape.area)
    left = sorted((p for p in parts if not p.shape.interiors), key=lambda p: -p.shape.area)
    out: list[Part] = []
    for host in hosts:
        for hole in host.shape.interiors:
            whole = Polygon(hole)
            free: BaseGeometry = whole.buffer(-gap_mm, join_style="mitre") if gap_mm else whole
            for part in list(left):
                if free.is_empty or part.shape.area > free.area:
                    continue
                laid = lay_part(part, free)
                if laid is not None:
                    left.remove(part)
                    turns = min(host.rotate, part.rotate, key=STRICTEST.index)
                    host = host._replace(inside=(*host.inside, laid), rotate=turns, mirror=False)
                    free = less(free, laid, gap_mm)
        out.append(host)
    return out + left
