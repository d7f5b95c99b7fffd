"""What is judged of the pack that needs no power path."""

import math
from collections.abc import Iterator, Mapping
from typing import Any

from kegcart.core.brief.sizing import Site
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import (
    HAIR,
    Bound,
    Check,
    Fault,
    at_least,
    at_most,
    compared,
    failed,
    held,
    is_so,
    mend,
    not_yet,
    note,
    stop,
)  # fmt: skip
from kegcart.core.electrical.protection import interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.bank import string_keys, units_of
from kegcart.core.pack.build import GroupSizing, StringsSizing
from kegcart.core.pack.document import Bank, CellPack, Group, StringOfUnits
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.forms.base import LARGEST
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import Family, assumption, constant

THRESHOLD_SLACK_V = 0.15
"""How far a board's thresholds may stand outside its chemistry's range before they are of another one."""
COLD_NOTED = 0.97
"""Share of the capacity left in the cold from which the loss is worth no word."""
LISTED = 3
"""So many cells are named in a sentence."""
SORT_AGAIN = Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})])


def judge_pack(pack: PackSizing, loads: LoadsSizing, site: Site, elsewhere: Mapping[str, str]) -> Iterator[Check]:
    """Every check that needs the pack and the loads, the power path apart. elsewhere: cells that another build holds, label -> build."""
    yield depth(pack)
    yield cold_capacity(pack)
    yield voltage_over_60(pack)
    yield from starting_battery(pack, loads)
    yield from cold_charge(pack, site)
    if isinstance(pack.pack, CellPack):
        yield from board_series(pack)
        yield from board_chemistry(pack, pack.pack)
        yield from groups(pack, pack.pack)
        if pack.pack.groups:
            yield cells_elsewhere(elsewhere)
    if isinstance(pack.pack, Bank):
        yield from bank(pack, pack.pack)


@judges("pack.depth", "planned depth of discharge", MEND)
def depth(pack: PackSizing) -> Check:
    """The planned depth of discharge is within the daily window of the chemistry.

    Source: daily window of the chemistry for its cycles (chemistries table).
    """
    row = pack.chemistry
    if pack.pack.depth is None:
        return held("pack.depth", "/pack/depth")
    window = row.window_high - row.window_low
    limit = row.figure("w", window, "share", f"daily window of {row.label}")
    return at_most(
        "pack.depth",
        "/pack/depth",
        pack.depth,
        limit,
        lambda: mend(
            f"Planned to {{DoD}} depth of discharge; {row.label} is used over {{window}} a day.",
            "Cells taken to the ends of their charge every day wear out early.",
            {"DoD": pack.depth, "window": limit},
            (Remedy(f"Plan for the daily window, {window * 100:.0f} %", [release("/pack/depth")]),),
        ),
    )


@judges("pack.cold-capacity", "what the cold takes", NOTE)
def cold_capacity(pack: PackSizing) -> Check:
    """The coldest site temperature takes next to nothing of the usable energy.

    Source: share of capacity left in the cold (cold table, typical of makers' curves).
    """

    def fault() -> Fault:
        taken = {"E_warm": pack.usable_warm, "E_use": pack.usable}
        lost = Figure.by("E_cold", "E_warm − E_use", "Wh", "taken by the cold", taken)
        return note(
            "At {T_min} the cold takes {E_cold} of the usable energy.",
            "Cold cells give less and sag more; the figures here already count it.",
            {"T_min": (pack.cold_factor.inputs or {})["T_min"], "E_cold": lost},
        )

    least = Figure.of("k_noted", COLD_NOTED, "share", "capacity left from which the loss is worth no word")
    return at_least("pack.cold-capacity", "/brief/site_min_c", pack.cold_factor, least, fault)


