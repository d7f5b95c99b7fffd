"""The wire table: every run with its ends, and what is read back when it is pasted."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from kegcart.core.electrical.cables import RunSizing
from kegcart.core.electrical.run import Run
from kegcart.core.pack.bank import lead_run
from kegcart.core.pack.build import StringsSizing
from kegcart.core.pack.document import Bank, CellPack, StringOfUnits
from kegcart.core.power.fed import PACK, Negative
from kegcart.core.power.kinds import Selector
from kegcart.core.power.kinds.ac_circuit import breaker_before
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.power.path.studs import stud_of
from kegcart.core.reference import wires
from kegcart.core.table import ColumnField, Problems, TableError, TableProblem, parse_table, read_number, write_csv
from kegcart.core.units import SCALES, as_builder_has_it, as_shown, significant

COLUMNS = (
    "to",
    "from",
    "colour",
    "gauge",
    "side by side",
    "length",
    "current A",
    "ampacity A",
    "drop %",
    "heat W",
    "fuse",
    "lug at its start",
    "lug at its end",
)
LENGTHS = {unit: SCALES["m"][unit] for unit in ("m", "metres", "meters", "cm", "mm", "ft", "feet", "in", "inches")}
USUAL_M = (0.05, 30.0)
POST_STUD = "M8"
"""Stud of a battery's post, typical."""
BAR_STUD = "M5"
"""Least stud of a negative bar, typical."""
COLOURS = ("red", "black", "yellow", "blue", "brown", "green", "white", "orange")


@dataclass(frozen=True, slots=True)
class WireRow:
    """One run as every table shows it: screen, CSV, SVG, PDF.

    at: pointer of its `Run`, empty where it only mirrors another; `length_at` that of its length; `place` what it belongs to;
    `judged_at` where its findings stand.
    figures: path of its figures; `current_figure` that of its running current.
    own_colour: as the builder has it, None where it is the `usual_colour`.
    fuse: what protects the run, in words; `fuse_figure` the path of the figure of its rating, if it has one.
    start_at, end_at: pointers of what it begins and ends at; `NEGATIVE_BAR` stands for the negative bar.
    mirrors: key of the positive run that it goes back beside; its drop and heat count with that.
    """

    key: str
    at: str
    length_at: str
    place: str
    judged_at: str
    figures: str
    current_figure: str
    to: str
    start: str
    own_colour: str | None
    usual_colour: str
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
    start_at: str
    end_at: str
    mirrors: str = ""

    @property
    def colour(self) -> str:
        """The colour of its conductors."""
        return self.own_colour or self.usual_colour

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
NEGATIVE_BAR = "/power/negative"
UP_TO_THE_FUSE = "up to the fuse"
SHORT_TAP = "short tap, sheathed"
NOTHING = "nothing"
FIRST_FUSES = "first fuses"
STRING_FUSES = "string fuses"
PAIRED = ("lead:string:", "lead:link", "lead:meter")
"""Leads with a black one beside the red."""
ON_POSTS = ("lead:negative", "lead:string:", "lead:link")
"""Leads from post to post."""


def protected_by(part: PartSizing, power: PowerSizing) -> tuple[str, str]:
    """What protects the run to a part, in words, and the path of the figure that says its rating."""
    if power.network.stands_on[part.key] == "ac":
        breaker = part.extra.get("breaker") or breaker_before(part, power.ctx)
        return (breaker.text, breaker.path) if breaker else (NOTHING, "")
    if part.key in power.network.taps:
        return SHORT_TAP, ""
    guard = power.parts[part.guard] if part.guard else None
    if guard is not None and guard.rating is not None:
        return guard.rating.text, guard.rating.path
    return (UP_TO_THE_FUSE, "") if power.network.role(part.key) == "protects" else (NOTHING, "")


def rows(power: PowerSizing) -> list[WireRow]:
    """Every run, in the order of the tree; those of the AC side by what building practice says of them."""
    return [*part_rows(power), *lead_rows(power)]


