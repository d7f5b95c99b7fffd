"""What if the loads grow: the design with every size as it now stands, held against larger loads."""

from typing import Any

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import read_design, write_design


def as_built(assessment: Assessment) -> dict[str, Any]:
    """The design as plain data with every automatic choice pinned at its present value."""
    document = write_design(assessment.design)
    for figure in assessment.figures.values():
        if figure.choice != "auto" or not figure.pointer:
            continue
        here: Any = document
        *steps, last = figure.pointer.split("/")[1:]
        for step in steps:
            here = here[step]
        if isinstance(here.get(last), dict):
            continue  # a choice of several fields, such as a cell link, which follows from the others
        value: Any = figure.key or figure.value
        if not isinstance(value, str) and value == int(value):
            value = int(value)
        here[last] = value
    return document


def with_growth(assessment: Assessment, growth: float) -> Assessment:
    """The design as built, with every load grown by a share (0.4 is 40 % more)."""
    document = as_built(assessment)
    for key, load in document["loads"]["items"].items():
        load["watts"] = min(assessment.loads.demands[key].watts.number * (1 + growth), 20_000)
        load["measured"] = None
    document["brief"]["growth"] = 0.0
    return assess(read_design(document), assessment.elsewhere)
