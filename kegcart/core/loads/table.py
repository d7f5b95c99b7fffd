"""Loads as a table: pasted from a spreadsheet, and written as CSV."""

from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from kegcart.core.loads.document import MOST_LOADS, Load, Loads
from kegcart.core.loads.supplies import SUPPLIES
from kegcart.core.reference import load_kinds
from kegcart.core.table import Column, ColumnField, Problems, TableProblem, parse_table, read_number, write_csv
from kegcart.core.units import clock, read_quantity

HEADER = ("name", "supply", "kind", "count", "watts", "surge ×", "power factor", "hours", "on min", "off min")
FIELDS = (
    ColumnField("name", ("name", "load", "appliance", "device", "item", "what", "gerät", "last")),
    ColumnField("supply", ("supply", "fed by", "feed", "on", "versorgung")),
    ColumnField("kind", ("kind", "type", "art")),
    ColumnField("count", ("count", "number", "qty", "quantity", "pieces", "anzahl", "n"), {"": 1.0}),
    ColumnField("watts", ("watts", "watt", "power", "w", "kw", "leistung"), {"W": 1.0, "kW": 1000.0}, (0.5, 20_000)),
    ColumnField("surge", ("surge", "start", "surge x", "inrush"), {"×": 1.0, "x": 1.0}),
    ColumnField("power_factor", ("power factor", "pf", "cos phi"), {"": 1.0}),
    ColumnField("hours", ("hours", "when", "time", "times", "window", "windows", "uhrzeit", "stunden")),
    ColumnField("on_min", ("on min", "on minutes"), {"min": 1.0}),
    ColumnField("off_min", ("off min", "off minutes"), {"min": 1.0}),
)
_BY_KEY = {f.key: f for f in FIELDS}
_SUPPLY_WORDS: dict[str, str] = {
    **{facts.label.lower(): str(key) for key, facts in SUPPLIES.items()},
    **{str(key): str(key) for key in SUPPLIES},
    "mains": "ac",
    "230 v": "ac",
    "120 v": "ac",
    "12 v": "dc_12v",
    "12v": "dc_12v",
    "dc": "dc_12v",
    "battery": "pack",
}


@dataclass(slots=True)
class LoadTable:
    """A table of loads as read: the columns as matched, and the loads, or what stands in the way."""

    columns: list[Column]
    loads: list[dict[str, Any]]
    problems: list[TableProblem]


def read_loads(text: str) -> LoadTable:
    """Loads from a table. A table with any problem gives no loads. Errors: TableError where it is no table at all."""
    sheet = parse_table(text, FIELDS)
    by_column = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if not {"name", "watts"} <= set(by_column):
        problem = TableProblem(1, 1, "needs columns for name and watts: name them in the first line")
        return LoadTable(sheet.columns, [], [problem])
    if len(sheet.rows) > MOST_LOADS:
        problem = TableProblem(sheet.rows[MOST_LOADS][0], 1, f"a design holds {MOST_LOADS} loads at most")
        return LoadTable(sheet.columns, [], [problem])
    loads, problems = [], Problems()
    for line, row in sheet.rows:
        values: dict[str, Any] = {}
        for key, i in by_column.items():
            cell = row[i] if i < len(row) else ""
            if not cell:
                continue
            try:
                put(values, str(key), cell, sheet.columns[i].unit)
            except ValueError as error:
                problems.add(line, i + 1, f"{sheet.columns[i].header}: {error}")
        if "on_min" in values or "off_min" in values:
            values["cycle"] = {"on_min": values.pop("on_min", None), "off_min": values.pop("off_min", None)}
        if problems.enough:
            break
        if problems and problems[-1].line == line:
            continue
        try:
            loads.append(Load.model_validate(values).model_dump(mode="json"))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            at = by_column.get(str(first["loc"][0]) if first["loc"] else "name", 0)
            problems.add(line, at + 1, first["msg"].removeprefix("Value error, "))
    return LoadTable(sheet.columns, [] if problems else loads, problems)


def put(values: dict[str, Any], key: str, cell: str, unit: str) -> None:
    """Put one cell of the table into a load. Errors: ValueError with a sentence."""
    if key == "name":
        values["name"] = cell
    elif key == "supply":
        word = cell.lower()
        if word not in _SUPPLY_WORDS:
            raise ValueError(f"'{cell[:20]}' is no supply (known: {', '.join(f.label for f in SUPPLIES.values())})")
        values["supply"] = _SUPPLY_WORDS[word]
    elif key == "kind":
        kinds = {row.label.lower(): k for k, row in load_kinds().items()} | {k: k for k in load_kinds()}
        if cell.lower() not in kinds:
            raise ValueError(f"'{cell[:20]}' is no kind of load (known: {', '.join(load_kinds())})")
        values["kind"] = kinds[cell.lower()]
    elif key == "hours":
        values["windows"] = read_windows(cell)
    elif key == "count":
        count = read_number(cell, _BY_KEY[key], unit)
        if count != int(count):
            raise ValueError(f"{cell} is not a whole number")
        values["count"] = int(count)
    else:
        values[key] = read_number(cell, _BY_KEY[key], unit)


def read_windows(text: str) -> dict[str, Any]:
    """Windows as people write them: `9-12, 14:30-16:30`, or a bare number of hours, which begin at 9:00."""
    windows = {}
    parts = [p.strip() for p in text.replace(";", ",").replace("–", "-").split(",") if p.strip()]
    for i, part in enumerate(parts, 1):
        if "-" in part:
            begin, end = part.split("-", 1)
            windows[f"w{i}"] = {"from_h": read_quantity(begin, "clock"), "to_h": read_quantity(end, "clock")}
        else:
            hours = read_quantity(part, "h")
            if len(parts) > 1 or not 0 < hours <= 24:
                raise ValueError(f"'{part[:20]}' are no hours: write 9-12, or a number of hours up to 24")
            windows["w1"] = {"from_h": 0, "to_h": 24} if hours > 15 else {"from_h": 9, "to_h": 9 + hours}
    return windows


def write_loads(loads: Loads, watts: dict[str, float]) -> str:
    """The loads as CSV. watts: running power of one unit by id, as it was sized."""
    rows = []
    for key, load in loads.items.items():
        hours = ", ".join(f"{clock(w.from_h)}-{'24:00' if w.to_h == 24 else clock(w.to_h)}" for w in load.windows.values())
        cycle = (load.cycle.on_min, load.cycle.off_min) if load.cycle else (None, None)
        rows.append(
            [
                load.name,
                SUPPLIES[load.supply].label,
                load_kinds()[load.kind].label,
                load.count,
                round(watts[key], 4),
                load.surge,
                load.power_factor,
                hours,
                *cycle,
            ]
        )
    return write_csv(HEADER, rows)
