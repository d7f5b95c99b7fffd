"""Everything that a design is made of, line by line: what stands in it, and what nobody plans."""

from collections.abc import Iterable
from math import ceil
from typing import NamedTuple

from kegcart.core.assembly.cutting import Piece
from kegcart.core.assembly.lines import CENT, PartsList, slug
from kegcart.core.box.contents import nearest_battery
from kegcart.core.box.document import Inside
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.template import holes_in
from kegcart.core.charging.kinds import SolarArray, source_kind
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.figure import Figure
from kegcart.core.pack.body import Rows
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Inverter, Outlet, Protection, kind_of
from kegcart.core.power.kinds.inverter import has_rcd
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import Family, assumption, connectors, constant, families, prices
from kegcart.core.reference.boxes import case_types, holds
from kegcart.core.reference.hardware import panel_screw
from kegcart.core.units import as_builder_has_it, significant, write_quantity

CHEAP_SPARES = 2
"""Spare fuses of what costs next to nothing."""
NOTHING_BOUGHT = "snug"
"""What is held by what stands about it needs nothing."""
CHEAP_A = 40.0
"""Up to so many A a fuse costs next to nothing."""


class ListedFrom(NamedTuple):
    """What the list is made from."""

    pack: PackSizing
    power: PowerSizing
    charging: ChargingSizing
    box: BoxSizing | None
    pieces: list[Piece]


def parts_list(facts: ListedFrom) -> PartsList:
    """Every line of a build."""
    out = PartsList()
    of_pack(facts, out)
    of_banks(facts, out)
    for sizing in facts.charging.sources.values():
        of_source(sizing, out)
    for part in facts.power.parts.values():
        of_part(part, facts, out)
    of_negative(facts, out)
    if facts.box is not None:
        of_box(facts.box.layout, facts, out)
    of_wire(facts.pieces, out)
    small_parts(facts, out)
    spares(out)
    return out


def price_of(kind: str, rating: float, decimals: int = 0) -> Figure | None:
    """The typical price of one of a kind, by its rating; None where none is known. Source: prices table."""
    row = prices().get(kind)
    if row is None:
        return None
    figure = row.figure("c", round(row.fixed + row.per_unit * rating, decimals), "money", "typical price")
    return figure


def of_pack(facts: ListedFrom, out: PartsList) -> None:
    """Cells or batteries with what holds and joins them."""
    pack, sizing = facts.pack.pack, facts.pack
    build, parallel = sizing.build, int(sizing.parallel.number)
    inputs = build.cost.inputs or {}
    if not isinstance(pack, CellPack):
        units = parallel * (pack.in_series if isinstance(pack, Bank) else 1)
        what = "finished battery" if pack.form != "modules" else "module with its own board"
        rating = (
            f"{sizing.chemistry.label}, {significant(sizing.v_nom.number * parallel / units)} V, {pack.battery.capacity_ah:g} Ah"
        )
        out.add("batteries", "pack", what, units, rating=rating, places=["/pack"], items=["body:pack"], price=inputs.get("c_u"))
        out.add("post-covers", "small", "cover of a battery's post", 2 * units, places=["/pack"])
        if (strings := build.strings) is not None and strings.fuse is not None and isinstance(pack, Bank):
            for n in range(1, len(strings.leads) + 1):
                own = pack.strings.get(f"s{n}")
                if len(strings.leads) > 1 and (own is None or own.protected) and strings.family is not None:
                    of_fuse(strings.family, strings.fuse.number, f"string:{n}", f"/pack/strings/s{n}", out)
                    holder(strings.family, strings.fuse.number, f"string:{n}", f"/pack/strings/s{n}", out)
        return
    series, cell = int(sizing.series.number), pack.cell
    count, flat = series * parallel, cell.shape != "cylindrical"
    rating = f"{sizing.chemistry.label}, {cell.shape}, {cell.capacity_ah:g} Ah"
    what = "cell, reclaimed" if cell.reclaimed else "cell"
    out.add("cells", "pack", what, count, rating=rating, places=["/pack"], items=["body:pack"], price=inputs.get("c_cell"))
    if build.board is not None:
        rating = f"{series} in series, {build.board.continuous.text}"
        at = ["/pack/board"]
        out.add("board", "pack", "protection board", 1, rating=rating, places=at, items=["body:board"], price=inputs.get("c_b"))
        if (sense := build.board.sense) is not None and sense.fuse is not None:
            for n in range(series + 1):
                of_fuse(sense.family, sense.fuse.number, f"sense:{n}", "/pack/board", out, in_lead=True)
    if build.link is not None:
        links = (series - 1) * parallel
        out.add("links", "pack", "link from cell to cell", links, rating=build.link.choice.text, places=["/pack/link"])
    if build.collector is not None:
        said = build.collector.choice.text
        out.add("collectors", "pack", "collector of an end group", 2, rating=said, places=["/pack/collector"])
    if pack.cell_fused:
        out.add("cell-fuses", "pack", "fuse of one cell", count, places=["/pack"], items=[f"fuse:cell:{n}" for n in range(count)])
    lines = Rows.of(pack, series, parallel).lines
    if flat:
        out.add("end-plates", "pack", "end plate", 2 * lines, places=["/pack"])
        out.add("tie-rods", "pack", "threaded rod with nuts and washers", 4 * lines, places=["/pack"])
        out.add("cell-insulation", "pack", "sheet between cells, and to each plate", count + lines, places=["/pack"])
        out.add("link-covers", "small", "cover of a link", (series - 1) * parallel, places=["/pack/link"])
    else:
        out.add("holder-places", "pack", "place of a cell in a holder", count, places=["/pack"])
        out.add("cell-rings", "pack", "insulating ring on a positive end", count, places=["/pack"])
        out.add("strip-covers", "small", "insulating sheet over strips, both sides", 2 * lines, places=["/pack/link"])
    out.add("post-covers", "small", "cover of a battery's post", 2, places=["/pack"])


