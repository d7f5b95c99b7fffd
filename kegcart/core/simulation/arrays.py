"""The inputs as records that the compiled equations read and write: parameters first, then the state."""

from dataclasses import dataclass
from itertools import pairwise
from math import inf
from typing import Any

import numpy as np

from kegcart.core.simulation.inputs import BoardLimits, Branch, CellBank, Fan, Feed, Lane, LeadAcid, LoadDraw, Plan

HOUR_S = 3600.0
PASSES, CONVERTS, INVERTS = 0, 1, 2
"""What a part does with what feeds it: as in the equations."""
Records = Any
"""A record array of NumPy; its fields are read as attributes."""

BANK = np.dtype(
    [
        *(
            (name, "i8")
            for name in ("curve_0", "curve_1", "cell_0", "cell_1", "group_0", "group_1", "part_0", "part_1", "feed_0", "feed_1")
        ),
        *((name, "f8") for name in ("capacity_ah", "ohm", "late_share", "late_s", "coulombic", "own_w", "heat_j_k", "heat_w_k")),
        *((name, "f8") for name in ("peukert", "rated_a", "recovery_s", "acceptance", "polar_s")),
        ("board", "?"),
        *((name, "f8") for name in ("cell_min_v", "release_v", "cell_max_v", "continuous_a", "burst_a", "burst_s")),
        *((name, "f8") for name in ("charge_a", "delay_s", "restart_s", "lock_below_c", "lock_above_c", "charge_min_c")),
        *((name, "f8") for name in ("pad_w", "pad_until_c")),
        # what stands below the curve besides, V: 0 but in a true station of the bench, which answers more slowly than is fitted
        ("slow_v", "f8"),
        # state: `bound` is the charge that a high rate leaves behind, a share; `polar` how far lead is polarised, 0 to 1; `heat` the board's over-current, 1 where it opens
        *(
            (name, "f8")
            for name in ("charge", "bound", "polar", "late_v", "temperature_c", "heat", "under_s", "wait_s", "over_s", "bar_s")
        ),
        *((name, "i8") for name in ("open", "filling", "barred", "drops", "unders", "trips", "hiccups")),
        # what its sources would do now: the greatest voltage that one of them holds at the posts, and where that one ends, A
        *((name, "f8") for name in ("full_v", "end_a")),
        # what follows from it: A from the bank (negative: into it), A of the loads, V at the posts, open-circuit V as it counts now
        *((name, "f8") for name in ("capacity", "r0", "r1", "amps", "load_a", "post_v", "emf", "rest_v", "fed", "area")),
        # heat of the hour that runs, J, of its board into the air and of its cells; the same in the worst hour, W
        *((name, "f8") for name in ("hour_j", "hour_own_j", "worst_w", "worst_own_w")),
    ],
    align=True,
)
PART = np.dtype(
    [
        *((name, "i8") for name in ("bank", "feed", "does")),
        *((name, "f8") for name in ("ohm", "draw_w", "output_v", "idle_w", "linear", "square")),
        *((name, "f8") for name in ("cutoff_v", "restart_v", "delay_s", "restart_s")),
        *((name, "f8") for name in ("rated_va", "surge_va", "surge_s", "derate_c", "derate")),
        # what its loads ask: W, S and A at its circuit, W, S and A at their sockets, VA, and W that they want
        *((name, "f8") for name in ("power", "siemens", "amps_asked", "at_power", "at_siemens", "at_amps", "va", "wanted_w")),
        # state
        *((name, "?") for name in ("on", "closed", "tripped", "live")),
        *((name, "f8") for name in ("under_s", "wait_s", "heat", "dark_s")),
        *((name, "i8") for name in ("drops", "trips", "hiccups")),
        # what follows from it: V of what makes its supply, V at its input, A into it, A out of it, VA that runs and W behind it
        *((name, "f8") for name in ("source_v", "volts", "amps", "out_a", "out_va", "out_w")),
        # heat of the hour that runs, J, and of the worst, W; of an inverter when it was loaded the most for what it holds: share, VA, °C inside, s
        *((name, "f8") for name in ("hour_j", "worst_w", "used", "used_va", "used_c", "used_s")),
    ],
    align=True,
)
FEED = np.dtype(
    [
        *((name, "i8") for name in ("bank", "part", "ends")),
        ("plugged", "?"),
        *(
            (name, "f8")
            for name in ("current_a", "set_v", "float_v", "threshold_v", "ohm", "end_a", "absorb_s", "recharge_v", "inside")
        ),
        # state: whether it may give and how many W, whether it has held its voltage since it began to fill, what it can still give
        *((name, "?") for name in ("on", "knee")),
        ("stage", "i8"),
        *((name, "f8") for name in ("watts", "at_v_s", "left_wh", "given_wh")),
        # what follows from it: V that it would hold at the posts (0: it gives nothing), A that it gives
        *((name, "f8") for name in ("target_v", "amps", "hour_j", "worst_w")),
    ],
    align=True,
)
AIR = np.dtype(
    [
        *(
            (name, "f8")
            for name in ("outside_c", "walls_w_k", "stirred_w_k", "box_j_k", "draught_w", "sun_w", "rises_s", "sets_s")
        ),
        # state, and what the banks pass on, W/K
        *((name, "f8") for name in ("inside_c", "bank_w_k")),
        # °C and s at which it was hottest; J of the sun in the hour that runs; the worst hour: W in all, where it begins, W of the sun
        *((name, "f8") for name in ("hottest_c", "hottest_s", "hour_j", "worst_w", "worst_s", "worst_sun_w")),
    ],
    align=True,
)
FAN = np.dtype(
    [
        ("starts", "i8"),
        ("outward", "?"),
        *((name, "f8") for name in ("w_k", "on_c", "off_c")),
        # state: whether it runs, how long it has, how often it was switched on
        ("on", "?"),
        ("on_s", "f8"),
        ("switched", "i8"),
    ],
    align=True,
)
PLAN = np.dtype([(name, "f8") for name in ("begin_s", "end_s", "period_s", "away_s")], align=True)


