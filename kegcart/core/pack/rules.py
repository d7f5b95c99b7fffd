"""Findings on the pack that need no power path."""

from collections.abc import Iterator

from kegcart.core.brief.sizing import Site
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.bank import units_of
from kegcart.core.pack.build import GroupSizing
from kegcart.core.pack.document import Bank, CellPack, StringOfUnits
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import assumption, constant

HAIR = 1e-9
THRESHOLD_SLACK_V = 0.15
"""How far a board's thresholds may stand outside its chemistry's range before they are of another one."""


def judge_pack(pack: PackSizing, loads: LoadsSizing, site: Site) -> Iterator[Finding]:
    window = pack.chemistry.window_high - pack.chemistry.window_low
    if pack.depth.number > window + HAIR:
        yield depth(pack, window)
    if pack.cold_factor.number < 0.97:
        yield cold_capacity(pack)
    if pack.v_max.number > assumption("touch_voltage").number:
        yield voltage_over_60(pack)
    yield from starting_battery(pack, loads)
    yield from cold_charge(pack, site)
    if isinstance(pack.pack, CellPack):
        yield from board_series(pack)
        yield from board_chemistry(pack)
        yield from groups(pack, pack.pack)
    if isinstance(pack.pack, Bank):
        yield from bank(pack, pack.pack)


def depth(pack: PackSizing, window: float) -> Finding:
    row = pack.chemistry
    return Finding(
        "pack.depth",
        "pack",
        Severity.MEND,
        "/pack/depth",
        f"Planned to {{DoD}} depth of discharge; {row.label} is used over {{window}} a day.",
        "Cells taken to the ends of their charge every day wear out early.",
        {"DoD": pack.depth, "window": row.figure("w", window, "share", f"daily window of {row.label}")},
        (Remedy(f"Plan for the daily window, {window * 100:.0f} %", [release("/pack/depth")]),),
    )


def cold_capacity(pack: PackSizing) -> Finding:
    lost = Figure.by("E_cold", "E_warm − E_use", "Wh", "taken by the cold", E_warm=pack.usable_warm, E_use=pack.usable)
    return Finding(
        "pack.cold-capacity",
        "pack",
        Severity.NOTE,
        "/brief/site_min_c",
        "At {T_min} the cold takes {E_cold} of the usable energy.",
        "Cold cells give less and sag more; the figures here already count it.",
        {"T_min": (pack.cold_factor.inputs or {})["T_min"], "E_cold": lost},
    )


