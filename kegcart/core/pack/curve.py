"""The builder's own discharge, read from a table of charge taken (or left) and voltage."""

from typing import Any

from kegcart.core.table import ColumnField, Problems, TableError, TableProblem, parse_table, read_number

MOST_POINTS = 60
FIELDS = (
    ColumnField("soc", ("soc", "state of charge", "charge", "percent", "left"), {"%": 0.01, "": 1.0}),
    ColumnField("ah", ("ah", "mah", "capacity", "taken", "discharged", "q"), {"Ah": 1.0, "mAh": 0.001}, (0.3, 400)),
    ColumnField("v", ("v", "voltage", "volt", "volts", "mv", "ocv"), {"V": 1.0, "mV": 0.001}, (1, 60)),
)
_BY_KEY = {f.key: f for f in FIELDS}


def read_curve(text: str, current_a: float = 0.0, cells: int = 1) -> dict[str, Any]:
    """A curve for the design from a table.

    text: columns of voltage, and of either charge taken (Ah) or state of charge (% or share).
    current_a: current of one cell while it was taken, 0 if rested between the points.
    cells: cells in series that were measured together.
    Errors: TableError with line and column.
    """
    sheet = parse_table(text, FIELDS)
    at = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if not sheet.has_header and len(sheet.columns) == 2:  # charge taken, voltage
        sheet.columns[0].field, sheet.columns[1].field = "ah", "v"
        sheet.columns[0].unit, sheet.columns[1].unit = "Ah", "V"
        at = {"ah": 0, "v": 1}
    if "v" not in at or not {"soc", "ah"} & set(at):
        raise TableError([TableProblem(1, 1, "needs columns of voltage, and of Ah taken or state of charge")])
    by = "soc" if "soc" in at else "ah"
    values: list[tuple[float, float]] = []
    problems = Problems()
    for line, row in sheet.rows:
        pair = []
        for key in (by, "v"):
            i = at[key]
            try:
                pair.append(read_number(row[i] if i < len(row) else "", _BY_KEY[key], sheet.columns[i].unit))
            except ValueError as error:
                problems.add(line, i + 1, f"{sheet.columns[i].header}: {error}")
        if problems.enough:
            break
        if len(pair) == 2:
            values.append((pair[0], pair[1] / cells))
    if problems:
        raise TableError(problems)
    if len(values) < 3:
        raise TableError([TableProblem(1, 1, f"a curve wants three points at least; there are {len(values)}")])
    if by == "ah":
        whole = max(q for q, _ in values)
        if whole <= 0:
            raise TableError([TableProblem(1, at["ah"] + 1, "no charge was taken in any row")])
        values = [(1 - q / whole, v) for q, v in values]
    return {"current_a": current_a, "points": [{"soc": round(s, 4), "v": round(v, 4)} for s, v in thinned(sorted(set(values)))]}


def thinned(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """At most so many points, spread over the charge, first and last kept; of points at one charge the last."""
    unique = sorted(dict(points).items())
    if len(unique) <= MOST_POINTS:
        return unique
    step = (len(unique) - 1) / (MOST_POINTS - 1)
    return [unique[round(i * step)] for i in range(MOST_POINTS)]
