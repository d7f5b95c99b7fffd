"""The physics in time, compiled: one set of equations for one run with free steps, for many runs, and for fixed steps.

At each moment the voltages and currents of every tree are solved for what is asked; then what must act acts (cut-offs, trips,
locks, the charger's end), each after its delay; then charge, voltages and temperatures are carried on over a step. Steps follow
events and change: a step ends where something is switched, where a delay is over, and before a cut-off would be overrun.

Records are those of `arrays`. Nothing here calls a function of another file, nor reads a constant of one: see `compiler`.
Source: the engineering reference of each equation stands with it.
"""

from math import exp, inf, log, pi, sin, sqrt
from typing import Any

import numpy as np

from kegcart.core.simulation.compiler import equation

Records = Any

PASSES, CONVERTS, INVERTS = 0, 1, 2
POWER, RESISTANCE, CURRENT = 0, 1, 2
OFF, FILLING, HOLDING = 0, 1, 2
SHUT, UNDER_VOLTAGE, OVER_CURRENT, EMPTY = 0, 1, 2, 3
FREE, TOO_COLD, TOO_HOT, TOO_MUCH, BY_BOARD = 0, 1, 2, 3, 4
OWN_CURRENT, BANK_CURRENT, BY_TIME, NOTHING = 0, 1, 2, 3
BY_THERMOSTAT, ALWAYS, WITH_INVERTER = 0, 1, 2
# What happens, as it is noted.
CUT_OFF, RESTARTED, TRIPPED, BOARD_UNDER, BOARD_OVER, BOARD_SHUT, PLUGGED, UNPLUGGED = 1, 2, 3, 4, 5, 6, 7, 8
FULL, CHARGED, LOCKED_COLD, LOCKED_HOT, LOCK_FREE, BARRED, RAN_EMPTY, AGAIN, BOARD_FULL, KNEE = (
    9,
    10,
    11,
    12,
    13,
    14,
    15,
    16,
    17,
    18,
)
# What the account holds, Wh.
CHEMICAL, CHARGED_WH, DELIVERED, IN_INVERTERS, IN_CONVERTERS, STANDING, IN_BANKS, IN_WIRING = 0, 1, 2, 3, 4, 5, 6, 7
# Columns of a row of the series: these (the heat is that of the step before), then for each bank its charge, voltage, current and temperature.
AT_S, INSIDE_C, DELIVERED_W, HEAT_W, SUN_W, FANS_ON, OF_BANKS = 0, 1, 2, 3, 4, 5, 6
# Columns of the extremes of a bank.
LEAST_CHARGE, LEAST_V, HOTTEST_C, TOO_COLD_S, FILLED_TO, CHARGED_AT_C = 0, 1, 2, 3, 4, 5

LONGEST_S = 300.0
"""The longest free step; shorter than any time constant of pack or air."""
SETTLING_S = 30.0
"""First step after a change, while the late voltage drop settles; the steps then grow with the time since."""
LARGEST_SHARE = 0.005
"""Share of the charge that one step may move, so that the open-circuit voltage is followed round its knees."""
TOLERANCE_S = 0.5
"""How exactly the moment is met at which a voltage falls below a cut-off, or an overload has lasted too long."""
SHORTEST_S = 1e-3
DAY_S = 86_400.0
HAIR_S = 1e-6
"""What rounding may leave between a moment and the change that is due then."""
CLOSE_ENOUGH = 1e-7
MOST_SWEEPS = 40
HALVINGS = 12
"""How finely it is searched what can be given where not all can."""
COLLAPSED = 0.5
"""Below this share of its source's voltage nothing works any more: there is not that much power."""
LEAST_BACK = 0.02
"""So much of its charge must be there again until an empty bank without a board gives anything."""
LOCK_BAND_K = 2.0
"""How far a temperature must be back inside until a lock is released."""
NEAR, NEAR_CHARGE = 1.04, 0.05
"""How near a cut-off a voltage, or a limit a current, and at which charge each step is held against them before it is taken."""
TELLS = 3
"""So many drops of one device are told one by one; from then on they are counted."""
MOST_EVENTS = 600
HOUR_S = 3600.0
HEAT_STEP_S = 60.0
"""So long at most the sun, and the draught through the vents, are taken as they stand."""
HAIR_K = 1e-6
AT_VOLTAGE = 0.995
"""From this share of its set point on a source is at it."""
BISECTIONS = 30


@equation
def row_before(x: float, table: Records, begin: int, end: int) -> int:
    """The last row but one at most whose first column is no greater than x, which lies within the table; by halving."""
    low, high = begin, end - 1
    while high - low > 1:
        middle = (low + high) // 2
        if table[middle, 0] <= x:
            low = middle
        else:
            high = middle
    return low


@equation
def between(x: float, table: Records, begin: int, end: int, column: int) -> float:
    """Piecewise linear value of a column at x of the first one, between two rows; constant beyond the ends."""
    if x <= table[begin, 0]:
        return table[begin, column]
    if x >= table[end - 1, 0]:
        return table[end - 1, column]
    low = row_before(x, table, begin, end)
    high = low + 1
    share = (x - table[low, 0]) / (table[high, 0] - table[low, 0])
    return table[low, column] + share * (table[high, column] - table[low, column])


@equation
def area_to(charge: float, curves: Records, begin: int, end: int) -> float:
    """Energy between empty and a charge, V: times the capacity in Ah it is Wh.

    Source: the area under the curve of open-circuit voltage, linear between its points.
    """
    if charge <= 0:
        return 0.0
    if charge >= 1:
        return curves[end - 1, 3]
    low = row_before(charge, curves, begin, end)
    high = low + 1
    part = charge - curves[low, 0]
    slope = (curves[high, 1] - curves[low, 1]) / (curves[high, 0] - curves[low, 0])
    return curves[low, 3] + part * (curves[low, 1] + slope * part / 2)


@equation
def settle(bank: Records, cold: Records) -> None:
    """Capacity (Ah), immediate and late resistance (Ω) at the bank's temperature.

    Source: capacity and resistance by temperature (cold table).
    """
    bank.capacity = bank.capacity_ah * between(bank.temperature_c, cold, 0, len(cold), 1)
    ohm = bank.ohm * between(bank.temperature_c, cold, 0, len(cold), 2)
    bank.r0, bank.r1 = ohm * (1 - bank.late_share), ohm * bank.late_share


@equation
def cell_bounds(bank: Records, cells: Records, groups: Records, charge: float, drop_v: float) -> tuple[float, float, int]:
    """Voltage of the lowest and of the highest cell, and the group of the lowest, with a drop over the bank (negative: charging).

    Source: the groups are charged full together, so the charge of each follows from its room; the drop is shared by resistance.
    """
    low, high, lowest = inf, -inf, 0
    drop_v += bank.slow_v
    column = 1 if drop_v >= 0 else 2
    for g in range(bank.group_0, bank.group_1):
        volts = between(1 - (1 - charge) / groups[g, 0], cells, bank.cell_0, bank.cell_1, column) - drop_v * groups[g, 1]
        if volts < low:
            low, lowest = volts, g - bank.group_0
        high = max(high, volts)
    return low, high, lowest


@equation
def share_loads(
    parts: Records,
    part_of: Records,
    taken: Records,
    law: Records,
    volts: Records,
    va: Records,
    lasting_w: Records,
    watts: Records,
) -> None:
    """Sum up what the loads ask of the parts that they hang on, by the law that each follows.

    Source: P constant; P = U²/R; P = U·I.
    """
    for i in range(len(parts)):
        part = parts[i]
        part.power = part.siemens = part.amps_asked = part.at_power = part.at_siemens = part.at_amps = part.va = part.wanted_w = (
            0.0
        )
    for i in range(len(watts)):
        if watts[i] > 0:
            part = parts[part_of[i]]
            part.va += min(watts[i], lasting_w[i]) * va[i]
            part.wanted_w += watts[i]
            if law[i] == RESISTANCE:
                part.siemens += watts[i] / volts[i] ** 2 * taken[i]
                part.at_siemens += watts[i] / volts[i] ** 2
            elif law[i] == CURRENT:
                part.amps_asked += watts[i] / volts[i] * taken[i]
                part.at_amps += watts[i] / volts[i]
            else:
                part.power += watts[i] * taken[i]
                part.at_power += watts[i]


