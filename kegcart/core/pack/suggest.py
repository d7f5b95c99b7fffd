"""Packs that would serve the loads and the brief, from the generic cells, modules and batteries: cheapest, lightest, longest-lived."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical.inverter import class_for
from kegcart.core.figure import Figure, Sheet
from kegcart.core.finding import Severity
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.bank import MOST_STRINGS
from kegcart.core.pack.cells import MOST_PARALLEL, choose_series, wanted_energy
from kegcart.core.pack.document import Bank, BatteryPack, CellPack, Pack
from kegcart.core.pack.rules import judge_pack
from kegcart.core.pack.sizing import PackSizing, size_pack
from kegcart.core.reference import battery_types, cell_types, chemistries, constant

Form = Literal["cells", "battery", "batteries", "modules"]
SMALLEST_CLASS_V = 12.0
MOST_SUGGESTED = 3
MOST_IN_PARALLEL = 4
"""Finished batteries side by side; more are allowed when pinned, but not proposed."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A pack that serves, with the figures it is compared by."""

    name: str
    pack: Pack
    sizing: PackSizing
    cost: Figure
    mass: Figure
    cycles: Figure
    usable: Figure


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A candidate, what it is best at (or that it serves too), and why in a sentence."""

    best_at: str
    candidate: Candidate
    reason: str


def serves(sizing: PackSizing, loads: LoadsSizing, brief: Brief, site: Site) -> bool:
    """Whether a pack gives energy and current with their margins, can be touched and charged, is within the limits of the brief, and
    nothing of it is a stop.

    Source: the margins of the pack's own checks (assumptions table).
    """
    demand = loads.drawn_peak.number / sizing.v_low.number
    usable = sizing.usable.number * (1 - stranded(sizing, loads))
    lithium = sizing.chemistry.kind == "lithium"
    checks = (
        usable >= wanted_energy(loads, site) - 1e-6,
        sizing.continuous.number >= constant("fuse_margin") * demand - 1e-6,
        sizing.burst.number >= loads.drawn_surge.number / sizing.v_low.number - 1e-6,
        sizing.recommended.number >= demand - 1e-6 or lithium,
        sizing.v_max.number <= constant("touch_voltage"),
        site.cold_c.number >= sizing.chemistry.charge_min_c or lithium,
        brief.mass_limit_kg is None or sizing.mass.number <= brief.mass_limit_kg,
        brief.budget is None or sizing.cost.number <= brief.budget,
    )
    return all(checks) and not any(
        check.finding and check.finding.severity is Severity.STOP for check in judge_pack(sizing, loads, site, {})
    )


def stranded(sizing: PackSizing, loads: LoadsSizing) -> float:
    """Share of the usable charge that lies below the input window of the inverter this voltage would get."""
    if loads.inverter_needed.number <= 0:
        return 0.0
    window_v = class_for(sizing.v_nom.number).window_min_v
    floor = max(0.0, sizing.chemistry.window_high - sizing.depth.number)
    steps = 40
    width = (sizing.chemistry.window_high - floor) / steps
    return sum(sizing.open_circuit(floor + (i + 0.5) * width) < window_v for i in range(steps)) / steps


def asked_class(loads: LoadsSizing, brief: Brief, now: PackSizing) -> float | None:
    """The class of pack voltage that the loads ask for, V: what hangs straight on the pack is made for the voltage it has now, and a
    station of 12 V loads alone needs no other; None where the power decides.
    """
    supplies = {d.load.supply for d in loads.demands.values()}
    if "pack" in supplies:
        return class_for(now.v_nom.number).class_v
    return SMALLEST_CLASS_V if supplies and supplies <= {"dc_12v", "usb"} and brief.mains == "none" else None


def candidates(
    loads: LoadsSizing, brief: Brief, site: Site, form: Form | None = None, class_v: float | None = None
) -> list[Candidate]:
    """Every pack of the reference parts that serves. form: of this form only. class_v: of this voltage class, V, else as the power
    asks.
    """
    out = []

    def consider(name: str, pack: Pack) -> None:
        if form not in (None, pack.form):
            return
        sheet = Sheet()
        sizing = size_pack(pack, loads, site, {}, sheet)
        if serves(sizing, loads, brief, site) and class_v in (None, class_for(sizing.v_nom.number).class_v):
            out.append(Candidate(name, pack, sizing, sizing.cost, sizing.mass, sheet["pack/cycles"], sizing.usable))

    for cell in cell_types().values():
        series = chemistries()[cell.chemistry].classes.get(int(class_v)) if class_v else None
        data: dict[str, Any] = {"form": "cells", "chemistry": cell.chemistry, "cell": cell.document(), "series": series}
        pack = CellPack.model_validate(data)
        sized = size_pack(pack, loads, site, {}, Sheet())
        if sized.parallel.number < MOST_PARALLEL:
            consider(f"{sized.series.number:g}S{sized.parallel.number:g}P of {cell.label}", pack)
    for battery in battery_types().values():
        if battery.chemistry == "starting" or (battery.form == "module") != (form == "modules"):
            continue  # a starting battery is not cycled, and reclaimed modules are not to be had on order
        row = chemistries()[battery.chemistry]
        wanted = row.classes.get(int(class_v or 0)) or choose_series(row, loads.drawn_peak.number)
        data = {"form": "battery", "chemistry": battery.chemistry, "battery": battery.document()}
        if battery.form == "battery":
            consider(battery.label, BatteryPack.model_validate(data))
        chained = max(1, min(wanted // battery.series, battery.series_limit))
        for in_series in sorted({1, chained}):
            together = "modules" if battery.form == "module" else "batteries"
            bank = Bank.model_validate({**data, "form": together, "in_series": in_series})
            strings = int(size_pack(bank, loads, site, {}, Sheet()).parallel.number)
            most = MOST_IN_PARALLEL if together == "batteries" else MOST_STRINGS
            if strings * in_series > 1 and strings <= most:
                many = f"{strings * in_series} × {battery.label}, {in_series} in series, {strings} in parallel"
                consider(many, bank.model_copy(update={"parallel": strings}))
    return out


def suggest(
    loads: LoadsSizing, brief: Brief, site: Site, form: Form | None = None, class_v: float | None = None
) -> list[Suggestion]:
    """Up to three packs that serve, each best at one thing; none where nothing serves. form, class_v: see `candidates`."""
    every = candidates(loads, brief, site, form, class_v)
    best: dict[int, list[str]] = {}
    orders = {aim: sorted(every, key=key) for aim, key in aims(loads, site).items()}
    for aim, order in orders.items():
        if order:
            best.setdefault(id(order[0]), []).append(aim)
    by_id = {id(c): c for c in every}
    out = [
        Suggestion(" and ".join(won), by_id[key], " ".join(reason(aim, orders[aim], brief) for aim in won))
        for key, won in best.items()
    ]
    for c in orders["cheapest"]:
        if len(out) < MOST_SUGGESTED and id(c) not in best:
            out.append(Suggestion("serves too", c, f"Costs {c.cost.number:.0f} {brief.currency}; {c.sizing.chemistry.label}."))
    return out


def aims(loads: LoadsSizing, site: Site) -> dict[str, Callable[[Candidate], tuple[float, ...]]]:
    """What a pack can be best at, each with the order of candidates by it."""
    wanted = wanted_energy(loads, site)
    return {
        "cheapest": lambda c: (c.cost.number, c.mass.number),
        "lightest": lambda c: (c.mass.number, c.cost.number),
        "longest-lived": lambda c: (-c.cycles.number * min(1.0, c.usable.number / wanted), c.cost.number),
    }


def reason(best_at: str, order: list[Candidate], brief: Brief) -> str:
    """Why the first of an order wins: its figure, and the next one's."""
    best, *others = order
    if not others:
        return "The only one of the generic parts that serves."
    following, money = others[0], brief.currency
    match best_at:
        case "cheapest":
            return f"Costs {best.cost.number:.0f} {money}, the least of {len(order)} that serve; the next costs {following.cost.number:.0f} {money}."
        case "lightest":
            return f"Weighs {best.mass.text}, the least; the next weighs {following.mass.text}."
    return f"{best.sizing.chemistry.label} stands {best.cycles.number:.0f} cycles down to 80 %, the most for its money of what serves."
