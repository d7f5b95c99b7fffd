"""The station simulated over its days: charge, voltage, current, temperatures, cut-offs.

State: charge, the late part of the voltage drop (one RC), pack and inside-air temperature, whether inverter
and board are closed. At each moment the terminal voltage is solved for the power asked, then cut-offs act,
then heat is carried. Steps follow events and change; with `step_s` a fixed step is taken instead, which is
the reference that the free steps are tested against.
"""

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from math import exp, inf, sqrt
from typing import Any, Literal

from kegcart.core.assess import Assessment
from kegcart.core.figure import Figure, write_figure
from kegcart.core.loads.profile import DAY_H, covered
from kegcart.core.loads.supplies import efficiency
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Converter, Inverter
from kegcart.core.power.kinds.converter import no_load_draw
from kegcart.core.reference import assumption, cold, constant, interpolate

LONGEST_S = 300.0
"""The longest free step; shorter than any time constant of pack or air."""
SETTLING_S = 15.0
"""First step after a change, while the late voltage drop settles; the steps then grow with the time since."""
LARGEST_SHARE = 0.005
"""Share of the charge that one step may move, so that the open-circuit voltage is followed round its knees."""
CUTOFF_TOLERANCE_S = 1.0
NEARLY_EMPTY = 0.05
"""Charge below which each step is held against the cut-offs before it is taken."""


@dataclass(frozen=True, slots=True)
class ScheduledLoad:
    """What one load asks of the bus, by time: DC watts, or AC watts behind an inverter."""

    key: str
    inverter: str | None
    scale: float
    """pack-side watts for one watt at the socket"""
    running_w: float
    surge_w: float
    surge_s: float
    spans_h: tuple[tuple[float, float], ...]
    """over one pattern of days"""
    cycle_s: tuple[float, float] | None

    def edges(self, begins_h: float) -> Iterator[tuple[float, float]]:
        """(time in s, watts from then on) over one pattern that begins at an hour."""
        for start_h, end_h in self.spans_h:
            begin, end = (begins_h + start_h) * 3600, (begins_h + end_h) * 3600
            on_s, off_s = self.cycle_s or (end - begin, 0.0)
            t = begin
            while t < end - 1e-6:
                stop = min(t + on_s, end)
                if self.surge_w > 0:
                    yield t, self.running_w + self.surge_w
                    yield min(t + self.surge_s, stop), self.running_w
                else:
                    yield t, self.running_w
                yield stop, 0.0
                t = stop + off_s if self.cycle_s else end


@dataclass(slots=True)
class Event:
    """Something that happened: hour, what, in words."""

    hour: float
    kind: str
    text: str


@dataclass(slots=True)
class Simulation:
    """A simulated run. Series by moment; energies in Wh; `balance` is (in − out − loss)/in."""

    hour: list[float] = field(default_factory=list)
    charge: list[float] = field(default_factory=list)
    voltage_v: list[float] = field(default_factory=list)
    current_a: list[float] = field(default_factory=list)
    pack_c: list[float] = field(default_factory=list)
    inside_c: list[float] = field(default_factory=list)
    load_w: list[float] = field(default_factory=list)
    events: list[Event] = field(default_factory=list)
    chemical_wh: float = 0.0
    charged_wh: float = 0.0
    delivered_wh: float = 0.0
    inverter_loss_wh: float = 0.0
    converter_loss_wh: float = 0.0
    pack_loss_wh: float = 0.0
    wiring_loss_wh: float = 0.0
    lowest_charge: float = 1.0
    lowest_voltage_v: float = 1e9
    hottest_pack_c: float = -99.0
    hottest_inside_c: float = -99.0
    dark_h: float = 0.0

    @property
    def out_wh(self) -> float:
        """Energy that has left the pack, Wh."""
        return self.delivered_wh + self.inverter_loss_wh + self.converter_loss_wh + self.pack_loss_wh + self.wiring_loss_wh

    @property
    def balance(self) -> float:
        """Energy in less energy out, stored and lost, Wh: nothing but rounding."""
        gone_in = self.chemical_wh + self.charged_wh
        return (gone_in - self.out_wh) / max(abs(self.out_wh), 1e-9)