def of_banks(facts: ListedFrom, out: PartsList) -> None:
    """Further banks, each as the battery sold that is most like it."""
    for key, bank in facts.power.ctx.path.banks.items():
        near, at = nearest_battery(bank), f"/power/banks/{key}"
        price = near.figure("c", near.price, "money", f"typical price, {near.label}")
        rating = f"{bank.chemistry.upper()}, {bank.series} in series, {bank.capacity_ah:g} Ah"
        items = [f"body:bank:{key}"]
        out.add(f"bank:{key}", "pack", bank.name, 1, rating=rating, places=[at], items=items, price=price)
        out.add("post-covers", "small", "cover of a battery's post", 2, places=[at])


def of_source(sizing: SourceSizing, out: PartsList) -> None:
    """A charging source: what is bought of it."""
    source, key, at = sizing.source, f"source:{sizing.key}", sizing.pointer
    kind = source_kind(source)
    series, beside = kind.units(source)
    count, amps = series * beside, sizing.one.number
    items = [f"body:{key}"] if kind.body(source, sizing) is not None else []
    if isinstance(source, SolarArray):
        way = "both poles, as long as the way from the panels to the controller"
        out.add(f"array-cable:{sizing.key}", "charging", f"{sizing.name}, cable with its connectors", 1, rating=way, places=[at])
        controller = sizing.extra["controller"]
        price = price_of("solar", sizing.extra["controller_a"].number)
        out.add(key, "charging", f"{sizing.name}, controller", 1, rating=controller.text, places=[at], items=items, price=price)
        watts = (sizing.extra["power"].inputs or {})["P_stc"]
        price = price_of("panel", watts.number)
        out.add(
            f"panel:{sizing.key}", "charging", f"{sizing.name}, panel", source.panels, rating=watts.text, places=[at], price=price
        )
        if (least := sizing.extra.get("string_fuse")) is not None:
            rating = f"{least.text} or the next above, for {sizing.extra['controller_v'].text} DC"
            count = 2 * int(sizing.extra["strings"].number)
            out.add(
                f"string-fuse:{sizing.key}", "charging", f"{sizing.name}, fuse of a string", count, rating=rating, places=[at]
            )
        return
    by = {"mains": amps * sizing.set_point.number, "vehicle": amps, "step_down": amps}.get(source.kind)
    price = price_of(source.kind, by) if by is not None else None
    rating = f"{sizing.set_point.text}, {sizing.one.text}"
    out.add(key, "charging", sizing.name, count, rating=rating, places=[at], items=items, price=price)
    if (fuse := sizing.extra.get("fuse")) is not None and (said := sizing.extra.get("family")) is not None:
        family = next(f for f in families().values() if f.label == said.value)
        of_fuse(family, fuse.number, f"source:{sizing.key}", at, out)
        holder(family, fuse.number, f"source:{sizing.key}", at, out)


