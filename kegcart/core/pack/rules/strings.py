"""Finished batteries and modules together: in series, in parallel, and what joins them."""

import math
from collections.abc import Iterator
from typing import Any

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import (
    HAIR,
    Check,
    Fault,
    at_least,
    at_most,
    failed,
    held,
    is_so,
    mend,
    not_yet,
    note,
    stop,
)  # fmt: skip
from kegcart.core.electrical.cable_checks import carries, chosen_again, drops, survives
from kegcart.core.electrical.cables import RunSizing
from kegcart.core.electrical.protection import interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.bank import string_keys, units_of
from kegcart.core.pack.build import StringsSizing
from kegcart.core.pack.document import Bank, StringOfUnits
from kegcart.core.pack.forms.base import LARGEST
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import Family, assumption, constant


def bank(pack: PackSizing, build: Bank) -> Iterator[Check]:
    """Batteries or modules together: what their makers allow, and how the strings share."""
    yield series_limit(build)
    yield too_many_strings(pack, build)
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
        for i, key in enumerate(keys):
            yield from string_lead(pack, strings, build, key, strings.leads[i])
        yield parallel_takeoff(pack, strings, build, keys)
        yield join_voltage(pack, strings, build, keys)
    yield from mixed(pack, build, keys)
    if build.in_series > 1:
        for key in keys:
            yield from unlike_series(build, key)


@judges("pack.series-limit", "count in series that the maker allows", STOP, NOTE)
def series_limit(build: Bank) -> Check:
    """No more in series than their maker allows."""
    limit = build.battery.series_limit
    count = Figure.decided("n_s", build.in_series, "", "in series", "/pack/in_series")
    at = "/pack/battery/series_limit"
    if limit is None and build.in_series > 1:
        said = note(
            "{n_s} are in series; how many their maker allows is not said.",
            "What is inside each must stand the whole string's voltage when one of them opens.",
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
            "When one of them opens it takes the whole string's voltage; beyond its limit it fails, and may fail closed.",
            {"n_s": count, "n_max": most},
            (Remedy(f"{limit} in series", [set_value("/pack/in_series", limit)]),),
        ),
    )


@judges("pack.too-many-strings", "strings in parallel", MEND)
def too_many_strings(pack: PackSizing, build: Bank) -> Check:
    """No more strings in parallel than their maker allows, or than practice does.

    Source: not more than four strings in parallel (practice, assumptions table), unless the maker's sheet says.
    """
    own, usual = build.battery.parallel_limit, assumption("most_strings")
    most = usual if own is None else Figure.decided("n_max", own, "", "allowed in parallel", "/pack/battery/parallel_limit")

    def fault() -> Fault:
        count, limit = pack.parallel.number, int(most.number)
        battery = build.battery
        bigger = math.ceil(battery.capacity_ah * count / limit / 10) * 10
        amps = math.ceil(battery.continuous_a * count / limit / 10) * 10
        patch = [set_value("/pack/parallel", limit), set_value("/pack/battery/capacity_ah", bigger)]
        patch += [set_value("/pack/battery/continuous_a", amps)]
        return mend(
            "{P} strings are in parallel; {n_s} is the most here.",
            "The more strings, the less alike their currents: one works hard, one is never full, and no one sees it.",
            {"P": pack.parallel, "n_s": most},
            (Remedy(f"{limit} strings of {bigger} Ah", patch),) if max(bigger, amps) <= LARGEST else (),
        )

    return at_most("pack.too-many-strings", "/pack/parallel", pack.parallel, most, fault)