def part_rows(power: PowerSizing) -> Iterator[WireRow]:
    """The runs to the parts of the tree, each with the negative that goes back beside it."""
    for key in power.network.order:
        part = power.parts[key]
        if (row := row_of(part, power)) is not None:
            yield row
            if part.run is not None and power.network.role(key) in ("ends", "changes"):
                yield return_row(row, part, getattr(part.node, "negative", "busbar"), power)


def return_row(row: WireRow, part: PartSizing, negative: Negative, power: PowerSizing) -> WireRow:
    """The negative of a device, of the gauge of its positive: to the negative bar, round it to the post, or to the converter before it.

    It is as long as the positive runs from there together.
    """
    network, length_m, back, back_at = power.network, row.length_m, "Negative bar", NEGATIVE_BAR
    main = set(network.main_path(part.source.key))
    for key in network.upstream(part.key):
        if network.role(key) == "changes":
            back, back_at = f"{network.nodes[key].name}, negative", power.parts[key].pointer
            break
        if key in main:
            break
        length_m += 0.0 if network.in_block(key) else network.nodes[key].run.length_m
    if back_at == NEGATIVE_BAR and part.source.key != PACK:
        back, back_at = f"Negative bar, {part.source.name}", f"{part.source.pointer}/negative"
    if negative == "post":
        back, back_at = f"{part.source.name}, negative", part.source.pointer
    at_bar = BAR_STUD if row.start_stud == SLEEVE and back_at.endswith("/negative") else row.start_stud
    return replace(
        row,
        key=f"{row.key}:return",
        at="",
        length_at="",
        to=f"{row.to}, negative",
        start=back,
        own_colour=None,
        usual_colour="black",
        length_m=round(length_m, 4),
        start_stud=POST_STUD if negative == "post" else at_bar,
        start_at=back_at,
        fuse=f"as {row.to}",
        fuse_figure="",
        drop=0.0,
        heat_w=0.0,
        mirrors=row.key,
    )


def lead_rows(power: PowerSizing) -> Iterator[WireRow]:
    """The runs that lead to no part of the tree."""
    network, pack = power.network, power.ctx.pack
    for key, part in power.parts.items():
        if part.other is not None and isinstance(part.node, Selector):
            other = part.node.other
            begins = power.parts[other] if other in network.nodes else power.sources[other]
            name = begins.node.name if isinstance(begins, PartSizing) else begins.name
            guard = network.guard_of_way(other)
            rating = power.parts[guard].rating if guard else None
            fuse = (rating.text, rating.path) if rating else (NOTHING, "")
            at = f"{part.pointer}/other_run"
            places = (at, part.pointer, f"power/{key}/other_run", f"power/{key}/current")
            yield lead_row(
                f"{key}:other",
                places,
                f"{part.node.name}, other way",
                name,
                part.other,
                part.node.other_run,
                fuse,
                (begins.pointer, part.pointer),
            )
    if (negative := power.ctx.negative) is not None:
        own = power.ctx.path.negative
        places = ("/power/negative" if own else "", "/power/negative", "power/negative/run", "power/negative/current")
        shown = own or Run(length_m=power.ctx.sheet["power/negative/run/length"].number)
        yield lead_row(
            "lead:negative",
            places,
            "Negative bar",
            f"{power.sources[PACK].name}, negative",
            negative,
            shown,
            (FIRST_FUSES, ""),
            ("/pack", NEGATIVE_BAR),
        )
    if (meter := power.ctx.meter) is not None and power.ctx.path.shunt is not None:
        places = ("/power/shunt/lead", "/power/shunt", "power/shunt/run", "")
        fuse = (meter.fuse.text, meter.fuse.path) if meter.fuse else (NOTHING, "")
        yield lead_row(
            "lead:meter",
            places,
            "Meter",
            power.sources[PACK].name,
            meter.run,
            power.ctx.path.shunt.lead,
            fuse,
            ("/pack", "/power/shunt"),
        )
    board, strings, build = pack.build.board, pack.build.strings, pack.pack
    if board is not None and board.sense is not None and isinstance(build, CellPack):
        lead, count = board.sense, int(pack.series.number) + 1
        places = ("/pack/board/sense", "/pack/board", "pack/sense", "")
        fuse = (lead.fuse.text, lead.fuse.path) if lead.fuse else (NOTHING, "")
        yield lead_row(
            "lead:sense",
            places,
            f"Board, {count} sense leads",
            "each cell",
            lead.run,
            build.board.sense,
            fuse,
            ("/pack", "/pack/board"),
        )
    if strings is not None and isinstance(build, Bank) and len(strings.leads) > 1:
        yield from string_rows(strings, build)


