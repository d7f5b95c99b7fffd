"""The life of a build as CSV, out and back in."""

from collections.abc import Callable, Mapping
from datetime import date
from typing import Any

from pydantic_core import to_json

from kegcart.core.design import DesignError
from kegcart.core.log.life import FORMS, Entry, EntryKind, Life, read_entry
from kegcart.core.table import ColumnField, ParsedTable, Problems, TableError, TableProblem, parse_table, read_number, write_csv

NUMBERS = {
    "energy_wh": ColumnField("energy_wh", ("energy", "wh", "kwh"), {"Wh": 1.0, "kWh": 1000.0}, (20, 100_000)),
    "capacity_ah": ColumnField("capacity_ah", ("capacity", "ah", "mah"), {"Ah": 1.0, "mAh": 0.001}),
    "resistance_mohm": ColumnField("resistance_mohm", ("resistance", "mΩ", "mohm"), {"mΩ": 1.0, "Ω": 1000.0}),
    "cell_c": ColumnField("cell_c", ("cells", "temperature"), {"°C": 1.0}),
}
TEXTS = {
    "on": ColumnField("on", ("date", "day", "on")),
    "kind": ColumnField("kind", ("kind", "what it is")),
    "entry": ColumnField("entry", ("entry",)),
    "what": ColumnField("what", ("what",)),
    "was": ColumnField("was", ("out", "was")),
    "now": ColumnField("now", ("in", "now")),
    "visit": ColumnField("visit", ("visit",)),
    "place": ColumnField("place", ("place",)),
    "fault": ColumnField("fault", ("mends", "fault")),
    "field": ColumnField("field", ("figure", "field")),
    "value": ColumnField("value", ("value",)),
    "part": ColumnField("part", ("part",)),
    "called": ColumnField("called", ("called",)),
    "figures": ColumnField("figures", ("figures",)),
    "of": ColumnField("of", ("of",)),
    "remark": ColumnField("remark", ("remark", "remarks", "note")),
}
HEADER = {
    "entry": "entry",
    "on": "date",
    "kind": "kind",
    "energy_wh": "energy (Wh)",
    "capacity_ah": "capacity (Ah)",
    "resistance_mohm": "resistance (mΩ)",
    "cell_c": "cells (°C)",
    "what": "what",
    "was": "out",
    "now": "in",
    "visit": "visit",
    "place": "place",
    "fault": "mends",
    "field": "figure",
    "value": "value",
    "part": "part",
    "called": "called",
    "figures": "figures",
    "of": "of",
    "remark": "remark",
}
"""The columns of the table as it is written, by the field that each holds."""
KINDS = {kind: form for kind, form in FORMS.items() if kind != "photo"}
"""What stands in the table: a photo is no row of one."""
OTHERWISE: EntryKind = "use"
"""What a row is that says no kind: the display of a meter, written off trip by trip."""


def write_life_csv(life: Life) -> str:
    """Every entry but the photos as a row, the oldest first."""

    def cells(item: str, kind: EntryKind, data: Mapping[str, Any]) -> list[Any]:
        row = {**data, "entry": item, "kind": kind}
        return [exact(row.get(field)) for field in HEADER]

    return write_csv(list(HEADER.values()), (cells(e.item, e.kind, e.data) for e in life if e.kind in KINDS))


def exact(value: Any) -> Any:
    """A figure as it is read back the same; anything else as it is."""
    if isinstance(value, dict):
        return to_json(value).decode() if value else ""
    return f"{value:.10g}" if isinstance(value, float) else value


def read_life_csv(text: str, today: date, complete: Callable[[Entry], Entry] = lambda entry: entry) -> list[tuple[str, Entry]]:
    """The entries of a table, each with the id that it names; empty where it names none. A row without a kind is a use. complete: adds what
    stands in the design to an entry; its DesignError is named at the row.

    A table with any problem gives none. Errors: TableError with line and column of each.
    """
    sheet = parse_table(text, [*TEXTS.values(), *NUMBERS.values()])
    at = {column.field: i for i, column in enumerate(sheet.columns) if column.field}
    if not sheet.has_header or "on" not in at:
        raise TableError([TableProblem(1, 1, "the first line names the columns: a date, and an energy or another figure")])
    out, problems = [], Problems()
    for line, row in sheet.rows:
        try:
            item, entry = read_row(sheet, at, row, today)
            out.append((item, complete(entry)))
        except DesignError as error:
            for pointer, said in error.problems:
                field = pointer.strip("/")
                problems.add(line, at.get(field, at["on"]) + 1, f"{HEADER.get(field, field)}: {said}")
        if problems.enough:
            break
    if problems:
        raise TableError(problems)
    return out


def read_row(sheet: ParsedTable, at: Mapping[str, int], row: list[str], today: date) -> tuple[str, Entry]:
    """One row as an entry with the id it names. Errors: DesignError."""
    cell = {field: row[i] if i < len(row) else "" for field, i in at.items()}
    kind = kind_of(cell.get("kind", ""))
    data: dict[str, Any] = {"kind": kind}
    for field in FORMS[kind].model_fields.keys() - {"kind"}:
        if not (text := cell.get(field, "")):
            continue
        data[field] = text
        if field in NUMBERS:
            try:
                data[field] = read_number(text, NUMBERS[field], sheet.columns[at[field]].unit)
            except ValueError as error:
                raise DesignError([(f"/{field}", str(error))]) from None
    return cell.get("entry", "")[:40], read_entry(data, today)


def kind_of(text: str) -> EntryKind:
    """The kind that a row says, by its key or by its word. Errors: DesignError."""
    said = text.strip().lower()
    for kind, form in KINDS.items():
        if said in (kind, form.title):
            return kind
    if said:
        raise DesignError([("/kind", f"'{text[:40]}' is none of {', '.join(KINDS)}")])
    return OTHERWISE
