"""The wire table: every run with its ends, and what is read back when it is pasted."""

from dataclasses import dataclass
from typing import Any

from kegcart.core.power.devices import stud_of
from kegcart.core.power.parts import PowerSizing
from kegcart.core.reference import wires
from kegcart.core.table import Field, TableError, TableProblem, read_number, read_sheet, write_csv
from kegcart.core.units import significant, write_quantity

HEADER = (
    "to",
    "from",
    "colour",
    "gauge",
    "side by side",
    "length m",
    "current A",
    "ampacity A",
    "drop %",
    "heat W",
    "fuse",
    "lug at its start",
    "lug at its end",
)
FIELDS = (
    Field("to", ("to", "run to", "part", "wire")),
    Field("length_m", ("length", "length m", "metres"), {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048}, (0.05, 30)),
    Field("gauge", ("gauge", "size", "section", "awg")),
    Field("colour", ("colour", "color")),
)
COLOURS = ("red", "black", "yellow", "blue", "brown", "green", "white", "orange")


@dataclass(frozen=True, slots=True)
class WireRow:
    """One run as the table shows it."""

    key: str
    to: str
    start: str
    colour: str
    gauge: str
    parallel: int
    length_m: float
    current_a: float
    ampacity_a: float
    drop: float
    heat_w: float
    fuse: str
    start_terminal: str
    end_terminal: str


def rows(power: PowerSizing) -> list[WireRow]:
    """Every run on the DC side, in the order of the tree."""
    network = power.network
    out = []
    for key in network.order:
        part = power.parts[key]
        run = part.run
        if run is None:
            continue
        feeder = power.parts.get(part.node.feed)
        source = power.sources[network.source(key)]
        guard = power.parts[part.guard] if part.guard else None
        lug = part.node.run.lug

        def terminal(stud: str | None, pinned: str | None = lug, gauge: str = run.wire.key) -> str:
            return f"{gauge} × {pinned or stud}" if stud else "sleeve"

        out.append(
            WireRow(
                key,
                part.node.name,
                feeder.node.name if feeder else source.name,
                part.node.run.colour or "red, with black",
                run.wire.key,
                part.node.run.parallel,
                part.node.run.length_m,
                part.current.number,
                run.ampacity.number,
                run.drop.number,
                run.heat.number,
                write_quantity(guard.rating.number, "A") if guard and guard.rating else "",
                terminal(stud_of(feeder) if feeder else "M8"),
                terminal(stud_of(part)),
            )
        )
    return out


def write_wires(power: PowerSizing) -> str:
    """The wire table as CSV."""

    def cells(r: WireRow) -> list[Any]:
        figures = [significant(v) for v in (r.current_a, r.ampacity_a, r.drop * 100, r.heat_w)]
        ends = [r.fuse, r.start_terminal, r.end_terminal]
        return [r.to, r.start, r.colour, r.gauge, r.parallel, round(r.length_m, 4), *figures, *ends]

    return write_csv(HEADER, (cells(r) for r in rows(power)))


def read_wires(text: str, power: PowerSizing) -> list[dict[str, Any]]:
    """The patch that a pasted wire table asks for: lengths, gauges and colours, by the name of the part each run leads to.

    Errors: TableError with line and column.
    """
    sheet = read_sheet(text, FIELDS)
    at = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if "to" not in at or len(at) < 2:
        raise TableError(
            [TableProblem(1, 1, "a column for where the run leads to is wanted, and one of length, gauge or colour")]
        )
    by_name = {power.parts[k].node.name.lower(): k for k in power.network.order} | {k: k for k in power.network.order}
    known = {f.key: f for f in FIELDS}
    patch: list[dict[str, Any]] = []
    problems: list[TableProblem] = []
    gauges = {w.key.lower().replace(" ", ""): w.key for w in wires().values()}
    for line, row in sheet.rows:

        def cell(field: str, row: list[str] = row) -> str:
            return row[at[field]] if field in at and at[field] < len(row) else ""

        key = by_name.get(cell("to").lower())
        if key is None:
            problems.append(TableProblem(line, at["to"] + 1, f"no part is called '{cell('to')[:40]}'"))
            continue
        base = f"/power/network/{key}/run"
        if text_in := cell("length_m"):
            try:
                patch.append(
                    {
                        "op": "replace",
                        "path": f"{base}/length_m",
                        "value": read_number(text_in, known["length_m"], sheet.columns[at["length_m"]].unit),
                    }
                )
            except ValueError as error:
                problems.append(TableProblem(line, at["length_m"] + 1, str(error)))
        if text_in := cell("gauge"):
            gauge = gauges.get(text_in.lower().replace(" ", "").replace("mm2", "mm²"))
            if gauge is None and text_in.lower() != "auto":
                problems.append(
                    TableProblem(line, at["gauge"] + 1, f"'{text_in[:20]}' is no gauge that is sold (4 AWG, 16 mm², or auto)")
                )
            else:
                patch.append({"op": "replace", "path": f"{base}/gauge", "value": gauge})
        if text_in := cell("colour"):
            if text_in.lower() not in COLOURS and not text_in.lower().startswith("red"):
                problems.append(
                    TableProblem(line, at["colour"] + 1, f"'{text_in[:20]}' is no colour of wire (known: {', '.join(COLOURS)})")
                )
            else:
                patch.append(
                    {"op": "replace", "path": f"{base}/colour", "value": text_in.lower() if text_in.lower() in COLOURS else None}
                )
    if problems:
        raise TableError(problems)
    return patch