def string_rows(strings: StringsSizing, build: Bank) -> Iterator[WireRow]:
    """The lead of every string, and the link from one to the next."""
    for i, lead in enumerate(strings.leads, 1):
        key = f"s{i}"
        run, own = lead_run(build, key), build.strings.get(key, StringOfUnits())
        fuse = (strings.fuse.text, strings.fuse.path) if strings.fuse and own.protected else (NOTHING, "")
        at, place = "/pack/lead", f"/pack/strings/{key}"
        places = (at, place, f"pack/string/{i}/run", f"pack/string/{i}/current")
        row = lead_row(f"lead:string:{i}", places, f"Bank, lead {i}", f"String {i}", lead, run, fuse, (place, "/pack"))
        length_at = row.length_at if own.lead_m is None else f"{place}/lead_m"
        yield replace(row, length_at=length_at, judged_at=place)
    if strings.link is not None:
        places = ("/pack/link", "/pack/link", "pack/link_run/run", "pack/link_run/current")
        yield lead_row(
            "lead:link",
            places,
            "Bank, links",
            "each string",
            strings.link,
            build.link,
            (STRING_FUSES, ""),
            ("/pack/strings", "/pack/strings"),
        )


def lead_row(
    key: str,
    places: tuple[str, str, str, str],
    to: str,
    start: str,
    lead: RunSizing,
    run: Run,
    fuse: tuple[str, str],
    ends: tuple[str, str],
) -> WireRow:
    """One such run. places: pointer of its `Run`, what it belongs to, path of its figures, path of its running current. ends: pointers of
    what it begins and ends at."""
    at, place, figures, current = places
    return WireRow(
        key,
        at,
        f"{at}/length_m" if at else "",
        place,
        at or place,
        figures,
        current,
        to,
        start,
        run.colour,
        "black" if key == "lead:negative" else "red, with black" if key.startswith(PAIRED) else "red",
        lead.wire.key,
        run.parallel,
        run.length_m,
        lead.current.number,
        lead.ampacity.number,
        lead.drop.number,
        lead.heat.number,
        *fuse,
        end_of(POST_STUD, run.lug),
        end_of(POST_STUD, run.lug) if key.startswith(ON_POSTS) else SLEEVE,
        *ends,
    )


def end_of(stud: str | None, lug: str | None) -> str:
    """The hole of a lug: as pinned, or as the stud; a sleeve where there is no stud."""
    return SLEEVE if stud is None else lug or stud


def row_of(part: PartSizing, power: PowerSizing) -> WireRow | None:
    """The run to one part; None where no cable leads to it."""
    node, run = part.node, part.run
    feeder = power.parts.get(node.feed)
    fuse, figure = protected_by(part, power)
    if run is not None:
        gauge, ampacity, drop, heat, current = run.wire.key, run.ampacity, run.drop, run.heat, part.current
    elif "ac_gauge" in part.extra:
        gauge, current = str(part.extra["ac_gauge"].value), part.extra["circuit"]
        ampacity, drop, heat = (part.extra[name] for name in ("ac_ampacity", "ac_drop", "ac_heat"))
    else:
        return None

    ac = run is None
    return WireRow(
        part.key,
        f"{part.pointer}/run",
        f"{part.pointer}/run/length_m",
        part.pointer,
        f"{part.pointer}/run",
        f"power/{part.key}/run",
        current.path,
        node.name,
        feeder.node.name if feeder else part.source.name,
        node.run.colour,
        "3 cores" if ac else "red",
        gauge,
        node.run.parallel if run is not None else 1,
        node.run.length_m,
        current.number,
        ampacity.number,
        drop.number,
        heat.number,
        fuse,
        figure,
        SLEEVE if ac else end_of(stud_of(feeder) if feeder else POST_STUD, node.run.lug),
        SLEEVE if ac else end_of(stud_of(part), node.run.lug),
        feeder.pointer if feeder else part.source.pointer,
        part.pointer,
    )


