"""Writes docs/openapi.json and docs/schemas/ from the types that parse the input, so that none is written twice."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from sphagnum.api.app import create_app
from sphagnum.exchange.commands import INPUTS, OUTPUTS
from sphagnum.store.connect import open_store

DOCS = Path(__file__).parent.parent / "docs"


def contracts() -> dict[str, Any]:
    """Every generated document by its path under docs/."""
    out: dict[str, Any] = {"openapi.json": create_app(open_store("sqlite://")).api_doc}
    for name, model in INPUTS.items():
        out[f"schemas/{name}.input.json"] = model.model_json_schema()
    for name, model in OUTPUTS.items():
        out[f"schemas/{name}.output.json"] = model.model_json_schema(mode="serialization")
    return {path: json.loads(json.dumps(body)) for path, body in out.items()}


if __name__ == "__main__":
    for path, body in contracts().items():
        (DOCS / path).write_text(json.dumps(body, indent=1, ensure_ascii=False, sort_keys=True) + "\n", "utf-8")