@equation
def hands_on(part: Records) -> bool:
    """Whether what hangs on a part is fed through it."""
    return part.live and part.closed and part.on and not part.tripped


@equation
def spread(bank: Records, parts: Records, alive: bool) -> float:
    """Voltages of a tree from the posts outward for the currents as they stand; returns the greatest change, V.

    Source: Ohm's law over each run; a device that makes another supply holds its output.
    """
    most = 0.0
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if part.feed < 0:
            live, base, part.source_v = alive, bank.post_v, bank.emf
        else:
            feeder = parts[part.feed]
            live = hands_on(feeder)
            base = feeder.output_v if feeder.output_v > 0 else feeder.volts
            part.source_v = feeder.output_v if feeder.output_v > 0 else feeder.source_v
        volts = base - part.amps * part.ohm if live else 0.0
        most = max(most, abs(volts - part.volts))
        part.live, part.volts, part.out_a, part.out_va, part.out_w = live, volts, 0.0, 0.0, 0.0
    return most


@equation
def draw(bank: Records, parts: Records) -> float:
    """Currents of a tree from the sockets inward for the voltages as they stand; returns A at the posts.

    Source: currents add at a node (Kirchhoff); a device takes its output and its loss (conservation of energy).
    """
    total = 0.0
    for i in range(bank.part_1 - 1, bank.part_0 - 1, -1):
        part = parts[i]
        amps = 0.0
        if hands_on(part):
            volts = max(part.volts, COLLAPSED * part.source_v)
            if part.does == PASSES:
                amps = part.out_a + bank.fed * (part.power / volts + part.siemens * volts + part.amps_asked) + part.draw_w / volts
            else:
                out = part.output_v * part.out_a
                amps = (out + part.idle_w + part.linear * out + part.square * out * out + part.draw_w) / volts
            part.out_va += bank.fed * part.va
            part.out_w += bank.fed * part.wanted_w
        part.amps = amps
        if part.feed < 0:
            total += amps
        else:
            parts[part.feed].out_a += amps
            parts[part.feed].out_va += part.out_va
            parts[part.feed].out_w += part.out_w
    return total


@equation
def reaches(parts: Records, through: int) -> bool:
    """Whether nothing stands open between the posts and the part that a source comes in through."""
    while through >= 0:
        part = parts[through]
        if not part.closed or not part.on or part.tripped:
            return False
        through = part.feed
    return True


@equation
def ready_feeds(bank: Records, feeds: Records, parts: Records) -> None:
    """What each source of a bank would hold at the posts now, V (0: it gives nothing), and the bank's own state from that."""
    bank.filling, bank.full_v, bank.end_a = OFF, 0.0, 0.0
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        feed.target_v = 0.0
        if not feed.on or feed.watts <= 0 or feed.left_wh <= 0 or not reaches(parts, feed.part):
            continue
        volts = feed.set_v if feed.stage == FILLING else feed.float_v
        if volts > feed.threshold_v:
            feed.target_v = volts - feed.threshold_v
        if feed.stage == FILLING:
            bank.filling = FILLING
        elif bank.filling == OFF:
            bank.filling = HOLDING
        if feed.target_v > bank.full_v:
            bank.full_v, bank.end_a = feed.target_v, feed.end_a


@equation
def most_of(feed: Records, volts: float) -> float:
    """What a source gives at most into posts at so many V, A: its current, or its power over its output's voltage."""
    return min(feed.current_a, feed.watts / max(volts + feed.threshold_v, 1.0))


@equation
def offered(feed: Records, volts: float) -> float:
    """What a source gives into posts at so many V, A: constant current, then constant voltage behind its way.

    Source: Ohm's law over its cable and diode.
    """
    if feed.target_v <= volts:
        return 0.0
    return min((feed.target_v - volts) / feed.ohm, most_of(feed, volts))


@equation
def offered_together(bank: Records, feeds: Records, volts: float) -> float:
    """What all sources of a bank give into its posts at so many V, A. Source: currents add at a node (Kirchhoff)."""
    amps = 0.0
    for f in range(bank.feed_0, bank.feed_1):
        amps += offered(feeds[f], volts)
    return amps


@equation
def settle_volts(bank: Records, feeds: Records, rest_v: float, ohm: float, low: float, high: float) -> float:
    """The voltage between two at which the sources give what the loads take and what flows through `ohm` towards `rest_v`; found by
    halving, then along the line through the last two.

    Source: Kirchhoff's current law at the posts.
    """
    for _ in range(BISECTIONS):
        middle = (low + high) / 2
        if offered_together(bank, feeds, middle) - bank.load_a > (middle - rest_v) / ohm:
            low = middle
        else:
            high = middle
    over_low = offered_together(bank, feeds, low) - bank.load_a - (low - rest_v) / ohm
    over_high = offered_together(bank, feeds, high) - bank.load_a - (high - rest_v) / ohm
    if over_low - over_high <= 0:
        return (low + high) / 2
    return low + (high - low) * min(1.0, max(0.0, over_low / (over_low - over_high)))


@equation
def give(bank: Records, feeds: Records, volts: float, total_a: float) -> None:
    """Share a current among the sources of a bank as they offer it at so many V."""
    able = offered_together(bank, feeds, volts)
    for f in range(bank.feed_0, bank.feed_1):
        feeds[f].amps = offered(feeds[f], volts) * total_a / able if able > 0 else 0.0


@equation
def rest_and_top(bank: Records, charge: float, bound: float, late_v: float, curves: Records) -> tuple[float, float, float]:
    """The open-circuit voltage, V, and that at the posts from which on the bank gives nothing, and from which on it takes something.

    Where nothing may flow in, or it is full, the posts can rise to what its sources hold.
    """
    late_v += bank.slow_v
    rest = between(charge - bound, curves, bank.curve_0, bank.curve_1, 1)
    top = between(charge - bound, curves, bank.curve_0, bank.curve_1, 2) - late_v
    if is_closed(bank):
        top = max(top, bank.full_v)
    return rest, rest - late_v, top


@equation
def is_closed(bank: Records) -> bool:
    """Whether nothing flows into a bank, whatever its sources hold; as a step begins: within it what is full is cut off."""
    return bank.barred != FREE or bank.charge >= 1 - 1e-9


@equation
def meet(bank: Records, feeds: Records, charge: float, bound: float, late_v: float, curves: Records) -> None:
    """Voltage at the posts and current of the bank for what its tree draws and its sources give.

    The loads take theirs first, the rest flows in, as much as lead accepts; near that its voltage climbs to the source's. A bank
    that may not be filled still feeds what the sources cannot.
    Source: Ohm's and Kirchhoff's laws; acceptance of lead in proportion to the charge that is missing (practice).
    """
    bank.rest_v = between(charge, curves, bank.curve_0, bank.curve_1, 1)
    bank.emf, base, top = rest_and_top(bank, charge, bound, late_v, curves)
    if bank.open != SHUT or bank.filling == OFF:
        bank.amps = bank.load_a if bank.open == SHUT else 0.0
        bank.post_v = base - bank.r0 * bank.amps
        give(bank, feeds, base, 0.0)
        return
    given = offered_together(bank, feeds, base)
    if given <= bank.load_a:
        bank.post_v = settle_volts(bank, feeds, base, bank.r0, base - bank.r0 * bank.load_a, base)
        bank.amps = (base - bank.post_v) / bank.r0
        give(bank, feeds, bank.post_v, max(0.0, bank.load_a - bank.amps))
        return
    if is_closed(bank) or offered_together(bank, feeds, top) <= bank.load_a:
        bank.amps, bank.post_v = 0.0, settle_volts(bank, feeds, base, inf, base, top)
        give(bank, feeds, bank.post_v, bank.load_a)
        return
    volts = max(settle_volts(bank, feeds, top, bank.r0, top, max(top, bank.full_v)), top)
    into = min((volts - top) / bank.r0, bank.acceptance * max(0.0, 1 - charge) * bank.capacity)
    bank.emf, bank.amps, bank.post_v = top + late_v, -into, top + bank.r0 * into
    give(bank, feeds, bank.post_v, bank.load_a + into)
    if bank.polar > 0:
        bank.post_v += max(0.0, bank.full_v - bank.post_v) * bank.polar**2