def fields() -> dict[str, ColumnField]:
    """The columns that are read of a wire table; a length without a unit is in the builder's own, where that is usual for it."""
    _, own = as_builder_has_it(1, "m")
    lengths = {own: LENGTHS[own], **LENGTHS}
    known = (
        ColumnField("to", ("to", "run to", "part", "wire")),
        ColumnField("length_m", ("length", "metres", "meters", "feet", "inches"), lengths, USUAL_M),
        ColumnField("gauge", ("gauge", "size", "section", "awg")),
        ColumnField("colour", ("colour", "color")),
    )
    return {column.key: column for column in known}


def header() -> list[str]:
    """The first row of the wire table as CSV: its length in the builder's units."""
    _, own = as_builder_has_it(1, "m")
    return [f"length {own}" if column == "length" else column for column in COLUMNS]


def write_wires(power: PowerSizing) -> str:
    """The wire table as CSV."""

    def cells(r: WireRow) -> list[Any]:
        figures = [significant(as_shown(v, "A")) for v in (r.current_a, r.ampacity_a)]
        figures += ["", ""] if r.mirrors else [significant(as_shown(v, u)) for v, u in ((r.drop * 100, "%"), (r.heat_w, "W"))]
        ends = [r.fuse, r.start_terminal, r.end_terminal]
        length, _ = as_builder_has_it(r.length_m, "m")
        return [r.to, r.start, r.colour, r.gauge, r.parallel, round(length, 4), *figures, *ends]

    return write_csv(header(), (cells(r) for r in rows(power)))


def read_wires(text: str, power: PowerSizing) -> list[dict[str, Any]]:
    """The patch that a pasted wire table asks for: lengths, gauges and colours, by the name of the part each run leads to.

    Errors: TableError with line and column.
    """
    known = fields()
    sheet = parse_table(text, list(known.values()))
    at = {c.field: i for i, c in enumerate(sheet.columns) if c.field}
    if "to" not in at or len(at) < 2:
        raise TableError([TableProblem(1, 1, "needs a column for where the run leads to, and one of length, gauge or colour")])
    every = rows(power)
    by_name = {row.to.lower(): row for row in every} | {row.key: row for row in every}
    patch: list[dict[str, Any]] = []
    problems = Problems()
    gauges = {w.key.lower().replace(" ", ""): w.key for w in wires().values()}
    for line, row in sheet.rows:
        if problems.enough:
            break

        def cell(field: str, row: list[str] = row) -> str:
            return row[at[field]] if field in at and at[field] < len(row) else ""

        run = by_name.get(cell("to").lower())
        if run is None:
            problems.add(line, at["to"] + 1, f"no part is called '{cell('to')[:40]}'")
            continue
        if not run.at:
            continue  # it mirrors another: that one's line decides it
        if text_in := cell("length_m"):
            try:
                patch.append(
                    {
                        "op": "replace",
                        "path": run.length_at,
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
                patch.append({"op": "replace", "path": f"{run.at}/gauge", "value": gauge})
        if text_in := cell("colour"):
            named = text_in.lower()
            if named in COLOURS and named != run.usual_colour:
                patch.append({"op": "replace", "path": f"{run.at}/colour", "value": named})
            elif named == run.usual_colour or named.startswith("red"):
                patch.append({"op": "replace", "path": f"{run.at}/colour", "value": None})
            else:
                problems.add(line, at["colour"] + 1, f"'{text_in[:20]}' is no colour of wire (known: {', '.join(COLOURS)})")
    if problems:
        raise TableError(problems)
    return patch