@dataclass(slots=True)
class Arrays:
    """A station as the equations read it. curves: rows of charge, V rested, V filling, and the energy up to there in V·1."""

    banks: Records
    parts: Records
    feeds: Records
    air: Records
    fans: Records
    plan: Records
    curves: Records
    cells: Records
    groups: Records
    cold: Records
    change_s: Records
    change_what: Records
    """a load, one of the sources that come after the loads, or -1 less the part that is switched"""
    change_w: Records
    """W of the load from then on, W that a source may give; 1 or 0 of a part switched on or off"""
    load_part: Records
    load_taken: Records
    load_law: Records
    load_v: Records
    load_va: Records
    load_w: Records


def records(kind: np.dtype[Any], count: int) -> Records:
    """Blank records."""
    return np.zeros(count, kind).view(np.recarray)


def bank_curve(bank: CellBank) -> list[tuple[float, float, float, float]]:
    """Charge, V rested, V filling, and the area under the rested curve, of the whole bank, with a point wherever a group has one.

    Source: series adds voltage: the curve of each group, shifted and stretched by its own charge and capacity.
    """
    charges = bank.curve.charge
    points = {s for g in bank.groups for s in (1 - (1 - c) * g.room for c in charges) if 0 <= s <= 1} | {0.0, 1.0}
    apart: list[float] = []
    for s in sorted(points):  # points that lie together but for rounding are one
        if not apart or s - apart[-1] > 1e-9:
            apart.append(s)
    apart[-1] = 1.0
    rest, fill = (
        [sum(g.cells * bank.cell_voltage(g, s, filling) for g in bank.groups) for s in apart] for filling in (False, True)
    )
    area = [0.0]
    for (s0, v0), (s1, v1) in pairwise(zip(apart, rest, strict=True)):
        area.append(area[-1] + (v0 + v1) / 2 * (s1 - s0))
    return list(zip(apart, rest, fill, area, strict=True))


NO_BOARD = BoardLimits(-inf, -inf, inf, inf, inf, 1.0, inf, 0.0, 0.0)


def fill_bank(record: Records, bank: CellBank, charge: float, outside_c: float) -> None:
    """Parameters and first state of a bank."""
    for name in (
        "capacity_ah",
        "late_share",
        "late_s",
        "coulombic",
        "own_w",
        "heat_j_k",
        "heat_w_k",
        "charge_min_c",
        "pad_w",
        "pad_until_c",
    ):
        setattr(record, name, getattr(bank, name))
    record.ohm = bank.resistance_ohm
    record.peukert, record.rated_a, record.recovery_s, record.acceptance, record.polar_s = 1.0, inf, 1.0, inf, 1.0
    if bank.lead:
        for name in LeadAcid.__slots__:
            setattr(record, name, getattr(bank.lead, name))
    record.board, board = bank.board is not None, bank.board or NO_BOARD
    for name in BoardLimits.__slots__:
        setattr(record, name, getattr(board, name))
    record.charge, record.temperature_c = charge, outside_c