@equation
def solve_at(bank: Records, parts: Records, feeds: Records, charge: float, bound: float, late_v: float, curves: Records) -> bool:
    """Solve a bank and its tree; whether all that is asked can be given (`fed` of it is)."""
    alive = bank.open == SHUT
    ready_feeds(bank, feeds, parts)
    meet(bank, feeds, charge, bound, late_v, curves)
    for _ in range(MOST_SWEEPS):
        moved = spread(bank, parts, alive)
        bank.load_a = draw(bank, parts) + (bank.own_w / bank.post_v if alive and bank.post_v > 0 else 0.0)
        before = bank.post_v
        meet(bank, feeds, charge, bound, late_v, curves)
        if not bank.post_v > COLLAPSED * bank.emf:
            return False
        if max(moved, abs(bank.post_v - before)) < CLOSE_ENOUGH * bank.emf:
            break
    else:
        return False
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if part.live and part.amps > 0 and part.volts < COLLAPSED * part.source_v:
            return False
    return True


@equation
def float_between(
    bank: Records, parts: Records, feeds: Records, charge: float, bound: float, late_v: float, curves: Records
) -> bool:
    """Find the voltage at the posts at which the sources give what the loads take there, with nothing into the bank or out of it;
    whether there is one.

    There the voltage follows from the loads alone: sweeps swing from one end to the other where they take more at the one than the
    sources give, and less at the other. Source: Kirchhoff's current law at the posts.
    """
    if bank.open != SHUT or bank.filling == OFF:
        return False
    bank.fed = 1.0
    bank.emf, base, top = rest_and_top(bank, charge, bound, late_v, curves)
    low, high = base, top
    for _ in range(BISECTIONS):
        bank.post_v = (low + high) / 2
        for _ in range(MOST_SWEEPS):
            moved = spread(bank, parts, True)
            bank.load_a = draw(bank, parts) + bank.own_w / bank.post_v
            if moved < CLOSE_ENOUGH * bank.emf:
                break
        if offered_together(bank, feeds, bank.post_v) > bank.load_a:
            low = bank.post_v
        else:
            high = bank.post_v
    bank.amps = 0.0
    give(bank, feeds, bank.post_v, bank.load_a)
    return low > base and high < top


@equation
def solve(bank: Records, parts: Records, feeds: Records, charge: float, bound: float, late_v: float, curves: Records) -> None:
    """Voltages and currents at one moment. Where there is not that much power, a part of what is asked is given.

    Source: Ohm's and Kirchhoff's laws, settled by sweeps up and down the tree.
    """
    bank.fed = 1.0
    if solve_at(bank, parts, feeds, charge, bound, late_v, curves):
        return
    if float_between(bank, parts, feeds, charge, bound, late_v, curves):
        return
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        bank.fed = (low + high) / 2
        bank.load_a = 0.0
        for i in range(bank.part_0, bank.part_1):
            parts[i].amps = 0.0
        if solve_at(bank, parts, feeds, charge, bound, late_v, curves):
            low = bank.fed
        else:
            high = bank.fed
    bank.fed = low
    bank.load_a = 0.0
    for i in range(bank.part_0, bank.part_1):
        parts[i].amps = 0.0
    solve_at(bank, parts, feeds, charge, bound, late_v, curves)


@equation
def is_low(part: Records) -> bool:
    """Whether a part that cuts off stands below its cut-off."""
    return part.cutoff_v > 0 and part.volts < part.cutoff_v


@equation
def note(events: Records, count: Records, t: float, what: int, which: int, first: float, second: float, third: float) -> None:
    """Keep an event: s, what, of which part or bank, and up to three figures."""
    if count[0] < len(events):
        row = events[count[0]]
        row[0], row[1], row[2], row[3], row[4], row[5] = t, what, which, first, second, third
        count[0] += 1


@equation
def asked_of(part: Records) -> float:
    """What an inverter is loaded with: the apparent power of what runs, or with a start the power, where that is more."""
    return max(part.out_va, part.out_w)


@equation
def inverter_holds_va(part: Records, inside_c: float) -> float:
    """What an inverter gives for long in the air inside, VA.

    Source: derated by so much for each kelvin above a temperature (makers' sheets).
    """
    return part.rated_va * max(0.1, 1 - part.derate * max(0.0, inside_c - part.derate_c))


@equation
def overload_rate(now: float, lasting: float, short: float, short_s: float) -> float:
    """How fast an overload fills what a device stands, 1/s: at the short-time rating after `short_s`; it empties below the lasting one.

    Source: heat of the square of the current over what leaves for long; typical of boards and inverters.
    """
    if not lasting < inf:
        return 0.0
    whole = max((short / lasting) ** 2 - 1, 1e-6) * short_s
    return ((now / lasting) ** 2 - 1) / whole


@equation
def act_on_parts(bank: Records, parts: Records, inside_c: float, events: Records, count: Records, t: float) -> bool:
    """Open and close what voltage and overload say, where its delay is over; whether anything changed."""
    changed = False
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not part.live or not part.on:
            part.under_s = part.wait_s = part.heat = 0.0
            continue
        if part.closed and is_low(part) and part.under_s >= part.delay_s - 1e-9:
            part.closed, part.under_s, part.wait_s = False, 0.0, 0.0
            part.drops += 1
            changed = True
            if part.drops <= TELLS:
                note(events, count, t, CUT_OFF, i, part.volts, bank.charge, 0.0)
        elif not part.closed and part.wait_s >= part.restart_s - 1e-9 and part.volts >= part.restart_v:
            part.closed, part.under_s, part.wait_s = True, 0.0, 0.0
            changed = True
            if part.drops <= TELLS:
                note(events, count, t, RESTARTED, i, part.volts, bank.charge, 0.0)
        if part.rated_va > 0 and not part.tripped and (part.heat >= 1 - 1e-9 or asked_of(part) > part.surge_va * (1 + 1e-9)):
            part.tripped, part.heat = True, 0.0
            part.trips += 1
            changed = True
            note(events, count, t, TRIPPED, i, asked_of(part), inverter_holds_va(part, inside_c), 0.0)
    return changed


@equation
def open_board(bank: Records, why: int) -> None:
    """Take the bank off its posts."""
    bank.open, bank.under_s, bank.wait_s, bank.heat = why, 0.0, 0.0, 0.0
    bank.drops += 1
    if why == OVER_CURRENT:
        bank.trips += 1
    else:
        bank.unders += 1