@judges("pack.voltage-over-60", "touch voltage", STOP)
def voltage_over_60(pack: PackSizing) -> Check:
    """The pack stays below the voltage at which touching is dangerous.

    Source: 60 V DC, above which protection against touching is due (IEC 60364-4-41; assumptions table).
    """
    row, limit, form = pack.chemistry, assumption("touch_voltage"), form_of(pack.pack)

    def fault() -> Fault:
        most = int((limit.number + HAIR) // row.v_max)
        return stop(
            "Charged, the pack stands at {V_max}, above {U_t} DC.",
            "Above 60 V DC touching is dangerous: that is outside what can be planned here without licensed practice.",
            {"V_max": pack.v_max, "U_t": limit},
            below_60(pack, most),
        )

    return at_most("pack.voltage-over-60", form.series_place, pack.v_max, limit, fault, slack=0.0)


def below_60(pack: PackSizing, most: int) -> tuple[Remedy, ...]:
    """The pack brought to at most so many cells in series."""
    row, build = pack.chemistry, pack.pack
    if isinstance(build, Bank) and build.battery.series <= most:
        return form_of(build).with_series(pack, most // build.battery.series * build.battery.series)
    best = max(s for s in row.classes.values() if s <= most)
    if isinstance(build, CellPack):
        return (Remedy(f"{best} cells in series, {best * row.v_max:.1f} V charged", [set_value("/pack/series", best)]),)
    return (Remedy(f"A battery of {best} cells in series", [set_value("/pack/battery/series", best)]),)


@judges("pack.starting-battery", "a starting battery's one job", STOP)
def starting_battery(pack: PackSizing, loads: LoadsSizing) -> Iterator[Check]:
    """A starting battery does one job well: short high current while an engine runs and fills it again.

    Source: practice: starting batteries fail early when cycled deeply.
    """
    if pack.pack.chemistry != "starting":
        return
    cycled = [d for d in loads.demands.values() if d.energy.number > 0 and not d.load.engine_runs]

    def fault() -> Fault:
        worst = max(cycled, key=lambda d: d.energy.number)
        others = f" and {len(cycled) - 1} more" if len(cycled) > 1 else ""
        remedies = [Remedy("A deep-cycle AGM battery instead", [set_value("/pack/chemistry", "agm")])]
        if len(cycled) == 1:
            at = f"/loads/items/{worst.key}/engine_runs"
            remedies.append(Remedy(f"The engine runs while {worst.load.name} is on", [set_value(at, True)]))
        return stop(
            f"A starting battery is to run {worst.load.name}{others} with the engine off, {{E}} a day: it is not made to be cycled.",
            "Its plates are thin, for a great current over seconds. Discharged by half some thirty times, it has lost its capacity.",
            {"E": worst.energy},
            tuple(remedies),
        )

    yield is_so("pack.starting-battery", "/pack/chemistry", not cycled, fault)


@judges("pack.cold-charge", "charging in the cold", STOP, NOTE)
def cold_charge(pack: PackSizing, site: Site) -> Iterator[Check]:
    """Charging is locked where it can be colder than the chemistry may be charged.

    Source: least charging temperature of the chemistry (chemistries table): lithium plates below it.
    """
    row, lock = pack.chemistry, form_of(pack.pack).cold_lock(pack)
    limit = row.figure("T_ch", row.charge_min_c, "°C", f"least temperature for charging {row.label}")
    if lock is None:
        return
    remedy = Remedy("A board that locks charging in the cold", [set_value(lock.place, lock.remedy_value)])
    why = "Charged in the cold, lithium plates out as metal in the cell: capacity is lost for good, and a short can grow."
    figures = {"T_min": site.cold_c, "T_ch": limit}
    sentence = f"It can be {{T_min}} at the site, {row.label} must not be charged below {{T_ch}}, "
    fault = stop(sentence + "and nothing locks the charging.", why, figures, (remedy,))
    if site.cold_c.number >= row.charge_min_c:
        yield at_least("pack.cold-charge", lock.place, site.cold_c, limit, lambda: fault)
    elif lock.locked is None:
        said = note(sentence + "and it is not said whether its board locks charging.", why, figures, (remedy,))
        yield not_yet("pack.cold-charge", lock.place, "whether its board locks charging in the cold", said)
    else:
        yield is_so("pack.cold-charge", lock.place, lock.locked, lambda: fault)


@judges("pack.board-series", "cells the board is made for", STOP)
def board_series(pack: PackSizing) -> Iterator[Check]:
    """The protection board is made for as many cells as there are.

    Source: the board measures each cell: its count is that of the pack (maker's sheet).
    """
    board = pack.build.board
    if board is None:
        return
    yield compared(
        "pack.board-series",
        "/pack/board/series",
        board.series.number == pack.series.number,
        board.series,
        pack.series,
        Bound.EQUAL,
        lambda: stop(
            "The protection board is made for {S_b} cells in series; the pack has {S}.",
            "It watches the wrong number of cells: one is not watched at all, or the board never closes.",
            {"S_b": board.series, "S": pack.series},
            (Remedy("A board for as many cells as the pack has", [release("/pack/board/series")]),),
        ),
    )


@judges("pack.board-chemistry", "thresholds of the board", STOP)
def board_chemistry(pack: PackSizing, build: CellPack) -> Iterator[Check]:
    """The thresholds of the board are those of the chemistry.

    Source: cut-off voltages of the chemistry (chemistries table).
    """
    board, row, slack = pack.build.board, pack.chemistry, THRESHOLD_SLACK_V
    if board is None:
        return
    low, high = board.cell_min.number, board.cell_max.number
    fits = high <= row.v_max + slack and low >= row.v_min - slack and low < row.v_nom < high

    def fault() -> Fault:
        pinned = (name for name in ("chemistry", "cell_min_v", "cell_max_v") if getattr(build.board, name) is not None)
        patch = [release(f"/pack/board/{name}") for name in pinned]
        return stop(
            f"The board opens at {{v_cut}} and stops charging at {{v_full}} a cell; {row.label} is used from {{v_min}} to {{v_max}}.",
            "Its thresholds are of another chemistry: the cells are overcharged, run flat, or never filled.",
            {
                "v_cut": board.cell_min,
                "v_full": board.cell_max,
                "v_min": row.figure("v_min", row.v_min, "V", "least voltage of a cell"),
                "v_max": row.figure("v_max", row.v_max, "V", "greatest voltage of a cell"),
            },
            (Remedy(f"A board for {row.label}", patch),) if patch else (),
        )

    yield is_so("pack.board-chemistry", "/pack/board/chemistry", fits, fault)


@judges("pack.groups-stale", "groups as the pack is now", MEND)
@judges("pack.group-spread", "spread of group capacity", MEND)
def groups(pack: PackSizing, build: CellPack) -> Iterator[Check]:
    """Sorted cells are grouped as the pack is now, and the groups are alike.

    Source: practice of sorting: 0.3 % new, 1 % reclaimed (assumptions table).
    """
    if not build.groups:
        return
    for key, group in build.groups.items():
        yield from rejects(key, group)
    members = pack.build.groups
    yield is_so("pack.groups-stale", "/pack/groups", bool(members), lambda: groups_stale(pack, build))
    if not members:
        return
    spread = spread_figure(members)
    target = assumption("spread_reclaimed" if build.cell.reclaimed else "spread_new")
    yield at_most(
        "pack.group-spread",
        "/pack/groups",
        spread,
        target,
        lambda: mend(
            "The groups differ by {s} in capacity; {s_t} is the target.",
            "The weakest group is empty first and full first: it sets what the pack gives, and wears out before the rest.",
            {"s": spread, "s_t": target},
            (SORT_AGAIN,),
        ),
    )
    yield group_resistance(build, members)
    yield from balance(pack, spread)


def spread_figure(members: list[GroupSizing]) -> Figure:
    """Spread of the group capacities, as a share of their mean.

    Source: greatest less least over the mean (definition).
    """
    capacities = [g.capacity for g in members]
    mean = sum(c.number for c in capacities) / len(members)
    return Figure.by(
        "s",
        "(c_max − c_min) / c_mean",
        "share",
        "spread of group capacity",
        c_max=max(capacities, key=lambda c: c.number),
        c_min=min(capacities, key=lambda c: c.number),
        c_mean=Figure.of("c_mean", mean, "Ah", "mean group capacity", how="of all groups"),
    )


def groups_stale(pack: PackSizing, build: CellPack) -> Fault:
    """The groups were sorted for the pack as it is now."""
    wide = max(len(g.cells) for g in build.groups.values())
    as_sorted = [set_value("/pack/series", len(build.groups)), set_value("/pack/parallel", wide)]
    return mend(
        f"Sorted are {len(build.groups)} groups of {wide}; the pack is {{S}} groups of {{P}}, so the sorted cells do not count.",
        "Figures and simulation take all cells as alike until the groups fit the pack.",
        {"S": pack.series, "P": pack.parallel},
        (Remedy(f"Make the pack {len(build.groups)} groups of {wide}", as_sorted), SORT_AGAIN),
    )


@judges("pack.cell-reject", "no rejected cell", STOP)
def rejects(key: str, group: Group) -> Iterator[Check]:
    """No rejected cell is placed in the pack.

    Source: limits of rejection (assumptions table).
    """
    number = key.removeprefix("g")
    bad = [(n, cell) for n, cell in enumerate(group.cells) if cell.reject]
    if not bad:
        yield held("pack.cell-reject", f"/pack/groups/{key}")
    for n, cell in bad:
        fault = stop(
            f"Cell {cell.label}, in place {n + 1} of group {number}, is a reject: {cell.reject}.",
            "One bad cell drains its group, heats, and can take the pack with it.",
            {},
            (SORT_AGAIN,),
        )
        yield failed("pack.cell-reject", f"/pack/groups/{key}/cells/{n}", fault)


@judges("pack.cell-elsewhere", "cells of this build alone", STOP)
def cells_elsewhere(elsewhere: Mapping[str, str]) -> Check:
    """No cell of the pack is built into another build.

    Source: none, a thing is in one place; two builds name the same cells after an import, an undo or a build brought back.
    """
    labels = sorted(elsewhere)

    def fault() -> Fault:
        listed = ", ".join(labels[:LISTED]) + (f" and {len(labels) - LISTED} more" if len(labels) > LISTED else "")
        builds = " and ".join(sorted(set(elsewhere.values())))
        are, they = ("are", "they stay") if len(labels) > 1 else ("is", "it stays")
        return stop(
            f"{listed} {are} built into {builds}: {they} there until taken out.",
            "A cell is in one build at a time: this pack counts on cells that it does not have.",
            {},
            (SORT_AGAIN,),
        )

    return is_so("pack.cell-elsewhere", "/pack/groups", not labels, fault)


@judges("pack.group-resistance", "resistances inside and between groups", MEND)
def group_resistance(build: CellPack, members: list[GroupSizing]) -> Check:
    """No cell is far off its group's mean resistance, and no group off the others.

    Source: practice: within ±15 % (assumptions table).
    """
    worst: tuple[float, str, str, str] = (0.0, "", "", "g1")
    for key, group in build.groups.items():
        known = [(c.label, c.resistance_mohm) for c in group.cells if c.resistance_mohm]
        mean = sum(mohm for _, mohm in known) / len(known) if known else 0.0
        for label, mohm in known:
            worst = max(worst, (abs(mohm / mean - 1), "cell", label, key))
    mean = sum(g.resistance.number for g in members) / len(members)
    for member in members:
        worst = max(worst, (abs(member.resistance.number / mean - 1), "group", member.key.removeprefix("g"), member.key))
    off, what, name, key = worst
    against = "the mean of its group" if what == "cell" else "the mean of the groups"
    furthest = Figure.of("Δr", off, "share", "off the mean", how="of the resistances as measured")
    limit = assumption("group_resistance")
    return at_most(
        "pack.group-resistance",
        f"/pack/groups/{key}",
        furthest,
        limit,
        lambda: mend(
            f"{what.capitalize()} {name} is {{off}} off {against} in resistance; {{k_r}} is the limit.",
            "Of cells in parallel the one of low resistance does the work of the others, and ages first.",
            {"off": furthest, "k_r": limit},
            (SORT_AGAIN,),
        ),
    )


@judges("pack.balance", "time to even out the groups", NOTE)
def balance(pack: PackSizing, spread: Figure) -> Iterator[Check]:
    """The board can even out the groups in the hours it is plugged in.

    Source: charge is current times time; a night at the top of charge (assumptions table).
    """
    board = pack.build.board
    if board is None or board.balance.number <= 0:
        return
    parts = spread.inputs or {}
    hours = Figure.by(
        "t_bal",
        "(c_max − c_min) / I_bal",
        "h",
        "time to even out the groups once",
        c_max=parts["c_max"],
        c_min=parts["c_min"],
        I_bal=board.balance,
    )
    day = assumption("balance_hours")
    stronger = (Remedy("A board with 1 A of balancing", [set_value("/pack/board/balance_ma", 1000)]),)
    yield at_most(
        "pack.balance",
        "/pack/board/balance_ma",
        hours,
        day,
        lambda: note(
            "At {I_bal} the board needs {t_bal} to even out the groups once; {t_day} is what one night at the charger leaves.",
            "Charge every cell to full before the first assembly; after that only the small drift is left to the board.",
            {"I_bal": board.balance, "t_bal": hours, "t_day": day},
            stronger if board.balance.number < 1 else (),
        ),
        slack=0.0,
    )


def bank(pack: PackSizing, build: Bank) -> Iterator[Check]:
    """Batteries or modules together: what their makers allow, and how the strings share."""
    yield series_limit(build)
    if build.battery.sleeps:
        yield wake(pack, build)
    strings = pack.build.strings
    if strings is None:
        return
    keys = string_keys(int(pack.parallel.number))
    if len(keys) > 1:
        yield from parallel_fuse(strings, build, keys)
        if strings.fuse is not None and strings.family is not None:
            yield string_fuse_voltage(pack, strings.family)
            yield string_fuse_interrupt(pack, strings, strings.family, keys)
        yield parallel_takeoff(pack, strings, build, keys)
        yield join_voltage(pack, strings, build, keys)
    yield from mixed(pack, build, keys)


@judges("pack.series-limit", "count in series that the maker allows", STOP, NOTE)
def series_limit(build: Bank) -> Check:
    """No more in series than their maker allows."""
    limit = build.battery.series_limit
    count = Figure.decided("n_s", build.in_series, "", "in series", "/pack/in_series")
    at = "/pack/battery/series_limit"
    if limit is None and build.in_series > 1:
        said = note(
            "{n_s} are in series; how many their maker allows is not said.",
            "The switches of each board must stand the whole string's voltage when one of them opens.",
            {"n_s": count},
            (Remedy(f"Its sheet allows {build.in_series}", [set_value(at, build.in_series)]),),
        )
        return not_yet("pack.series-limit", at, "how many their maker allows in series", said)
    if build.in_series == 1:
        return held("pack.series-limit", "/pack/in_series")
    most = Figure.decided("n_max", limit or 1, "", "allowed in series", at)
    return at_most(
        "pack.series-limit",
        "/pack/in_series",
        count,
        most,
        lambda: stop(
            "{n_s} are in series; their maker allows {n_max}.",
            "When one board opens it takes the whole string's voltage; beyond its limit it fails, and may fail closed.",
            {"n_s": count, "n_max": most},
            (Remedy(f"{limit} in series", [set_value("/pack/in_series", limit)]),),
        ),
    )


def with_string(build: Bank, key: str, **changes: object) -> list[dict[str, Any]]:
    """The patch that sets fields of one string, made where it is not yet written."""
    if key in build.strings:
        return [set_value(f"/pack/strings/{key}/{name}", value) for name, value in changes.items()]
    return [{"op": "add", "path": f"/pack/strings/{key}", "value": dict(changes)}]


def named(keys: list[str]) -> str:
    """The numbers of strings, as a sentence says them."""
    return ", ".join(key.removeprefix("s") for key in keys)


@judges("pack.wake", "wake-up lines", NOTE)
def wake(pack: PackSizing, build: Bank) -> Check:
    """The wake-up line of each battery that sleeps is brought out.

    Source: maker's sheet of batteries that sleep: they are woken by a line of their own.
    """
    keys = string_keys(int(pack.parallel.number))
    asleep = [key for key in keys if not build.strings.get(key, StringOfUnits()).wake_out]
    what = "module" if build.form == "modules" else "battery"
    return is_so(
        "pack.wake",
        f"/pack/strings/{(asleep or keys)[0]}",
        not asleep,
        lambda: note(
            f"Each {what} sleeps until its wake-up line is pulled; that of string {named(asleep)} is not brought out.",
            "Asleep, its posts are dead: once inside the closed box it cannot be woken.",
            {"n": Figure.of("n", len(asleep), "", "strings without a wake-up line")},
            (Remedy("Bring out every wake-up line", [op for key in asleep for op in with_string(build, key, wake_out=True)]),),
        ),
    )


@judges("pack.parallel-fuse", "a fuse for each string", STOP)
def parallel_fuse(strings: StringsSizing, build: Bank, keys: list[str]) -> Iterator[Check]:
    """Each string has its own protection: from three on, or whenever the others can feed a fault beyond its rating.

    Source: practice: from three strings on the others can feed a fault in one.
    """
    burst_a = build.battery.burst_a or constant("board_burst") * build.battery.continuous_a
    if len(keys) < 3 and strings.fault.number <= burst_a:
        return
    bare = [key for key in keys if not build.strings.get(key, StringOfUnits()).protected]
    patch = [op for key in bare for op in with_string(build, key, protected=True)]
    yield is_so(
        "pack.parallel-fuse",
        f"/pack/strings/{(bare or keys)[0]}",
        not bare,
        lambda: stop(
            f"String {named(bare)} has no fuse of its own: a fault in it is fed with up to {{I_other}} by the others.",
            "A cell that shorts inside one string is then fed by all the others until something burns.",
            {"I_other": strings.fault},
            (Remedy("A fuse at the post of every string", patch),),
        ),
    )


@judges("pack.string-fuse", "fuses of the strings", STOP)
def string_fuse_voltage(pack: PackSizing, family: Family) -> Check:
    """The fuse of a string is rated for the greatest voltage of the pack.

    Source: makers' data sheets (ISO 8820, IEC 60269; protections table).
    """
    rated = family.figure("V_dc", family.v_dc, "V", f"{family.label}: voltage rating")
    return at_least(
        "pack.string-fuse", "/pack/strings", rated, pack.v_max, lambda: no_string_fuse(pack, rated, pack.v_max), slack=0.0
    )


@judges("pack.string-fuse")
def string_fuse_interrupt(pack: PackSizing, strings: StringsSizing, family: Family, keys: list[str]) -> Check:
    """The fuse of a string opens what the other strings, or the string itself, feed into a fault.

    Source: interrupt rating by voltage (makers' data sheets; protections table).
    """
    most, fault = interrupt_rating(family, pack.v_max.number), strings.fuse_fault
    opens = family.figure("I_int", most, "A", f"{family.label}: interrupts at the pack's greatest voltage")
    return at_least("pack.string-fuse", "/pack/strings", opens, fault, lambda: no_string_fuse(pack, opens, fault), slack=0.0)


def no_string_fuse(pack: PackSizing, has: Figure, needs: Figure) -> Fault:
    """No fuse that is sold serves at the post of a string."""
    one_a = pack.fault.number / pack.parallel.number
    remedies, limited = [], min(LARGEST, math.floor(has.number / pack.parallel.number))
    if has.unit == "A":
        fewer = math.floor(has.number / one_a) + 1
        if has.number >= one_a and fewer >= 2:
            remedies.append(Remedy(f"{fewer} strings", [set_value("/pack/parallel", fewer)]))
        label = f"Batteries whose board limits a short to {limited} A each, by their sheet"
        remedies.append(Remedy(label, [set_value("/pack/battery/fault_a", limited)]))
    return stop(
        "No fuse that is sold serves at the strings: the strongest has {has}, {needs} is asked of it.",
        "A fuse that cannot interrupt the fault bursts and goes on burning, among the cells.",
        {"has": has, "needs": needs},
        tuple(remedies),
    )


@judges("pack.parallel-takeoff", "take-off of the strings", MEND)
def parallel_takeoff(pack: PackSizing, strings: StringsSizing, build: Bank, keys: list[str]) -> Check:
    """The load is taken off so that every string gives the same.

    Source: currents divide as conductances (Kirchhoff): opposite corners make the ways alike.
    """
    own = {key: build.strings[key].lead_m for key in keys if key in build.strings}
    uneven = [key for key, lead in own.items() if lead not in (None, build.lead_m)]
    one_side = strings.takeoff == "same side"

    def fault() -> Fault:
        hardest = max(strings.shares, key=lambda f: f.number)
        even = Figure.by("x_even", "1 / P", "share", "even share", P=pack.parallel)
        patch = [release("/pack/takeoff")] if one_side else []
        patch += [release(f"/pack/strings/{key}/lead_m") for key in uneven]
        lengths = len({lead for lead in own.values() if lead is not None}) + 1
        cause = "the load is taken off at one side" if one_side else f"leads of {lengths} lengths are used"
        number = hardest.symbol.removeprefix("x_")
        return mend(
            f"String {number} gives {{x}} of the current where {{x_even}} would be even: {cause}.",
            "The string nearest to the load works hardest, is empty first and ages first.",
            {"x": hardest, "x_even": even},
            (Remedy("Take off at opposite corners, with leads of one length", patch),),
        )

    return is_so("pack.parallel-takeoff", "/pack/takeoff", not one_side and not uneven, fault)


@judges("pack.join-voltage", "first current on joining", STOP, NOTE)
def join_voltage(pack: PackSizing, strings: StringsSizing, build: Bank, keys: list[str]) -> Check:
    """The first current when the strings are joined is within what each may take.

    Source: Ohm's law over both strings; 0.2 C of the smaller one (assumptions table).
    """
    known = [(v, i) for i, v in enumerate(strings.resting_v) if v is not None]
    if len(known) < 2:
        said = note(
            "Before the strings are joined, measure the resting voltage of each and write it here.",
            "Joined at different charge, the fuller string pours into the emptier one with nothing but cable to hold it back.",
            {},
        )
        return not_yet("pack.join-voltage", "/pack/strings", "the resting voltage of each string", said)
    (low, a), (high, b) = min(known), max(known)
    first = Figure.by(
        "I_0",
        "(V_1 − V_2) / (R_1 + R_2)",
        "A",
        "first current on joining",
        V_1=Figure.decided("V_1", high, "V", f"string {b + 1}, resting", f"/pack/strings/s{b + 1}/units"),
        V_2=Figure.decided("V_2", low, "V", f"string {a + 1}, resting", f"/pack/strings/s{a + 1}/units"),
        R_1=Figure.of("R_1", strings.ohm[b], "Ω", f"string {b + 1} with its lead"),
        R_2=Figure.of("R_2", strings.ohm[a], "Ω", f"string {a + 1} with its lead"),
    )
    limit = join_limit(pack, min(strings.capacity_ah[a], strings.capacity_ah[b]), build)

    def fault() -> Fault:
        target_v = constant("join_cell_v") * pack.series.number
        written = [key for key in keys if key in build.strings]
        patch = [release(f"/pack/strings/{key}/units/{u}/resting_v") for key in written for u in build.strings[key].units]
        return stop(
            f"Joined now, string {b + 1} drives {{I_0}} into string {a + 1}; {{I_lim}} is allowed.",
            f"Charge each to full first, or join them through a resistor or a bulb until they are within {target_v * 1000:.0f} mV.",
            {"I_0": first, "I_lim": limit},
            (Remedy("They will be brought level first: measure again before joining", patch),),
        )

    return at_most("pack.join-voltage", f"/pack/strings/s{a + 1}", first, limit, fault)


def join_limit(pack: PackSizing, smaller_ah: float, build: Bank) -> Figure:
    """What may run when strings are joined, A: a share of the smaller one's capacity, within what its board takes.

    Source: 0.2 C of the smaller string (assumptions table), within its own limit.
    """
    smaller = Figure.of("C", smaller_ah, "Ah", "the smaller of the two")
    by_rate = Figure.by("I_join", "k_j · C", "A", "allowed on joining", k_j=assumption("join_rate"), C=smaller)
    charge_a = build.battery.charge_a or pack.chemistry.charge_rate * build.battery.capacity_ah
    by_board = Figure.decided("I_ch", charge_a, "A", "charge limit of one", "/pack/battery/charge_a")
    return min(by_rate, by_board, key=lambda f: f.number)


def unlike(values: list[float], ages: list[int]) -> str:
    """How units differ in capacity (Ah) or age (years), in words; empty where they are alike.

    Source: practice: unlike from a tenth of capacity or two years of age (assumptions table).
    """
    if values and max(values) > min(values) * (1 + constant("unlike_capacity")) + HAIR:
        return f"{min(values):g} and {max(values):g} Ah"
    if ages and max(ages) - min(ages) >= constant("unlike_years"):
        return f"made in {min(ages)} and {max(ages)}"
    return ""


@judges("pack.mixed", "units alike", STOP, MEND)
def mixed(pack: PackSizing, build: Bank, keys: list[str]) -> Iterator[Check]:
    """Units in series are alike (else a stop), and strings in parallel (else a mend).

    Source: practice: unlike from a tenth of capacity or two years of age (assumptions table).
    """
    sheet_ah = build.battery.capacity_ah
    by_string = {key: units_of(build, key) for key in keys}
    for key, units in by_string.items():
        difference = unlike([u.capacity_ah or sheet_ah for u in units], [u.year for u in units if u.year is not None])
        count = Figure.decided("n", len(units), "", "units in series", "/pack/in_series")
        as_sheet = Remedy("Put like units in series: its units as on the sheet", [set_value(f"/pack/strings/{key}/units", {})])
        fault = stop(
            f"Unlike units are in series in string {key.removeprefix('s')}: {difference}.",
            "In series the weaker one is run flat and then reversed by the others on every cycle.",
            {"n": count},
            (as_sheet,),
        )
        if difference:
            yield failed("pack.mixed", f"/pack/strings/{key}", fault)
            return
    if len(keys) < 2:
        return
    difference = unlike(
        [min(u.capacity_ah or sheet_ah for u in units) for units in by_string.values()],
        [u.year for units in by_string.values() for u in units if u.year is not None],
    )
    written = [key for key in keys if key in build.strings and build.strings[key].units]
    yield is_so(
        "pack.mixed",
        "/pack/strings",
        not difference,
        lambda: mend(
            f"Unlike units are in parallel: {difference}.",
            "The stronger strings do the work of the weaker ones and age faster; plan by the weaker.",
            {"n": pack.parallel},
            (Remedy("Take units as on the sheet", [set_value(f"/pack/strings/{key}/units", {}) for key in written]),),
        ),
    )