def voltage_over_60(pack: PackSizing) -> Finding:
    row, limit, build = pack.chemistry, assumption("touch_voltage"), pack.pack
    most = int((limit.number + HAIR) // row.v_max)
    remedies: tuple[Remedy, ...] = ()
    if isinstance(build, CellPack):
        best = max(s for s in row.classes.values() if s <= most)
        remedies = (Remedy(f"{best} cells in series, {best * row.v_max:.1f} V charged", [set_value("/pack/series", best)]),)
    elif build.battery.series > most:
        best = max(s for s in row.classes.values() if s <= most)
        remedies = (Remedy(f"A battery of {best} cells in series", [set_value("/pack/battery/series", best)]),)
    elif isinstance(build, Bank):
        fewer = most // build.battery.series
        remedies = (Remedy(f"{fewer} in series", [set_value("/pack/in_series", fewer)]),)
    return Finding(
        "pack.voltage-over-60",
        "pack",
        Severity.STOP,
        "/pack/series" if isinstance(build, CellPack) else "/pack/battery/series",
        "Charged, the pack stands at {V_max}, above {U_t} DC.",
        "Above 60 V DC touching is dangerous: that is outside what can be planned here without licensed practice.",
        {"V_max": pack.v_max, "U_t": limit},
        remedies,
    )


def starting_battery(pack: PackSizing, loads: LoadsSizing) -> Iterator[Finding]:
    """A starting battery does one job well: short high current while an engine runs and fills it again."""
    cycled = [d for d in loads.demands.values() if d.energy.number > 0 and not d.load.engine_runs]
    if pack.pack.chemistry != "starting" or not cycled:
        return
    worst = max(cycled, key=lambda d: d.energy.number)
    others = f" and {len(cycled) - 1} more" if len(cycled) > 1 else ""
    remedies = [Remedy("A deep-cycle AGM battery instead", [set_value("/pack/chemistry", "agm")])]
    if len(cycled) == 1:
        at = f"/loads/items/{worst.key}/engine_runs"
        remedies.append(Remedy(f"The engine runs while {worst.load.name} is on", [set_value(at, True)]))
    yield Finding(
        "pack.starting-battery",
        "pack",
        Severity.STOP,
        "/pack/chemistry",
        f"A starting battery is to run {worst.load.name}{others} with the engine off, {{E}} a day: it is not made to be cycled.",
        "Its plates are thin, for a great current over seconds. Discharged by half some thirty times, it has lost its capacity.",
        {"E": worst.energy},
        tuple(remedies),
    )


def cold_charge(pack: PackSizing, site: Site) -> Iterator[Finding]:
    row, build = pack.chemistry, pack.pack
    if site.cold_c.number >= row.charge_min_c:
        return
    if isinstance(build, CellPack):
        locked: bool | None = pack.build.board.cold_lock if pack.build.board else True
        at = "/pack/board/cold_lock"
    elif row.kind == "lead":
        return
    else:
        locked, at = build.battery.cold_lock, "/pack/battery/cold_lock"
    if locked:
        return
    limit = row.figure("T_ch", row.charge_min_c, "°C", f"least temperature for charging {row.label}")
    known = locked is not None
    yield Finding(
        "pack.cold-charge",
        "pack",
        Severity.STOP if known else Severity.NOTE,
        at,
        f"It can be {{T_min}} at the site, {row.label} must not be charged below {{T_ch}}, "
        + ("and nothing locks the charging." if known else "and it is not said whether its board locks charging."),
        "Charged in the cold, lithium plates out as metal in the cell: capacity is lost for good, and a short can grow.",
        {"T_min": site.cold_c, "T_ch": limit},
        (Remedy("A board that locks charging in the cold", [set_value(at, None if isinstance(build, CellPack) else True)]),),
    )


def board_series(pack: PackSizing) -> Iterator[Finding]:
    board = pack.build.board
    if board is None or board.series.number == pack.series.number:
        return
    yield Finding(
        "pack.board-series",
        "pack",
        Severity.STOP,
        "/pack/board/series",
        "The protection board is made for {S_b} cells in series; the pack has {S}.",
        "It watches the wrong number of cells: one is not watched at all, or the board never closes.",
        {"S_b": board.series, "S": pack.series},
        (Remedy("A board for as many cells as the pack has", [release("/pack/board/series")]),),
    )


def board_chemistry(pack: PackSizing) -> Iterator[Finding]:
    board, row = pack.build.board, pack.chemistry
    assert isinstance(pack.pack, CellPack)
    if board is None:
        return
    low, high, slack = board.cell_min.number, board.cell_max.number, THRESHOLD_SLACK_V
    if high <= row.v_max + slack and low >= row.v_min - slack and low < row.v_nom < high:
        return
    own = pack.pack.board
    patch = [
        release(f"/pack/board/{name}") for name in ("chemistry", "cell_min_v", "cell_max_v") if getattr(own, name) is not None
    ]
    yield Finding(
        "pack.board-chemistry",
        "pack",
        Severity.STOP,
        "/pack/board/chemistry",
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


def spread_figure(members: list[GroupSizing]) -> Figure:
    """Spread of the group capacities, as a share of their mean."""
    weakest = min(members, key=lambda g: g.capacity.number)
    strongest = max(members, key=lambda g: g.capacity.number)
    mean = sum(g.capacity.number for g in members) / len(members)
    return Figure.by(
        "s",
        "(c_max − c_min) / c_mean",
        "share",
        "spread of group capacity",
        c_max=strongest.capacity,
        c_min=weakest.capacity,
        c_mean=Figure.of("c_mean", mean, "Ah", "mean group capacity", how="of all groups"),
    )


def groups(pack: PackSizing, build: CellPack) -> Iterator[Finding]:
    if not build.groups:
        return
    members = pack.build.groups
    for key, group in build.groups.items():
        for n, cell in enumerate(group.cells):
            if cell.reject:
                yield cell_reject(key, n, cell.label, cell.reject)
    if not members:
        yield groups_stale(pack, build)
        return
    target = assumption("spread_reclaimed" if build.cell.reclaimed else "spread_new")
    spread = spread_figure(members)
    if spread.number > target.number + HAIR:
        yield Finding(
            "pack.group-spread",
            "pack",
            Severity.MEND,
            "/pack/groups",
            "The groups differ by {s} in capacity; {s_t} is the target.",
            "The weakest group is empty first and full first: it sets what the pack gives, and wears out before the rest.",
            {"s": spread, "s_t": target},
            (Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})]),),
        )
    yield from group_resistance(build, members)
    yield from balance(pack, spread, members)


