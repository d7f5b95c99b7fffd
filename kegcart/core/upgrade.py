"""Design files of earlier versions brought up to date, one version at a time.

Each step takes plain JSON data of its version and returns data of the next. What a step does not
understand it leaves as it is: reading then says what is wrong with it.
"""

from collections.abc import Callable, Iterator
from copy import deepcopy
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