def of_part(part: PartSizing, facts: ListedFrom, out: PartsList) -> None:
    """A part of the power path; a fuse apart from what holds it."""
    node, key, at = part.node, f"part:{part.key}", part.pointer
    body = kind_of(node).body(node, part, facts.power.ctx)
    items = [f"body:{key}"] if body is not None else []
    match node:
        case Protection() if part.rating is not None and part.family is not None:
            family, amps = families()[part.family.key], part.rating.number
            if family.kind == "breaker":
                rating, price = f"{family.label}, {part.rating.text}", price_of("protection", amps)
                items.append(f"fuse:{part.key}")
                out.add(key, "power", node.name, 1, rating=rating, places=[at], items=items, price=price)
                return
            of_fuse(family, amps, part.key, at, out)
            if not facts.power.network.in_block(part.key):
                holder(family, amps, part.key, at, out, items)
        case Inverter():
            sizing = facts.power.inverters[part.key]
            watts = sizing.rating
            wave = "pure sine" if node.waveform == "pure" else "modified sine"
            rating = f"{watts.text}, {wave}, {significant(part.source.v_nom.number)} V"
            out.add(key, "power", node.name, 1, rating=rating, places=[at], items=items, price=price_of("inverter", watts.number))
            of_inverter(part, node, facts, out)
        case Outlet():
            of_outlet(part, node, items, out)
        case _:
            out.add(key, "power", node.name, 1, rating=rating_of(part), places=[at], items=items, price=price_of_part(part))


def rating_of(part: PartSizing) -> str:
    """What a part is chosen as, in words."""
    said = [part.rating, part.choice, part.extra.get("voltage")]
    return ", ".join(figure.text for figure in said if figure is not None)


def price_of_part(part: PartSizing) -> Figure | None:
    """The typical price of a part by what it carries."""
    if part.rating is not None:
        return price_of(part.node.part, part.rating.number)
    return price_of(part.node.part, max(part.design.number, part.current.number))


def of_outlet(part: PartSizing, node: Outlet, items: list[str], out: PartsList) -> None:
    """An outlet, and the breaker of its AC circuit where it has one of its own."""
    form = connectors().get(part.choice.key or str(part.choice.value)) if part.choice else None
    price = None
    if form is not None:
        price = price_of("usb", form.rating_w) if node.usb and form.rating_w else price_of("outlet", form.rating_a)
    rating, at = form.label if form else "", part.pointer
    out.add(f"part:{part.key}", "power", node.name, node.ways, rating=rating, places=[at], items=items, price=price)
    if "ac_gauge" in part.extra and (breaker := part.extra.get("breaker")) is not None:
        price = price_of("ac_breaker", breaker.number)
        said = f"{node.name}, its breaker"
        out.add(
            f"breaker:{part.key}", "power", said, 1, rating=breaker.text, places=[at], items=[f"fuse:{part.key}"], price=price
        )


def of_inverter(part: PartSizing, node: Inverter, facts: ListedFrom, out: PartsList) -> None:
    """What an inverter asks for besides itself: the resistor of its pre-charge, residual-current protection."""
    if (ohm := facts.power.ctx.sheet.get(f"power/{part.key}/precharge")) is not None:
        watts = precharge_energy(ohm, part.source.v_max)["rating"]
        rating = f"{ohm.text}, {watts.text}, wire-wound"
        out.add(f"precharge:{part.key}", "small", "pre-charge resistor with its lead", 1, rating=rating, places=[part.pointer])
    if has_rcd(node, facts.power.ctx.brief):
        said = f"{node.name}, residual-current protection"
        out.add(f"rcd:{part.key}", "power", said, 1, rating="30 mA", places=[part.pointer])


SOLD_W = (5.0, 10.0, 25.0, 50.0, 100.0, 200.0)
"""Wire-wound resistors as sold, W."""


def precharge_energy(ohm: Figure, v_max: Figure) -> dict[str, Figure]:
    """What a pre-charge resistor goes through: its first current (A) and power (W), the energy that it takes up (J), how long it stays in
    (s), and the rating as sold that stands it (W).

    Source: Ohm's law; half of the energy in a capacitor passes as heat; five time constants; a wire-wound resistor stands five times its
    rating for some seconds (assumptions table).
    """
    capacitance, times = assumption("inverter_capacitance"), assumption("wire_wound_burst")
    volts = {"V_max": v_max, "R_pre": ohm}
    first = Figure.by("I_0", "V_max / R_pre", "A", "at first", volts)
    power = Figure.by("P_0", "V_max^2 / R_pre", "W", "at first", volts)
    energy = Figure.by("E", "C · V_max^2 / 2", "J", "taken up", C=capacitance, V_max=v_max)
    wait = Figure.by("t", "5 · R_pre · C", "s", "stays in", R_pre=ohm, C=capacitance)
    least = Figure.by("P_least", "P_0 / k_w", "W", "it must be rated for", P_0=power, k_w=times)
    sold = next((w for w in SOLD_W if w >= least.number), SOLD_W[-1])
    rating = Figure.of("P_R", sold, "W", "rating", how="smallest sold that stands it", inputs={"P_least": least})
    return {"first": first, "power": power, "energy": energy, "wait": wait, "rating": rating}


