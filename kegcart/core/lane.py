"""Assessment -> the plain numbers that the simulation reads: banks, parts and loads of a design, at one outside temperature."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from kegcart.core.assess import Assessment
from kegcart.core.box.heat import BoxHeat, size_heat
from kegcart.core.charging.charged import Charged
from kegcart.core.charging.kinds import source_kind
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.electrical.cables import ENDS
from kegcart.core.figure import Figure, Sheet
from kegcart.core.lane_figures import numbers_of, with_numbers
from kegcart.core.loads.profile import DAY_H, covered
from kegcart.core.loads.sizing import Demand
from kegcart.core.loads.supplies import efficiency
from kegcart.core.measured import TELLS, MeasuredKey, as_assumed, in_force
from kegcart.core.pack.body import cooling
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import SecondBank
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.network import where_it_joins
from kegcart.core.power.path.parts import PartSizing, Source
from kegcart.core.reference import Chemistry, chemistries, cold_rows, constant, interpolate
from kegcart.core.simulation.inputs import (
    BoardLimits,
    Branch,
    CellBank,
    CellCurve,
    CellGroup,
    Fan,
    Feed,
    Lane,
    LeadAcid,
    LoadDraw,
    Plan,
    Surroundings,
    Threshold,
)

Season = Literal["coldest", "hottest"]
SEASONS: tuple[Season, ...] = ("coldest", "hottest")
SHUNT = "shunt"
BENCH_C = 20.0
NEVER_H = 1e6
"""So long until it is plugged in: not during a test."""
OF_THE_LANE: Final[tuple[MeasuredKey, ...]] = (
    "late_share",
    "late_s",
    "path",
    "standing",
    "walls",
    "box_heat",
    "pack_surface",
    "pack_heat",
)
"""What is measured and put into a lane; the rest is sized as measured."""
PAD_BAND = 2
"""A pad warms until it is so many times as far above the lock as where the board lets charge in."""


@dataclass(frozen=True, slots=True)
class Weather:
    """The air outside in °C, the month (from 1) whose sun there is, and whether the sun shines on the box."""

    celsius: float
    month: int
    sunny: bool = False


BENCH_DAY: Final = (Weather(BENCH_C, 1), Plan(0, 1, NEVER_H, NEVER_H))
"""As it stands on the bench, and nothing charges it."""


def weather(assessment: Assessment, season: Season) -> Weather:
    """What a season of the brief is like. The month matters only where there are panels; the sun on the box only where it is hottest."""
    brief, sun = assessment.design.brief, assessment.charging.sun
    hot = season == "hottest"
    return Weather(brief.site_max_c if hot else brief.site_min_c, sun.month(season) if sun else 1, hot)


def lane_of(assessment: Assessment, weather: Weather, plan: Plan, *, bare: bool = False) -> Lane:
    """The station as the simulation reads it, with what was measured of it. bare: as it stands on the bench today, without its loads, and
    without what charges it."""
    lane, measured = lane_as_sized(assessment, weather, plan, bare=bare), assessment.design.bench.measured
    if not measured:
        return lane
    telling = telling_of(assessment, lane)
    values: dict[str, float] = {}
    for key in OF_THE_LANE:
        if key in telling and (found := in_force(measured, key, telling[TELLS.get(key, key)])):
            values[key] = found.value
    return with_numbers(lane, *tested(assessment), values)


def lane_as_sized(assessment: Assessment, weather: Weather, plan: Plan, *, bare: bool) -> Lane:
    """The station as it is sized, without what only a lane has of what was measured. bare: see `lane_of`."""
    places, heat = Places(assessment), heat_of(assessment, Sheet(), as_sized=True)
    return Lane(
        tuple(banks_of(assessment, heat, today=bare)),
        tuple(places.parts()),
        () if bare else tuple(loads_of(assessment, places)),
        surroundings(assessment, heat, weather),
        plan,
        cold_rows(),
        () if bare else tuple(feeds_of(assessment, places, weather, plan)),
    )


def tested(assessment: Assessment) -> tuple[list[int], int | None, float]:
    """What a load test is made through: the places of its parts, that of the inverter and its rating in W; see `numbers_of`."""
    places, own = Places(assessment), assessment.power.ctx.tested_inverter
    return places.tested_way(), places.index[own.key] if own else None, own.rating.number if own else 0.0


def telling_of(assessment: Assessment, lane: Lane) -> dict[str, float]:
    """What a design says of each figure that can be measured, as if nothing had been, and of what tells whether it is still the same part.

    lane: as sized.
    """
    pack, own = assessment.pack, assessment.power.ctx.tested_inverter
    out = numbers_of(lane, *tested(assessment))
    out |= {"resistance": as_assumed(pack.resistance).number, "capacity": as_assumed(pack.capacity).number}
    return out | {"copper": assessment.power.ctx.tested_copper} | ({"rated": own.rating.number} if own else {})


def heat_of(assessment: Assessment, sheet: Sheet, *, as_sized: bool = False) -> BoxHeat | None:
    """How the box deals with heat; None until one is chosen. as_sized: without what was measured of it."""
    a = assessment
    measured = {} if as_sized else a.design.bench.measured
    return None if a.box is None else size_heat(a.box, a.design.brief, a.site, a.power, measured, sheet)


def surroundings(assessment: Assessment, heat: BoxHeat | None, weather: Weather) -> Surroundings:
    """The box as the simulation reads it: as worked out; a usual closed one until a box is chosen."""
    if heat is None:
        return Surroundings(weather.celsius, 1 / constant("box_resistance"), constant("box_capacity"))
    still = heat.still.number
    return Surroundings(
        weather.celsius,
        still,
        heat.capacity.number,
        max(still, heat.stirred.number),
        heat.draught.number if heat.draught else 0.0,
        heat.sun.number if heat.sun and weather.sunny else 0.0,
        constant("sun_rises"),
        constant("sun_sets"),
        tuple(
            Fan(fan.carries.number, fan.fitting.blows == "out", fan.fitting.starts, fan.on.number, fan.off.number)
            for fan in heat.fans.values()
        ),
    )


def plan_of(assessment: Assessment, days: int) -> Plan:
    """From the hour it is ready: so many days, or the time between charges where no hours are left to charge in."""
    brief, bench = assessment.design.brief, assessment.design.bench
    period = -(-brief.hours_away // DAY_H) * DAY_H
    whole = days * DAY_H if brief.hours_away < period else min(days * DAY_H, brief.hours_away)
    pattern = assessment.loads.day.length_h
    return Plan(brief.ready_h, brief.ready_h + whole, period, brief.hours_away, pattern, bench.start_charge)


def banks_of(assessment: Assessment, heat: BoxHeat | None, *, today: bool = False) -> Iterator[CellBank]:
    """The pack first, then the further banks in the order of the document. today: see `pack_bank`."""
    power, surfaces = assessment.power, heat.surfaces if heat else {}
    yield pack_bank(assessment, surfaces.get(PACK, assessment.pack.surface), today=today)
    for key, bank in power.ctx.path.banks.items():
        stands = surfaces.get(f"bank:{key}")
        yield second_bank(bank, power.sources[key], stands.number if stands else None)


def curve_of(row: Chemistry) -> CellCurve:
    """The curves of a cell, rested and while it fills; the points at the top replace the rested ones where they lie higher."""
    top = row.filling[0][0] if row.filling else 1.0
    begins = max((s for s in row.soc if s < top), default=0.0)
    charges = sorted({*row.soc, *(s for s, _ in row.filling), *([begins] if row.filling else [])})
    rest = tuple(row.open_circuit(s) for s in charges)
    if not row.filling:
        return CellCurve(tuple(charges), rest, rest)
    xs, ys = (begins, *(s for s, _ in row.filling)), (row.open_circuit(begins), *(v for _, v in row.filling))
    fill = tuple(max(v, interpolate(s, xs, ys)) if s >= begins else v for s, v in zip(charges, rest, strict=True))
    return CellCurve(tuple(charges), rest, fill)


def lead_of(row: Chemistry, capacity_ah: float) -> LeadAcid | None:
    """What is lead's own; None of any other chemistry."""
    if row.kind != "lead":
        return None
    rated_a = capacity_ah / constant("peukert_hours")
    accepts, follows = row.acceptance or 1e9, constant("lead_polarise")
    return LeadAcid(row.peukert or 1.0, rated_a, constant("peukert_recovery"), accepts, follows)


