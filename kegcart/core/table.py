"""Tables as people paste them: CSV with any of the usual separators, decimal commas, headers in any order.

What cannot be read is named by line and column; a table with a problem gives no rows at all.
"""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from statistics import median

MAX_ROWS = 20_000


@dataclass(frozen=True, slots=True)
class TableProblem:
    """What is wrong where: line and column counted from 1, and a sentence."""

    line: int
    column: int
    text: str

    def __str__(self) -> str:
        return f"line {self.line}, column {self.column}: {self.text}"


class TableError(ValueError):
    """A table that cannot be read."""

    def __init__(self, problems: Sequence[TableProblem]) -> None:
        super().__init__("; ".join(str(p) for p in problems[:5]))
        self.problems = list(problems)


@dataclass(frozen=True, slots=True)
class ColumnField:
    """A column that is known: the words its header may hold (the first is its name), and the units it may be in, as multiples of the base unit."""

    key: str
    words: tuple[str, ...]
    units: Mapping[str, float] = field(default_factory=dict)
    usual: tuple[float, float] | None = None
    """range of the usual values in the base unit, by which an unnamed unit is guessed"""


@dataclass(slots=True)
class Column:
    """A column as found: its header, the field it was taken for, and the unit its figures are in."""

    header: str
    field: str | None
    unit: str = ""
    guessed: bool = False


@dataclass(slots=True)
class ParsedTable:
    """A table as read: its columns, and its cells as text with the line each row stands in."""

    columns: list[Column]
    rows: list[tuple[int, list[str]]]
    has_header: bool


def normal(text: str) -> str:
    """A header as it is compared: small letters, digits and the signs of units; runs of anything else are one space."""
    return re.sub(r"[^a-z0-9Ωµ%]+", " ", text.strip().lower().replace("ω", "Ω").replace("Ω", "Ω").replace("ohm", "Ω")).strip()


def split(text: str) -> list[tuple[int, list[str]]]:
    """The rows of a table by line number. Separator: tab, semicolon, or comma, whichever splits the lines most alike."""
    text = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    lines = [line for line in text.split("\n") if line.strip()]
    if not lines:
        raise TableError([TableProblem(1, 1, "the table is empty")])
    counts = {mark: [line.count(mark) for line in lines[:50]] for mark in ("\t", ";", ",", "|")}
    # A comma is taken for the separator last: it may be a decimal mark.
    separator = next((mark for mark in ("\t", ";", "|") if min(counts[mark]) >= 1), ",")
    if separator == "," and min(counts[","]) == 0 and max(counts[","]) == 0:
        separator = "\t"  # one column
    reader = csv.reader(io.StringIO(text), delimiter=separator, skipinitialspace=True)
    rows = []
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                rows.append((reader.line_num, [cell.strip() for cell in row]))
            if len(rows) > MAX_ROWS:
                raise TableError([TableProblem(reader.line_num, 1, f"a table may have {MAX_ROWS} rows at most")])
    except csv.Error as error:
        raise TableError([TableProblem(reader.line_num, 1, f"this row cannot be split into columns: {error}")]) from None
    if not rows:
        raise TableError([TableProblem(1, 1, "the table is empty")])
    return rows


_NUMBER = re.compile(
    r"([-+]?(?:\d{1,3}(?:[ .,']\d{3})+(?:[.,]\d+)?|\d+[.,]?\d*|[.,]\d+)(?:e[-+]?\d{1,3})?)\s*([^\d\s].*)?", re.IGNORECASE
)


def number(text: str) -> tuple[float, str]:
    """A number with decimal point or comma, and the unit written behind it. Errors: ValueError."""
    match = _NUMBER.fullmatch(text.strip().replace("\N{NO-BREAK SPACE}", " ").replace("−", "-"))
    if not match:
        raise ValueError(f"'{text[:40]}' is not a number")
    digits = match[1].replace(" ", "").replace("'", "")
    if "," in digits and "." in digits:  # the last one is the decimal mark
        mark = max(digits.rfind(","), digits.rfind("."))
        digits = digits[:mark].replace(",", "").replace(".", "") + "." + digits[mark + 1 :]
    return float(digits.replace(",", ".")), (match[2] or "").strip()