@equation
def act_on_bank(bank: Records, which: int, cells: Records, groups: Records, events: Records, count: Records, t: float) -> bool:
    """Open and close the board, or end what a bank without one gives; whether anything changed."""
    left = bank.charge - bank.bound
    low, high, group = cell_bounds(bank, cells, groups, left, bank.amps * bank.r0 + bank.late_v)
    if bank.open == SHUT:
        if (bank.board and bank.amps > bank.burst_a * (1 + 1e-9)) or bank.heat >= 1 - 1e-9:
            amps = bank.amps
            open_board(bank, OVER_CURRENT)
            if bank.drops <= TELLS:
                note(events, count, t, BOARD_OVER, which, amps, bank.post_v, 0.0)
            return True
        under = bank.board and low < bank.cell_min_v and bank.under_s >= bank.delay_s - 1e-9
        if bank.amps > 0 and (under or left <= 0):
            open_board(bank, UNDER_VOLTAGE if bank.board else EMPTY)
            if bank.drops <= TELLS:
                note(events, count, t, BOARD_UNDER if bank.board else RAN_EMPTY, which, bank.post_v, group, low)
            return True
        if bank.board and bank.filling != OFF and bank.amps < 0 and high > bank.cell_max_v:
            bank.barred = BY_BOARD
            note(events, count, t, BOARD_FULL, which, bank.post_v, bank.charge, high)
            return True
        return False
    if left >= LEAST_BACK if bank.open == EMPTY else bank.wait_s >= bank.restart_s - 1e-9:
        bank.open, bank.wait_s = SHUT, 0.0
        if bank.drops <= TELLS:
            note(events, count, t, BOARD_SHUT, which, bank.emf, 0.0, 0.0)
        return True
    return False


@equation
def is_at_its_voltage(bank: Records, feed: Records) -> bool:
    """Whether a source holds its voltage and gives less than it could; lead that accepts no more climbs to it within minutes."""
    if feed.target_v <= 0 or bank.open != SHUT or bank.barred != FREE:
        return False
    there = bank.post_v + feed.amps * feed.ohm >= AT_VOLTAGE * feed.target_v
    return there and feed.amps < most_of(feed, bank.post_v) * (1 - 1e-9)


@equation
def is_done(bank: Records, feed: Records) -> bool:
    """Whether what ends a source's filling has come: a full bank, its tail, its time."""
    if bank.charge >= 1 - 1e-9:
        return True
    if feed.ends == NOTHING:
        return False
    if feed.at_v_s >= feed.absorb_s - 1e-9:
        return True
    if feed.ends == BY_TIME or not is_at_its_voltage(bank, feed):
        return False
    return feed.amps <= feed.end_a if feed.ends == OWN_CURRENT else -bank.amps <= feed.end_a


@equation
def has_sunk(bank: Records, feed: Records) -> bool:
    """Whether the voltage has fallen so far that a source which holds fills again."""
    able = bank.filling != OFF and bank.open == SHUT and bank.barred == FREE
    return able and feed.on and feed.stage == HOLDING and bank.post_v < feed.recharge_v


@equation
def act_on_feeds(bank: Records, which: int, parts: Records, feeds: Records, events: Records, count: Records, t: float) -> bool:
    """End what is done, and fill again what has been emptied; whether anything changed."""
    changed, filling, gave = False, 0, False
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        if feed.target_v <= 0 and feed.stage == FILLING:
            continue
        if feed.stage == HOLDING:
            if has_sunk(bank, feed):
                feed.stage, feed.at_v_s, feed.knee = FILLING, 0.0, False
                changed = True
            continue
        if not feed.knee and is_at_its_voltage(bank, feed) and bank.charge < 1 - 1e-9:
            feed.knee = True
            note(events, count, t, KNEE, f, bank.charge, bank.post_v, 0.0)
        if is_done(bank, feed):
            feed.stage = HOLDING
            changed, gave = True, gave or feed.knee or feed.amps > 0
        else:
            filling += 1
    if gave and filling == 0 and bank.filling == FILLING:  # a full bank that is plugged in takes nothing: that is no end
        note(events, count, t, FULL if bank.charge >= 1 - 1e-9 else CHARGED, which, bank.charge, 0.0, 0.0)
    return changed


@equation
def act_on_charge(bank: Records, which: int, parts: Records, feeds: Records, events: Records, count: Records, t: float) -> bool:
    """Lock and free the charge by temperature and current, and end it; whether anything changed."""
    if bank.filling == OFF:  # nothing charges it: there is nothing to bar
        bank.barred, bank.over_s, bank.bar_s = FREE, 0.0, 0.0
        return False
    if bank.barred == TOO_COLD or bank.barred == TOO_HOT:
        inside = bank.lock_below_c + LOCK_BAND_K <= bank.temperature_c <= bank.lock_above_c - LOCK_BAND_K
        if inside:
            bank.barred = FREE
            note(events, count, t, LOCK_FREE, which, bank.temperature_c, 0.0, 0.0)
        return inside
    if bank.filling == FILLING and bank.board and not bank.lock_below_c <= bank.temperature_c <= bank.lock_above_c:
        cold = bank.temperature_c < bank.lock_below_c
        bank.barred = TOO_COLD if cold else TOO_HOT
        note(events, count, t, LOCKED_COLD if cold else LOCKED_HOT, which, bank.temperature_c, 0.0, 0.0)
        return True
    if bank.barred == BY_BOARD:
        for f in range(bank.feed_0, bank.feed_1):
            if feeds[f].on and bank.post_v < feeds[f].recharge_v:
                bank.barred = FREE
                return True
        return False
    if bank.barred == TOO_MUCH:
        if bank.bar_s < bank.restart_s - 1e-9:
            return False
        bank.barred, bank.bar_s = FREE, 0.0
        return True
    if bank.filling == FILLING and bank.board and -bank.amps > bank.charge_a * (1 + 1e-9):
        if bank.over_s < bank.delay_s - 1e-9:
            return False
        bank.barred, bank.over_s, bank.bar_s = TOO_MUCH, 0.0, 0.0
        bank.drops += 1
        bank.trips += 1
        if bank.drops <= TELLS:
            note(events, count, t, BARRED, which, -bank.amps, bank.charge_a, 0.0)
        return True
    return act_on_feeds(bank, which, parts, feeds, events, count, t)


@equation
def act(
    banks: Records,
    parts: Records,
    feeds: Records,
    curves: Records,
    cells: Records,
    groups: Records,
    inside_c: float,
    events: Records,
    count: Records,
    t: float,
) -> bool:
    """Solve all banks, and let act what must, until nothing more does; whether anything did."""
    acted = False
    for b in range(len(banks)):
        bank = banks[b]
        solve(bank, parts, feeds, bank.charge, bank.bound, bank.late_v, curves)
        for _ in range(2 * (bank.part_1 - bank.part_0) + 8):
            changed = (
                act_on_bank(bank, b, cells, groups, events, count, t)
                or act_on_charge(bank, b, parts, feeds, events, count, t)
                or act_on_parts(bank, parts, inside_c, events, count, t)
            )
            if not changed:
                break
            acted = True
            solve(bank, parts, feeds, bank.charge, bank.bound, bank.late_v, curves)
    return acted


