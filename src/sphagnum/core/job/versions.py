"""Job files of earlier versions, read as today's: pure functions from one body to the next."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from ..errors import BadInput
from ..schema import numbered

Body = dict[str, Any]
NEWEST = 6

_KEY = re.compile(r"^(?:surface (?P<surface>\d+):(?P<phase>[a-z -]+)(?::(?P<layer>\d+):.*)?"
                  r"|rattle (?P<rattle>\d+)|job:(?P<whole>.+))$")


def _events(steps: Any) -> list[Body]:
    """Ticks with the step baked into a text, as events that refer to rows. Layers were told by place, from 0."""
    out: list[Body] = []
    if not isinstance(steps, list):
        raise BadInput("is no list", "steps", "give a list of steps")
    for number, step in enumerate(steps, start=1):
        found = _KEY.match(str(step.get("key"))) if isinstance(step, dict) else None
        if found is None:
            raise BadInput("a step belongs to nothing that is known", f"steps[{number - 1}].key", "leave the step out")
        surface, layer, rattle = found["surface"], found["layer"], found["rattle"]
        out.append({
            "id": number, "version": 1, "phase": found["phase"] or found["whole"] or "cure rattles",
            "surface_id": int(surface) if surface else None, "layer": str(int(layer) + 1) if layer else "",
            "rattle_id": int(rattle) if rattle else None, "what": "done" if step.get("done") else "note",
            "text": step.get("text", ""), "minutes": step.get("minutes"), "note": step.get("note", "")})
    return out


def _from_1(body: Body) -> Body:
    steps = body.pop("steps", [])
    known = {name: {r.get("id") for r in body.get(name) or [] if isinstance(r, dict)} for name in ("surfaces", "rattles")}
    events = [e for e in _events(steps) if (e["surface_id"] is None or e["surface_id"] in known["surfaces"])
              and (e["rattle_id"] is None or e["rattle_id"] in known["rattles"])]
    return {**body, "step_events": events}


def _from_2(body: Body) -> Body:
    """Nothing moved: since then a file carries the materials it names, and what was promised."""
    return body


def _from_3(body: Body) -> Body:
    """What was planned stood for all that would lie there; now what stands stays, but for what is taken out."""
    surfaces = {s.get("id"): s for s in body.get("surfaces") or [] if isinstance(s, dict)}
    for row in body.get("alternatives") or []:
        if isinstance(row, dict) and "takes_out" not in row:
            row["takes_out"] = present_ids(surfaces.get(row.get("surface_id"), {}))
    return body


def present_ids(surface: Body) -> list[str]:
    """The ids of what lies on a surface, as they are given to those that have none."""
    present = numbered(surface.get("present") or [])
    return [str(x["id"]) for x in present if isinstance(x, dict)] if isinstance(present, list) else []


def _from_4(body: Body) -> Body:
    """Nothing moved: since then a file carries fixings, own steps, and more of what happened to a step."""
    return body


def _from_5(body: Body) -> Body:
    """Nothing moved: since then a file carries how long rooms ring, builds, and ways round a wall."""
    return body


STEPS: dict[int, Callable[[Body], Body]] = {1: _from_1, 2: _from_2, 3: _from_3, 4: _from_4, 5: _from_5}


def upgraded(body: Body, version: int) -> Body:
    """The body of a job file of ``version`` as one of the newest. BadInput for a version nobody released."""
    if version not in (*STEPS, NEWEST):
        raise BadInput("the job file is of another version", "format_version", f"this program reads versions 1 to {NEWEST}")
    for n in range(version, NEWEST):
        body = STEPS[n](body)
    return body
