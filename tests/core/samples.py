"""Designs to test with: the demo builds, small ones made by hand, and strategies for random ones."""

import json
import pickle
from pathlib import Path
from typing import Any

from hypothesis import strategies as st

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import VERSION, Design, patched, read_design, write_design
from kegcart.core.forecast import course_of
from kegcart.core.lane import Season
from kegcart.core.power.document import PowerPath
from kegcart.core.power.path.edits import Draft
from kegcart.core.power.path.network import Network
from kegcart.core.reference import chemistries, load_kinds
from kegcart.core.simulation.run import Course

DEMO = Path(__file__).parents[2] / "kegcart" / "workbench" / "demo"
BUILT = {"assembly.cycle", "assembly.price-missing", "assembly.over-budget"}
RECORDED = {
    "assembly.check-failed",
    "assembly.again",
    "log.visit-overdue",
    "log.fault-open",
    "log.capacity-fading",
    "log.capacity-spent",
}
"""What is judged of the order and the lists of assembly, with the forecast."""
TESTED = {"bench.over-limit", "bench.out-of-band", "bench.model-differs", "bench.measured-anew"}
"""What is judged of the last load test, and of what it found where that stands in the design."""
SIMULATED = {"box.heat", "box.inside-allowance", "box.run-length"}
"""What is judged of the box with the forecast: its heat, and the lengths of its runs."""
DEMO_NAMES = ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall")


def demo(name: str) -> dict[str, Any]:
    """A demo build with every field written out, as it is stored."""
    return write_design(read_design(json.loads((DEMO / f"{name}.json").read_text(encoding="utf-8"))))


def document(**parts: Any) -> dict[str, Any]:
    """A design of these parts with every other field as it is at the start."""
    return write_design(read_design({"format": "kegcart/design", "version": VERSION, "name": "Test", **parts}))


def mains(amps: float | None = None, **more: Any) -> dict[str, Any]:
    """A mains charger of so many A."""
    return {"kind": "mains", "name": "Charger", "current_a": amps, **more}


def judge(data: dict[str, Any]) -> Assessment:
    return assess(read_design(data))


def simulated(found: Assessment, days: int | None = None, season: Season = "hottest") -> Course:
    """A season of a design simulated, with its series."""
    return course_of(found, season, days, series=True)


def mended(data: dict[str, Any], patch: list[dict[str, Any]]) -> dict[str, Any]:
    return write_design(patched(data, patch))


def ids(data: dict[str, Any]) -> set[str]:
    return {f.id for f in judge(data).findings}


def put(data: dict[str, Any], pointer: str, value: Any) -> dict[str, Any]:
    """A copy of a document with one value set."""
    out = pickle.loads(pickle.dumps(data))  # a copy: several times as fast as deepcopy
    here: Any = out
    *steps, last = pointer.split("/")[1:]
    for step in steps:
        here = here[int(step)] if isinstance(here, list) else here.setdefault(step, {})
    here[int(last) if isinstance(here, list) else last] = value
    return out


def window(from_h: float, to_h: float) -> dict[str, Any]:
    return {"w1": {"from_h": from_h, "to_h": to_h}}


hours = st.integers(0, 95).map(lambda quarter: quarter / 4)


@st.composite
def load(draw: st.DrawFn, most_w: float = 400) -> dict[str, Any]:
    begin, end = draw(hours), draw(hours)
    out: dict[str, Any] = {
        "name": draw(st.sampled_from(["Lamp", "Pump", "Cooler", "Saw", "Radio"])),
        "kind": draw(st.sampled_from(sorted(load_kinds()))),
        "count": draw(st.integers(1, 4)),
        "supply": draw(st.sampled_from(["ac", "dc_12v", "usb", "pack"])),
        "watts": draw(st.floats(0, most_w)),
        "start_together": draw(st.booleans()),
        "windows": {} if begin == end else window(begin, end),
    }
    if draw(st.booleans()):
        out["cycle"] = {"on_min": draw(st.floats(1, 60)), "off_min": draw(st.floats(1, 60))}
    if out["supply"] == "usb":
        out["watts"] = min(out["watts"], 60)
    out["start_group"] = draw(st.sampled_from([None, None, "A", "B"]))
    out["direct"] = draw(st.sampled_from([None, "dc_12v", "usb", "pack"]))
    out["mains"] = draw(st.sampled_from([None, "any", "120 V 60 Hz"]))
    measured = draw(st.sampled_from([None, None, "volts_amps", "meter", "charging"]))
    if measured:
        watts = out.pop("watts")
        out["measured"] = {
            "volts_amps": {"by": "volts_amps", "volts": 12, "amps": max(watts / 12, 0.01)},
            "meter": {"by": "meter", "wh": watts * 3, "hours": 3},
            "charging": {"by": "charging", "battery_wh": max(watts / 4, 0.1), "charges": 0.5},
        }[measured]
    return out