@equation
def longest(bank: Records, parts: Records, feeds: Records, curves: Records, inside_c: float, dt: float) -> float:
    """The longest step, s, at the end of which no delay, overload or charge is overrun."""
    most = LARGEST_SHARE * bank.capacity * 3600
    if abs(bank.amps) * dt > most:
        dt = max(min(dt, most / abs(bank.amps)), TOLERANCE_S)
    if bank.pad_w > 0:
        dt = min(dt, SETTLING_S)  # so far a pad overshoots
    if bank.amps > 0 and bank.charge > 0:
        # No more is taken than there is.
        dt = min(dt, max(bank.charge * bank.capacity * 3600 / bank.amps, SHORTEST_S))
    if bank.amps < 0:
        dt = min(dt, max((1 - bank.charge) * bank.capacity * 3600 / (-bank.amps * bank.coulombic), SHORTEST_S))
        # The taper is followed: where the voltage climbs, it must not be overshot, and at it the current falls with R·C/E'.
        ahead = max(min(1.0, bank.charge + LARGEST_SHARE), bank.charge + 1e-9)
        climbs = between(ahead, curves, bank.curve_0, bank.curve_1, 2) - between(
            bank.charge, curves, bank.curve_0, bank.curve_1, 2
        )
        slope = climbs / (ahead - bank.charge)
        if slope > 0:
            moves = slope / (bank.capacity * 3600)
            below = max(0.0, bank.full_v - bank.post_v) / (2 * moves * -bank.amps)
            dt = min(dt, max(below, bank.r0 / (8 * moves), TOLERANCE_S))
            if below < TOLERANCE_S and -bank.amps > bank.end_a > 0:
                dt = min(dt, max((bank.r0 + bank.r1) / moves * log(-bank.amps / bank.end_a), TOLERANCE_S))
    if bank.acceptance < inf and bank.amps < 0:
        dt = min(dt, bank.polar_s / 5)
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        if feed.stage == FILLING and feed.at_v_s < feed.absorb_s and is_at_its_voltage(bank, feed):
            dt = min(dt, feed.absorb_s - feed.at_v_s)
        if feed.amps > 0 and feed.left_wh < inf:
            dt = min(dt, max(feed.left_wh * 3600 / (feed.amps * bank.post_v), SHORTEST_S))
    if bank.open == EMPTY and bank.charge > LEAST_BACK and bank.charge - bank.bound < LEAST_BACK:
        dt = min(dt, max(bank.recovery_s * log(bank.bound / (bank.charge - LEAST_BACK)), TOLERANCE_S))
    if bank.board:
        rate = overload_rate(bank.amps, bank.continuous_a, bank.burst_a, bank.burst_s)
        if bank.amps > bank.continuous_a:
            dt = min(dt, (1 - bank.heat) / rate)
        if bank.open != SHUT and bank.wait_s < bank.restart_s:
            dt = min(dt, bank.restart_s - bank.wait_s)
        if bank.barred == TOO_MUCH:
            dt = min(dt, bank.restart_s - bank.bar_s)
        if -bank.amps > bank.charge_a * (1 + 1e-9) and bank.over_s < bank.delay_s:
            dt = min(dt, bank.delay_s - bank.over_s)
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not part.live or not part.on:
            continue
        if part.closed and is_low(part):
            dt = min(dt, part.delay_s - part.under_s)
        if not part.closed and part.volts >= part.restart_v:
            dt = min(dt, part.restart_s - part.wait_s)
        if part.rated_va > 0 and not part.tripped:
            lasting = inverter_holds_va(part, inside_c)
            if asked_of(part) > lasting:
                dt = min(dt, (1 - part.heat) / overload_rate(asked_of(part), lasting, part.surge_va, part.surge_s))
    return max(dt, SHORTEST_S)


@equation
def board_is_under(bank: Records, cells: Records, groups: Records, charge: float) -> bool:
    """Whether the lowest cell is below what the board allows, at what the bank gives now."""
    if not bank.board or bank.open != SHUT or bank.amps <= 0:
        return False
    low, _, _ = cell_bounds(bank, cells, groups, charge, bank.amps * bank.r0 + bank.late_v)
    return low < bank.cell_min_v


@equation
def is_near(bank: Records, parts: Records, feeds: Records, cells: Records, groups: Records) -> bool:
    """Whether a voltage stands so near a cut-off, or may so soon be back above one, that a step may overrun it."""
    left = bank.charge - bank.bound
    if left < NEAR_CHARGE:
        return True
    for f in range(bank.feed_0, bank.feed_1):
        if feeds[f].on and feeds[f].stage == HOLDING and bank.post_v < NEAR * feeds[f].recharge_v:
            return True
    if bank.board and bank.amps > 0:
        low, _, _ = cell_bounds(bank, cells, groups, left, bank.amps * bank.r0 + bank.late_v)
        if low < NEAR * bank.cell_min_v or NEAR * bank.amps > bank.continuous_a:
            return True
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if part.live and part.on and (not part.closed or (part.cutoff_v > 0 and part.volts < NEAR * part.cutoff_v)):
            return True
    return False


@equation
def overruns(
    bank: Records, parts: Records, feeds: Records, cells: Records, groups: Records, charge: float, bound: float, late_v: float
) -> bool:
    """Whether, solved for the end of a step, a voltage has passed a cut-off, or a restart, that it had not at its beginning."""
    left = charge - bound
    if left <= 0 and bank.amps > 0:
        return True
    for f in range(bank.feed_0, bank.feed_1):
        if has_sunk(bank, feeds[f]):
            return True
    if bank.board and bank.under_s == 0 and bank.amps > 0:
        low, _, _ = cell_bounds(bank, cells, groups, left, bank.amps * bank.r0 + late_v)
        if low < bank.cell_min_v:
            return True
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not part.live or not part.on:
            continue
        if part.closed and part.under_s == 0 and is_low(part):
            return True
        if not part.closed and part.wait_s == 0 and part.volts >= part.restart_v:
            return True
    return False


@equation
def take_back(bank: Records, parts: Records, cells: Records, groups: Records) -> None:
    """Begin anew the delays of what is no longer so, as after a start: else what comes back in the next step seems to have lasted."""
    if bank.board:
        if bank.under_s > 0 and not board_is_under(bank, cells, groups, bank.charge - bank.bound):
            bank.under_s = 0.0
        if -bank.amps <= bank.charge_a * (1 + 1e-9):
            bank.over_s = 0.0
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not is_low(part):
            part.under_s = 0.0
        if part.volts < part.restart_v:
            part.wait_s = 0.0


@equation
def carry_timers(
    bank: Records, parts: Records, feeds: Records, cells: Records, groups: Records, inside_c: float, dt: float
) -> None:
    """Carry on delays and overloads over a step, by the state in its middle."""
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        if feed.stage == FILLING and is_at_its_voltage(bank, feed):
            feed.at_v_s += dt
    if bank.board:
        bank.under_s = bank.under_s + dt if board_is_under(bank, cells, groups, bank.charge - bank.bound) else 0.0
        rate = overload_rate(bank.amps, bank.continuous_a, bank.burst_a, bank.burst_s)
        bank.heat = max(0.0, bank.heat + rate * dt) if bank.open == SHUT else 0.0
        if bank.open == OVER_CURRENT:
            bank.wait_s += dt
        elif bank.open == UNDER_VOLTAGE:
            low, _, _ = cell_bounds(bank, cells, groups, bank.charge - bank.bound, bank.late_v)
            back = low >= bank.release_v or (bank.filling == FILLING and bank.barred == FREE)
            bank.wait_s = bank.wait_s + dt if back else 0.0
        bank.over_s = bank.over_s + dt if -bank.amps > bank.charge_a * (1 + 1e-9) else 0.0
        if bank.barred == TOO_MUCH:
            bank.bar_s += dt
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not hands_on(part):
            part.under_s = part.heat = 0.0
            part.wait_s = part.wait_s + dt if part.live and part.on and not part.closed and part.volts >= part.restart_v else 0.0
        else:
            part.under_s = part.under_s + dt if is_low(part) else 0.0
            if part.rated_va > 0:
                lasting = inverter_holds_va(part, inside_c)
                part.heat = max(0.0, part.heat + overload_rate(asked_of(part), lasting, part.surge_va, part.surge_s) * dt)


@equation
def bound_after(bank: Records, bound: float, amps: float, dt: float) -> float:
    """The charge that a high rate leaves behind, a share: it grows with the current over the rated one, and comes back at rest.

    Source: Peukert's law, t = H·(C/(I·H))^k, so that I·(I·H/C)^(k − 1) counts as taken; what it left comes back at lower rates.
    """
    if bank.peukert <= 1:
        return 0.0
    if amps > bank.rated_a:
        return bound + amps * ((amps / bank.rated_a) ** (bank.peukert - 1) - 1) * dt / 3600 / bank.capacity
    return bound * exp(-dt / bank.recovery_s)


