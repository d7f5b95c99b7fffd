"""Tables as people paste them: CSV with any of the usual separators, decimal commas, headers in any order.

What cannot be read is named by line and column; a table with a problem gives no rows at all.
"""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from statistics import median
from typing import Any

from kegcart.core.text import UNPRINTABLE

MAX_ROWS = 20_000
MAX_COLUMNS = 200
MOST_PROBLEMS = 100
"""Reading ends after so many: the rest shows when these are mended."""
LONGEST_NUMBER = 60


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

    def __reduce__(self) -> tuple[Any, ...]:
        """It goes whole from one process to another."""
        return TableError, (self.problems,)


class Problems(list[TableProblem]):
    """What is wrong in a table, as it is read."""

    def add(self, line: int, column: int, text: str) -> None:
        self.append(TableProblem(line, column, text))

    @property
    def enough(self) -> bool:
        """Whether reading on would tell no more than can be read."""
        return len(self) >= MOST_PROBLEMS


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
    """The rows of a table by the line they begin in. Separator: tab, semicolon, or comma, whichever splits the lines most alike.

    Errors: TableError where it is empty, too large, or holds a quotation mark that swallows rows or what cannot be printed.
    """
    text = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    if found := UNPRINTABLE.search(text):
        line, column = text.count("\n", 0, found.start()) + 1, found.start() - text.rfind("\n", 0, found.start())
        raise TableError([TableProblem(line, column, f"the character U+{ord(found[0]):04X} cannot be printed: take it out")])
    # What stands in quotation marks separates nothing, ends of lines in it neither.
    lines = [line for line in re.sub(r'"[^"]*"', "", text).split("\n") if line.strip()]
    if not text.strip():
        raise TableError([TableProblem(1, 1, "the table is empty")])
    counts = {mark: [line.count(mark) for line in lines[:50]] or [0] for mark in ("\t", ";", ",", "|")}
    # A comma is taken for the separator last: it may be a decimal mark.
    separator = next((mark for mark in ("\t", ";", "|") if min(counts[mark]) >= 1), ",")
    if separator == "," and min(counts[","]) == 0 and max(counts[","]) == 0:
        separator = "\t"  # one column
    reader = csv.reader(io.StringIO(text), delimiter=separator, skipinitialspace=True)
    rows: list[tuple[int, list[str]]] = []
    line = 1
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                if reader.line_num > line:
                    unswallowed(row, line, reader.line_num, separator, len(rows[0][1]) if rows else len(row), text)
                rows.append((line, [unguarded(cell) for cell in row]))
            if len(row) > MAX_COLUMNS:
                raise TableError([TableProblem(line, MAX_COLUMNS + 1, f"a table may have {MAX_COLUMNS} columns at most")])
            if len(rows) > MAX_ROWS:
                raise TableError([TableProblem(line, 1, f"a table may have {MAX_ROWS} rows at most")])
            line = reader.line_num + 1
    except csv.Error as error:
        raise TableError([TableProblem(line, 1, f"this row cannot be split into columns: {error}")]) from None
    if not rows:
        raise TableError([TableProblem(1, 1, "the table is empty")])
    return rows


def unswallowed(row: list[str], line: int, end: int, separator: str, width: int, text: str) -> None:
    """A row over several lines is text with line ends in it. Errors: TableError where a stray quotation mark makes one of several rows."""
    open_at = next(i for i, cell in enumerate(row) if "\n" in cell)
    never_closed = False
    if end >= text.rstrip("\n").count("\n") + 1:
        try:
            list(
                csv.reader(
                    io.StringIO("\n".join(text.split("\n")[line - 1 :])), delimiter=separator, skipinitialspace=True, strict=True
                )
            )
        except csv.Error as error:
            never_closed = "end of data" in str(error)
    has_rows = width > 1 and any(part.count(separator) >= width - 1 for part in row[open_at].split("\n")[1:])
    if never_closed or has_rows:
        until = "is never closed" if never_closed else f"is closed in line {end} only"
        said = f"a quotation mark is opened here that {until}: it swallows the rows between. Take it out, or close it"
        raise TableError([TableProblem(line, open_at + 1, said)])


TRIGGERS = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula.

Source: practice against injection of formulas through CSV."""

PLAIN_NUMBER = re.compile(r"[-+]?([0-9]+(\.[0-9]*)?|\.[0-9]+)(e[-+]?[0-9]+)?", re.IGNORECASE)


def guarded(value: object) -> object:
    """A value as it is written: text that a spreadsheet would run gets an apostrophe before it; numbers stay numbers."""
    if not isinstance(value, str) or not value.startswith((*TRIGGERS, "'")) or PLAIN_NUMBER.fullmatch(value):
        return value
    return f"'{value}"


def unguarded(cell: str) -> str:
    """A cell without blanks around it, or as it was before it was guarded."""
    is_guarded = cell[:1] == "'" and cell[1:] and cell[1] in (*TRIGGERS, "'")
    return cell[1:] if is_guarded else cell.strip()


_NUMBER = re.compile(
    r"([-+]?(?:\d{1,3}(?:[ .,']\d{3})+(?:[.,]\d+)?|\d+[.,]?\d*|[.,]\d+)(?:e[-+]?\d{1,3})?)\s*([^\d\s].*)?", re.IGNORECASE
)


def number(text: str) -> tuple[float, str]:
    """A number with decimal point or comma, and the unit written behind it. Errors: ValueError."""
    if len(text) > LONGEST_NUMBER:
        raise ValueError(f"'{text[:20]}…' is too long for a number")
    match = _NUMBER.fullmatch(text.strip().replace("\N{NO-BREAK SPACE}", " ").replace("−", "-"))
    if not match:
        raise ValueError(f"'{text[:40]}' is not a number")
    digits = match[1].replace(" ", "").replace("'", "")
    if "," in digits and "." in digits:  # the last one is the decimal mark
        mark = max(digits.rfind(","), digits.rfind("."))
        digits = digits[:mark].replace(",", "").replace(".", "") + "." + digits[mark + 1 :]
    return float(digits.replace(",", ".")), (match[2] or "").strip()


def header_unit(header: str, units: Mapping[str, float]) -> str:
    """The unit that a header names, as in `capacity (mAh)` or `R_mOhm`; `in` is one only at its end: not in `length in m`."""
    words = normal(header).split()
    words = [word for n, word in enumerate(words, 1) if word != "in" or n == len(words)]
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


def read_date(text: str) -> date | None:
    """A date as year-month-day or day.month.year. Errors: ValueError."""
    if not text:
        return None
    try:
        if "." in text:
            day, month, year = (int(part) for part in text.split("."))
            return date(year, month, day)
        return date.fromisoformat(text[:10])
    except ValueError:
        raise ValueError(f"'{text[:20]}' is no date: write it as 2026-03-14 or 14.3.2026") from None


def write_csv(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """Rows as CSV text that no spreadsheet runs, and that reading takes back as it was."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow(["" if value is None else guarded(value) for value in row])
    return out.getvalue()
