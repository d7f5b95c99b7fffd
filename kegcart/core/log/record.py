"""What is recorded of a build: rows beside the design, never part of it. Undo leaves them, and a copy of a build starts without."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from kegcart.core.assembly.plan.acts import Act, Measure
from kegcart.core.units import read_quantity

Value = float | bool
"""A figure in the unit of its measure, or whether what was looked at was right."""
MOST_VALUES = 12


@dataclass(frozen=True, slots=True)
class StepTick:
    """What was recorded last of a step: whether it was done, what was measured, a remark, on which figures of the design it rested (their
    digest), and when."""

    act: str
    done: bool
    values: Mapping[str, Value] = field(default_factory=dict)
    remark: str = ""
    digest: str = ""
    at: str = ""


Record = Mapping[str, StepTick]
"""What was recorded last of each step, by its act."""


def read_value(measure: Measure, typed: object) -> Value | None:
    """What was typed for a measure: a quantity in any of its units, or yes or no; None where nothing is.

    Errors: ValueError with a sentence.
    """
    if typed is None or typed == "":
        return None
    if not measure.unit:
        if not isinstance(typed, bool):
            raise ValueError("needs yes or no")
        return typed
    if isinstance(typed, bool):
        raise ValueError(f"needs a figure in {measure.unit}")
    return read_quantity(typed, measure.unit) if isinstance(typed, str) else float(typed)  # type: ignore[arg-type]


def read_values(act: Act, typed: Mapping[str, object]) -> dict[str, Value]:
    """What was typed for the measures of an act.

    Errors: ValueError with a sentence that names the measure.
    """
    known = {measure.key: measure for measure in act.measures}
    out: dict[str, Value] = {}
    for key, value in typed.items():
        measure = known.get(key)
        if measure is None:
            raise ValueError(f"'{key[:40]}' is nothing that is measured at this step")
        try:
            read = read_value(measure, value)
        except (ValueError, TypeError) as error:
            raise ValueError(f"{measure.label}: {error}") from None
        if read is not None:
            out[key] = read
    return out