@equation
def charge_after(bank: Records, charge: float, amps: float, dt: float) -> float:
    """State of charge after a current for dt s. Source: charge is current times time; what is put in counts with its efficiency."""
    moved = amps if amps > 0 else amps * bank.coulombic
    return charge - moved * dt / 3600 / bank.capacity


@equation
def mean_late(bank: Records, late_v: float, amps: float, dt: float) -> tuple[float, float]:
    """The late part of the voltage drop after dt s, and its mean over them, V. Source: equivalent circuit of one RC element."""
    settled, whole = amps * bank.r1, exp(-dt / bank.late_s)
    return settled + (late_v - settled) * whole, settled + (late_v - settled) * bank.late_s / dt * (1 - whole)


@equation
def polar_after(bank: Records, dt: float) -> float:
    """How far lead is polarised by its charge after dt s: it follows the share that flows in of what it accepts.

    Source: practice: near what it accepts, the voltage of lead climbs to that of the charger, within minutes.
    """
    if not bank.acceptance < inf:
        return 0.0
    accepted = bank.acceptance * max(0.0, 1 - bank.charge) * bank.capacity
    goal = min(1.0, -bank.amps / max(accepted, 1e-9)) if bank.amps < 0 else 0.0
    return goal + (bank.polar - goal) * exp(-dt / bank.polar_s)


@equation
def add_up(bank: Records, parts: Records, feeds: Records, dt: float, account: Records, power: Records) -> float:
    """Enter a step's energies in the account, Wh; returns the heat in W that goes into the air inside.

    power: W delivered, set for the series. Source: conservation of energy; losses are I²R (Joule) and what devices take beside
    their output.
    """
    hours, heat = dt / 3600, 0.0
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        lost = feed.amps * (feed.amps * feed.ohm + feed.threshold_v)
        out = feed.amps * bank.post_v + lost
        account[CHARGED_WH] += out * hours
        account[IN_WIRING] += lost * hours
        feed.given_wh += out * hours
        feed.left_wh -= out * hours
        warms = lost + out * feed.inside
        feed.hour_j += warms * dt
        heat += warms
    if bank.open == SHUT:
        account[STANDING] += bank.own_w * hours
        bank.hour_j += bank.own_w * dt
        heat += bank.own_w
    for i in range(bank.part_0, bank.part_1):
        part = parts[i]
        if not part.live:
            part.dark_s += dt if part.wanted_w > 0 else 0.0
            continue
        wiring = part.amps * part.amps * part.ohm
        account[IN_WIRING] += wiring * hours
        part.hour_j += wiring * dt
        heat += wiring
        if not hands_on(part):
            part.dark_s += dt if part.wanted_w > 0 else 0.0
            continue
        account[STANDING] += part.draw_w * hours
        part.hour_j += part.draw_w * dt
        heat += part.draw_w
        if part.does == PASSES:
            delivered = bank.fed * (part.at_power + part.at_siemens * part.volts**2 + part.at_amps * part.volts)
            taken = part.volts * (part.amps - part.out_a) - part.draw_w
            account[DELIVERED] += delivered * hours
            account[IN_CONVERTERS] += (taken - delivered) * hours
            part.hour_j += (taken - delivered) * dt
            heat += taken - delivered
            power[0] += delivered
            if part.wanted_w > 0 and bank.fed < 1 - 1e-6:
                part.dark_s += dt
        else:
            lost = part.volts * part.amps - part.output_v * part.out_a - part.draw_w
            account[IN_INVERTERS if part.does == INVERTS else IN_CONVERTERS] += lost * hours
            part.hour_j += lost * dt
            heat += lost
    return heat


@equation
def warm(bank: Records, parts: Records, feeds: Records, dt: float, account: Records) -> float:
    """Heat in W of the pad under a bank: while it is too cold, fed by the first source that may give, never by the bank."""
    if bank.pad_w <= 0 or bank.temperature_c >= bank.pad_until_c:
        return 0.0
    for f in range(bank.feed_0, bank.feed_1):
        feed = feeds[f]
        if feed.on and feed.watts > 0 and feed.left_wh > 0 and reaches(parts, feed.part):
            watts = min(bank.pad_w, feed.watts)
            energy = watts * dt / 3600
            feed.given_wh += energy
            feed.left_wh -= energy
            account[CHARGED_WH] += energy
            account[STANDING] += energy
            return watts
    return 0.0


@equation
def sun_at(air: Records, t: float) -> float:
    """W that the sun brings in through the top of the box at a moment, its walls as in still air.

    Source: half a sine between sunrise and sunset, as on a clear day.
    """
    of_day = t % DAY_S
    if not air.rises_s < of_day < air.sets_s:
        return 0.0
    return air.sun_w * sin(pi * (of_day - air.rises_s) / (air.sets_s - air.rises_s))


@equation
def set_fans(air: Records, fans: Records, inverting: bool) -> tuple[float, bool]:
    """Switch each fan as its thermostat, or the inverter, says; W/K that they carry then, and whether any runs.

    Source: what is blown in must come out: of both ways only the stronger counts.
    """
    into = out = 0.0
    stirs = False
    for f in range(len(fans)):
        fan = fans[f]
        was = fan.on
        if fan.starts == BY_THERMOSTAT:
            fan.on = air.inside_c > fan.off_c + HAIR_K if was else air.inside_c >= fan.on_c - HAIR_K
        else:
            fan.on = fan.starts == ALWAYS or inverting
        if fan.on:
            stirs = True
            fan.switched += 0 if was else 1
            if fan.outward:
                out += fan.w_k
            else:
                into += fan.w_k
    return max(into, out), stirs


@equation
def until_switched(air: Records, fans: Records, target: float, whole: float) -> float:
    """s until the first thermostat is crossed, as the air relaxes towards a target; infinite where none is."""
    least = inf
    for f in range(len(fans)):
        fan = fans[f]
        if fan.starts != BY_THERMOSTAT:
            continue
        at = fan.off_c if fan.on else fan.on_c
        if (target - at) * (at - air.inside_c) > 0:
            least = min(least, air.box_j_k / whole * log((target - air.inside_c) / (target - at)))
    return max(least, SHORTEST_S)


@equation
def carry_heat(
    air: Records, banks: Records, fans: Records, inside_w: float, bank_w: Records, t: float, dt: float, inverting: bool
) -> None:
    """Warm the air inside and the banks over dt s from t on; each relaxes exponentially towards its balance, from one switching of a
    fan to the next.

    Source: Newton's law of cooling, for the air inside and for each bank; air that fans carry in proportion to the rise, a draught
    through vents to its power of 1.5; with fans that stir the air, walls pass on more, of the sun too (sol-air temperature).
    """
    left = dt
    while left > 0:
        carried, stirs = set_fans(air, fans, inverting)
        walls = air.stirred_w_k if stirs else air.walls_w_k
        if not carried > 0:
            carried = air.draught_w * sqrt(abs(air.inside_c - air.outside_c))
        out_w_k = walls + carried
        step = min(left, HEAT_STEP_S)
        sun_w = sun_at(air, t + dt - left + step / 2) * walls / air.walls_w_k
        whole = out_w_k + air.bank_w_k
        flows = inside_w + sun_w + out_w_k * air.outside_c
        for b in range(len(banks)):
            flows += banks[b].heat_w_k * banks[b].temperature_c
        target = flows / whole
        step = min(step, until_switched(air, fans, target, whole))
        goes = exp(-step * whole / air.box_j_k)
        # The mean of the air over the step, exactly as it relaxes.
        mean = target + (air.inside_c - target) * air.box_j_k / (step * whole) * (1 - goes)
        for b in range(len(banks)):
            bank = banks[b]
            goal = mean + bank_w[b] / bank.heat_w_k
            bank.temperature_c = goal + (bank.temperature_c - goal) * exp(-step * bank.heat_w_k / bank.heat_j_k)
        air.inside_c = target + (air.inside_c - target) * goes
        if air.inside_c > air.hottest_c:
            air.hottest_c, air.hottest_s = air.inside_c, t + dt - left + step
        air.hour_j += sun_w * step
        for f in range(len(fans)):
            fans[f].on_s += step if fans[f].on else 0.0
        left -= step