def groups_stale(pack: PackSizing, build: CellPack) -> Finding:
    wide = max(len(g.cells) for g in build.groups.values())
    return Finding(
        "pack.groups-stale",
        "pack",
        Severity.MEND,
        "/pack/groups",
        f"Sorted are {len(build.groups)} groups of {wide}; the pack is {{S}} groups of {{P}}, so the sorted cells do not count.",
        "Figures and simulation take all cells as alike until the groups fit the pack.",
        {"S": pack.series, "P": pack.parallel},
        (
            Remedy(
                f"Make the pack {len(build.groups)} groups of {wide}",
                [set_value("/pack/series", len(build.groups)), set_value("/pack/parallel", wide)],
            ),
            Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})]),
        ),
    )


def cell_reject(key: str, place: int, label: str, reason: str) -> Finding:
    return Finding(
        "pack.cell-reject",
        "pack",
        Severity.STOP,
        f"/pack/groups/{key}/cells/{place}",
        f"Cell {label}, in place {place + 1} of group {key.removeprefix('g')}, is a reject: {reason}.",
        "One bad cell drains its group, heats, and can take the pack with it.",
        {},
        (Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})]),),
    )


def group_resistance(build: CellPack, members: list[GroupSizing]) -> Iterator[Finding]:
    """The cell furthest off its group's mean resistance, and the group furthest off the others."""
    limit = assumption("group_resistance")
    worst: tuple[float, str, str, str] = (0.0, "", "", "")
    for key, group in build.groups.items():
        known = [c for c in group.cells if c.resistance_mohm]
        mean = sum(c.resistance_mohm or 0 for c in known) / len(known) if known else 0.0
        for cell in known:
            worst = max(worst, (abs((cell.resistance_mohm or 0) / mean - 1), "cell", cell.label, key))
    mean = sum(g.resistance.number for g in members) / len(members)
    for member in members:
        worst = max(worst, (abs(member.resistance.number / mean - 1), "group", member.key.removeprefix("g"), member.key))
    off, what, name, key = worst
    if off <= limit.number + HAIR:
        return
    against = "the mean of its group" if what == "cell" else "the mean of the groups"
    yield Finding(
        "pack.group-resistance",
        "pack",
        Severity.MEND,
        f"/pack/groups/{key}",
        f"{what.capitalize()} {name} is {{off}} off {against} in resistance; {{k_r}} is the limit.",
        "Of cells in parallel the one of low resistance does the work of the others, and ages first.",
        {"off": Figure.of("Δr", off, "share", "off the mean", how="of the resistances as measured"), "k_r": limit},
        (Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})]),),
    )


def balance(pack: PackSizing, spread: Figure, members: list[GroupSizing]) -> Iterator[Finding]:
    """Whether the board can even out the groups in the hours it is plugged in."""
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
    if hours.number <= day.number:
        return
    yield Finding(
        "pack.balance",
        "pack",
        Severity.NOTE,
        "/pack/board/balance_ma",
        "At {I_bal} the board needs {t_bal} to even out the groups once; {t_day} is what one night at the charger leaves.",
        "Charge every cell to full before the first assembly; after that only the small drift is left to the board.",
        {"I_bal": board.balance, "t_bal": hours, "t_day": day},
        (Remedy("A board with 1 A of balancing", [set_value("/pack/board/balance_ma", 1000)]),)
        if board.balance.number < 1
        else (),
    )


def bank(pack: PackSizing, build: Bank) -> Iterator[Finding]:
    yield from series_limit(build)
    if build.battery.sleeps:
        yield from wake(pack, build)
    strings = pack.build.strings
    if strings is None:
        return
    n = int(pack.parallel.number)
    keys = [f"s{i}" for i in range(1, n + 1)]
    if n > 1:
        yield from parallel_fuse(pack, build, keys)
        yield from parallel_takeoff(pack, build, keys)
        yield from join_voltage(pack, build, keys)
    yield from mixed(pack, build, keys)


