"""Combined sheets: one material to lay, several layers to compute; its parts are materials of the shelf."""

from __future__ import annotations

from ..family import Family

FAMILY = Family(name="combined", acts="combined")