@equation
def keep_worst_hour(air: Records, banks: Records, parts: Records, feeds: Records, begun_s: float, lasted_s: float) -> None:
    """Keep the mean W of everything over an hour that has passed, where it brought more heat than any before; begin the next."""
    whole = air.hour_j
    for b in range(len(banks)):
        whole += banks[b].hour_j + banks[b].hour_own_j
    for i in range(len(parts)):
        whole += parts[i].hour_j
    for f in range(len(feeds)):
        whole += feeds[f].hour_j
    keeps = whole / lasted_s > air.worst_w
    if keeps:
        air.worst_w, air.worst_s, air.worst_sun_w = whole / lasted_s, begun_s, air.hour_j / lasted_s
    air.hour_j = 0.0
    for b in range(len(banks)):
        if keeps:
            banks[b].worst_w, banks[b].worst_own_w = banks[b].hour_j / lasted_s, banks[b].hour_own_j / lasted_s
        banks[b].hour_j = banks[b].hour_own_j = 0.0
    for i in range(len(parts)):
        if keeps:
            parts[i].worst_w = parts[i].hour_j / lasted_s
        parts[i].hour_j = 0.0
    for f in range(len(feeds)):
        if keeps:
            feeds[f].worst_w = feeds[f].hour_j / lasted_s
        feeds[f].hour_j = 0.0


@equation
def keep_least_spare(parts: Records, inside_c: float, t: float) -> None:
    """Keep for each inverter when it was loaded the most for what it holds in the air inside."""
    for i in range(len(parts)):
        part = parts[i]
        if part.rated_va > 0 and hands_on(part) and part.out_va > 0:
            used = part.out_va / inverter_holds_va(part, inside_c)
            if used > part.used:
                part.used, part.used_va, part.used_c, part.used_s = used, part.out_va, inside_c, t


@equation
def inverts_now(parts: Records) -> bool:
    """Whether an inverter is on."""
    on = False
    for i in range(len(parts)):
        on = on or (parts[i].does == INVERTS and hands_on(parts[i]))
    return on


@equation
def tell_again(banks: Records, parts: Records, events: Records, count: Records, t: float) -> None:
    """Tell how often what had dropped several times did so since it was last plugged in, and count anew."""
    for b in range(len(banks)):
        if banks[b].drops > TELLS:
            note(events, count, t, AGAIN, -1 - b, banks[b].drops, 0.0, 0.0)
        banks[b].hiccups += max(0, banks[b].unders - 1)
        banks[b].drops = banks[b].unders = 0
    for i in range(len(parts)):
        if parts[i].drops > TELLS:
            note(events, count, t, AGAIN, i, parts[i].drops, 0.0, 0.0)
        parts[i].hiccups += max(0, parts[i].drops - 1)
        parts[i].drops = 0


@equation
def plug(banks: Records, parts: Records, feeds: Records, charging: bool, events: Records, count: Records, t: float) -> None:
    """Plug in or unplug: who plugs it in resets what has tripped; the sources that wait for it begin, or end."""
    if charging:
        tell_again(banks, parts, events, count, t)
        note(events, count, t, PLUGGED, 0, 0.0, 0.0, 0.0)
        for i in range(len(parts)):
            parts[i].tripped = False
    else:
        note(events, count, t, UNPLUGGED, 0, banks[0].charge, 0.0, 0.0)
    for f in range(len(feeds)):
        if feeds[f].plugged:
            turn(banks, feeds[f], inf if charging else 0.0, events, count, t)


@equation
def turn(banks: Records, feed: Records, watts: float, events: Records, count: Records, t: float) -> None:
    """Let a source give so many W from now on. One that begins fills anew, and closes a board that was open for want of charge."""
    was = feed.on
    feed.on, feed.watts = watts > 0, watts
    if not feed.on or was:
        return
    feed.stage, feed.at_v_s, feed.knee = FILLING, 0.0, False
    bank = banks[feed.bank]
    bank.barred, bank.over_s, bank.bar_s = FREE, 0.0, 0.0
    if bank.open != SHUT:
        bank.open, bank.wait_s = SHUT, 0.0
        note(events, count, t, BOARD_SHUT, feed.bank, bank.emf, 0.0, 0.0)


@equation
def keep_row(
    rows: Records, count: int, t: float, air: Records, fans: Records, banks: Records, watts: float, heat_w: float
) -> Records:
    """Keep the state as it stands, with the heat that the last step made; returns the rows, enlarged where they were full."""
    if count >= len(rows):
        more = np.empty((2 * len(rows), rows.shape[1]))
        more[: len(rows)] = rows
        rows = more
    row = rows[count]
    row[AT_S], row[INSIDE_C], row[DELIVERED_W], row[HEAT_W] = t, air.inside_c, watts, heat_w
    row[SUN_W], row[FANS_ON] = sun_at(air, t), 0.0
    for f in range(len(fans)):
        row[FANS_ON] += fans[f].on
    for b in range(len(banks)):
        bank, at = banks[b], OF_BANKS + 4 * b
        row[at], row[at + 1], row[at + 2], row[at + 3] = bank.charge, bank.post_v, bank.amps, bank.temperature_c
    return rows


@equation
def delivered_now(banks: Records, parts: Records) -> float:
    """W that reach the loads at this moment."""
    watts = 0.0
    for b in range(len(banks)):
        bank = banks[b]
        for i in range(bank.part_0, bank.part_1):
            part = parts[i]
            if hands_on(part) and part.does == PASSES:
                watts += bank.fed * (part.at_power + part.at_siemens * part.volts**2 + part.at_amps * part.volts)
    return watts


@equation
def fitting(bank: Records, parts: Records, feeds: Records, curves: Records, cells: Records, groups: Records, dt: float) -> float:
    """So much of a step, s, that no cut-off is overrun in it by more than the tolerance."""
    if bank.open != SHUT or not is_near(bank, parts, feeds, cells, groups):
        return dt
    amps, left, bound, late_v, polar = bank.amps, bank.charge, bank.bound, bank.late_v, bank.polar
    begun = overload_rate(amps, bank.continuous_a, bank.burst_a, bank.burst_s)
    while dt > TOLERANCE_S:
        bank.amps, bank.polar = amps, polar
        bank.polar = polar_after(bank, dt)
        late, _ = mean_late(bank, late_v, amps, dt)
        charge, held = charge_after(bank, left, amps, dt), bound_after(bank, bound, amps, dt)
        solve(bank, parts, feeds, charge, held, late, curves)
        # With what it gives growing, as where a voltage sinks, an overload lasts less long than at its beginning.
        rate = (begun + overload_rate(bank.amps, bank.continuous_a, bank.burst_a, bank.burst_s)) / 2
        lasts = not bank.board or bank.heat + rate * (dt - TOLERANCE_S) <= 1
        if lasts and not overruns(bank, parts, feeds, cells, groups, charge, held, late):
            break
        dt = max(dt / 2, TOLERANCE_S)
    bank.amps, bank.polar = amps, polar
    return dt


