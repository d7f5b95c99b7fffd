"""What if the loads grow: the design with every size as it now stands, held against larger loads."""

from collections.abc import Iterator
from typing import Any

import jsonpointer

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import read_design, write_design


def as_built(assessment: Assessment) -> dict[str, Any]:
    """The design as plain data with every automatic choice pinned at its present value."""
    document = write_design(assessment.design)
    for pointer, value in pins_of(assessment):
        jsonpointer.set_pointer(document, pointer, value)
    return document


def pins_of(assessment: Assessment) -> Iterator[tuple[str, str | float]]:
    """Every automatic choice of a design: the pointer of its decision, and what it is at present, as the design writes it."""
    document = write_design(assessment.design)
    for figure in assessment.figures.values():
        if figure.choice != "auto" or not figure.pointer:
            continue
        if isinstance(jsonpointer.resolve_pointer(document, figure.pointer, None), dict):
            continue  # a choice of several fields, such as a cell link, which follows from the others
        value = figure.key or figure.value
        yield figure.pointer, int(value) if not isinstance(value, str) and value == int(value) else value


def with_growth(assessment: Assessment, growth: float) -> Assessment:
    """The design as built, with every load grown by a share (0.4 is 40 % more)."""
    document = as_built(assessment)
    for key, load in document["loads"]["items"].items():
        load["watts"] = min(assessment.loads.demands[key].watts.number * (1 + growth), 20_000)
        load["measured"] = None
    document["brief"]["growth"] = 0.0
    return assess(read_design(document), assessment.elsewhere)
