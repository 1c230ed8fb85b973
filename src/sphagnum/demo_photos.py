"""Pictures for the made-up van, drawn for show: bare steel as it was found, and the same place with what was laid on it."""

from __future__ import annotations

import io
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from .core.job.document import Photo
from .store.files import FileStore

SIZE = (960, 720)


class Scene(NamedTuple):
    """A place of the van: its number among the surfaces, what is said of it, ribs across and up it (shares), and a hole."""

    surface_id: int
    caption: str
    across: tuple[float, ...]
    up: tuple[float, ...]
    hole: tuple[float, float, float]


SCENES = (
    Scene(1, "Left arch", (0.3, 0.62), (0.5,), (0.82, 0.74, 0.05)),
    Scene(2, "Rear door, inner skin", (0.5,), (0.3, 0.7), (0.24, 0.5, 0.08)),
    Scene(3, "Bulkhead, from the bay", (0.25, 0.5, 0.75), (0.6,), (0.62, 0.28, 0.04)),
)


def photographs(files: FileStore, first_round: int, last_round: int) -> tuple[Photo, ...]:
    """Each place before and after, kept among the files."""
    rows: list[Photo] = []
    for i, scene in enumerate(SCENES):
        for when, of_round in (("before", first_round), ("after", last_round)):
            file = files.put(io.BytesIO(_drawn(scene, when == "after", i)), ".jpg")
            rows.append(Photo.model_validate({
                "id": len(rows) + 1, "version": 1, "file": file, "surface_id": scene.surface_id, "round_id": of_round,
                "when": when, "caption": f"{scene.caption}, drawn for show"}))
    return tuple(rows)


def _drawn(scene: Scene, laid: bool, seed: int) -> bytes:
    """A JPEG of a panel with ribs and a hole; ``laid``: damping in its fields."""
    w, h = SIZE
    picture = Image.new("RGB", SIZE, (128, 133, 139))
    draw = ImageDraw.Draw(picture)
    xs, ys = ([0.04, *edges, 0.96] for edges in (scene.across, scene.up))
    for a, b in pairwise(xs):
        for c, d in pairwise(ys):
            field = (a * w + 16, c * h + 16, b * w - 16, d * h - 16)
            draw.rounded_rectangle(field, 26, fill=(146, 151, 156), outline=(96, 101, 108), width=5)
            if laid:
                inner = (field[0] + 22, field[1] + 22, field[2] - 22, field[3] - 22)
                draw.rounded_rectangle(inner, 8, fill=(186, 189, 190), outline=(70, 70, 68), width=3)
                for k in range(int(inner[0]), int(inner[2]), 26):
                    along = (k, inner[1] + 4, min(k + inner[3] - inner[1], inner[2]), inner[3] - 4)
                    draw.line(along, fill=(170, 173, 175), width=2)
    x, y, r = scene.hole[0] * w, scene.hole[1] * h, scene.hole[2] * w
    draw.ellipse((x - r, y - r, x + r, y + r), fill=(28, 27, 26), outline=(84, 88, 92), width=6)
    for k in range(8):
        cx, cy = (0.04 + 0.92 * k / 7) * w, 0.97 * h
        draw.ellipse((cx - 6, cy - 6, cx + 6, cy + 6), fill=(52, 52, 52))
    soft = np.asarray(picture.filter(ImageFilter.GaussianBlur(1.6)), dtype=float)
    lit = np.linspace(1.12, 0.72, w)[None, :, None] * np.linspace(1.06, 0.86, h)[:, None, None]
    grain = np.random.default_rng(seed).normal(0, 5, (h, w, 1))
    out = io.BytesIO()
    Image.fromarray(np.clip(soft * lit * (1.0, 0.97, 0.9) + grain, 0, 255).astype(np.uint8)).save(out, "JPEG", quality=80)
    return out.getvalue()
