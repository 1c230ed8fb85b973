"""Writes the contract of the interface, docs/schemas/ and the page's table of units from the code: none is written twice."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import Any

os.environ["SPHAGNUM_CONTRACT"] = "yes"  # before the routes are loaded

from flask_openapi3.openapi import OpenAPI

from sphagnum.api.app import create_app
from sphagnum.core.worded import IMPERIAL
from sphagnum.exchange.contracts import INPUTS, OUTPUTS
from sphagnum.store.connect import open_store

ROOT = Path(__file__).parent.parent
SCHEMAS = "docs/schemas"


def contracts() -> dict[str, Any]:
    """Every generated document by its path."""
    app = create_app(open_store("sqlite://"))
    assert isinstance(app, OpenAPI)
    out: dict[str, Any] = {"src/sphagnum/api/openapi.json": app.api_doc}
    for name, model in INPUTS.items():
        out[f"{SCHEMAS}/{name}.input.json"] = model.model_json_schema()
    for name, model in OUTPUTS.items():
        out[f"{SCHEMAS}/{name}.output.json"] = model.model_json_schema(mode="serialization")
    out["web/src/parts/imperial.json"] = {name: list(unit) for name, unit in IMPERIAL.items()}
    return out


def main() -> int:
    """Writes them; with --check says which are not those of the code, and exits with 1 where one is not."""
    texts = {p: json.dumps(b, indent=1, ensure_ascii=False, sort_keys=True) + "\n" for p, b in contracts().items()}
    stale = [p for p, text in texts.items() if not (ROOT / p).exists() or (ROOT / p).read_text("utf-8") != text]
    if "--check" in sys.argv:
        print("\n".join(stale))
        return 1 if stale else 0
    for path in stale:
        (ROOT / path).write_text(texts[path], "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