@st.composite
def load_lists(draw: st.DrawFn) -> dict[str, Any]:
    """Loads over a pattern of one or several days."""
    items = draw(st.dictionaries(st.sampled_from(["a", "b", "c", "d", "e", "f"]), load(), max_size=6))
    days = draw(st.sampled_from([1, 1, 3, 7]))
    for item in items.values():
        item["days"] = draw(st.none() | st.lists(st.integers(1, 7), max_size=4))
    return {"items": items, "days": days, "weekdays": days == 7}


loads = load_lists()

CHEMISTRIES = sorted(chemistries())
LITHIUM = [key for key, row in chemistries().items() if row.kind == "lithium"]


@st.composite
def cell_pack(draw: st.DrawFn) -> dict[str, Any]:
    """Loose cells with some choices pinned; now and then as sorted from the rack."""
    series, parallel = draw(st.none() | st.integers(1, 20)), draw(st.none() | st.integers(1, 40))
    out: dict[str, Any] = {
        "form": "cells",
        "chemistry": draw(st.sampled_from(LITHIUM)),
        "cell": {
            "shape": draw(st.sampled_from(["prismatic", "cylindrical", "pouch"])),
            "capacity_ah": draw(st.floats(2, 320)),
            "resistance_by": draw(st.sampled_from(["1khz", "dc"])),
        },
        "series": series,
        "parallel": parallel,
        "age_factor": draw(st.none() | st.floats(0.5, 1)),
        "link": {"material": draw(st.sampled_from([None, "nickel", "plated", "copper"]))},
    }
    if draw(st.integers(0, 4)) == 0:
        series, parallel = draw(st.integers(1, 6)), draw(st.integers(1, 5))
        capacities = st.floats(out["cell"]["capacity_ah"] * 0.7, out["cell"]["capacity_ah"])
        out |= {"series": series, "parallel": parallel}
        out["groups"] = {
            f"g{g}": {
                "cells": [
                    {"label": f"{g}-{n}", "capacity_ah": draw(capacities), "resistance_mohm": draw(st.none() | st.floats(1, 60))}
                    for n in range(parallel)
                ]
            }
            for g in range(1, series + 1)
        }
    return out


@st.composite
def bank(draw: st.DrawFn) -> dict[str, Any]:
    """One battery, or batteries and modules in series and parallel, with leads and voltages that differ."""
    form = draw(st.sampled_from(["battery", "batteries", "modules"]))
    chemistry = draw(st.sampled_from(CHEMISTRIES))
    battery = {
        "series": draw(st.integers(2, 16) if chemistry in LITHIUM else st.sampled_from([6, 12])),
        "capacity_ah": draw(st.floats(10, 400)),
        "continuous_a": draw(st.floats(10, 300)),
        "resistance_mohm": draw(st.none() | st.floats(1, 60)),
        "cold_lock": draw(st.none() | st.booleans()),
        "sleeps": draw(st.booleans()),
    }
    out: dict[str, Any] = {"form": form, "chemistry": chemistry, "battery": battery}
    if form != "battery":
        strings = draw(st.integers(1, 5))
        out |= {
            "in_series": draw(st.integers(1, 4)),
            "parallel": draw(st.sampled_from([None, strings])),
            "takeoff": draw(st.sampled_from([None, "same side", "opposite corners", "equal leads"])),
            "strings": {
                f"s{n}": {
                    "protected": draw(st.booleans()),
                    "lead_m": draw(st.none() | st.floats(0.1, 3)),
                    "units": {
                        "u1": {"resting_v": draw(st.none() | st.floats(3, 60)), "year": draw(st.none() | st.integers(2010, 2026))}
                    },
                }
                for n in range(1, draw(st.integers(0, strings)) + 1)
            },
        }
    return out