def header_unit(header: str, units: Mapping[str, float]) -> str:
    """The unit that a header names, as in `capacity (mAh)` or `R_mOhm`."""
    words = normal(header).split()
    for unit in sorted(units, key=len, reverse=True):
        if normal(unit) in words:
            return unit
    return ""


def is_number(text: str) -> bool:
    """Whether a cell of the table reads as a number."""
    try:
        number(text)
    except ValueError:
        return False
    return True


def parse_table(
    text: str, fields: Sequence[ColumnField], chosen: Mapping[int, tuple[str | None, str]] | None = None
) -> ParsedTable:
    """A table with its columns matched to fields.

    chosen: what the builder decided for a column (from 0): field or None, and unit. The rest is guessed from headers.
    Errors: TableError.
    """
    rows = split(text)
    first = rows[0][1]
    has_header = not any(is_number(cell) for cell in first) or (
        len(rows) > 1 and sum(map(is_number, rows[1][1])) > sum(map(is_number, first))
    )
    width = max(len(cells) for _, cells in rows)
    headers = [*first, *[""] * (width - len(first))] if has_header else [""] * width
    body = rows[1:] if has_header else rows
    columns = [Column(header or f"column {i + 1}", None) for i, header in enumerate(headers)]
    taken: set[str] = set()
    if has_header:
        for known in fields:
            best = next((c for c in columns if c.field is None and matches(c.header, known)), None)
            if best is not None:
                best.field = known.key
                taken.add(known.key)
    else:
        for column, known in zip(columns, fields, strict=False):
            column.field, column.guessed = known.key, True
    for i, (key, unit) in (chosen or {}).items():
        if i < len(columns):
            columns[i].field, columns[i].unit, columns[i].guessed = key, unit, False
    by_key = {f.key: f for f in fields}
    for i, column in enumerate(columns):
        if column.field is not None and not column.unit:
            known = by_key[column.field]
            column.unit, guessed = guess_unit(known, column.header, [cells[i] for _, cells in body if i < len(cells)])
            column.guessed = column.guessed or guessed
    return ParsedTable(columns, body, has_header)


def matches(header: str, known: ColumnField) -> bool:
    """Whether a header names a field, by whole words."""
    text = f" {normal(header)} "
    return any(f" {normal(word)} " in text for word in known.words)


def guess_unit(known: ColumnField, header: str, cells: Iterable[str]) -> tuple[str, bool]:
    """The unit of a column: as its header says, else the one in which its middle value is usual. True where guessed."""
    if not known.units:
        return "", False
    if named := header_unit(header, known.units):
        return named, False
    values, suffixes = [], []
    for cell in cells:
        try:
            value, suffix = number(cell)
        except ValueError:
            continue
        if suffix:
            suffixes.append(suffix)
        else:
            values.append(abs(value))
    if suffixes and not values:  # every cell says its own unit
        return next((u for u in known.units if normal(u) == normal(suffixes[0])), next(iter(known.units))), False
    if known.usual and values:
        middle = median(values)
        low, high = known.usual
        for unit, scale in known.units.items():
            if low <= middle * scale <= high:
                return unit, True
    return next(iter(known.units)), True


def read_number(cell: str, known: ColumnField, unit: str) -> float:
    """A cell's figure in the field's base unit; a unit written in the cell goes before the column's. Errors: ValueError."""
    value, suffix = number(cell)
    if suffix:
        unit = next((u for u in known.units if normal(u) == normal(suffix)), "")
        if not unit:
            raise ValueError(f"'{suffix[:20]}' is not a unit for this column (known: {', '.join(known.units)})")
    return round(value * known.units[unit], 9)


def write_csv(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """Rows as CSV text. Text that a spreadsheet would run as a formula is quoted with an apostrophe."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow(
            ["" if v is None else f"'{v}" if isinstance(v, str) and v.startswith(("=", "+", "@")) else v for v in row]
        )
    return out.getvalue()
