"""Findings on loads that the loads alone decide."""

from collections.abc import Iterator

from kegcart.core.finding import Finding, Remedy, Severity, set_value
from kegcart.core.loads.sizing import Demand, LoadsSizing


def judge_loads(loads: LoadsSizing) -> Iterator[Finding]:
    if not loads.demands:
        yield none()
    for demand in loads.demands.values():
        if demand.surge_guessed:
            yield surge_unknown(demand)
        if not any(loads.day.on[demand.key]):
            yield no_hours(demand)


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
