"""Packs that would serve the loads and the brief, from the generic cells, modules and batteries: cheapest, lightest, longest-lived."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical.inverter import class_for
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.cells import MOST_PARALLEL, choose_series, wanted_energy
from kegcart.core.pack.document import Bank, BatteryPack, CellPack, Pack
from kegcart.core.pack.sizing import PackSizing, size_pack
from kegcart.core.reference import battery_types, cell_types, chemistries, constant

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
    """A candidate, what it is best at, and why in a sentence."""

    best_at: str
    candidate: Candidate
    reason: str


def serves(sizing: PackSizing, loads: LoadsSizing, brief: Brief, site: Site) -> bool:
    """Whether a pack gives energy and current with their margins, can be touched and charged, and is within the limits.

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
    return all(checks)


def stranded(sizing: PackSizing, loads: LoadsSizing) -> float:
    """Share of the usable charge that lies below the input window of the inverter this voltage would get."""
    if loads.inverter_needed.number <= 0:
        return 0.0
    window_v = class_for(sizing.v_nom.number).window_min_v
    floor = max(0.0, sizing.chemistry.window_high - sizing.depth.number)
    steps = 40
    width = (sizing.chemistry.window_high - floor) / steps
    return sum(sizing.open_circuit(floor + (i + 0.5) * width) < window_v for i in range(steps)) / steps


def candidates(loads: LoadsSizing, brief: Brief, site: Site) -> list[Candidate]:
    """Every pack of the reference parts that serves."""
    out = []

    def consider(name: str, pack: Pack) -> None:
        sheet = Sheet()
        sizing = size_pack(pack, loads, site, sheet)
        if serves(sizing, loads, brief, site):
            out.append(Candidate(name, pack, sizing, sizing.cost, sizing.mass, sheet["pack/cycles"], sizing.usable))

    for cell in cell_types().values():
        data: dict[str, Any] = {"form": "cells", "chemistry": cell.chemistry, "cell": cell.document()}
        pack = CellPack.model_validate(data)
        sized = size_pack(pack, loads, site, Sheet())
        if sized.parallel.number < MOST_PARALLEL:
            consider(f"{sized.series.number:g}S{sized.parallel.number:g}P of {cell.label}", pack)
    for battery in battery_types().values():
        if battery.chemistry == "starting" or battery.form == "module":
            continue  # a starting battery is not cycled, and reclaimed modules are not to be had on order
        row = chemistries()[battery.chemistry]
        wanted = choose_series(row, loads.drawn_peak.number)
        data = {"form": "battery", "chemistry": battery.chemistry, "battery": battery.document()}
        consider(battery.label, BatteryPack.model_validate(data))
        chained = max(1, min(wanted // battery.series, battery.series_limit))
        for in_series in sorted({1, chained}):
            bank = Bank.model_validate({**data, "form": "batteries", "in_series": in_series})
            strings = int(size_pack(bank, loads, site, Sheet()).parallel.number)
            if strings * in_series > 1 and strings <= MOST_IN_PARALLEL:
                many = f"{strings * in_series} × {battery.label}, {in_series} in series, {strings} in parallel"
                consider(many, bank.model_copy(update={"parallel": strings}))
    return out


def suggest(loads: LoadsSizing, brief: Brief, site: Site) -> list[Suggestion]:
    """Up to three packs that serve, each best at one thing; none where nothing serves."""
    every = candidates(loads, brief, site)
    if not every:
        return []
    aims: list[tuple[str, Callable[[Candidate], tuple[float, ...]]]] = [
        ("cheapest", lambda c: (c.cost.number, c.mass.number)),
        ("lightest", lambda c: (c.mass.number, c.cost.number)),
        ("longest-lived", lambda c: (-c.cycles.number * min(1.0, c.usable.number / wanted_energy(loads, site)), c.cost.number)),
    ]
    out: list[Suggestion] = []
    for best_at, key in aims:
        taken = {id(s.candidate) for s in out}
        order = sorted(every, key=key)
        best = next((c for c in order if id(c) not in taken), None)
        if best is None:
            continue
        first = order[0] is best
        out.append(Suggestion(best_at, best, reason(best_at, best, every, first)))
    return out


def reason(best_at: str, best: Candidate, every: list[Candidate], first: bool) -> str:
    """Why this one, against the others that serve."""
    among = f"of {len(every)} that serve" + ("" if first else ", those already named apart")
    chemistry = best.sizing.chemistry.label
    spare = best.usable.number
    if best_at == "cheapest":
        middle = sorted(c.cost.number for c in every)[len(every) // 2]
        return f"The least money {among}; half of them cost more than {middle:.0f}. {chemistry}, {spare / 1000:.2f} kWh usable."
    if best_at == "lightest":
        middle = sorted(c.mass.number for c in every)[len(every) // 2]
        return (
            f"The least mass {among}; half of them weigh more than {middle:.1f} kg. {chemistry}, {spare / 1000:.2f} kWh usable."
        )
    return f"{best.cycles.number:.0f} cycles to 80 % at the daily window, the most {among}. {chemistry}, {spare / 1000:.2f} kWh usable."
