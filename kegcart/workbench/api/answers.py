"""Answers written from assessments, as JSON bytes."""

from typing import Any

from django.http import HttpResponse
from pydantic_core import to_json

from kegcart.core.assess import Assessment, write_assessment
from kegcart.core.figure import write_figure
from kegcart.core.loads.sizing import running_by_step
from kegcart.core.power.diagram import lay_out
from kegcart.workbench import services
from kegcart.workbench.models import Design

SHELF_FIGURES = (
    "loads/energy_day",
    "power/available",
    "power/current",
    "pack/capacity",
    "pack/v_nom",
    "pack/mass",
    "power/energy_share",
)


def answer(data: Any, status: int = 200) -> HttpResponse:
    """Plain data as a JSON response; much cheaper than validating what the core just made."""
    return HttpResponse(to_json(data, inf_nan_mode="null"), content_type="application/json", status=status)


def diagram(assessment: Assessment) -> dict[str, Any]:
    return lay_out(assessment.power.network, assessment.power.shunt is not None).write()


def day(assessment: Assessment) -> dict[str, Any]:
    """The day by steps: what is switched on, and the running sum at the sockets."""
    steps = assessment.loads.day
    running = running_by_step(assessment.loads.demands.values(), steps)
    return {"edges_h": steps.edges_h, "on": steps.on, "running_w": running}


def design_data(design: Design) -> dict[str, Any]:
    """A design as the screen needs it: document, what follows from it, and where undo leads."""
    assert design.head is not None
    assessment = services.assessed(design.head.document)
    redo = services.redo_target(design)
    return {
        "id": design.pk,
        "revision": design.revision,
        "document": design.head.document,
        "assessment": write_assessment(assessment),
        "diagram": diagram(assessment),
        "day": day(assessment),
        "plugged": {key: [d.key for d in held] for key, held in assessment.power.plugged.items()},
        "history": {
            "undo": (design.head.label or "last change") if design.head.parent_id else None,
            "redo": redo and (redo.label or "change"),
        },
    }


def shelf_item(design: Design) -> dict[str, Any]:
    """A card of the shelf."""
    assert design.head is not None
    assessment = services.assessed(design.head.document)
    return {
        "id": design.pk,
        "revision": design.revision,
        "name": design.head.document["name"],
        "purpose": design.head.document["brief"]["purpose"],
        "demo": design.demo,
        "updated_at": design.updated_at.isoformat(),
        "verdict": assessment.verdict,
        "figures": {path: write_figure(assessment.figures[path], top=True) for path in SHELF_FIGURES},
        "diagram": diagram(assessment),
        "worst": assessment.findings[0].text if assessment.findings else "",
    }
