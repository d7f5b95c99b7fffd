"""The wire table: every run with its ends, and what is read back when it is pasted."""

from dataclasses import dataclass
from typing import Any

from kegcart.core.brief.document import OUTLET_VOLTAGE
from kegcart.core.power.kinds.ac_circuit import breaker_before
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.power.path.studs import stud_of
from kegcart.core.reference import wires
from kegcart.core.table import ColumnField, Problems, TableError, TableProblem, parse_table, read_number, write_csv
from kegcart.core.units import significant

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
    ColumnField("to", ("to", "run to", "part", "wire")),
    ColumnField("length_m", ("length", "length m", "metres"), {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048}, (0.05, 30)),
    ColumnField("gauge", ("gauge", "size", "section", "awg")),
    ColumnField("colour", ("colour", "color")),
)
POST_STUD = "M8"
"""Stud of a battery's post, typical."""
COLOURS = ("red", "black", "yellow", "blue", "brown", "green", "white", "orange")


@dataclass(frozen=True, slots=True)
class WireRow:
    """One run as every table shows it: screen, CSV, SVG, PDF.

    fuse: what protects the run, in words; `fuse_figure` the path of the figure of its rating, if it has one.
    """

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
    fuse_figure: str
    start_stud: str
    end_stud: str

    @property
    def start_terminal(self) -> str:
        """What the cable ends in where it begins: a lug for the stud there, or a sleeve."""
        return self.terminal(self.start_stud)

    @property
    def end_terminal(self) -> str:
        """What it ends in at its part."""
        return self.terminal(self.end_stud)

    def terminal(self, stud: str) -> str:
        """What its ends are made of."""
        return f"{self.gauge} × {stud}" if stud != SLEEVE else SLEEVE

    @property
    def gauge_text(self) -> str:
        """The gauge, with how many cables lie side by side."""
        return f"{self.parallel} × {self.gauge}" if self.parallel > 1 else self.gauge


SLEEVE = "sleeve"
UP_TO_THE_FUSE = "up to the fuse"
NOTHING = "nothing"


def protected_by(part: PartSizing, power: PowerSizing) -> tuple[str, str]:
    """What protects the run to a part, in words, and the path of the figure that says its rating."""
    if power.network.stands_on[part.key] == "ac":
        breaker = part.extra.get("breaker") or breaker_before(part, power.ctx)
        return (breaker.text, breaker.path) if breaker else (NOTHING, "")
    guard = power.parts[part.guard] if part.guard else None
    if guard is not None and guard.rating is not None:
        return guard.rating.text, guard.rating.path
    return (UP_TO_THE_FUSE, "") if power.network.role(part.key) == "protects" else (NOTHING, "")


def rows(power: PowerSizing) -> list[WireRow]:
    """Every run, in the order of the tree; those of the AC side by what building practice says of them."""
    return [row for key in power.network.order if (row := row_of(power.parts[key], power))]


def end_of(stud: str | None, lug: str | None) -> str:
    """The hole of a lug: as pinned, or as the stud; a sleeve where there is no stud."""
    return SLEEVE if stud is None else lug or stud


def row_of(part: PartSizing, power: PowerSizing) -> WireRow | None:
    """The run to one part; None where no cable leads to it."""
    node, run = part.node, part.run
    feeder = power.parts.get(node.feed)
    fuse, figure = protected_by(part, power)
    if run is not None:
        gauge, ampacity, drop, heat_w = run.wire.key, run.ampacity, run.drop, run.heat.number
        amps = part.current.number
    elif "ac_gauge" in part.extra:
        gauge, ampacity, drop = str(part.extra["ac_gauge"].value), part.extra["ac_ampacity"], part.extra["ac_drop"]
        amps = part.extra["circuit"].number
        heat_w = drop.number * amps * OUTLET_VOLTAGE[power.ctx.brief.mains]
    else:
        return None

    ac = run is None
    return WireRow(
        part.key,
        node.name,
        feeder.node.name if feeder else part.source.name,
        node.run.colour or ("three conductors" if ac else "red, with black"),
        gauge,
        node.run.parallel if run is not None else 1,
        node.run.length_m,
        amps,
        ampacity.number,
        drop.number,
        heat_w,
        fuse,
        figure,
        SLEEVE if ac else end_of(stud_of(feeder) if feeder else POST_STUD, node.run.lug),
        SLEEVE if ac else end_of(stud_of(part), node.run.lug),
    )


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
    sheet = parse_table(text, FIELDS)
    at = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if "to" not in at or len(at) < 2:
        raise TableError([TableProblem(1, 1, "needs a column for where the run leads to, and one of length, gauge or colour")])
    by_name = {power.parts[k].node.name.lower(): k for k in power.network.order} | {k: k for k in power.network.order}
    known = {f.key: f for f in FIELDS}
    patch: list[dict[str, Any]] = []
    problems = Problems()
    gauges = {w.key.lower().replace(" ", ""): w.key for w in wires().values()}
    for line, row in sheet.rows:
        if problems.enough:
            break

        def cell(field: str, row: list[str] = row) -> str:
            return row[at[field]] if field in at and at[field] < len(row) else ""

        key = by_name.get(cell("to").lower())
        if key is None:
            problems.add(line, at["to"] + 1, f"no part is called '{cell('to')[:40]}'")
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
                problems.add(line, at["length_m"] + 1, str(error))
        if text_in := cell("gauge"):
            gauge = gauges.get(text_in.lower().replace(" ", "").replace("mm2", "mm²"))
            if gauge is None and text_in.lower() != "auto":
                problems.add(line, at["gauge"] + 1, f"'{text_in[:20]}' is no gauge that is sold (4 AWG, 16 mm², or auto)")
            else:
                patch.append({"op": "replace", "path": f"{base}/gauge", "value": gauge})
        if text_in := cell("colour"):
            if text_in.lower() not in COLOURS and not text_in.lower().startswith("red"):
                problems.add(line, at["colour"] + 1, f"'{text_in[:20]}' is no colour of wire (known: {', '.join(COLOURS)})")
            else:
                patch.append(
                    {"op": "replace", "path": f"{base}/colour", "value": text_in.lower() if text_in.lower() in COLOURS else None}
                )
    if problems:
        raise TableError(problems)
    return patch