def of_fuse(family: Family, amps: float, key: str, at: str, out: PartsList, in_lead: bool = False) -> None:
    """A fuse link, with its like on one line; in a thin lead with its holder."""
    what = f"{family.label}, in a holder for thin leads" if in_lead else family.label
    line = slug("lead-fuse" if in_lead else "fuse", family.key, f"{amps:g}")
    price = price_of("fuse", amps * (2 if family.key in ("class-t", "nh", "nh2") else 1), CENT)
    out.add(line, "power", what, 1, rating=f"{amps:g} A", places=[at], items=[f"fuse:{key}"], price=price)


def holder(family: Family, amps: float, key: str, at: str, out: PartsList, items: Iterable[str] = ()) -> None:
    """What holds fuses of a family: the price of both less that of the fuse."""
    both, fuse = price_of("protection", amps), price_of("fuse", amps, CENT)
    price = None
    if both is not None and fuse is not None:
        price = Figure.by("c", "max(0, c_p − c_f)", "money", "holder alone", c_p=both, c_f=fuse)
    said = f"holder, {family.label}"
    out.add(
        slug("holder", family.key, f"{amps:g}"), "power", said, 1, rating=f"{amps:g} A", places=[at], items=items, price=price
    )


def of_negative(facts: ListedFrom, out: PartsList) -> None:
    """The negative side, of which the tree says nothing: its bars, the shunt, the fuse of the meter's lead."""
    ctx, network = facts.power.ctx, facts.power.network
    for source in facts.power.sources.values():
        if network.children[source.key]:
            at = "/power/negative" if source.key == PACK else f"{source.pointer}/negative"
            amps = (
                source.continuous.number
                if source.key != PACK or ctx.negative is None
                else ctx.sheet["power/negative/design"].number
            )
            price, rating = price_of("busbar", amps), f"at least {write_quantity(amps, 'A')}"
            what = "negative bar with its studs and cover"
            out.add(slug("negative-bar", source.key), "power", what, 1, rating=rating, places=[at], price=price)
    if ctx.shunt is not None:
        rating, price = ctx.shunt.text, price_of("shunt", ctx.shunt.number)
        places = ["/power/shunt"]
        out.add("shunt", "power", "shunt with its meter", 1, rating=rating, places=places, items=["body:shunt"], price=price)
    if ctx.meter is not None and ctx.meter.fuse is not None:
        of_fuse(ctx.meter.family, ctx.meter.fuse.number, "lead:meter", "/power/shunt", out, in_lead=True)
    if ctx.path.chassis_bond:
        out.add("bond", "small", "lead of the bond to the chassis, with its lugs", 1, places=["/power"])


def across(*sizes: float) -> str:
    """Sizes in mm as a person says them, in the builder's unit."""
    *first, last = sizes
    return " × ".join([*(significant(as_builder_has_it(mm, "mm")[0]) for mm in first), write_quantity(last, "mm")])


def of_box(layout: BoxLayout, facts: ListedFrom, out: PartsList) -> None:
    """The box, what is built and cut into it, what holds everything in it down."""
    case = layout.case
    size = across(case.length_mm, case.width_mm, case.height_mm)
    like = [
        c for c in case_types().values() if all(c.document[n] == getattr(case, n) for n in ("length_mm", "width_mm", "height_mm"))
    ]
    price = like[0].figure("c", like[0].price, "money", f"typical price, {like[0].label}") if like else None
    out.add("case", "box", case.name, 1, rating=f"{size} {case.measured}", places=["/box/case"], price=price)
    for key, fixture in layout.box.fixtures.items():
        size = across(fixture.width_mm, fixture.depth_mm, fixture.height_mm)
        rating, at = f"{fixture.material}, {size}", f"/box/fixtures/{key}"
        out.add(f"fixture:{key}", "box", fixture.name, 1, rating=rating, places=[at], items=[f"body:fixture:{key}"])
    for key, fitting in layout.box.fittings.items():
        at, wide = f"/box/fittings/{key}", write_quantity(fitting.width_mm, "mm")
        out.add(
            f"fitting:{key}", "box", fitting.name, 1, rating=f"{fitting.kind}, {wide}", places=[at], items=[f"body:fitting:{key}"]
        )
    for key, place in layout.box.places.items():
        if isinstance(place, Inside) and key in layout.standing:
            for kind in place.held:
                if kind == NOTHING_BOUGHT:
                    continue
                row = holds()[kind]
                out.add(f"hold:{kind}", "box", row.label, 1, places=[f"/box/places/{key}"])
    for n, hole in enumerate(holes_in(layout)):
        if hole.screw:
            screw = panel_screw(hole.shape.width)
            long = ceil((case.wall_mm + screw.over_mm) / 2) * 2
            what = f"{screw.label} screw with washer and lock nut"
            line = slug("screw", screw.label, str(long))
            out.add(line, "small", what, 1, rating=f"{screw.label} × {long}", places=[hole.at], items=[f"hole:{n}"])
        else:
            out.add("seal", "small", "seal round a cut-out", 1, places=[hole.at], items=[f"hole:{n}"])