cell_packs = cell_pack()
batteries = bank()
briefs = st.fixed_dictionaries(
    {
        "site_min_c": st.floats(-30, 20),
        "site_max_c": st.floats(20, 50),
        "ready_h": hours,
        "hours_away": st.floats(1, 100),
        "mains": st.sampled_from(["120 V 60 Hz", "230 V 50 Hz", "120/240 V split-phase", "none"]),
        "gauge_system": st.sampled_from(["awg", "mm2"]),
        "wire_school": st.sampled_from(["small_craft", "building"]),
        "reserve": st.floats(0, 0.5),
        "growth": st.floats(0, 0.4),
    }
)


@st.composite
def paths(draw: st.DrawFn, supplies: list[str]) -> dict[str, Any]:
    """A power path with all choices auto: main fuse, switch, busbar, shunt, and outlets of the supplies, of random lengths."""
    draft = Draft(Network.of(PowerPath()))
    for supply in supplies:
        draft.outlet(supply)  # type: ignore[arg-type]
    path: dict[str, Any] = {"network": {}}
    for operation in draft.operations:
        if operation["path"] == "/power/shunt":
            path["shunt"] = {}
            continue
        key = operation["path"].rsplit("/", 1)[1]
        path["network"][key] = {**operation["value"], "run": {"length_m": draw(st.floats(0.05, 6))}}
    return path


@st.composite
def designs(draw: st.DrawFn, packs: st.SearchStrategy[dict[str, Any]] = cell_packs | batteries) -> Design:
    """Any valid design whose power path is all auto."""
    some_loads = draw(loads)
    supplies = sorted(
        {item["supply"] for item in some_loads["items"].values()}
        | set(draw(st.lists(st.sampled_from(["ac", "usb", "pack"]), max_size=2)))
    )
    return read_design(document(brief=draw(briefs), loads=some_loads, pack=draw(packs), power=draw(paths(supplies))))


def two_banks() -> dict[str, Any]:
    """A house bank and a pack for short high current, with a selector for the winch outlet."""
    network = {
        "main-fuse": {"part": "protection", "name": "Main fuse", "feed": "pack", "run": {"length_m": 0.1}},
        "main-switch": {"part": "switch", "name": "Main switch", "feed": "main-fuse", "run": {"length_m": 0.2}},
        "choice": {
            "part": "selector",
            "name": "Source selector",
            "feed": "main-switch",
            "other": "house-fuse",
            "run": {"length_m": 0.2},
        },
        "winch-plug": {"part": "plug", "name": "Winch plug", "feed": "choice", "run": {"length_m": 0.3}},
        "winch": {"part": "outlet", "name": "Winch", "feed": "winch-plug", "run": {"length_m": 1}},
        "house-fuse": {"part": "protection", "name": "House fuse", "feed": "house", "run": {"length_m": 0.1}},
        "light": {"part": "outlet", "name": "Light", "feed": "house-fuse", "run": {"length_m": 1}},
        "solar-fuse": {"part": "protection", "name": "Solar fuse", "feed": "house-fuse", "run": {"length_m": 0.1}},
        "solar": {"part": "input", "name": "Solar input", "feed": "solar-fuse", "source": "shore"},
    }
    loads = {
        "winch": {
            "name": "Winch",
            "kind": "brushed",
            "supply": "pack",
            "watts": 400,
            "surge": 3,
            "outlet": "winch",
            "windows": window(9, 9.5),
        },
        "light": {"name": "Light", "supply": "pack", "watts": 30, "outlet": "light", "windows": window(18, 23)},
    }
    house = {"name": "House bank", "series": 4, "capacity_ah": 60, "continuous_a": 60}
    return document(
        loads={"items": loads},
        charging={"sources": {"shore": mains(15)}},
        pack={"form": "cells", "chemistry": "lfp", "series": 4, "cell": {"capacity_ah": 100}},
        power={"network": network, "banks": {"house": house}, "shunt": {}},
    )