ENDS = {"its current": 0, "pack current": 1, "time": 2, "never": 3}
"""What ends the filling of a source: as in the equations."""
LEAST_OHM = 1e-5
"""No source holds its voltage more stiffly than behind so many Ω: it keeps the equations well posed."""


def fill_feed(record: Records, feed: Feed) -> None:
    """Parameters and first state of a source: it gives nothing until its hours begin."""
    record.bank, record.part, record.ends = feed.bank, -1 if feed.part is None else feed.part, ENDS[feed.ends]
    record.plugged = feed.hours is None
    for name in ("current_a", "set_v", "float_v", "threshold_v", "end_a", "absorb_s", "recharge_v", "inside"):
        setattr(record, name, getattr(feed, name))
    record.ohm, record.left_wh = max(feed.ohm, LEAST_OHM), feed.holds_wh


STARTS = {"thermostat": 0, "always": 1, "inverter": 2}
"""When a fan runs: as in the equations."""
LEAST_BAND_K = 1.0
"""No thermostat switches within less than this, whatever is set: it has a band of its own."""


def fill_fan(record: Records, fan: Fan) -> None:
    """Parameters of a fan; it does not run yet."""
    record.starts, record.outward, record.w_k = STARTS[fan.starts], fan.outward, fan.w_k
    record.on_c, record.off_c = fan.on_c, min(fan.off_c, fan.on_c - LEAST_BAND_K)