@judges("pack.unlike-series", "blocks alike in voltage and resistance", STOP, MEND)
def unlike_series(build: Bank, key: str) -> Iterator[Check]:
    """Blocks in series rest at one voltage, and have one resistance.

    Source: practice: unlike from 20 mV a cell, or three tenths of resistance (assumptions table).
    """
    units, at = units_of(build, key), f"/pack/strings/{key}"
    number = key.removeprefix("s")
    volts = [u.resting_v for u in units if u.resting_v is not None]
    if len(volts) == len(units):
        apart = Figure.decided(
            "ΔV", max(volts) - min(volts), "V", f"between the blocks of string {number}, resting", f"{at}/units"
        )
        cells = Figure.decided("S_u", build.battery.series, "", "cells in one block", "/pack/battery/series")
        most = Figure.by("ΔV_max", "S_u · ΔV_u", "V", "allowed between blocks", S_u=cells, ΔV_u=assumption("unlike_cell_v"))
        again = [release(f"{at}/units/{u}/resting_v") for u in build.strings[key].units]
        yield at_most(
            "pack.unlike-series",
            at,
            apart,
            most,
            lambda: stop(
                f"The blocks of string {number} rest {{ΔV}} apart; {{ΔV_max}} is allowed in series.",
                "In series the fuller block is overcharged and the emptier one run flat, on every cycle, and nothing sees it.",
                {"ΔV": apart, "ΔV_max": most},
                (Remedy("Each will be charged to full by itself first: measure again", again),),
            ),
        )
    elif volts:
        yield not_yet("pack.unlike-series", at, "the resting voltage of every block of the string")
    ohms = [u.resistance_mohm for u in units if u.resistance_mohm is not None]
    if len(ohms) < 2:
        return
    spread = Figure.decided(
        "Δr", max(ohms) / min(ohms) - 1, "share", f"between the blocks of string {number}, resistance", f"{at}/units"
    )
    allowed = assumption("unlike_resistance")
    yield at_most(
        "pack.unlike-series",
        at,
        spread,
        allowed,
        lambda: mend(
            f"The blocks of string {number} differ by {{Δr}} in resistance; {{k_ur}} is the limit.",
            "The block of high resistance is the old one: it heats, and sets what the string gives.",
            {"Δr": spread, "k_ur": allowed},
            (Remedy("Take units as on the sheet", [set_value(f"{at}/units", {})]),),
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
        if pack.chemistry.kind != "lead":
            label = f"Batteries whose board limits a short to {limited} A each, by their sheet"
            remedies.append(Remedy(label, [set_value("/pack/battery/fault_a", limited)]))
    return stop(
        "No fuse that is sold serves at the strings: the strongest has {has}, {needs} is asked of it.",
        "A fuse that cannot interrupt the fault bursts and goes on burning, among the cells.",
        {"has": has, "needs": needs},
        tuple(remedies),
    )


@judges("pack.string-lead", "leads and links of the strings", STOP)
def string_lead(pack: PackSizing, strings: StringsSizing, build: Bank, key: str, lead: RunSizing) -> Iterator[Check]:
    """The lead of a string carries its fuse and survives a short; one without a fuse carries what the other strings give into it.

    Source: overcurrent protection of every conductor (IEC 60364-4-43); A ≥ √(I²t)/k.
    """
    at, number = f"/pack/strings/{key}", key.removeprefix("s")
    remedies = chosen_again("/pack/lead", build.lead.gauge)
    guarded = build.strings.get(key, StringOfUnits()).protected and strings.fuse is not None
    if guarded and strings.fuse is not None:
        asked = strings.fuse
    else:
        count = Figure.by("n", "P − 1", "", "other strings", P=pack.parallel)
        one = Figure.decided("i", build.battery.continuous_a, "A", "each gives for long", "/pack/battery/continuous_a")
        asked = Figure.by("I_oth", "n · i", "A", "what the other strings give into it", n=count, i=one)
    what = f"lead of string {number}"
    yield carries("pack.string-lead", at, asked, lead, what, remedies)
    yield from survives("pack.string-lead", at, lead, what, remedies)
    yield drops(at, lead, what, remedies, "pack")


@judges("pack.parallel-takeoff", "take-off of the strings", MEND)
def parallel_takeoff(pack: PackSizing, strings: StringsSizing, build: Bank, keys: list[str]) -> Check:
    """The load is taken off so that every string gives the same.

    Source: currents divide as conductances (Kirchhoff): opposite corners make the ways alike.
    """
    own = {key: build.strings[key].lead_m for key in keys if key in build.strings}
    uneven = [key for key, lead in own.items() if lead not in (None, build.lead.length_m)]
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
    joining = strings.joining
    if joining is None:
        said = note(
            "Before the strings are joined, measure the resting voltage of each and write it here.",
            "Joined at different charge, the fuller string pours into the emptier one with nothing but cable to hold it back.",
            {},
        )
        return not_yet("pack.join-voltage", "/pack/strings", "the resting voltage of each string", said)
    first, a, b = joining.first, joining.into, joining.of
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


def unlike(values: list[float], ages: list[int], ohms: list[float] | None = None) -> str:
    """How units differ in capacity (Ah), age (years) or resistance (mΩ), in words; empty where they are alike.

    Source: practice: unlike from a tenth of capacity, two years of age, three tenths of resistance (assumptions table).
    """
    if ohms and max(ohms) > min(ohms) * (1 + constant("unlike_resistance")) + HAIR:
        return f"{min(ohms):g} and {max(ohms):g} mΩ"
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
        [
            sum(u.resistance_mohm for u in units if u.resistance_mohm)
            for units in by_string.values()
            if all(u.resistance_mohm for u in units)
        ],
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
