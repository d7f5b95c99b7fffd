"""Lists of the assembly as CSV, out and back in: what is bought, what is cut, what is written on labels."""

from typing import Any

from kegcart.core.assembly.cutting import Piece, labels_of
from kegcart.core.assembly.lines import GROUPS, ListLine
from kegcart.core.assembly.shopping import Shopping
from kegcart.core.box.contents import cable_outside
from kegcart.core.table import ColumnField, Problems, TableError, TableProblem, parse_table, read_number, write_csv
from kegcart.core.units import as_builder_has_it, significant

SHOPPING = ("key", "group", "what", "rating", "needed", "unit", "there already", "price of one", "to buy", "cost")
CUTS = (
    "piece",
    "from",
    "to",
    "colour",
    "gauge",
    "cores",
    "count",
    "cut",
    "one end",
    "other end",
    "label at one end",
    "label at the other",
)


def plain(value: float, places: int = 2) -> str:
    """A number for a cell of a table, without trailing zeros."""
    return f"{round(value, places):.{places}f}".rstrip("0").rstrip(".") if places else f"{value:.0f}"


def write_shopping(shopping: Shopping) -> str:
    """The shopping list as CSV; what is cut is in m, as it is decided."""

    def cells(line: ListLine) -> list[Any]:
        price = "" if line.price is None else plain(line.price.number)
        cost = "" if line.cost is None else plain(line.cost.number)
        amounts = [plain(line.need.number, 3), line.unit, plain(line.owned, 3), price, plain(line.buy.number, 3), cost]
        return [line.key, GROUPS[line.group], line.what, line.rating, *amounts]

    return write_csv(list(SHOPPING), (cells(line) for line in shopping.lines))


def read_shopping(text: str, shopping: Shopping) -> list[dict[str, Any]]:
    """The patch that a shopping list asks for: how many are there already, and prices, by the key of each line. A cell left empty changes
    nothing; a price that is the typical one stays that.

    Errors: TableError with line and column.
    """
    known = (
        ColumnField("key", ("key", "line")),
        ColumnField("owned", ("there already", "owned", "have"), {"": 1.0}),
        ColumnField("price", ("price of one", "price", "each"), {"": 1.0}),
    )
    sheet = parse_table(text, list(known))
    at = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if "key" not in at or len(at) < 2:
        raise TableError(
            [TableProblem(1, 1, "needs a column for the key of the line, and one for what is there already or for prices")]
        )
    lines = {line.key: line for line in shopping.lines}
    problems, patch = Problems(), list[dict[str, Any]]()
    for row_line, row in sheet.rows:
        if problems.enough:
            break
        cells = {name: row[i].strip() if i < len(row) else "" for name, i in at.items()}
        line = lines.get(cells["key"])
        if line is None:
            problems.add(row_line, at["key"] + 1, f"no line of the list has the key '{cells['key'][:40]}'")
            continue
        for name, list_name in (("owned", "owned"), ("price", "prices")):
            if not cells.get(name):
                continue
            try:
                value = read_number(cells[name], known[1], "")
            except ValueError as error:
                problems.add(row_line, at[name] + 1, str(error))
                continue
            if value < 0:
                problems.add(row_line, at[name] + 1, "this is at least 0")
            elif (now := line.owned if name == "owned" else line.price.number if line.price else None) is None or abs(
                value - now
            ) > 0.005:
                patch.append({"op": "add", "path": f"/assembly/{list_name}/{line.key}", "value": value})
    if problems:
        raise TableError(problems)
    return patch


def write_cuts(pieces: list[Piece]) -> str:
    """The wire cut list as CSV, lengths in the builder's units."""
    _, own = as_builder_has_it(1, "m")

    def cells(piece: Piece) -> list[Any]:
        length, _ = as_builder_has_it(piece.cut.number, "m")
        ends = [" ".join(filter(None, (end.terminal.label, end.hole))) for end in piece.ends]
        what = [piece.colour, piece.gauge, piece.cores, piece.count, plain(length, 4)]
        return [piece.key, *(end.name for end in piece.ends), *what, *ends, *(end.label for end in piece.ends)]

    return write_csv([f"cut {own}" if column == "cut" else column for column in CUTS], (cells(piece) for piece in pieces))


def write_labels(pieces: list[Piece]) -> str:
    """A line for each label of a wire, for a label printer: its text, the wire it is on and that wire's diameter over its insulation."""
    rows = [
        [label, f"{piece.gauge} {piece.colour}", significant(cable_outside(piece.area_mm2))]
        for piece in pieces
        for label in labels_of(piece)
    ]
    return write_csv(["text", "wire", "outside mm"], rows)
