"""Designs spoiled at random: a sound one with a few of its decisions set to what may be wrong."""

from typing import Any

from hypothesis import strategies as st

from kegcart.core.design import DesignError, read_design, write_design
from kegcart.core.reference import busbars, connectors, families, wires
from tests.core.automatic import automatic
from tests.core.samples import DEMO_NAMES, demo, put


def wrong(data: dict[str, Any]) -> list[tuple[str, list[Any]]]:
    """What can be set wrong in a design: (pointer, values)."""
    brief, pack = data["brief"], data["pack"]
    gauges = [key for key, wire in wires().items() if wire.system == brief["gauge_system"]]
    out: list[tuple[str, list[Any]]] = [
        ("/brief/site_min_c", [-25, -5]),
        ("/brief/site_max_c", [45]),
        ("/brief/hours_away", [72]),
        ("/brief/exposure", ["wet"]),
        ("/brief/shelf_days", [400]),
        ("/pack/depth", [0.98, 0.3]),
        ("/pack/age_factor", [0.6]),
    ]
    if pack["form"] == "cells":
        out += [("/pack/series", [3, 5, 9, 18]), ("/pack/parallel", [1, 2, 40]), ("/pack/board/continuous_a", [10, 30, 400])]
        out += [("/pack/board/series", [4, 9]), ("/pack/board/cell_max_v", [3.3, 4.3]), ("/pack/board/cold_lock", [False])]
        out += [("/pack/link/width_mm", [3]), ("/pack/link/thickness_mm", [0.05])]
    else:
        out += [("/pack/battery/continuous_a", [10]), ("/pack/battery/capacity_ah", [8]), ("/pack/battery/cold_lock", [False])]
        if pack["form"] != "battery":
            out += [("/pack/parallel", [1, 3, 6]), ("/pack/takeoff", ["same side"]), ("/pack/lead/gauge", gauges)]
    for key, load in data["loads"]["items"].items():
        out += [(f"/loads/items/{key}/watts", [5, 400, 2500])] if load.get("measured") is None else []
        out += [(f"/loads/items/{key}/count", [3]), (f"/loads/items/{key}/needs_bond", [True])]
    for key, node in data["power"]["network"].items():
        at = f"/power/network/{key}"
        out += [(f"{at}/run/gauge", gauges), (f"{at}/run/length_m", [0.05, 3, 8]), (f"{at}/run/parallel", [2])]
        match node["part"]:
            case "protection":
                out += [(f"{at}/rating_a", [5, 15, 40, 100, 300]), (f"{at}/family", sorted(families()))]
            case "switch" | "fuse_block" | "selector":
                out += [(f"{at}/rating_a", [10, 50]), (f"{at}/voltage_v", [12])]
            case "busbar":
                out += [(f"{at}/section", sorted(busbars())[:3]), (f"{at}/studs", [1])]
            case "inverter":
                out += [(f"{at}/rating_w", [150, 1000, 5000]), (f"{at}/left_on", [True]), (f"{at}/cutoff_v", [8, 24, 50])]
                out += [(f"{at}/waveform", ["modified"]), (f"{at}/bond", ["none"]), (f"{at}/rcd", [False])]
            case "converter":
                out += [(f"{at}/rating_a", [2, 60]), (f"{at}/window_min_v", [30])]
            case "outlet":
                out += [(f"{at}/connector", sorted(connectors())), (f"{at}/ways", [1]), (f"{at}/pins", ["exposed"])]
                out += [(f"{at}/breaker_a", [6, 40])]
    if data["power"]["shunt"] is not None:
        out += [("/power/shunt/rating_a", [10]), ("/power/shunt/own_draw_ma", [200]), ("/power/shunt/meter_v", [12])]
    return out


@st.composite
def spoiled_designs(draw: st.DrawFn) -> dict[str, Any]:
    """An automatic design, or one of the demo builds, with one to three decisions set wrong."""
    data = demo(draw(st.sampled_from(DEMO_NAMES))) if draw(st.integers(0, 3)) == 0 else draw(automatic())
    for _ in range(draw(st.integers(1, 3))):
        at, values = draw(st.sampled_from(wrong(data)))
        data = storable(put(data, at, draw(st.sampled_from(values)))) or data
    return data


def storable(data: dict[str, Any]) -> dict[str, Any] | None:
    """The design as it is stored; None where the document refuses it."""
    try:
        return write_design(read_design(data))
    except DesignError:
        return None
