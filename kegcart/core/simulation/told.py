"""What the equations return, told: events in words, figures by name."""

from dataclasses import fields
from typing import Any

from kegcart.core.simulation import equations as eq
from kegcart.core.simulation.arrays import Arrays, Records, arrays_of
from kegcart.core.simulation.inputs import Lane
from kegcart.core.simulation.run import BankCourse, Course, Event, MostUsed, WorstHour
from kegcart.core.units import write_quantity

ARRAYS = tuple(field.name for field in fields(Arrays))


def run_through(lane: Lane, step_s: float, series: bool) -> Course:
    """One run by the compiled equations: see `run.simulate`."""
    arrays = arrays_of(lane)
    given = [getattr(arrays, name) for name in ARRAYS]
    compiled: Any = eq.run
    rows, events, account, extremes = compiled(*given, step_s, series)
    return run_of(lane, arrays, rows, events, account, extremes)


def in_words(row: list[float], lane: Lane) -> Event:
    """An event of the equations, told."""
    t, code, which, first, second, third = row
    hour, what, place = t / 3600, int(code), int(which)
    many = len(lane.banks) > 1
    name = lane.parts[place].name if what in (eq.CUT_OFF, eq.RESTARTED, eq.TRIPPED) else ""
    bank = lane.banks[place if 0 <= place < len(lane.banks) else 0]
    of = f" of {bank.name}" if many else ""
    match what:
        case eq.CUT_OFF:
            return Event(hour, "cutoff", f"{name} cuts off at {first:.1f} V, {second * 100:.0f} % charge", place)
        case eq.RESTARTED:
            return Event(hour, "restart", f"{name} is on again at {first:.1f} V", place)
        case eq.TRIPPED:
            return Event(hour, "trip", f"{name} trips on overload: {first:.0f} VA, it gives {second:.0f} VA for long", place)
        case eq.BOARD_UNDER:
            named = f", group {second + 1:.0f} at {third:.2f} V a cell" if len(bank.groups) > 1 else ""
            return Event(hour, "cutoff", f"protection board{of} opens at {first:.1f} V{named}", place)
        case eq.BOARD_OVER:
            return Event(hour, "trip", f"over-current: the protection board{of} opens at {first:.0f} A", place)
        case eq.BOARD_SHUT:
            words = "protection board" if bank.board else "battery"
            return Event(hour, "restart", f"{words}{of} gives power again" if not bank.board else f"{words}{of} closes", place)
        case eq.PLUGGED:
            return Event(hour, "charge", "plugged in")
        case eq.UNPLUGGED:
            return Event(hour, "charge", f"unplugged at {first * 100:.0f} %")
        case eq.FULL:
            return Event(hour, "charge", f"{bank.name} full" if many else "full", place)
        case eq.KNEE:
            feed = lane.feeds[place]
            return Event(
                hour,
                "knee",
                f"{feed.name} holds its voltage from {second:.1f} V at the posts, {first * 100:.0f} % charge",
                feed.bank,
            )
        case eq.CHARGED:
            return Event(hour, "charge", f"charging{of} ends at {first * 100:.0f} %", place)
        case eq.BOARD_FULL:
            return Event(
                hour, "charge", f"protection board{of} ends the charge at {third:.2f} V a cell, {second * 100:.0f} %", place
            )
        case eq.LOCKED_COLD:
            return Event(hour, "lock", f"charging{of} is locked: cells at {write_quantity(first, '°C')}", place)
        case eq.LOCKED_HOT:
            return Event(hour, "lock", f"charging{of} stops in the heat: cells at {write_quantity(first, '°C')}", place)
        case eq.LOCK_FREE:
            return Event(hour, "charge", f"charging{of} is free again: cells at {write_quantity(first, '°C')}", place)
        case eq.BARRED:
            return Event(hour, "trip", f"protection board{of} stops the charge: {first:.0f} A, it lets in {second:.0f} A", place)
        case eq.RAN_EMPTY:
            return Event(hour, "cutoff", f"{bank.name} is empty: nothing cut off before", place)
        case eq.AGAIN:
            if place >= 0:
                whose = lane.parts[place].name
            else:
                dropped = lane.banks[-1 - place]
                whose = f"protection of {dropped.name}" if dropped.board else dropped.name
            return Event(hour, "again", f"{whose} has dropped {first:.0f} times: it comes back, and drops again", place)
    raise AssertionError(f"no words for event {what}")


def worst_hour(arrays: Arrays, parts: int) -> WorstHour:
    """What brought heat in the hour that brought the most."""
    air = arrays.air[0]
    return WorstHour(
        float(air.worst_s) / 3600,
        float(air.worst_sun_w),
        [float(w) for w in arrays.parts.worst_w[:parts]],
        [float(w) for w in arrays.feeds.worst_w],
        [float(w) for w in arrays.banks.worst_w],
        [float(w) for w in arrays.banks.worst_own_w],
    )


def run_of(lane: Lane, arrays: Arrays, rows: Records, events: Records, account: Any, extremes: Any) -> Course:
    """What the equations returned, by name."""
    columns = rows.T.tolist() if len(rows) else [[] for _ in range(eq.OF_BANKS + 4 * len(lane.banks))]
    banks = []
    for b, bank in enumerate(lane.banks):
        at, (charge, volts, celsius, too_cold_s, filled, charged_at) = eq.OF_BANKS + 4 * b, extremes[b].tolist()
        last = float(arrays.banks[b].charge)
        banks.append(
            BankCourse(bank.name, charge, volts, celsius, too_cold_s / 3600, last, filled, charged_at, *columns[at : at + 4])
        )
    wh, air = account.tolist(), arrays.air[0]
    return Course(
        banks,
        [t / 3600 for t in columns[eq.AT_S]],
        columns[eq.INSIDE_C],
        columns[eq.DELIVERED_W],
        columns[eq.HEAT_W],
        columns[eq.SUN_W],
        columns[eq.FANS_ON],
        [in_words(row, lane) for row in events.tolist()],
        [float(arrays.parts[i].dark_s) / 3600 for i in range(len(lane.parts))],
        [float(arrays.feeds[f].given_wh) for f in range(len(lane.feeds))],
        wh[eq.CHEMICAL],
        wh[eq.CHARGED_WH],
        wh[eq.DELIVERED],
        wh[eq.IN_INVERTERS],
        wh[eq.IN_CONVERTERS],
        wh[eq.STANDING],
        wh[eq.IN_BANKS],
        wh[eq.IN_WIRING],
        [row[0] / 3600 for row in events.tolist() if int(row[1]) in (eq.FULL, eq.CHARGED) and int(row[2]) == 0],
        int(arrays.banks.trips.sum() + arrays.parts.trips.sum()),
        int(arrays.banks.hiccups.sum() + arrays.parts.hiccups.sum()),
        float(air.hottest_c),
        float(air.hottest_s) / 3600,
        worst_hour(arrays, len(lane.parts)),
        [MostUsed(float(p.used_va), float(p.used_c), float(p.used_s) / 3600) for p in arrays.parts[: len(lane.parts)]],
        [float(fan.on_s) / 3600 for fan in arrays.fans],
        [int(fan.switched) for fan in arrays.fans],
        int(extremes[-1, 0]),
        lane.plan.end_h - lane.plan.begin_h,
    )