def feeds_by_source(assessment: Assessment) -> Iterator[tuple[str, str]]:
    """(id of a source, id of the bank that it charges), bank after bank; an empty id where a bank has none, and what usually
    charges it stands in."""
    charging = assessment.charging
    for root in charging.charged:
        sources = [s.key for s in charging.of_bank(root)]
        yield from ((key, root) for key in sources or [""])


def feeds_of(assessment: Assessment, places: "Places", weather: Weather, plan: Plan) -> Iterator[Feed]:
    """The sources of every bank, in the order of `feeds_by_source`."""
    charging, joins = assessment.charging, where_it_joins(assessment.design.power)
    for key, root in feeds_by_source(assessment):
        bank = places.roots.index(root)
        if key:
            yield feed_of(charging.sources[key], bank, places, joins.get(key), weather, plan)
        else:
            yield stand_in(charging.charged[root], bank, charging.charging.goal)


def stand_in(charged: Charged, bank: int, goal: str) -> Feed:
    """What usually charges a bank of which nothing is decided: while it is plugged in, at its posts.

    Source: set points by chemistry (set points table); rate typical (assumptions table).
    """
    row, series = charged.set_point(goal), charged.series.number
    amps = min(constant("charge_rate") * charged.capacity.number, charged.limit.number)
    tail = row.tail * charged.capacity.number
    return Feed(
        "charger",
        bank,
        amps,
        row.absorb_v * series,
        tail,
        absorb_s=max(row.absorb_h, constant("absorb_most")) * 3600,
        recharge_v=row.recharge_v * series,
    )