def feed_edges(feed: Feed, plan: Plan) -> tuple[Records, Records]:
    """Times in s and W from then on of a source over a whole run; its hours repeat, and what lasts over the turn goes on."""
    times, watts, was = [], [], 0.0
    edges = {0.0: 0.0}
    for begin, end, power in sorted(feed.hours or ()):
        edges[begin] = power
        if end < feed.repeats_h:
            edges.setdefault(end, 0.0)  # until the next begins, which may be at once
    for turn in range(int(plan.end_h // feed.repeats_h) + 1):
        for edge, now in sorted(edges.items()):
            if now != was:
                times.append((turn * feed.repeats_h + edge) * HOUR_S)
                watts.append(now)
                was = now
    return np.array(times), np.array(watts)


def fill_part(record: Records, part: Branch) -> None:
    """Parameters and first state of a part: switched on, and closed."""
    record.bank, record.feed = part.bank, -1 if part.feed is None else part.feed
    record.ohm, record.draw_w, record.output_v = part.ohm, part.draw_w, part.output_v
    record.does = PASSES if not part.output_v else INVERTS if part.inverts else CONVERTS
    if part.loss:
        record.idle_w, record.linear, record.square = part.loss.idle_w, part.loss.linear, part.loss.square
    if part.threshold:
        for name in ("restart_v", "delay_s", "restart_s"):
            setattr(record, name, getattr(part.threshold, name))
        record.cutoff_v = part.threshold.volts
    if part.overload:
        for name in ("rated_va", "surge_va", "surge_s", "derate_c", "derate"):
            setattr(record, name, getattr(part.overload, name))
    record.on, record.closed = not part.with_loads, True


def load_edges(load: LoadDraw) -> tuple[Records, Records]:
    """Times in s and W from then on of a load over one pattern of hours."""
    times, watts = [np.empty(0)], [np.empty(0)]
    for start_h, end_h in load.spans_h:
        begin, end = start_h * HOUR_S, end_h * HOUR_S
        on_s, off_s = load.cycle_s or (end - begin, 0.0)
        starts = np.arange(begin, end - 1e-6, on_s + off_s) if load.cycle_s else np.array([begin])
        stops = np.minimum(starts + on_s, end)
        times += [starts, stops]
        watts += [np.full(len(starts), load.watts), np.zeros(len(starts))]
        if load.surge_w > 0 and load.surge_s > 0:
            watts[-2] = watts[-2] + load.surge_w
            settled = (starts + load.surge_s)[starts + load.surge_s < stops - 1e-3]
            times.append(settled)
            watts.append(np.full(len(settled), load.watts))
    return np.concatenate(times), np.concatenate(watts)


def switched_parts(lane: Lane) -> dict[int, list[tuple[float, float]]]:
    """The hours of the pattern in which each part that is switched with its loads is on."""
    spans: dict[int, list[tuple[float, float]]] = {i: [] for i, part in enumerate(lane.parts) if part.with_loads}
    for load in lane.loads:
        here: int | None = load.part
        while here is not None:
            if here in spans:
                spans[here] += load.spans_h
            here = lane.parts[here].feed
    return spans


def schedule(lane: Lane) -> tuple[Records, Records, Records]:
    """Every change in order of time: s, what changes, to what; the pattern of hours repeats.

    At one moment what ends comes first, then what is switched, then what begins.
    """
    plan = lane.plan
    rounds = int(plan.end_h // plan.pattern_h) + 1
    times, whats, values = [np.empty(0)], [np.empty(0, np.int64)], [np.empty(0)]

    def enter(what: int, at: Records, to: Records) -> None:
        for n in range(rounds):
            times.append(at + n * plan.pattern_h * HOUR_S)
            whats.append(np.full(len(at), what, np.int64))
            values.append(to)

    for i, load in enumerate(lane.loads):
        enter(i, *load_edges(load))
    for f, feed in enumerate(lane.feeds):
        at, to = feed_edges(feed, plan)
        times.append(at)
        whats.append(np.full(len(at), len(lane.loads) + f, np.int64))
        values.append(to)
    for i, spans in switched_parts(lane).items():
        edges = sorted({edge for span in spans for edge in span})
        on = [float(any(a <= edge < b for a, b in spans)) for edge in edges]
        enter(-1 - i, np.array(edges) * HOUR_S, np.array(on))
    t, what, value = np.concatenate(times), np.concatenate(whats), np.concatenate(values)
    begins = value > 0
    order = np.lexsort(((what < 0) != begins, begins, np.round(t, 3)))
    return t[order], what[order], value[order]


LAWS = {"power": 0, "resistance": 1, "current": 2}


def arrays_of(lane: Lane) -> Arrays:
    """A station as arrays, in its first state."""
    banks, parts = records(BANK, len(lane.banks)), records(PART, max(1, len(lane.parts)))
    curves: list[tuple[float, float, float, float]] = []
    cells: list[tuple[float, float, float]] = []
    groups: list[tuple[float, float]] = []
    for i, bank in enumerate(lane.banks):
        record = banks[i]
        fill_bank(record, bank, lane.plan.start_charge, lane.around.outside_c)
        record.curve_0, record.cell_0, record.group_0 = len(curves), len(cells), len(groups)
        curves += bank_curve(bank)
        cells += list(zip(bank.curve.charge, bank.curve.rest_v, bank.curve.fill_v, strict=True))
        groups += [(g.room, g.share) for g in bank.groups]
        record.curve_1, record.cell_1, record.group_1 = len(curves), len(cells), len(groups)
        mine = [n for n, part in enumerate(lane.parts) if part.bank == i]
        record.part_0, record.part_1 = (mine[0], mine[-1] + 1) if mine else (0, 0)
        its = [n for n, feed in enumerate(lane.feeds) if feed.bank == i]
        record.feed_0, record.feed_1 = (its[0], its[-1] + 1) if its else (0, 0)
    feeds = records(FEED, len(lane.feeds))
    for n, feed in enumerate(lane.feeds):
        fill_feed(feeds[n], feed)
    for n, part in enumerate(lane.parts):
        fill_part(parts[n], part)
    air, plan = records(AIR, 1), records(PLAN, 1)
    around, wanted = lane.around, lane.plan
    for name in ("outside_c", "walls_w_k", "box_j_k", "draught_w", "sun_w"):
        setattr(air[0], name, getattr(around, name))
    air[0].stirred_w_k = around.stirred_w_k or around.walls_w_k
    air[0].rises_s, air[0].sets_s = around.rises_h * HOUR_S, around.sets_h * HOUR_S
    fans = records(FAN, len(around.fans))
    for n, fan in enumerate(around.fans):
        fill_fan(fans[n], fan)
    air[0].inside_c, air[0].bank_w_k = around.outside_c, sum(bank.heat_w_k for bank in lane.banks)
    plan[0].begin_s, plan[0].end_s = wanted.begin_h * HOUR_S, wanted.end_h * HOUR_S
    plan[0].period_s, plan[0].away_s = wanted.period_h * HOUR_S, wanted.away_h * HOUR_S
    loads = lane.loads
    return Arrays(
        banks,
        parts,
        feeds,
        air,
        fans,
        plan,
        np.array(curves),
        np.array(cells),
        np.array(groups),
        np.array(lane.cold),
        *schedule(lane),
        np.array([load.part for load in loads], dtype=np.int64),
        np.array([load.taken for load in loads], dtype=float),
        np.array([LAWS[load.law] for load in loads], dtype=np.int64),
        np.array([load.volts for load in loads], dtype=float),
        np.array([load.va for load in loads], dtype=float),
        np.array([load.watts for load in loads], dtype=float),
    )