def series_limit(build: Bank) -> Iterator[Finding]:
    limit = build.battery.series_limit
    if build.in_series == 1 or (limit is not None and build.in_series <= limit):
        return
    count = Figure.decided("n_s", build.in_series, "", "in series", "/pack/in_series")
    if limit is None:
        yield Finding(
            "pack.series-limit",
            "pack",
            Severity.NOTE,
            "/pack/battery/series_limit",
            "{n_s} are in series; how many their maker allows is not said.",
            "The switches of each board must stand the whole string's voltage when one of them opens.",
            {"n_s": count},
            (Remedy(f"Its sheet allows {build.in_series}", [set_value("/pack/battery/series_limit", build.in_series)]),),
        )
        return
    yield Finding(
        "pack.series-limit",
        "pack",
        Severity.STOP,
        "/pack/in_series",
        "{n_s} are in series; their maker allows {n_max}.",
        "When one board opens it takes the whole string's voltage; beyond its limit it fails, and may fail closed.",
        {"n_s": count, "n_max": Figure.decided("n_max", limit, "", "allowed in series", "/pack/battery/series_limit")},
        (Remedy(f"{limit} in series", [set_value("/pack/in_series", limit)]),),
    )


def with_string(build: Bank, key: str, **changes: object) -> list[dict[str, object]]:
    """The patch that sets fields of one string, made where it is not yet written."""
    if key in build.strings:
        return [set_value(f"/pack/strings/{key}/{name}", value) for name, value in changes.items()]
    return [{"op": "add", "path": f"/pack/strings/{key}", "value": dict(changes)}]


def wake(pack: PackSizing, build: Bank) -> Iterator[Finding]:
    keys = [f"s{i}" for i in range(1, int(pack.parallel.number) + 1)]
    asleep = [key for key in keys if not build.strings.get(key, StringOfUnits()).wake_out]
    if not asleep:
        return
    what = "module" if build.form == "modules" else "battery"
    names = ", ".join(key.removeprefix("s") for key in asleep)
    yield Finding(
        "pack.wake",
        "pack",
        Severity.NOTE,
        f"/pack/strings/{asleep[0]}",
        f"Each {what} sleeps until its wake-up line is pulled; that of string {names} is not brought out.",
        "Asleep, its posts are dead: once inside the closed box it cannot be woken.",
        {"n": Figure.of("n", len(asleep), "", "strings without a wake-up line")},
        (Remedy("Bring out every wake-up line", [op for key in asleep for op in with_string(build, key, wake_out=True)]),),
    )


def parallel_fuse(pack: PackSizing, build: Bank, keys: list[str]) -> Iterator[Finding]:
    strings = pack.build.strings
    assert strings is not None
    bare = [key for key in keys if not build.strings.get(key, StringOfUnits()).protected]
    can_feed = strings.fault.number > (build.battery.burst_a or 2 * build.battery.continuous_a)
    if not bare or (len(keys) < 3 and not can_feed):
        return
    names = ", ".join(key.removeprefix("s") for key in bare)
    yield Finding(
        "pack.parallel-fuse",
        "pack",
        Severity.STOP,
        f"/pack/strings/{bare[0]}",
        f"String {names} has no fuse of its own: a fault in it is fed with up to {{I_other}} by the others.",
        "A cell that shorts inside one string is then fed by all the others until something burns.",
        {"I_other": strings.fault},
        (Remedy("A fuse at the post of every string", [op for key in bare for op in with_string(build, key, protected=True)]),),
    )


def parallel_takeoff(pack: PackSizing, build: Bank, keys: list[str]) -> Iterator[Finding]:
    strings = pack.build.strings
    assert strings is not None
    leads = {build.strings[key].lead_m for key in keys if key in build.strings and build.strings[key].lead_m is not None}
    uneven = [key for key in keys if key in build.strings and build.strings[key].lead_m not in (None, build.lead_m)]
    if strings.takeoff != "same side" and not uneven:
        return
    hardest = max(strings.shares, key=lambda f: f.number)
    even = Figure.by("x_even", "1 / P", "share", "even share", P=pack.parallel)
    patch = [release("/pack/takeoff")] if strings.takeoff == "same side" else []
    patch += [release(f"/pack/strings/{key}/lead_m") for key in uneven]
    cause = (
        "the load is taken off at one side" if strings.takeoff == "same side" else f"leads of {len(leads) + 1} lengths are used"
    )
    yield Finding(
        "pack.parallel-takeoff",
        "pack",
        Severity.MEND,
        "/pack/takeoff",
        f"String {hardest.symbol.removeprefix('x_')} gives {{x}} of the current where {{x_even}} would be even: {cause}.",
        "The string nearest to the load works hardest, is empty first and ages first.",
        {"x": hardest, "x_even": even},
        (Remedy("Take off at opposite corners, with leads of one length", patch),),
    )


