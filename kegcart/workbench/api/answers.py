"""Answers written from assessments, as JSON bytes."""

import re
from collections.abc import Sequence
from dataclasses import asdict
from functools import lru_cache
from typing import Any, Literal

from django.http import HttpResponse
from pydantic_core import to_json

from kegcart.core.assess import Assessment, write_assessment
from kegcart.core.finding import write_finding
from kegcart.core.loads.sizing import running_by_step
from kegcart.core.next_step import next_step
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.wire_table import rows
from kegcart.core.table import Column, TableProblem
from kegcart.workbench import jobs, services
from kegcart.workbench.api.changes import changes
from kegcart.workbench.api.schemas import WireOut
from kegcart.workbench.assessing import Elsewhere, assessed_text
from kegcart.workbench.models import StoredDesign


def answer(data: Any, status: int = 200) -> HttpResponse:
    """Plain data as a JSON response; much cheaper than validating what the core just made."""
    return answer_json(to_json(data, inf_nan_mode="null"), status)


def answer_json(text: bytes, status: int = 200) -> HttpResponse:
    """What is JSON already."""
    return HttpResponse(text, content_type="application/json", status=status)


def stem_of(build: str) -> str:
    """A build's name as the beginning of the name of a file."""
    return re.sub(r"[^a-z0-9]+", "-", build.lower()).strip("-") or "design"


def attached(content: str | bytes, kind: str, build: str, ending: str, inline: bool = False) -> HttpResponse:
    """A file to keep, named after its build; `inline` lets the browser show it."""
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f'{"inline" if inline else "attachment"}; filename="{stem_of(build)}.{ending}"'
    return response


def job_of(kind: str, key: str) -> jobs.Job[Any, Any, Any]:
    """Long work of a kind by its key. Errors: MissingError where it is not known."""
    found = jobs.find(kind, key)
    if found is None:
        raise services.MissingError
    return found


def effect_data(effect: services.Effect) -> dict[str, Any]:
    """What a change brings: new findings with their working, and the watched figures."""
    return {"new": [write_finding(f) for f in effect.new], "changes": effect.changes}


def wires(assessment: Assessment) -> list[dict[str, Any]]:
    """The rows of the wire table, as far as the screen has them from nowhere else."""
    return [{name: getattr(row, name) for name in WireOut.model_fields} for row in rows(assessment.power)]


def day(assessment: Assessment) -> dict[str, Any]:
    """The day by steps: what is switched on, and the running sum at the sockets."""
    steps = assessment.loads.day
    running = running_by_step(assessment.loads.demands.values(), steps)
    return {"edges_h": steps.edges_h, "on": steps.on, "running_w": running}


@lru_cache(maxsize=24)
def _worked_out(text: bytes, elsewhere: Elsewhere) -> dict[str, Any]:
    with assessed_text(text, elsewhere) as a:
        return {
            "assessment": write_assessment(a) | {"next": asdict(next_step(a))},
            "diagram": draw_path(a.power).write(),
            "wires": wires(a),
            "day": day(a),
            "plugged": {key: [d.key for d in held] for key, held in a.power.plugged.items()},
        }


def worked_out(document: dict[str, Any], elsewhere: dict[str, str]) -> dict[str, Any]:
    """All that follows from a document, as the screen needs it; kept, as the same decisions always give the same."""
    return _worked_out(to_json(document), tuple(elsewhere.items()))


def design_data(design: StoredDesign, is_last: bool = False) -> dict[str, Any]:
    """A design as the screen needs it: document, what follows from it, and where undo leads; see `services.Changed`."""
    assert design.head is not None
    redo = None if is_last else services.redo_target(design)
    return {
        "id": design.pk,
        "revision": design.revision,
        "document": design.document,
        **worked_out(design.document, design.elsewhere),
        "history": {
            "undo": (design.head.label or "last change") if design.head.parent_id else None,
            "redo": redo and (redo.label or "change"),
        },
    }


def changed_data(changed: services.Changed, asked: Literal["whole", "changes"]) -> dict[str, Any]:
    """A design after a change, as asked for: whole, or as it differs from what stood before."""
    after = design_data(changed.design, changed.is_last)
    before = changed.before
    if asked == "whole" or before is None:
        return after
    was = {"revision": before.revision, "document": before.document, **worked_out(before.document, before.elsewhere)}
    return changes(was, after)


def table_data(columns: Sequence[Column], problems: Sequence[TableProblem]) -> dict[str, Any]:
    """How a table was read: its columns as matched, and what stands in the way."""
    return {
        "columns": [{"header": c.header, "field": c.field, "unit": c.unit, "guessed": c.guessed} for c in columns],
        "problems": [{"line": p.line, "column": p.column, "text": p.text} for p in problems],
    }