def of_wire(pieces: list[Piece], out: PartsList) -> None:
    """Wire by gauge and colour, with the terminals at its ends and what goes over them."""
    for piece in pieces:
        cable = f"{piece.gauge}, {piece.cores} cores, sheathed" if piece.cores > 1 else f"{piece.gauge} {piece.colour}"
        key = slug("wire", piece.gauge, "cable" if piece.cores > 1 else piece.colour)
        price = price_of("wire", piece.area_mm2 * piece.cores, CENT)
        items = [f"run:{piece.key}"]
        out.add(key, "wire", cable, piece.cut.number * piece.count, unit="m", places=[piece.place], items=items, price=price)
        for side, end in enumerate(piece.ends):
            for n in range(piece.count):
                of_end(piece, side, n, out)
            if end.terminal.kind == "lug" and end.terminal.die == "hex die":
                long = constant("sleeve_barrels") * end.terminal.barrel_mm / 1000 * piece.count
                at = [end.at]
                out.add(slug("sleeve", piece.gauge), "terminals", f"adhesive sleeve for {piece.gauge}", long, unit="m", places=at)


def of_end(piece: Piece, side: int, n: int, out: PartsList) -> None:
    """The terminal of one end of one wire: a lug by gauge, stud and barrel; each core of a cable has its own."""
    end = piece.ends[side]
    terminal, item = end.terminal, f"end:{piece.key}:{side}:{n}"
    price = terminal.figure("c", terminal.price, "money", f"typical price, {terminal.label}") if terminal.packet else None
    key = slug(terminal.kind, piece.gauge, end.hole) if end.hole else slug(terminal.kind, piece.gauge)
    rating = f"{piece.gauge} × {end.hole}" if end.hole else piece.gauge
    out.add(
        key,
        "terminals",
        terminal.label,
        piece.cores,
        rating=rating,
        places=[end.at],
        items=[item],
        price=price,
        packet=terminal.packet,
        comes_with=terminal.packet == 0,
    )
    if end.bolted:
        stud = [f"stud:{piece.key}:{side}:{n}"]
        out.add(slug("nut", end.hole), "small", "nut with spring washer", 1, rating=end.hole, places=[end.at], items=stud)
        if not end.at.endswith("/negative"):
            out.add(slug("boot", piece.gauge), "small", "boot over a lug", 1, rating=piece.gauge, places=[end.at])


def small_parts(facts: ListedFrom, out: PartsList) -> None:
    """Labels, ties, grommets."""
    pieces = facts.pieces
    labels = sum(2 * piece.count for piece in pieces)
    if labels:
        out.add("labels", "small", "wire label with its sleeve", labels)
        bundles = {piece.run.removesuffix(":return"): piece.route.number for piece in pieces}
        ties = sum(ceil(metres / constant("tie_every")) for metres in bundles.values())
        out.add("ties", "small", "cable tie or clip", ties)
        out.add("tape", "small", "insulating tape, roll", 1)
    for part in facts.power.parts.values():
        if part.node.run.wall == "grommet":
            out.add("grommets", "small", "grommet", 1, places=[part.pointer])


def spares(out: PartsList) -> None:
    """A spare of each fuse: two of what costs next to nothing."""
    for line in list(out.values()):
        if line.key.startswith(("fuse:", "lead-fuse:")):
            count = CHEAP_SPARES if float(line.rating.split()[0]) <= CHEAP_A else 1
            key = f"spare:{line.key.partition(':')[2]}"
            out.add(
                key,
                "spares",
                f"spare {line.what.split(',')[0]}",
                count,
                rating=line.rating,
                places=line.places,
                price=line.typical,
            )