def feed_of(sizing: SourceSizing, bank: int, places: "Places", joins: str | None, weather: Weather, plan: Plan) -> Feed:
    """A source as the simulation takes it, seen from the posts: units in series as one of their whole voltage.

    Source: series adds voltage; one that watches its current stays at its voltage for so long at most (assumptions table); a diode is a threshold and a resistance (assumptions table); lead's set point falls with the
    temperature where it is compensated.
    """
    source, kind, charged = sizing.source, source_kind(sizing.source), sizing.charged
    row, units = charged.set_point(places.assessment.charging.charging.goal), kind.units(source)[0]
    warmer = constant("lead_compensation") * charged.series.number * (25 - weather.celsius) if source.compensated else 0.0
    has_diode = source.diode != "none"
    diode_ohm = constant(f"{source.diode}_ohm") if has_diode and source.diode_v is None else 0.0
    threshold = sizing.drop.number - diode_ohm * sizing.tail.number if has_diode else 0.0
    ends = source.ends or kind.facts.ends
    usual_h = row.absorb_h if ends == "time" else max(row.absorb_h, constant("absorb_most"))
    absorb_h = source.absorb_h if source.absorb_h is not None else usual_h
    eta, days = sizing.efficiency.number, int(plan.end_h // DAY_H) + 1
    hours = kind.run_powers(source, sizing, weather.month, days, places.assessment.loads.day.days)
    return Feed(
        source.name,
        bank,
        sizing.current.number,
        units * sizing.set_point.number + warmer,
        sizing.tail.number,
        places.index.get(joins or ""),
        units * sizing.held.number + warmer if sizing.held else 0.0,
        units * threshold,
        units * diode_ohm + (0.0 if getattr(source, "senses", False) else places.ohm_to_posts(joins)),
        ends,
        absorb_h * 3600,
        row.recharge_v * charged.series.number,
        hours,
        days * DAY_H,
        kind.holds_wh(source) * eta,
        (1 - eta) / eta if stands_inside(sizing, places.assessment) else 0.0,
    )


def stands_inside(sizing: SourceSizing, assessment: Assessment) -> bool:
    """Whether what a source loses warms the box: it has a place there, or is said to stand in it."""
    return f"source:{sizing.key}" in assessment.design.box.places or getattr(sizing.source, "inside", False)


def groups_of(pack: PackSizing) -> tuple[CellGroup, ...]:
    """The groups as measured, or one that stands for all alike."""
    members, series = pack.build.groups, pack.series.number
    if not members:
        return (CellGroup(1.0, 1 / series, series),)
    whole, least = sum(g.resistance.number for g in members), min(g.capacity.number for g in members)
    return tuple(CellGroup(g.capacity.number / least, g.resistance.number / whole, 1.0) for g in members)


def pack_bank(assessment: Assessment, surface: Figure, *, today: bool) -> CellBank:
    """The pack as sized: aged as it is planned for, with its board or those inside its batteries. surface: to the air inside, m².

    today: a capacity that was measured is what the pack holds now, and is not aged.
    """
    pack, row = assessment.pack, assessment.pack.chemistry
    aged = 1.0 if today and pack.capacity.basis.kind == "measured" else assessment.figures["pack/age_factor"].number
    capacity, series = pack.capacity.number * aged, pack.series.number
    form = form_of(pack.pack)
    own_w = sum(i.watts.number for i in assessment.power.idle if not i.place.startswith("/power/network/"))
    limits, lock, board = form.protection(pack), form.cold_lock(pack), None
    if limits is not None:
        locked = lock is None or bool(lock.locked)
        stops = form.stops_at(pack.pack)
        board = board_of(
            row,
            pack.cutoff.number / series,
            stops.number if stops else row.v_max,
            (limits.continuous.number, limits.burst.number, limits.charge.number),
            locked,
        )
    return CellBank(
        "the pack",
        curve_of(row),
        groups_of(pack),
        capacity,
        pack.resistance.number,
        constant("rc_share"),
        constant("rc_time"),
        row.coulombic,
        own_w,
        max(pack.mass.number, 0.1) * constant("cell_heat"),
        cooling(pack.pack, surface).number,
        row.charge_min_c,
        board,
        lead_of(row, capacity),
        assessment.design.charging.pad.watts or 0.0,
        row.charge_min_c + PAD_BAND * constant("lock_band"),
    )


def board_of(
    row: Chemistry, cell_min_v: float, cell_max_v: float, limits_a: tuple[float, float, float], locked: bool
) -> BoardLimits:
    """A board of a chemistry. limits_a: for long, in a burst, and into the pack. locked: whether it minds the temperature.

    Source: delays and release typical (assumptions table); temperatures of charging by chemistry (chemistries table).
    """
    continuous, burst, charge = limits_a
    locks = (row.charge_min_c, row.charge_max_c) if locked else ()
    return BoardLimits(
        cell_min_v,
        cell_min_v + constant("board_release"),
        cell_max_v,
        continuous,
        max(burst, continuous),
        constant("board_burst_time"),
        charge,
        constant("cutoff_delay"),
        constant("restart_delay"),
        *locks,
    )


def second_bank(bank: SecondBank, source: Source, surface: float | None) -> CellBank:
    """A further bank by its sheet, with the board that a finished lithium battery has inside. surface: to the air inside, m²; None: as of a
    cube."""
    row = chemistries()[bank.chemistry]
    limit = row.charge_rate * bank.capacity_ah
    mass = bank.capacity_ah * bank.series * row.v_nom / row.wh_per_kg
    surface = surface or 5 * (mass / (1000 * constant("pack_density"))) ** (2 / 3)
    limits = (source.continuous.number, source.burst.number, limit)
    return CellBank(
        bank.name,
        curve_of(row),
        (CellGroup(1.0, 1 / bank.series, bank.series),),
        bank.capacity_ah,
        source.resistance.number,
        constant("rc_share"),
        constant("rc_time"),
        row.coulombic,
        0.0,
        mass * constant("cell_heat"),
        constant("still_air") * surface,
        row.charge_min_c,
        None if row.kind == "lead" else board_of(row, row.v_min, row.v_max, limits, locked=False),
        lead_of(row, bank.capacity_ah),
    )


class Places:
    """Where each part of the path stands among the parts of the simulation: bank after bank, what feeds before what it feeds."""

    def __init__(self, assessment: Assessment) -> None:
        self.assessment = assessment
        self.power, self.ctx = assessment.power, assessment.power.ctx
        network = self.power.network
        self.roots = [PACK, *self.ctx.path.banks]
        self.keys: list[str] = []
        for root in self.roots:
            self.keys += [SHUNT] if root == PACK and self.power.shunt else []
            self.keys += [key for key in network.order if network.source(key) == root]
        self.index = {key: i for i, key in enumerate(self.keys)}

    def parts(self) -> Iterator[Branch]:
        """Every part, in order; the shunt of the pack's meter first, as all its current passes it."""
        network = self.power.network
        for key in self.keys:
            if key == SHUNT:
                yield Branch("shunt", 0, None, constant("shunt_drop") / self.power.shunt.number if self.power.shunt else 0.0)
            else:
                yield self.part(key, self.roots.index(network.source(key)))

    def part(self, key: str, bank: int) -> Branch:
        """One part: its run with joints and its own resistance, what it draws, what it makes, where it cuts off."""
        sizing = self.power.parts[key]
        node, kind = sizing.node, kind_of(sizing.node)
        feed = self.index.get(node.feed)
        if feed is None and bank == 0:
            feed = self.index.get(SHUNT)
        device, idle = kind.makes(node, key, self.ctx), kind.idle(node, key, self.ctx)
        return Branch(
            node.name,
            bank,
            feed,
            ohm_to(sizing),
            0.0 if device or idle is None else idle.watts.number,
            device.output_v if device else 0.0,
            device.loss if device else None,
            self.cutoff(key, sizing),
            device.overload if device else None,
            device.with_loads if device else False,
            device is not None and device.overload is not None,
        )

    def tested_way(self) -> list[int]:
        """The parts through which a load test is fed, from the posts on."""
        shunt = [self.index[SHUNT]] if SHUNT in self.index else []
        return shunt + [self.index[key] for key in reversed(self.ctx.tested_way)]

    def ohm_to_posts(self, key: str | None) -> float:
        """Resistance in Ω of the whole way from the posts to a part. Source: series resistances add (Kirchhoff)."""
        ohm, network = 0.0, self.power.network
        while key in network.nodes:
            assert key is not None
            ohm += ohm_to(self.power.parts[key])
            key = network.nodes[key].feed
        return ohm

    def cutoff(self, key: str, sizing: PartSizing) -> Threshold | None:
        """Where a part opens by itself and closes again. Source: delays and restart typical (assumptions table)."""
        own = kind_of(sizing.node).cutoff(sizing.node, key, self.ctx)
        if own is None:
            return None
        volts, cells = own.volts.number, sizing.source.v_nom.number / self.cell_v(sizing)
        restart = own.restart_v if own.restart_v is not None else volts + constant("restart_margin") * cells
        return Threshold(volts, max(restart, volts), constant("cutoff_delay"), constant("restart_delay"))

    def cell_v(self, sizing: PartSizing) -> float:
        """Nominal voltage of a cell of the source of a part, V."""
        key = sizing.source.key
        row = self.ctx.pack.chemistry if key == PACK else chemistries()[self.ctx.path.banks[key].chemistry]
        return row.v_nom


def ohm_to(part: PartSizing) -> float:
    """Resistance in Ω from the part before: both legs of the run with their joints, and its own.

    Source: series resistances add (Kirchhoff); joints typical (assumptions table).
    """
    own = kind_of(part.node).resistance(part.node, part)
    ohm = own.number if own else 0.0
    if part.run:
        ohm += part.run.resistance.number + 2 * ENDS * constant("joint_resistance")
    return ohm


def loads_of(assessment: Assessment, places: Places) -> Iterator[LoadDraw]:
    """Every load that is plugged in, on its outlet; what an engine's alternator feeds takes nothing of the battery."""
    days = assessment.loads.day.days
    for outlet, plugged in assessment.power.plugged.items():
        for demand in plugged:
            if demand.load.engine_runs:
                continue
            yield load_of(demand, places.index[outlet], days)


def load_of(demand: Demand, part: int, days: int) -> LoadDraw:
    """One row of loads. A USB module takes its loss besides; that of a converter or inverter before it is its own."""
    load, watts = demand.load, demand.running.number
    cycle = load.cycle
    return LoadDraw(
        load.name,
        part,
        watts,
        tuple(covered(load, days)),
        demand.surge_extra.number,
        demand.surge_s,
        (cycle.on_min * 60, cycle.off_min * 60) if cycle else None,
        law=demand.law,
        volts=demand.typed_v,
        taken=1 / efficiency("usb") if load.supply == "usb" else 1.0,
        va=demand.apparent_va / watts if watts > 0 else 1.0,
    )