@equation
def carry_bank(
    bank: Records,
    parts: Records,
    feeds: Records,
    curves: Records,
    cells: Records,
    groups: Records,
    inside_c: float,
    dt: float,
    account: Records,
    power: Records,
) -> tuple[float, float]:
    """Carry a bank on by dt s; returns the heat in W of its tree into the air, and of the bank itself.

    Charge at the middle of the step and the mean of the late drop stand for it: the account of energy then closes to second order.
    """
    amps, polar = bank.amps, bank.polar
    _, mean = mean_late(bank, bank.late_v, amps, dt)
    middle, held = charge_after(bank, bank.charge, amps, dt / 2), bound_after(bank, bank.bound, amps, dt / 2)
    bank.polar = polar_after(bank, dt / 2)
    solve(bank, parts, feeds, middle, held, mean, curves)
    bank.polar = polar
    carry_timers(bank, parts, feeds, cells, groups, inside_c, dt)
    tree_w = add_up(bank, parts, feeds, dt, account, power)
    amps = bank.amps
    stored_w = bank.rest_v * (amps if amps > 0 else amps * bank.coulombic)
    own_w = stored_w - amps * bank.post_v
    account[IN_BANKS] += own_w * dt / 3600
    bank.late_v, _ = mean_late(bank, bank.late_v, amps, dt)
    bank.polar = polar_after(bank, dt)
    bank.bound = max(0.0, bound_after(bank, bank.bound, amps, dt))
    bank.charge = min(1.0, max(0.0, charge_after(bank, bank.charge, amps, dt)))
    area = area_to(bank.charge, curves, bank.curve_0, bank.curve_1)
    account[CHEMICAL] += (bank.area - area) * bank.capacity
    bank.area = area
    return tree_w, own_w


@equation
def switch(
    banks: Records,
    parts: Records,
    feeds: Records,
    change_s: Records,
    change_what: Records,
    change_w: Records,
    index: int,
    t: float,
    watts: Records,
    events: Records,
    count: Records,
) -> int:
    """Bring loads, switched parts and sources up to a moment; returns the next change to come."""
    loads = len(watts)
    while index < len(change_s) and change_s[index] <= t + HAIR_S:
        what = change_what[index]
        if what >= loads:
            turn(banks, feeds[what - loads], change_w[index], events, count, t)
        elif what >= 0:
            watts[what] = change_w[index]
        else:
            part = parts[-1 - what]
            part.on = change_w[index] > 0
            if not part.on:
                part.tripped, part.closed = False, True
        index += 1
    return index


@equation
def run(
    banks: Records,
    parts: Records,
    feeds: Records,
    air_of: Records,
    fans: Records,
    plan_of: Records,
    curves: Records,
    cells: Records,
    groups: Records,
    cold: Records,
    change_s: Records,
    change_what: Records,
    change_w: Records,
    load_part: Records,
    load_taken: Records,
    load_law: Records,
    load_v: Records,
    load_va: Records,
    load_w: Records,
    step_s: float,
    keep: bool,
) -> tuple[Records, Records, Records, Records]:
    """One run, from the first moment of the plan to its last, by steps of `step_s` (0: free steps).

    Returns the series (rows of `keep_row`, none where not kept), the events (rows of `note`), the account in Wh, and extremes of
    each bank; the last row holds the number of steps. What is known of parts, sources, fans and air stands in their records.
    """
    air, plan, many = air_of[0], plan_of[0], len(banks)
    count, power, bank_w = np.zeros(1, np.int64), np.zeros(1), np.zeros(many)
    events, account, extremes = np.zeros((MOST_EVENTS, 6)), np.zeros(8), np.zeros((many + 1, 6))
    rows, watts = np.empty((2048 if keep else 1, OF_BANKS + 4 * many)), np.zeros(len(load_part))
    kept, steps, index, charging, warmth = 0, 0, 0, False, 0.0
    t = changed_s = plan.begin_s
    for b in range(many):
        bank = banks[b]
        settle(bank, cold)
        bank.post_v = bank.emf = between(bank.charge, curves, bank.curve_0, bank.curve_1, 1)
        bank.area = area_to(bank.charge, curves, bank.curve_0, bank.curve_1)
        extremes[b, LEAST_CHARGE], extremes[b, LEAST_V], extremes[b, HOTTEST_C] = bank.charge, inf, bank.temperature_c
        extremes[b, CHARGED_AT_C] = -inf
    air.hottest_c, air.hottest_s, hour_s = air.inside_c, t, t
    while t < plan.end_s - HAIR_S:
        was = index
        index = switch(banks, parts, feeds, change_s, change_what, change_w, index, t, watts, events, count)
        if index != was or t == plan.begin_s:
            share_loads(parts, load_part, load_taken, load_law, load_v, load_va, load_w, watts)
            changed_s = t
        since = (t - plan.begin_s + HAIR_S) % plan.period_s
        if (plan.away_s < plan.period_s and since >= plan.away_s) != charging:
            charging = not charging
            plug(banks, parts, feeds, charging, events, count, t)
            changed_s = t
        if act(banks, parts, feeds, curves, cells, groups, air.inside_c, events, count, t):
            changed_s = t
        keep_least_spare(parts, air.inside_c, t)
        if keep:
            rows = keep_row(rows, kept, t, air, fans, banks, delivered_now(banks, parts), warmth)
            kept += 1
        ends = t - since + HAIR_S + (plan.period_s if charging or plan.away_s >= plan.period_s else plan.away_s)
        horizon = min(plan.end_s, ends, hour_s + HOUR_S, change_s[index] if index < len(change_s) else inf)
        dt = step_s if step_s > 0 else min(LONGEST_S, max(SETTLING_S, t - changed_s))
        dt = min(dt, max(horizon - t, SHORTEST_S))
        for b in range(many):
            take_back(banks[b], parts, cells, groups)
            if banks[b].open == SHUT:
                extremes[b, LEAST_V] = min(extremes[b, LEAST_V], banks[b].post_v)
            if banks[b].filling == FILLING:
                extremes[b, CHARGED_AT_C] = max(extremes[b, CHARGED_AT_C], banks[b].temperature_c)
            if step_s <= 0:
                dt = longest(banks[b], parts, feeds, curves, air.inside_c, dt)
        for b in range(many):
            if step_s <= 0:
                dt = fitting(banks[b], parts, feeds, curves, cells, groups, dt)
        heat = power[0] = 0.0
        for b in range(many):
            bank = banks[b]
            tree_w, bank_w[b] = carry_bank(bank, parts, feeds, curves, cells, groups, air.inside_c, dt, account, power)
            heat += tree_w
            bank_w[b] += warm(bank, parts, feeds, dt, account)
            bank.hour_own_j += bank_w[b] * dt
            extremes[b, LEAST_CHARGE] = min(extremes[b, LEAST_CHARGE], bank.charge)
            if bank.amps < 0 and t + dt > plan.end_s - DAY_S:
                extremes[b, FILLED_TO] = max(extremes[b, FILLED_TO], bank.charge)
            extremes[b, TOO_COLD_S] += dt if bank.amps < 0 and bank.temperature_c < bank.charge_min_c else 0.0
        carry_heat(air, banks, fans, heat, bank_w, t, dt, inverts_now(parts))
        warmth = heat + bank_w.sum()
        for b in range(many):
            settle(banks[b], cold)
            extremes[b, HOTTEST_C] = max(extremes[b, HOTTEST_C], banks[b].temperature_c)
        t += dt
        steps += 1
        if t >= hour_s + HOUR_S - HAIR_S or (t >= plan.end_s - HAIR_S and not air.worst_w > 0):
            keep_worst_hour(air, banks, parts, feeds, hour_s, t - hour_s)
            hour_s = t
    tell_again(banks, parts, events, count, t)
    if keep:
        rows = keep_row(rows, kept, t, air, fans, banks, power[0], warmth)
        kept += 1
    extremes[many, 0] = steps
    return rows[:kept], events[: count[0]], account, extremes