@dataclass(frozen=True, slots=True)
class Groups:
    """The groups in series, charged full together: the pack's charge is that of the weakest group.

    `room` is each group's capacity over the weakest one's, `share` its part of the pack's resistance.
    Without sorted cells all groups are alike and one stands for them.
    """

    count: float
    soc: tuple[float, ...]
    ocv_v: tuple[float, ...]
    room: tuple[float, ...]
    share: tuple[float, ...]
    cell_min_v: float

    @classmethod
    def of(cls, pack: PackSizing) -> "Groups":
        """The groups as measured, or one that stands for all alike."""
        row, series = pack.chemistry, pack.series.number
        least = pack.cutoff.number / series
        members = pack.build.groups
        if not members:
            return cls(series, row.soc, row.ocv_v, (1.0,), (1 / series,), least)
        whole = sum(g.resistance.number for g in members)
        return cls(
            1.0,
            row.soc,
            row.ocv_v,
            tuple(g.capacity.number / pack.capacity.number for g in members),
            tuple(g.resistance.number / whole for g in members),
            least,
        )

    def curve(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Rested voltage of the whole pack over its charge, with a point wherever a group has one.

        Source: series adds voltage: the curve of each group, shifted and stretched by its own charge and capacity.
        """
        points = {s for room in self.room for s in (1 - (1 - soc) * room for soc in self.soc) if 0 <= s <= 1} | {0.0, 1.0}
        # Points that lie together but for rounding are one.
        charges: list[float] = []
        for s in sorted(points):
            if not charges or s - charges[-1] > 1e-9:
                charges.append(s)
        charges[-1] = 1.0
        volts = [self.count * sum(self.cell(s, room) for room in self.room) for s in charges]
        return tuple(charges), tuple(volts)

    def cell(self, charge: float, room: float) -> float:
        """Rested voltage of a cell of a group in V at the pack's charge."""
        return interpolate(1 - (1 - charge) / room, self.soc, self.ocv_v)

    def weakest(self, charge: float, drop_v: float) -> tuple[int, float]:
        """The group that stands lowest with the pack's drop shared by resistance, and its cell voltage in V."""
        volts = [self.cell(charge, room) - drop_v * share for room, share in zip(self.room, self.share, strict=True)]
        least = min(volts)
        return volts.index(least), least


class Model:
    """The physics of one station, and its state."""

    def __init__(self, assessment: Assessment, ambient_c: float, charge: float) -> None:
        a = assessment
        self.pack = a.pack
        series = a.pack.series.number
        self.groups = Groups.of(a.pack)
        self.curve_soc, self.curve_v = self.groups.curve()
        # Energy in V (times Ah gives Wh) up to each point of the curve, for an exact account of what the cells gave.
        self.curve_area = [0.0]
        for (s0, v0), (s1, v1) in pairwise(zip(self.curve_soc, self.curve_v, strict=True)):
            self.curve_area.append(self.curve_area[-1] + (v0 + v1) / 2 * (s1 - s0))
        self.capacity_ah = a.pack.capacity.number * a.figures["pack/age_factor"].number
        self.r_pack = a.pack.resistance.number
        self.r_main = a.power.main_ohm.number
        self.late, self.tau = constant("rc_share"), constant("rc_time")
        self.inverters = {key: (s.curve, s.cutoff.number) for key, s in a.power.pack_inverters().items()}
        nodes = a.power.network.nodes
        self.left_on = {key for key in self.inverters if isinstance(n := nodes[key], Inverter) and n.left_on}
        own = [(key, n) for key, n in nodes.items() if isinstance(n, Converter) and a.power.network.source(key) == PACK]
        self.converter_idle = sum(no_load_draw(n, key).number for key, n in own)
        self.board_v = a.pack.cutoff.number
        self.burst_a = a.pack.burst.number
        self.restart_v = constant("restart_margin") * series
        thermal = a.design.bench.thermal_resistance
        self.g_box = 1 / (thermal if thermal is not None else constant("box_resistance"))
        self.c_box = constant("box_capacity")
        self.g_pack = 1 / constant("pack_resistance_thermal")
        self.c_pack = max(a.pack.mass.number, 0.1) * constant("cell_heat")
        self.g_all = self.g_box + self.g_pack
        self.ambient_c = ambient_c
        self.charge, self.late_v = charge, 0.0
        self.charge_area = self.area(charge)
        self.pack_c = self.inside_c = ambient_c
        self.closed = dict.fromkeys(self.inverters, True)
        self.alike = len(self.groups.room) == 1
        """all cells stand at the same voltage, so that none is low while the pack is not"""
        self.sound = self.alike
        """and everything is closed, so that nothing acts while the voltage is far from every cut-off"""
        self.board_closed = True
        self.cutoff_near = 1.03 * max([self.board_v, *(cut for _, cut in self.inverters.values())])
        self.settle()

    def emf(self, charge: float) -> float:
        """Open-circuit voltage at a state of charge, V."""
        soc, volts = self.curve_soc, self.curve_v
        if charge <= 0:
            return volts[0]
        if charge >= 1:
            return volts[-1]
        i = bisect_right(soc, charge)
        return volts[i - 1] + (volts[i] - volts[i - 1]) * (charge - soc[i - 1]) / (soc[i] - soc[i - 1])

    def area(self, charge: float) -> float:
        """Energy between two states of charge, Wh."""
        soc = self.curve_soc
        if charge <= 0:
            return 0.0
        if charge >= 1:
            return self.curve_area[-1]
        i = bisect_right(soc, charge)
        part = charge - soc[i - 1]
        slope = (self.curve_v[i] - self.curve_v[i - 1]) / (soc[i] - soc[i - 1])
        return self.curve_area[i - 1] + part * (self.curve_v[i - 1] + slope * part / 2)

    def weakest(self, charge: float, amps: float, late_v: float) -> tuple[int, float]:
        """The group whose cells stand lowest under a current (from 0), and their voltage (V)."""
        drop = amps * self.r0 + late_v
        return self.groups.weakest(charge, drop)

    def settle(self) -> None:
        """Bring what depends on the pack's temperature up to date: capacity (Ah), immediate and late resistance (Ω).

        Source: capacity and resistance by temperature (cold table).
        """
        capacity, resistance = cold(self.pack_c)
        r = self.r_pack * resistance
        self.r0, self.r1 = r * (1 - self.late), r * self.late
        self.capacity = self.capacity_ah * capacity


@dataclass(slots=True)
class Charger:
    """The charger: off, filling (constant current up to its voltage), or holding (feeds the loads of a full pack)."""

    current_a: float
    full_v: float
    state: Literal["off", "filling", "holding"] = "off"


@dataclass(slots=True)
class Moment:
    """What the loads ask at one moment, W: on the DC bus, and AC by inverter."""

    dc_w: float
    dc_socket_w: float
    ac_w: dict[str, float]
    wanted_w: float = field(init=False)
    """at the sockets, whether it arrives or not"""
    _taken: "tuple[tuple[bool, ...], tuple[float, float, float]] | None" = None

    def __post_init__(self) -> None:
        self.wanted_w = self.dc_socket_w + sum(w for w in self.ac_w.values() if w > 0)

    def taken(self, model: "Model") -> tuple[float, float, float]:
        """W asked of the bus, W at the sockets, W lost in inverters, for what is closed now."""
        closed = (model.board_closed, *model.closed.values())
        if self._taken is None or self._taken[0] != closed:
            self._taken = closed, self.summed(model)
        return self._taken[1]

    def summed(self, model: "Model") -> tuple[float, float, float]:
        """As `taken`, added up anew."""
        if not model.board_closed:
            return 0.0, 0.0, 0.0
        asked, socket, loss = self.dc_w, self.dc_socket_w, 0.0
        for key, ac in self.ac_w.items():
            if ac >= 0 and model.closed[key]:
                lost = model.inverters[key][0].loss(ac)
                asked += ac + lost
                socket += ac
                loss += lost
        return asked, socket, loss


def demands_of(assessment: Assessment) -> list[ScheduledLoad]:
    """The loads as the bus of the pack sees them; those of a further bank are not on it."""
    network = assessment.power.network
    out = []
    for outlet, plugged in assessment.power.plugged.items():
        if network.source(outlet) != PACK:
            continue
        inverter = next((up for up in network.upstream(outlet) if up in assessment.power.inverters), None)
        for d in plugged:
            cycle = d.load.cycle
            out.append(
                ScheduledLoad(
                    d.key,
                    inverter,
                    1 / efficiency(d.load.supply),
                    d.running.number,
                    d.surge_extra.number,
                    d.surge_s,
                    tuple(covered(d.load, assessment.loads.day.days)),
                    (cycle.on_min * 60, cycle.off_min * 60) if cycle else None,
                )
            )
    return out


def schedule(demands: list[ScheduledLoad], pattern_h: float, until_h: float) -> list[tuple[float, str, float]]:
    """Every change of every load, in order of time (s), from hour 0 on; the pattern of days repeats."""
    rounds = int(until_h // pattern_h) + 1
    changes = [(t, d.key, watts) for d in demands for n in range(rounds) for t, watts in d.edges(n * pattern_h)]
    # At one moment a load that ends and begins again ends first.
    return sorted(changes, key=lambda c: (round(c[0], 3), c[2] > 0))


def simulate(assessment: Assessment, days: int | None = None, step_s: float | None = None) -> Simulation:
    """Simulate the station from the hour it is ready.

    days: length; the bench's setting if None. step_s: fixed step in s, or free steps if None.
    """
    bench, brief = assessment.design.bench, assessment.design.brief
    days = days or bench.days
    ambient = brief.site_max_c if bench.season == "hottest" else brief.site_min_c
    model = Model(assessment, ambient, bench.start_charge)
    demands = demands_of(assessment)
    by_key = {d.key: d for d in demands}
    begin_s, end_s = brief.ready_h * 3600, (brief.ready_h + days * DAY_H) * 3600
    watts = dict.fromkeys(by_key, 0.0)
    pattern_h = assessment.loads.day.length_h
    changes = schedule(demands, pattern_h, brief.ready_h + days * DAY_H)
    period_s = -(-brief.hours_away // DAY_H) * DAY_H * 3600
    away_s = brief.hours_away * 3600
    if away_s >= period_s:  # no hours left to charge in: the run is the time between charges
        end_s = min(end_s, begin_s + away_s)
    charge_a = bench.charge_current_a or constant("charge_rate") * model.capacity_ah
    full_v = assessment.pack.chemistry.knee_v * assessment.pack.series.number
    run = Simulation()
    recorder = Recorder(run, begin_s)
    t, index, charging = begin_s, 0, False
    charger = Charger(charge_a, full_v)
    asking = Asking(watts, by_key, model)
    while index < len(changes) and changes[index][0] <= begin_s + 1e-6:
        watts[changes[index][1]] = changes[index][2]
        index += 1
    changed_s = begin_s
    while t < end_s - 1e-6:
        since = (t - begin_s) % period_s
        was, charging = charging, since >= away_s - 1e-6 and away_s < period_s
        if charging and not was:
            charger.state = "filling"
            recorder.note(t, "charge", "plugged in")
        if was and not charging:
            charger.state = "off"
            recorder.note(t, "charge", f"unplugged at {model.charge * 100:.0f} %")
        next_plug = t - since + (period_s if charging or away_s >= period_s else away_s)
        moment = asking.at(index, t / 3600 % pattern_h)
        horizon = min(changes[index][0], next_plug, end_s) if index < len(changes) else min(next_plug, end_s)
        dt = step_s or min(LONGEST_S, max(SETTLING_S, t - changed_s))
        if dt > horizon - t:
            dt = max(horizon - t, 1e-3)
        t += advance(model, moment, dt, charger, recorder, t)
        while index < len(changes) and changes[index][0] <= t + 1e-6:
            _, key, new = changes[index]
            watts[key] = new
            changed_s = t
            index += 1
    recorder.finish(t, model)
    return run


class Asking:
    """What the loads ask from moment to moment; the same `Moment` for as long as nothing is switched."""

    def __init__(self, watts: dict[str, float], by_key: dict[str, ScheduledLoad], model: Model) -> None:
        """watts: W of each load now, kept up to date by the caller. by_key: the loads."""
        self.watts, self.by_key, self.model = watts, by_key, model
        spans = {key: [s for d in by_key.values() if d.inverter == key for s in d.spans_h] for key in model.inverters}
        # For each inverter the hours at which it may be switched, and whether it is on before the first (never) and from each on.
        self.timetable: list[tuple[list[float], list[bool]]] = []
        for key, of in spans.items():
            edges = sorted({edge for span in of for edge in span})
            always = key in model.left_on
            on = [always, *(always or any(a <= edge < b for a, b in of) for edge in edges)]
            self.timetable.append((edges, on))
        self.edges = sorted({edge for edges, _ in self.timetable for edge in edges})
        self.known: tuple[int, list[bool]] | None = None
        self.since_h = self.until_h = 0.0
        """between these hours no inverter is switched"""
        self.moment = Moment(0.0, 0.0, {})

    def at(self, changes: int, hour: float) -> Moment:
        """What is asked at an hour of the pattern, after so many changes of the schedule."""
        if self.since_h <= hour < self.until_h and self.known is not None and self.known[0] == changes:
            return self.moment
        i = bisect_right(self.edges, hour)
        self.since_h = self.edges[i - 1] if i else -inf
        self.until_h = self.edges[i] if i < len(self.edges) else inf
        on = [wanted[bisect_right(edges, hour)] for edges, wanted in self.timetable]
        if self.known != (changes, on):
            self.known, self.moment = (changes, on), self.summed(on)
        return self.moment

    def summed(self, on: list[bool]) -> Moment:
        """Sum what runs now."""
        dc = socket = 0.0
        ac = dict.fromkeys(self.model.inverters, 0.0)
        for key, w in self.watts.items():
            if w:
                d = self.by_key[key]
                if d.inverter is None:
                    dc += w * d.scale
                    socket += w
                else:
                    ac[d.inverter] += w
        for key, wanted in zip(ac, on, strict=True):
            if not wanted:
                ac[key] = -1.0  # switched off with its loads
        return Moment(dc + self.model.converter_idle, socket, ac)


class Recorder:
    """Keeps the series and the account."""

    def __init__(self, run: Simulation, begin_s: float) -> None:
        self.run, self.begin_s = run, begin_s
        self.rows: list[tuple[float, ...]] = []

    def hour(self, t: float) -> float:
        """The hour of the run, h."""
        return t / 3600

    def note(self, t: float, kind: str, text: str) -> None:
        """Something that happens, once for each time."""
        self.run.events.append(Event(self.hour(t), kind, text))

    def record(self, t: float, model: Model, volts: float, amps: float, load_w: float) -> None:
        """The state as it stands, for the curves."""
        self.rows.append((t / 3600, model.charge, volts, amps, model.pack_c, model.inside_c, load_w))

    def finish(self, t: float, model: Model) -> None:
        """Close the last interval, and say the extremes."""
        run = self.run
        if self.rows:
            _, _, volts, amps, _, _, load_w = self.rows[-1]
            self.record(t, model, volts, amps, load_w)
            series = [list(column) for column in zip(*self.rows, strict=True)]
            run.hour, run.charge, run.voltage_v, run.current_a, run.pack_c, run.inside_c, run.load_w = series
            run.lowest_charge, run.lowest_voltage_v = min(run.charge), min(run.voltage_v)
            run.hottest_pack_c, run.hottest_inside_c = max(run.pack_c), max(run.inside_c)


@dataclass(slots=True)
class Point:
    """The electrical solution at one moment."""

    volts: float
    amps: float
    asked_w: float
    socket_w: float
    inverter_loss_w: float
    charge_w: float


def solve(model: Model, moment: Moment, charge: float, late_v: float, charger: Charger) -> Point:
    """Terminal voltage and current for what is asked, with what the charger feeds in at the posts.

    Source: Ohm's and Kirchhoff's laws, at constant power.
    """
    r0 = model.r0
    emf = model.emf(charge) - late_v
    asked, socket, loss = moment.taken(model)
    if charger.state == "off":
        drawn, given = draw(emf, r0 + model.r_main, asked)
        return Point(emf - drawn * r0, drawn, asked * given, socket * given, loss * given, 0.0)
    # The charger sets the pack's current and feeds the loads besides; they see the voltage at the posts.
    into_pack = max(0.0, min(charger.current_a, (charger.full_v - emf) / r0)) if charger.state == "filling" else 0.0
    volts = emf + into_pack * r0
    drawn, given = draw(volts, model.r_main, asked)
    return Point(volts, -into_pack, asked * given, socket * given, loss * given, (into_pack + drawn) * volts)


def draw(emf_v: float, resistance_ohm: float, power_w: float) -> tuple[float, float]:
    """Current in A that gives a constant power, and the share of that power which arrives.

    Where there is not that much power, it is the current of the greatest power, and a share of less than one.

    Source: P = (E − I·R)·I solved for the smaller I; the greatest power of a source is E²/4R.
    """
    inside = emf_v * emf_v - 4 * resistance_ohm * power_w
    if inside >= 0:
        return power_w * 2 / (emf_v + sqrt(inside)), 1.0
    greatest = emf_v / (2 * resistance_ohm)
    return greatest, min(1.0, greatest * emf_v / 2 / power_w)


def advance(model: Model, moment: Moment, dt: float, charger: Charger, recorder: Recorder, t: float) -> float:
    """Advance the state by dt s, or less where a cut-off acts or the pack is full; returns the time taken.

    Source: charge is current times time; the late part of the resistance answers after its time constant (equivalent circuit of one RC element).
    """
    capacity = model.capacity
    if charger.state == "filling" and model.charge >= 1 - 1e-9:
        charger.state = "holding"
        recorder.note(t, "charge", "full")
    point = solve(model, moment, model.charge, model.late_v, charger)
    if act_cutoffs(model, moment, point, recorder, t):
        point = solve(model, moment, model.charge, model.late_v, charger)
    if (
        charger.state == "filling"
        and point.volts >= charger.full_v - 1e-6
        and -point.amps <= constant("charge_end") * model.capacity_ah
    ):
        charger.state = "holding"
        recorder.note(t, "charge", f"charging ends at {model.charge * 100:.0f} %")
        point = solve(model, moment, model.charge, model.late_v, charger)
    r0, r1 = model.r0, model.r1
    if abs(point.amps) * dt > (most := LARGEST_SHARE * capacity * 3600):
        dt = min(dt, max(most / abs(point.amps), CUTOFF_TOLERANCE_S))
    if point.amps < 0:
        dt = min(dt, max((1 - model.charge) * capacity * 3600 / -point.amps, 1e-3))
    while True:
        # Charge at the middle of the step and the mean of the late drop stand for it: the account of energy
        # then closes to second order.
        whole = exp(-dt / model.tau)
        settled = point.amps * r1
        middle_late = settled + (model.late_v - settled) * model.tau / dt * (1 - whole)
        middle = solve(model, moment, model.charge - point.amps * dt / 7200 / capacity, middle_late, charger)
        charge = model.charge - middle.amps * dt / 3600 / capacity
        late = model.late_v * whole + middle.amps * r1 * (1 - whole)
        near = middle.volts < model.cutoff_near or charge < NEARLY_EMPTY
        if near and dt > CUTOFF_TOLERANCE_S and crosses(model, moment, solve(model, moment, charge, late, charger), charge, late):
            dt = max(dt / 2, CUTOFF_TOLERANCE_S)
            continue
        break
    hours = dt / 3600
    run = recorder.run
    recorder.record(t, model, point.volts, point.amps, point.socket_w)
    drawn = middle.amps + middle.charge_w / middle.volts
    wiring_w = drawn * drawn * model.r_main
    pack_w = middle.amps * middle.amps * r0 + middle_late * middle.amps
    converter_w = middle.asked_w - middle.socket_w - middle.inverter_loss_w
    area = model.area(charge)
    run.chemical_wh += (model.charge_area - area) * capacity
    model.charge_area = area
    run.charged_wh += middle.charge_w * hours
    run.delivered_wh += middle.socket_w * hours
    run.inverter_loss_wh += middle.inverter_loss_w * hours
    run.converter_loss_wh += converter_w * hours
    run.pack_loss_wh += pack_w * hours
    run.wiring_loss_wh += wiring_w * hours
    if moment.wanted_w > middle.socket_w + 1e-6:
        run.dark_h += hours
    model.charge = 0.0 if charge < 0 else 1.0 if charge > 1 else charge
    model.late_v = late
    carry_heat(model, middle.inverter_loss_w + converter_w + wiring_w, pack_w if pack_w > 0 else 0.0, dt)
    return dt


def crosses(model: Model, moment: Moment, after: Point, charge: float, late_v: float) -> bool:
    """Whether a cut-off would act at the end of the step."""
    if not model.board_closed:
        return False
    if charge <= 0 or model.weakest(charge, after.amps, late_v)[1] < model.groups.cell_min_v:
        return True
    return any(model.closed[key] and moment.ac_w[key] >= 0 and after.volts < cut for key, (_, cut) in model.inverters.items())


def act_cutoffs(model: Model, moment: Moment, point: Point, recorder: Recorder, t: float) -> bool:
    """Open what the voltage says, close it again while charging; True where something changed.

    Between charges a cut-off latches: a rested pack rises above it, and would fall below it at once.
    """
    if model.sound and point.volts > model.cutoff_near and model.charge > 0 and point.amps <= model.burst_a:
        return False
    changed = False
    for key, (_, cut) in model.inverters.items():
        if model.closed[key] and moment.ac_w[key] >= 0 and point.volts < cut:
            model.closed[key] = False
            recorder.note(t, "cutoff", f"inverter cuts off at {point.volts:.1f} V, {model.charge * 100:.0f} % charge")
            changed = True
        elif not model.closed[key] and point.charge_w > 0 and point.volts > cut + model.restart_v:
            model.closed[key] = True
            recorder.note(t, "restart", f"inverter restarts at {point.volts:.1f} V")
            changed = True
    if model.board_closed and point.amps > model.burst_a:
        model.board_closed = False
        recorder.note(t, "cutoff", f"over-current: the protection opens at {point.amps:.0f} A")
        changed = True
    elif model.board_closed and point.amps > 0:
        group, cell_v = model.weakest(model.charge, point.amps, model.late_v)
        if cell_v < model.groups.cell_min_v or model.charge <= 0:
            model.board_closed = False
            named = f", group {group + 1} at {cell_v:.2f} V a cell" if len(model.groups.room) > 1 else ""
            recorder.note(t, "cutoff", f"protection board opens at {point.volts:.1f} V{named}")
            changed = True
    elif not model.board_closed and (point.amps < 0 or point.charge_w > 0) and model.charge > 0.02:
        model.board_closed = True
        recorder.note(t, "restart", "protection board closes")
        changed = True
    model.sound = model.alike and model.board_closed and all(model.closed.values())
    return changed


def carry_heat(model: Model, inside_w: float, pack_w: float, dt: float) -> None:
    """Warm inside air and pack over dt s; each relaxes exponentially towards its balance.

    Source: Newton's law of cooling, for the air inside and for the pack.
    """
    g_all = model.g_all
    target_in = (inside_w + model.g_box * model.ambient_c + model.g_pack * model.pack_c) / g_all
    inside = target_in + (model.inside_c - target_in) * exp(-dt * g_all / model.c_box)
    mean_in = (inside + model.inside_c) / 2
    target_pack = mean_in + pack_w / model.g_pack
    model.pack_c = target_pack + (model.pack_c - target_pack) * exp(-dt * model.g_pack / model.c_pack)
    model.inside_c = inside
    model.settle()


def write_simulation(run: Simulation, assessment: Assessment) -> dict[str, Any]:
    """The run as plain JSON data, with the figures that sum it up."""
    names = ("hour", "charge", "voltage_v", "current_a", "pack_c", "inside_c", "load_w")
    series = {name: [round(v, 4) for v in getattr(run, name)] for name in names}
    energy = {
        "delivered": ("reached the loads", run.delivered_wh),
        "inverter_loss": ("lost and idled in inverters", run.inverter_loss_wh),
        "converter_loss": ("lost in converters", run.converter_loss_wh),
        "pack_loss": ("lost in the pack", run.pack_loss_wh),
        "wiring_loss": ("lost in the main path", run.wiring_loss_wh),
        "charged": ("charged", run.charged_wh),
        "chemical": ("taken from the cells, net", run.chemical_wh),
    }
    how = "simulated: voltage solved at each step for the power asked, charge and heat carried on"
    leaves = {
        "R": assessment.pack.resistance,
        "R_main": assessment.power.main_ohm,
        "C": assessment.pack.capacity,
        "τ": assumption("rc_time"),
    }

    def simulated(symbol: str, value: float, unit: str, label: str) -> Figure:
        return Figure.of(symbol, value, unit, label, how=how, inputs=leaves)

    figures = {name: simulated("E", value, "Wh", label) for name, (label, value) in energy.items()}
    figures["lowest_charge"] = simulated("SoC_min", run.lowest_charge, "share", "lowest charge")
    figures["lowest_voltage"] = simulated("V_min", run.lowest_voltage_v if run.hour else 0.0, "V", "lowest voltage")
    figures["hottest_pack"] = simulated("T_pack", run.hottest_pack_c, "°C", "hottest pack")
    figures["hottest_inside"] = simulated("T_in", run.hottest_inside_c, "°C", "hottest inside")
    figures["dark"] = simulated("t_dark", run.dark_h, "h", "hours in which a load found no power")
    return {
        "series": series,
        "events": [{"hour": e.hour, "kind": e.kind, "text": e.text} for e in run.events],
        "figures": {name: write_figure(figure, top=True) for name, figure in figures.items()},
    }
