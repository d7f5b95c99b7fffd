"""Design files of earlier versions brought up to date, one version at a time.

Each step takes plain JSON data of its version and returns data of the next. What a step does not
understand it leaves as it is: reading then says what is wrong with it.
"""

from collections.abc import Callable, Iterator
from copy import deepcopy
from math import ceil
from typing import Any

Data = dict[str, Any]


def board_and_battery_of_their_own(data: Data) -> Data:
    """Version 1 to 2: the pack's board, and a finished battery's figures, became objects of their own."""
    pack = data.get("pack")
    if not isinstance(pack, dict):
        return data
    if pack.get("form", "cells") == "cells" and "board_a" in pack:
        pack["board"] = {"continuous_a": pack.pop("board_a")}
    elif pack.get("form") == "battery":
        moved = ("series", "capacity_ah", "continuous_a", "burst_a", "resistance_mohm", "mass_kg", "price")
        pack["battery"] = {name: pack.pop(name) for name in moved if name in pack}
    return data


def leads_are_runs(data: Data) -> Data:
    """Version 2 to 3: the lead of each string and the link between strings became runs of cable, with gauge and insulation."""
    pack = data.get("pack")
    if isinstance(pack, dict):
        for name in ("lead", "link"):
            if f"{name}_m" in pack:
                pack[name] = {"length_m": pack.pop(f"{name}_m")}
    return data


def both_seasons_are_run(data: Data) -> Data:
    """Version 3 to 4: the bench runs the coldest and the hottest days, and is no longer told which; that a run is not sheathed was
    only what nobody had said.
    """
    if isinstance(bench := data.get("bench"), dict):
        bench.pop("season", None)
    for run in runs(data):
        if run.get("sheathed") is False:
            run["sheathed"] = None
    return data


def fed_from_a_bank(data: Data) -> Data:
    """Version 4 to 5: a load may name the bank that feeds it, a breaker may serve as switch, a holder may reach over several groups:
    what is left out stands as it did.
    """
    return data


def shown_in_units(data: Data) -> Data:
    """Version 5 to 6: the brief says in which units quantities are shown; those made before are metric, as is a brief that says
    nothing.
    """
    return data


def sources_of_their_own(data: Data) -> Data:
    """Version 6 to 7: what charges became a source of its own, which an input or outlet only names.

    An array of which only the current was known has as many panels of 100 W as give that; a charger that the bench had joins nowhere.
    """
    sources: Data = {}
    power = data.get("power")
    network = power.get("network") if isinstance(power, dict) else None
    for key, node in network.items() if isinstance(network, dict) else ():
        if not isinstance(node, dict):
            continue
        if node.get("part") == "input":
            node["source"] = add_source(sources, key, source_of_input(node, data))
        elif "charge_in_a" in node:
            amps = node.pop("charge_in_a")
            if amps is not None:
                name = f"Charger at {node.get('name', key)}"[:NAME_LONG]
                node["source"] = add_source(sources, key, {"kind": "mains", "name": name, "current_a": amps})
    bench = data.get("bench")
    if isinstance(bench, dict) and "charge_current_a" in bench:
        amps = bench.pop("charge_current_a")
        if amps is not None and not any(s["kind"] == "mains" for s in sources.values()):
            add_source(sources, "charger", {"kind": "mains", "name": "Mains charger", "current_a": amps})
    if sources:
        data["charging"] = {"sources": sources}
    return data


def panels_that_stand_somewhere(data: Data) -> Data:
    """Version 7 to 8: how panels stand, and how much sun there is; those of before face the equator in the usual climate."""
    return data


def in_a_box(data: Data) -> Data:
    """Version 8 to 9: the box and where everything stands in it; those of before have none."""
    return data


NAME_LONG = 80
"""So long a name may be, as the document of version 7 has it."""


def built_in_an_order(data: Data) -> Data:
    """Version 9 to 10: the assembly came, with what is owned and paid; a build that says nothing of it owns nothing yet."""
    return data


def kept_somewhere(data: Data) -> Data:
    """Version 10 to 11: the place where the design file is kept came, which is printed on the sheet for the lid."""
    return data


def measured_by_key(data: Data) -> Data:
    """Version 11 to 12: what was measured of the built station came, each figure with its source; K/W from inside to outside, which was the
    only one, became what the walls let out.
    """
    bench = data.get("bench")
    if isinstance(bench, dict) and "thermal_resistance" in bench:
        resistance = bench.pop("thermal_resistance")
        if isinstance(resistance, int | float) and resistance > 0:
            bench["measured"] = {"walls": {"value": 1 / resistance, "source": "typed in"}}
    return data


def add_source(sources: Data, wanted: str, source: Data) -> str:
    """Enter a source under an id that is free; returns that."""
    key, n = wanted, 1
    while key in sources:
        key, n = f"{wanted[:36]}-{n}", n + 1
    sources[key] = source
    return key


def source_of_input(node: Data, data: Data) -> Data:
    """The source that an input of version 6 stood for; its fields leave the input."""
    by, amps = node.pop("source", "mains charger"), node.pop("current_a", 10)
    source: Data = {"kind": "mains", "name": str(node.get("name") or "Mains charger"), "current_a": amps}
    number = float(amps) if isinstance(amps, int | float) else 10.0
    watts = min(20_000, ceil(number * volts_of(data)))
    match by:
        case "solar":
            source |= {"kind": "solar", "panels": min(999, max(1, ceil(watts / 90)))}
        case "vehicle":
            source |= {"kind": "vehicle"}
        case "another station":
            source |= {"kind": "station", "watts": watts}
        case "mains charger":
            pass
        case _:
            source |= {"kind": by}  # reading says that it is not known
    own = node.pop("own_draw_w", None)
    return source if own is None else {**source, "own_draw_w": own}


def volts_of(data: Data) -> float:
    """About the voltage of the pack, for a guess; that of a battery of four cells where nothing is said."""
    pack = data.get("pack")
    pack = pack if isinstance(pack, dict) else {}
    battery = pack.get("battery")
    series = battery.get("series", 4) if isinstance(battery, dict) else pack.get("series")
    beside = pack.get("in_series", 1)
    cells = (series if isinstance(series, int) else 4) * (beside if isinstance(beside, int) else 1)
    return 3.4 * cells


def runs(data: Any) -> Iterator[Data]:
    """Every run of cable of a design, wherever it lies."""
    if isinstance(data, dict):
        if "length_m" in data:
            yield data
        data = list(data.values())
    if isinstance(data, list):
        for value in data:
            yield from runs(value)


#: version -> the step that leads on from it
STEPS: dict[int, Callable[[Data], Data]] = {
    1: board_and_battery_of_their_own,
    2: leads_are_runs,
    3: both_seasons_are_run,
    4: fed_from_a_bank,
    5: shown_in_units,
    6: sources_of_their_own,
    7: panels_that_stand_somewhere,
    8: in_a_box,
    9: built_in_an_order,
    10: kept_somewhere,
    11: measured_by_key,
}


def upgraded(data: Data) -> Data:
    """The data in the newest version; the data itself where it is that already."""
    if data["version"] not in STEPS:
        return data
    data = deepcopy(data)
    while data["version"] in STEPS:
        step = STEPS[data["version"]]
        data = {**step(data), "version": data["version"] + 1}
    return data
