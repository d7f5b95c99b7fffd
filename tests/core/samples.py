"""Designs to test with: the demo builds, small ones made by hand, and strategies for random ones."""

import json
from copy import deepcopy
from pathlib import Path
from typing import Any

from hypothesis import strategies as st

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import Design, read_design, write_design
from kegcart.core.power.edits import Draft
from kegcart.core.power.network import Network
from kegcart.core.reference import load_kinds

DEMO = Path(__file__).parents[2] / "kegcart" / "workbench" / "demo"
DEMO_NAMES = ("lantern-lane", "tidewater", "wobbly-stall")


def demo(name: str) -> dict[str, Any]:
    """A demo build with every field written out, as it is stored."""
    return write_design(read_design(json.loads((DEMO / f"{name}.json").read_text(encoding="utf-8"))))


def document(**parts: Any) -> dict[str, Any]:
    """A design of these parts with every other field as it is at the start."""
    return write_design(read_design({"format": "kegcart/design", "version": 1, "name": "Test", **parts}))


def judge(data: dict[str, Any]) -> Assessment:
    return assess(read_design(data))


def ids(data: dict[str, Any]) -> set[str]:
    return {f.id for f in judge(data).findings}


def put(data: dict[str, Any], pointer: str, value: Any) -> dict[str, Any]:
    """A copy of a document with one value set."""
    out = deepcopy(data)
    here: Any = out
    *steps, last = pointer.split("/")[1:]
    for step in steps:
        here = here.setdefault(step, {})
    here[last] = value
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
    return out


loads = st.dictionaries(st.sampled_from(["a", "b", "c", "d", "e", "f"]), load(), max_size=6).map(lambda items: {"items": items})

cell_packs = st.fixed_dictionaries(
    {
        "form": st.just("cells"),
        "chemistry": st.sampled_from(["lfp", "nmc"]),
        "cell": st.fixed_dictionaries({"shape": st.sampled_from(["prismatic", "cylindrical"]), "capacity_ah": st.floats(2, 320)}),
        "series": st.none() | st.integers(1, 20),
        "parallel": st.none() | st.integers(1, 40),
        "age_factor": st.none() | st.floats(0.5, 1),
    }
)
batteries = st.fixed_dictionaries(
    {
        "form": st.just("battery"),
        "chemistry": st.sampled_from(["lfp", "nmc"]),
        "series": st.integers(3, 16),
        "capacity_ah": st.floats(10, 400),
        "continuous_a": st.floats(10, 300),
        "resistance_mohm": st.none() | st.floats(1, 60),
    }
)
briefs = st.fixed_dictionaries(
    {
        "site_min_c": st.floats(-30, 20),
        "site_max_c": st.floats(20, 50),
        "ready_h": hours,
        "hours_away": st.floats(1, 72),
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
    draft = Draft(Network({}, {"pack": ()}, ()))
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
