"""The cell rack: measured cells read from a table, and which of them are rejects, with the reason."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from statistics import median
from typing import Annotated, Any

from pydantic import StringConstraints

from kegcart.core.document import Decisions
from kegcart.core.pack.document import CellLabel, CellVoltage, ChemistryKey, MeasuredCapacity, MeasuredResistance, ResistanceBy
from kegcart.core.reference import cell_types, chemistries, constant
from kegcart.core.table import Column, ColumnField, Problems, TableProblem, parse_table, read_date, read_number
from kegcart.core.text import Printable


class Measured(Decisions):
    """One measured cell. Capacity in Ah, resistance in mΩ, voltages in V.

    Its one shape and one set of limits: for the rack as stored and asked for, its tables, and the cells built into designs.
    """

    label: CellLabel = ""
    format: Annotated[str, StringConstraints(strip_whitespace=True, max_length=20), Printable] = ""
    chemistry: ChemistryKey = "nmc"
    capacity_ah: MeasuredCapacity | None = None
    rated_ah: MeasuredCapacity | None = None
    resistance_mohm: MeasuredResistance | None = None
    resistance_by: ResistanceBy = "1khz"
    resting_v: CellVoltage | None = None
    resting_on: date | None = None
    later_v: CellVoltage | None = None
    later_on: date | None = None
    source: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), Printable] = ""
    remarks: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300), Printable] = ""
    damaged: bool = False


_SHAPE = Measured.model_json_schema()["properties"]


def limits_of(name: str) -> Mapping[str, Any]:
    """The limits of a field of a measured cell, as a JSON schema says them: `maximum`, `maxLength`, and so on."""
    shape: Mapping[str, Any] = _SHAPE[name]
    return next((s for s in shape.get("anyOf", ()) if s.get("type") != "null"), shape)


@dataclass(frozen=True, slots=True)
class RejectLimits:
    """Where a cell is rejected; None where the typical limit stands."""

    capacity_share: float = field(default_factory=lambda: constant("reject_capacity"))
    resistance_multiple: float = field(default_factory=lambda: constant("reject_resistance"))
    arrival_v: float = field(default_factory=lambda: constant("reject_arrival"))
    drop_v: float = field(default_factory=lambda: constant("reject_drop"))


OVER_V = 0.05
"""So far above what its chemistry is charged to no cell rests; less may be the meter."""
DROP_DAYS = 14
"""The loss of resting voltage is judged as over so many days."""

AMPS = {"Ah": 1.0, "mAh": 0.001}
OHMS = {"mΩ": 1.0, "Ω": 1000.0}
VOLTS = {"V": 1.0, "mV": 0.001}

FIELDS = (
    ColumnField("label", ("label", "cell", "id", "name", "number", "no", "nr", "zelle", "etikett")),
    ColumnField("rated_ah", ("rated capacity", "rated", "nominal", "nennkapazität"), AMPS, (0.3, 400)),
    ColumnField("capacity_ah", ("capacity", "cap", "ah", "mah", "measured capacity", "kapazität", "c"), AMPS, (0.3, 400)),
    ColumnField(
        "resistance_mohm",
        ("resistance", "ir", "ri", "r", "acir", "dcir", "impedance", "mohm", "mΩ", "ohm", "widerstand"),
        OHMS,
        (0.05, 400),
    ),
    ColumnField("later_on", ("later date", "second date", "date 2", "later on")),
    ColumnField("later_v", ("later voltage", "later v", "voltage 2", "v2", "second voltage", "later"), VOLTS, (0.5, 5)),
    ColumnField("resting_on", ("date", "measured on", "first date", "datum", "resting on")),
    ColumnField(
        "resting_v", ("resting voltage", "voltage", "ocv", "v", "v1", "volt", "volts", "resting v", "spannung"), VOLTS, (0.5, 5)
    ),
    ColumnField("format", ("format", "size", "type", "bauform")),
    ColumnField("chemistry", ("chemistry", "chem", "chemie")),
    ColumnField("source", ("source", "origin", "from", "herkunft")),
    ColumnField("remarks", ("remarks", "remark", "note", "notes", "comment", "bemerkung")),
    ColumnField("damaged", ("damaged", "damage", "rust", "beschädigt")),
    ColumnField("resistance_by", ("resistance by", "resistance measured")),
)
_BY_KEY = {f.key: f for f in FIELDS}
_YES = {"1", "yes", "y", "true", "x", "ja"}
_NO = {"", "0", "no", "n", "false", "nein"}


@dataclass(slots=True)
class RackTable:
    """A table of cells as read: columns as matched, and the cells, or what stands in the way."""

    columns: list[Column]
    cells: list[Measured]
    problems: list[TableProblem]


def read_cells(
    text: str, defaults: Measured, chosen: Mapping[int, tuple[str | None, str]] | None = None, taken: frozenset[str] = frozenset()
) -> RackTable:
    """Cells from a table.

    defaults: format, chemistry, rated capacity and way of measuring the resistance, where no column says it.
    chosen: the builder's own matching of columns. taken: labels that are on the rack already.
    A table with any problem returns the problems and no cells. Errors: TableError where it is no table at all.
    """
    sheet = parse_table(text, FIELDS, chosen)
    by_column = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if not {"capacity_ah", "resistance_mohm", "resting_v"} & set(by_column):
        problem = TableProblem(1, 1, "no column was found that holds capacity, resistance or voltage: name one in the first line")
        return RackTable(sheet.columns, [], [problem])
    cells, problems = [], Problems()
    seen: dict[str, int] = {}
    by = resistance_by(sheet.columns, defaults)
    for n, (line, row) in enumerate(sheet.rows, 1):
        cell = defaults.model_copy(update={"resistance_by": by})
        for key, i in by_column.items():
            text_in = row[i] if i < len(row) else ""
            try:
                fill(cell, str(key), text_in, sheet.columns[i].unit)
            except ValueError as error:
                problems.add(line, i + 1, f"{sheet.columns[i].header}: {error}")
        cell.label = cell.label or f"{n}"
        column = by_column.get("label", 0) + 1
        if cell.label in seen:
            problems.add(line, column, f"the label '{cell.label}' stands in line {seen[cell.label]} already")
        elif cell.label in taken:
            problems.add(line, column, f"there is a cell '{cell.label}' on the rack already")
        seen.setdefault(cell.label, line)
        cells.append(cell)
        if problems.enough:
            break
    if not cells and not problems:
        problems.add(1, 1, "there are no rows under the header")
    return RackTable(sheet.columns, [] if problems else cells, problems)


def resistance_by(columns: Sequence[Column], defaults: Measured) -> ResistanceBy:
    """How the resistance was measured, where its header says so."""
    header = next((c.header.lower() for c in columns if c.field == "resistance_mohm"), "")
    if "dcir" in header or "dc " in f"{header} ":
        return "dc"
    if "acir" in header or "khz" in header:
        return "1khz"
    return defaults.resistance_by


def fill(cell: Measured, key: str, text: str, unit: str) -> None:
    """Put one cell of the table into a measured cell. Errors: ValueError with a sentence."""
    limits = limits_of(key) if key in _SHAPE else {}
    if limits.get("type") == "number":
        if not text:
            return
        value, high = read_number(text, _BY_KEY[key], unit), limits["maximum"]
        if not limits.get("minimum", 0) <= value <= high or value == limits.get("exclusiveMinimum"):
            low = "over 0" if "exclusiveMinimum" in limits else f"{limits['minimum']:g}"
            raise ValueError(f"{text} is out of range ({low} to {high:g} {next(iter(_BY_KEY[key].units))})")
        setattr(cell, key, value)
    elif key == "chemistry":
        if not text:
            return
        known = {row.label.lower(): row.key for row in chemistries().values()} | {k: k for k in chemistries()}
        if text.lower() not in known:
            raise ValueError(f"'{text[:20]}' is no known chemistry (known: {', '.join(chemistries())})")
        cell.chemistry = known[text.lower()]  # type: ignore[assignment]
    elif key in ("resting_on", "later_on"):
        setattr(cell, key, read_date(text))
    elif key == "resistance_by":
        if text.lower() not in ("", "1khz", "1 khz", "dc"):
            raise ValueError(f"'{text[:20]}' is neither 1khz nor dc")
        cell.resistance_by = "dc" if text.lower() == "dc" else "1khz"
    elif key == "damaged":
        if text.lower() not in _YES | _NO:
            raise ValueError(f"'{text[:20]}' is neither yes nor no")
        cell.damaged = text.lower() in _YES
    else:
        if len(text) > limits["maxLength"]:
            raise ValueError(f"longer than {limits['maxLength']} characters")
        setattr(cell, key, text)


Kind = tuple[str, str, str]
"""Format, chemistry and way of measuring the resistance: only cells of one kind are compared."""


def kind_of_cell(cell: Measured) -> Kind:
    """What of the pile a cell is compared with."""
    return cell.format, cell.chemistry, cell.resistance_by


@dataclass(frozen=True, slots=True)
class Pile:
    """What a cell of the pile is held against: the median resistance (mΩ) of its own kind, see `kind_of_cell`."""

    median_mohm: Mapping[Kind, float]

    @classmethod
    def of(cls, cells: Sequence[Measured]) -> "Pile":
        """The pile of cells, each kind apart."""
        kinds: dict[Kind, list[float]] = {}
        for cell in cells:
            if cell.resistance_mohm is not None:
                kinds.setdefault(kind_of_cell(cell), []).append(cell.resistance_mohm)
        return cls({kind: median(values) for kind, values in kinds.items()})


def body_of(format: str, chemistry: str, capacity_ah: float) -> dict[str, Any]:
    """Shape and size of a cell of a format, as the design writes them: of the nearest sold, of its chemistry where there is one; empty
    where the format is not known.
    """
    alike = [c for c in cell_types().values() if c.format == format]
    near = min(alike, key=lambda c: (c.chemistry != chemistry, abs(c.capacity_ah - capacity_ah)), default=None)
    if near is None:
        return {}
    return {"shape": near.shape, "width_mm": near.width_mm, "thickness_mm": near.thickness_mm, "height_mm": near.height_mm}


def reject_reasons(cell: Measured, pile: Pile, limits: RejectLimits) -> list[str]:
    """Why a cell should not be built in; empty where it is good as far as it was measured.

    Source: practice of those who sort reclaimed cells (assumptions table), as set on the rack.
    """
    reasons = []
    if cell.damaged:
        reasons.append("damaged, rusty, or hot while charging")
    if cell.capacity_ah is not None and cell.rated_ah and cell.capacity_ah < limits.capacity_share * cell.rated_ah:
        share = cell.capacity_ah / cell.rated_ah
        reasons.append(f"capacity {share:.0%} of rated, under {limits.capacity_share:.0%}")
    middle = pile.median_mohm.get(kind_of_cell(cell))
    if cell.resistance_mohm is not None and middle and cell.resistance_mohm > limits.resistance_multiple * middle:
        times = cell.resistance_mohm / middle
        reasons.append(f"resistance {times:.2g} × the median, over {limits.resistance_multiple:g} ×")
    if (
        cell.resting_v is not None
        and chemistries()[cell.chemistry].v_nom > limits.arrival_v
        and cell.resting_v < limits.arrival_v
    ):
        reasons.append(f"{cell.resting_v:.2f} V on arrival, under {limits.arrival_v:g} V")
    if cell.resting_v is not None and cell.resting_v > chemistries()[cell.chemistry].v_max + OVER_V:
        row = chemistries()[cell.chemistry]
        reasons.append(f"{cell.resting_v:.2f} V, over the {row.v_max:g} V of {row.label}: overcharged, or another chemistry")
    if cell.resting_v is not None and cell.later_v is not None:
        days = (cell.later_on - cell.resting_on).days if cell.resting_on and cell.later_on else DROP_DAYS
        lost = (cell.resting_v - cell.later_v) * DROP_DAYS / max(days, 1)
        if lost > limits.drop_v + 1e-9:
            reasons.append(f"loses {lost * 1000:.0f} mV in {DROP_DAYS} days, over {limits.drop_v * 1000:.0f} mV")
    return reasons
