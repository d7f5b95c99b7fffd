"""Findings on loads that the loads alone decide."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief, Mains
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, set_value
from kegcart.core.loads.sizing import Demand, LoadsSizing
from kegcart.core.reference import assumption

#: What an inverter gives, by the brief's mains.
GIVES: dict[Mains, frozenset[str]] = {
    "120 V 60 Hz": frozenset({"120 V 60 Hz", "any"}),
    "230 V 50 Hz": frozenset({"230 V 50 Hz", "any"}),
    "120/240 V split-phase": frozenset({"120 V 60 Hz", "240 V 60 Hz", "any"}),
    "none": frozenset({"230 V 50 Hz", "any"}),
}


def judge_loads(loads: LoadsSizing, brief: Brief) -> Iterator[Finding]:
    if not loads.demands:
        yield none()
    for demand in loads.demands.values():
        plate = demand.load.mains
        if demand.load.supply == "ac" and plate is not None and plate not in GIVES[brief.mains]:
            yield mains_mismatch(demand, loads, brief)
    yield from heater_share(loads)
    for demand in loads.demands.values():
        if demand.surge_guessed:
            yield surge_unknown(demand)
        if not any(loads.day.on[demand.key]):
            yield no_hours(demand)


def mains_mismatch(demand: Demand, loads: LoadsSizing, brief: Brief) -> Finding:
    plate = demand.load.mains
    gives = "230 V 50 Hz" if brief.mains == "none" else brief.mains
    others = {d.load.mains for d in loads.demands.values() if d.load.supply == "ac"} - {"any"}
    at = f"/loads/items/{demand.key}/mains"
    remedies = [Remedy("Its supply takes any mains, 100 to 240 V", [set_value(at, "any")])]
    fitting = next((m for m, kinds in GIVES.items() if m != "none" and others <= kinds), None)
    if fitting is not None:
        remedies.insert(0, Remedy(f"An inverter for {fitting}", [set_value("/brief/mains", fitting)]))
    return Finding(
        "loads.mains-mismatch",
        "loads",
        Severity.STOP,
        at,
        f"{demand.load.name} is made for {plate}; the inverter gives {gives}.",
        "At twice its voltage a load burns; at half of it a motor stalls and overheats; at another frequency motors and clocks run wrong.",
        {"P": demand.running},
        tuple(remedies),
    )


def heater_share(loads: LoadsSizing) -> Iterator[Finding]:
    heat = {d.label: d.energy for d in loads.demands.values() if d.load.kind == "heater" and d.energy.number > 0}
    total = sum(f.number for f in heat.values())
    limit = assumption("heater_share")
    if not heat or total <= limit.number * loads.energy.number:
        return
    sum_of = Figure.by("E_heat", "sum", "Wh", "heat a day", heat)
    share = Figure.by("s", "E_heat / E_day", "share", "of the day's energy", E_heat=sum_of, E_day=loads.energy)
    largest = max((d for d in loads.demands.values() if d.load.kind == "heater"), key=lambda d: d.energy.number)
    yield Finding(
        "loads.heater-share",
        "loads",
        Severity.NOTE,
        f"/loads/items/{largest.key}",
        f"Heat takes {{s}} of the day, {{E_heat}}; {largest.load.name} the most of it.",
        "Gas, a hot-water bottle or a lid does the same job without a battery. A quarter less heat is often a third less pack.",
        {"s": share, "E_heat": sum_of},
    )


def none() -> Finding:
    return Finding(
        "loads.none",
        "loads",
        Severity.NOTE,
        "/loads/items",
        "There are no loads yet, so nothing can be judged.",
        "Pack and power path are sized by what is to run: put that in first.",
    )


def surge_unknown(demand: Demand) -> Finding:
    place = f"/loads/items/{demand.key}"
    kind = demand.kind
    multiple = kind.figure("k", kind.surge, "×", f"surge multiple, {kind.label}")
    return Finding(
        "loads.surge-unknown",
        "loads",
        Severity.NOTE,
        place,
        f"{demand.load.name}: its surge is not known, so {{k}} is taken, the typical figure of its kind.",
        "A motor that starts harder than assumed trips the inverter. Measure it with a clamp that holds the peak, or read its plate.",
        {"k": multiple},
        (Remedy(f"Take {kind.surge:g} × as known", [set_value(f"{place}/surge", kind.surge)]),),
    )


def no_hours(demand: Demand) -> Finding:
    place = f"/loads/items/{demand.key}"
    return Finding(
        "loads.no-hours",
        "loads",
        Severity.NOTE,
        place,
        f"{demand.load.name} has no hours yet, so it counts for nothing.",
        "A load without hours adds neither energy nor current.",
        {},
        (Remedy("Run it 9:00 to 17:00", [{"op": "add", "path": f"{place}/windows/w1", "value": {"from_h": 9, "to_h": 17}}]),),
    )