def join_voltage(pack: PackSizing, build: Bank, keys: list[str]) -> Iterator[Finding]:
    strings = pack.build.strings
    assert strings is not None
    known = [(v, i) for i, v in enumerate(strings.resting_v) if v is not None]
    if len(known) < 2:
        yield Finding(
            "pack.join-voltage",
            "pack",
            Severity.NOTE,
            "/pack/strings",
            "Before the strings are joined, measure the resting voltage of each and write it here.",
            "Joined at different charge, the fuller string pours into the emptier one with nothing but cable to hold it back.",
            {},
        )
        return
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
    smaller = min(strings.capacity_ah[a], strings.capacity_ah[b])
    rate = assumption("join_rate")
    by_rate = Figure.by(
        "I_join", "k_j · C", "A", "allowed on joining", k_j=rate, C=Figure.of("C", smaller, "Ah", "the smaller of the two")
    )
    charge_a = build.battery.charge_a or pack.chemistry.charge_rate * build.battery.capacity_ah
    by_board = Figure.decided("I_ch", charge_a, "A", "charge limit of one", "/pack/battery/charge_a")
    limit = min(by_rate, by_board, key=lambda f: f.number)
    if first.number <= limit.number + HAIR:
        return
    target_v = constant("join_cell_v") * pack.series.number
    patch = [
        release(f"/pack/strings/{key}/units/{u}/resting_v")
        for key in keys
        if key in build.strings
        for u in build.strings[key].units
    ]
    yield Finding(
        "pack.join-voltage",
        "pack",
        Severity.STOP,
        f"/pack/strings/s{a + 1}",
        f"Joined now, string {b + 1} drives {{I_0}} into string {a + 1}; {{I_lim}} is allowed.",
        f"Charge each to full first, or join them through a resistor or a bulb until they are within {target_v * 1000:.0f} mV.",
        {"I_0": first, "I_lim": limit},
        (Remedy("They will be brought level first: measure again before joining", patch),),
    )


def mixed(pack: PackSizing, build: Bank, keys: list[str]) -> Iterator[Finding]:
    """Unlike units: within a string in series a stop, between strings in parallel a mend."""
    share, years = constant("unlike_capacity"), constant("unlike_years")

    def unlike(values: list[float], ages: list[int]) -> str:
        if values and max(values) > min(values) * (1 + share) + HAIR:
            return f"{min(values):g} and {max(values):g} Ah"
        if ages and max(ages) - min(ages) >= years:
            return f"made in {min(ages)} and {max(ages)}"
        return ""

    sheet_ah = build.battery.capacity_ah
    by_string = {key: units_of(build, key) for key in keys}
    for key, units in by_string.items():
        difference = unlike([u.capacity_ah or sheet_ah for u in units], [u.year for u in units if u.year is not None])
        if difference:
            yield Finding(
                "pack.mixed",
                "pack",
                Severity.STOP,
                f"/pack/strings/{key}",
                f"Unlike units are in series in string {key.removeprefix('s')}: {difference}.",
                "In series the weaker one is run flat and then reversed by the others on every cycle.",
                {"n": Figure.decided("n", len(units), "", "units in series", "/pack/in_series")},
                (Remedy("Put like units in series: its units as on the sheet", [set_value(f"/pack/strings/{key}/units", {})]),),
            )
            return
    difference = unlike(
        [min(u.capacity_ah or sheet_ah for u in units) for units in by_string.values()],
        [u.year for units in by_string.values() for u in units if u.year is not None],
    )
    if len(keys) > 1 and difference:
        written = [key for key in keys if key in build.strings and build.strings[key].units]
        yield Finding(
            "pack.mixed",
            "pack",
            Severity.MEND,
            "/pack/strings",
            f"Unlike units are in parallel: {difference}.",
            "The stronger strings do the work of the weaker ones and age faster; plan by the weaker.",
            {"n": pack.parallel},
            (Remedy("Take units as on the sheet", [set_value(f"/pack/strings/{key}/units", {}) for key in written]),),
        )
