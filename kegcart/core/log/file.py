"""The file of a build with what was recorded of it: its design, and the rows of its record. A design file alone is read as well."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Any, Final

from pydantic import AwareDatetime, Field, StringConstraints, ValidationError

from kegcart.core.design import Design, DesignError, problems_of
from kegcart.core.document import Decisions
from kegcart.core.log.life import FORMS, read_entry, stored_form
from kegcart.core.log.record import MOST_VALUES
from kegcart.core.text import Printable
from kegcart.core.text import Remark as LongRemark

FORMAT: Final = "kegcart/build"
VERSION: Final = 1
MOST_ROWS = 20_000
MOST_BYTES = 8_000_000
STEP = "step"
BOUGHT = "bought"
BESIDE: Final = (STEP, BOUGHT)
"""Rows that are no entries of the log: of a step by its act, of a line of the shopping list by its key."""

Key = Annotated[str, StringConstraints(min_length=1, max_length=120), Printable]


class TickData(Decisions):
    """What was recorded of a step."""

    done: bool
    values: Annotated[dict[Annotated[str, Field(max_length=40)], bool | float], Field(max_length=MOST_VALUES)]
    remark: LongRemark = ""
    digest: Annotated[str, Field(max_length=40)] = ""


class BoughtData(Decisions):
    """How many of a line of the shopping list were bought, or how many m."""

    count: Annotated[float, Field(strict=True, ge=0, le=1_000_000)]


OF_ROW: Final[Mapping[str, type[Decisions]]] = {STEP: TickData, BOUGHT: BoughtData}


class RowHead(Decisions):
    """What every row has: its kind, what it is about, when it was stored."""

    kind: Annotated[str, Field(max_length=12)]
    about: Key
    at: AwareDatetime
    data: dict[str, Any]


@dataclass(frozen=True, slots=True)
class RecordRow:
    """A row of a record: the tick of a step (its act), what was bought of a line (its key), or an entry of the log (its id); when it was
    stored, and what it says."""

    kind: str
    about: str
    at: datetime
    data: dict[str, Any]


def file_schema() -> dict[str, Any]:
    """The JSON Schema of the file: the design, and rows of each kind."""
    design = Design.model_json_schema()
    defs = design.pop("$defs") | {"Design": design}
    rows = []
    forms: list[tuple[str, type[Decisions]]] = [*OF_ROW.items(), *FORMS.items()]
    for kind, form in forms:
        data = form.model_json_schema()
        defs |= data.pop("$defs", {})
        data["properties"].pop("kind", None)
        data["required"] = [name for name in data.get("required", []) if name != "kind"]
        head = RowHead.model_json_schema()
        rows.append(
            head | {"title": f"row of {kind}", "properties": head["properties"] | {"kind": {"const": kind}, "data": data}}
        )
    return {
        "title": "A design with what was recorded of it",
        "type": "object",
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "design": {"$ref": "#/$defs/Design"},
            "record": {"type": "array", "maxItems": MOST_ROWS, "items": {"oneOf": rows}},
        },
        "required": ["format", "version", "design"],
        "additionalProperties": False,
        "$defs": defs,
    }


def write_build_file(document: dict[str, Any], rows: Iterable[RecordRow]) -> dict[str, Any]:
    """A design with its record as plain JSON data."""
    record = [{"kind": r.kind, "about": r.about, "at": r.at.isoformat(), "data": r.data} for r in rows]
    return {"format": FORMAT, "version": VERSION, "design": document, "record": record}


def read_build_file(data: Any, today: date) -> tuple[Any, list[RecordRow]]:
    """The design in a file, not read yet, and the rows of its record; of a design file alone there are none.

    Errors: DesignError with the pointer of each problem.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        return data, []
    if data.get("version") != VERSION:
        raise DesignError([("/version", f"this program reads version {VERSION} of a file of a build")])
    if unknown := sorted(data.keys() - {"format", "version", "design", "record"}):
        raise DesignError([(f"/{unknown[0]}", "this field is not known")])
    rows = data.get("record", [])
    if not isinstance(rows, list) or len(rows) > MOST_ROWS:
        raise DesignError([("/record", f"needs a list of at most {MOST_ROWS} rows")])
    return data.get("design"), [read_row(row, f"/record/{n}", today) for n, row in enumerate(rows)]


def read_row(row: Any, at: str, today: date) -> RecordRow:
    """One row of a record. Errors: DesignError with its pointer."""
    try:
        head = RowHead.model_validate(row)
        if (form := OF_ROW.get(head.kind)) is not None:
            return RecordRow(head.kind, head.about, head.at, form.model_validate(head.data).model_dump(mode="json"))
    except ValidationError as error:
        where = at if error.title == RowHead.__name__ else f"{at}/data"
        raise DesignError([(where + pointer, said) for pointer, said in problems_of(error, {})]) from None
    if head.kind not in FORMS:
        raise DesignError([(f"{at}/kind", f"'{head.kind}' is none of {', '.join([*BESIDE, *FORMS])}")])
    try:
        entry = read_entry({"kind": head.kind, **head.data}, today)
    except DesignError as error:
        raise DesignError([(f"{at}/data{pointer}", said) for pointer, said in error.problems]) from None
    return RecordRow(head.kind, head.about, head.at, stored_form(entry))
