"""How far, how cold and how high the pack is used."""

import math
from collections.abc import Iterator

from kegcart.core.brief.sizing import Site
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import (
    HAIR,
    Check,
    Fault,
    at_least,
    at_most,
    held,
    is_so,
    mend,
    not_yet,
    note,
    stop,
)  # fmt: skip
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, Station, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import Chemistry, assumption, constant, interpolate
from kegcart.core.units import write_quantity

COLD_NOTED = 0.97
"""Share of the capacity left in the cold from which the loss is worth no word."""
LEAST_DEPTH = 0.05
"""The shallowest plan that is offered."""


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


@judges("pack.freeze", "use in the cold", STOP)
def cold_use(row: Chemistry, site: Site, place: str, station: Station = "pack") -> Check:
    """A battery is not used below the least temperature of its chemistry.

    Source: least discharging temperature of the chemistry (makers' sheets, chemistries table).
    """
    least = row.figure("T_use", row.discharge_min_c, "°C", f"least temperature at which {row.label} is used")
    patch = [set_value("/brief/site_min_c", row.discharge_min_c)]
    return at_least(
        "pack.freeze",
        place,
        site.cold_c,
        least,
        lambda: stop(
            f"It can be {{T_min}} at the site; {row.label} is not used below {{T_use}}.",
            "Below its least temperature a cell gives next to nothing, and what it gives damages it.",
            {"T_min": site.cold_c, "T_use": least},
            (Remedy(f"It is kept and used above {least.text} only", patch),),
        ),
        station=station,
    )


@judges("pack.freeze")
def freezing(row: Chemistry, depth: Figure, site: Site, place: str, station: Station = "pack") -> Check:
    """Lead-acid does not freeze at the planned depth of discharge.

    Source: freezing point of the electrolyte by its charge (typical, assumptions table).
    """
    points = ((0.0, "freeze_empty"), (0.5, "freeze_half"), (1.0, "freeze_full"))
    charge = max(0.0, row.window_high - depth.number)
    freezes = interpolate(charge, [s for s, _ in points], [constant(key) for _, key in points])
    inputs = {"DoD": depth, **{assumption(key).symbol: assumption(key) for _, key in points}}
    how = "between the freezing points of an empty, a half and a full one"
    limit = Figure.of("T_f", freezes, "°C", f"freezing point at {charge * 100:.0f} % charge", how=how, inputs=inputs)

    def fault() -> Fault:
        rising = [(constant(key), s) for s, key in reversed(points)]
        kept = interpolate(site.cold_c.number, [t for t, _ in rising], [s for _, s in rising])
        shallower = math.floor((row.window_high - kept) * 100) / 100
        remedies = []
        if shallower >= LEAST_DEPTH and station == "pack":
            remedies.append(Remedy(f"Plan for {shallower * 100:.0f} % depth", [set_value("/pack/depth", shallower)]))
        patch = [set_value("/brief/site_min_c", math.ceil(freezes))]
        remedies.append(Remedy(f"It never stands below {write_quantity(math.ceil(freezes), '°C')}", patch))
        return stop(
            "It can be {T_min} at the site; discharged as planned the battery freezes at {T_f}.",
            "Ice bursts the plates and the case: thawed, it leaks acid and is scrap.",
            {"T_min": site.cold_c, "T_f": limit},
            tuple(remedies),
        )

    return at_least("pack.freeze", place, site.cold_c, limit, fault, station=station)
