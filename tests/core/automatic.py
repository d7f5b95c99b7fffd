"""Designs in which everything that can be chosen is left to choice, and what else is decided is decided soundly."""

from typing import Any

from hypothesis import strategies as st

from kegcart.core.assess import Assessment
from kegcart.core.electrical.conductors import gauges
from kegcart.core.electrical.protection import interrupt_rating
from kegcart.core.finding import Finding
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.fuses import fuse_bound
from kegcart.core.power.rules.protection import nothing_opens
from kegcart.core.reference import chemistries, constant, families, load_kinds, sizes
from tests.core.samples import document, judge, mended, put, window

CYCLED = sorted(key for key in chemistries() if key != "starting")
MOST_W = {12: 1200.0, 24: 2500.0, 36: 2000.0, 48: 5000.0}
"""Of an inverter that a class of voltage has with room to spare, starts and volt-amperes counted."""
BY_SUPPLY = {"ac": 1500.0, "dc_12v": 100.0, "usb": 60.0, "pack": 240.0}
MAINS = ("120 V 60 Hz", "230 V 50 Hz", "120/240 V split-phase")


@st.composite
def sound_loads(draw: st.DrawFn, most_w: float, supplies: list[str]) -> dict[str, Any]:
    """Loads that together ask no more of an inverter, or of the pack, than so many W."""
    keys = draw(st.lists(st.sampled_from("abcdef"), min_size=1, max_size=6, unique=True))
    items = {}
    for key in keys:
        begin, supply, kind = (
            draw(st.integers(0, 20)),
            draw(st.sampled_from(supplies)),
            draw(st.sampled_from(sorted(load_kinds()))),
        )
        of = load_kinds()[kind]
        hardest = max(of.surge / 2, 1.25 / of.power_factor)
        items[key] = {
            "name": draw(st.sampled_from(["Lamp", "Pump", "Cooler", "Saw", "Radio"])),
            "kind": kind,
            "supply": supply,
            "watts": draw(st.floats(1, max(2.0, min(BY_SUPPLY[supply], most_w / len(keys) / hardest)))),
            "windows": window(begin, begin + draw(st.sampled_from([0.5, 1, 2, 4]))),
        }
    return {"items": items}


@st.composite
def sound_pack(draw: st.DrawFn, class_v: int, chemistry: str, loads: dict[str, Any]) -> dict[str, Any]:
    """Loose cells, all chosen; or finished batteries large enough, as a builder has them."""
    row = chemistries()[chemistry]
    out: dict[str, Any] = {
        "form": draw(st.sampled_from(["cells", "cells", "battery", "batteries", "modules"])),
        "chemistry": chemistry,
    }
    if row.kind == "lead":
        out |= {"form": draw(st.sampled_from(["battery", "batteries"])), "gas_opening_cm2": 500}
    if out["form"] == "cells":
        shape = draw(st.sampled_from(["prismatic", "cylindrical"]))
        out["cell"] = {"shape": shape, "capacity_ah": draw(st.floats(40, 320) if shape == "prismatic" else st.floats(2, 6))}
        return out | {"series": draw(st.sampled_from([None, row.classes[class_v]]))}
    items = loads["items"].values()
    watts = sum(item["watts"] for item in items)
    energy = sum(item["watts"] * (item["windows"]["w1"]["to_h"] - item["windows"]["w1"]["from_h"]) for item in items)
    rate = 0.08 if chemistry == "flooded" else 0.15 if row.kind == "lead" else 0.5
    capacity = max(40.0, 4 * energy / class_v, watts / class_v / rate * 1.5)
    blocks = class_v // 12 if row.kind == "lead" else 1
    if out["form"] != "battery":
        out["in_series"] = blocks
    elif blocks > 1:
        out |= {"form": "batteries", "in_series": blocks}
    out["battery"] = {
        "series": row.classes[class_v] // blocks,
        "capacity_ah": round(min(capacity, 1500.0)),
        "continuous_a": round(max(60.0, 8 * watts / class_v)),
    }
    return out


@st.composite
def automatic(draw: st.DrawFn) -> dict[str, Any]:
    """A design with a path as the app itself proposes it, runs of the lengths that boxes have, and nothing pinned."""
    chemistry = draw(st.sampled_from(CYCLED))
    class_v = draw(st.sampled_from(sorted(chemistries()[chemistry].classes)))
    most_w = MOST_W[class_v] * (0.25 if chemistry in ("agm", "flooded") else 1.0)
    mains = draw(st.sampled_from([*MAINS, "none"]))
    loads = draw(sound_loads(most_w, sorted(BY_SUPPLY) if mains != "none" else ["dc_12v", "pack", "usb"]))
    brief = {
        "site_min_c": draw(st.floats(0, 15)),
        "site_max_c": draw(st.floats(20, 35)),
        "hours_away": draw(st.floats(2, 24)),
        "mains": mains,
        "gauge_system": draw(st.sampled_from(["awg", "mm2"])),
        "wire_school": draw(st.sampled_from(["small_craft", "building"])),
        "reserve": draw(st.sampled_from([0.0, 0.1, 0.2])),
        "growth": draw(st.sampled_from([0.0, 0.2])),
    }
    data = document(brief=brief, loads=loads, pack=draw(sound_pack(class_v, chemistry, loads)))
    asked = next(f for f in judge(data).findings if f.id == "loads.no-outlet")
    data = mended(data, asked.remedies[0].patch)
    for node in data["power"]["network"].values():
        if node["feed"] != "pack" and node["run"]["length_m"] > 0:
            node["run"]["length_m"] = draw(st.floats(0.1, 1.5 if node["part"] == "outlet" else 0.5))
    return data


def incurable(finding: Finding, found: Assessment) -> bool:
    """Whether no choice could end a finding: nothing that is sold does what it asks for."""
    if finding.id in ("power.no-fuse-opens", "pack.string-fuse"):
        return True
    part = next((p for p in found.power.parts.values() if f"{finding.place}/".startswith(f"{p.pointer}/")), None)
    if finding.id in ("power.fuse-interrupt", "power.block-family"):  # a pinned rating in which no family opens this fault
        return any(
            node.part == "protection" and node.rating_a is not None and not opened(found, key)
            for key, node in found.power.network.nodes.items()
        )
    if part is None:  # one finished battery is what it is
        return finding.id in ("pack.sag", "pack.high-current-small") and found.design.pack.form == "battery"
    if finding.id == "pack.high-current-small":
        return found.design.pack.form == "battery"
    if finding.id == "power.fuse-nuisance":  # the thickest cable that is sold does not carry the next rating
        bound = fuse_bound(part.key, found.power.ctx)
        above = [r for r in family_of(part).ratings_a if r > part.rating.number] if part.rating else []
        return all(rating > bound for rating in above)
    return part.fault is not None and nothing_opens(part.source.v_max.number, part.fault.number)


def opened(found: Assessment, key: str) -> bool:
    """Whether some family sold in the rating of a fuse opens the fault that stands at it."""
    part = found.power.parts[key]
    assert part.fault is not None and part.rating is not None
    volts, amps, rating = part.source.v_max.number, part.fault.number, part.rating.number
    return any(rating in f.ratings_a and interrupt_rating(f, volts) >= amps for f in families().values())


@st.composite
def one_pinned(draw: st.DrawFn) -> tuple[dict[str, Any], str]:
    """An automatic design with one of its choices pinned as it is or more generous, and which."""
    data = draw(automatic())
    found = judge(data)
    at, value = draw(st.sampled_from(list(generous(found))))
    return put(data, at, value), at


def generous(found: Assessment) -> list[tuple[str, Any]]:
    """Each choice of a path as it was made, and the next size up where that is no less sound: (pointer, value)."""
    out: list[tuple[str, Any]] = []
    for key, part in found.power.parts.items():
        node = part.node
        if part.run is not None:
            sold = [w for w in gauges(part.run.wire.system) if w.area_mm2 >= part.run.wire.area_mm2]
            out += [(f"{part.pointer}/run/gauge", w.key) for w in sold[:2]]
        if node.part == "protection" and part.rating is not None:
            most = fuse_bound(key, found.power.ctx)
            sold = [r for r in family_of(part).ratings_a if part.rating.number <= r <= min(most, 4 * part.rating.number)]
            out += [(f"{part.pointer}/rating_a", r) for r in sold]
            out.append((f"{part.pointer}/family", family_of(part).key))
        listed = {"switch": "switch", "fuse_block": "fuse-block", "converter": "converter"}.get(node.part)
        if listed and part.rating is not None:
            out += [(f"{part.pointer}/rating_a", r) for r in sizes(listed).sizes if r >= part.rating.number][:2]
        if node.part == "inverter":
            out.append((f"{part.pointer}/rating_w", found.power.inverters[key].rating.number))
    if found.pack.parallel.choice == "auto":
        count = int(found.pack.parallel.number)
        more = count + 1 if found.design.pack.form == "cells" or count < int(constant("most_strings")) else count
        out += [("/pack/parallel", count), ("/pack/parallel", more)]
    if found.pack.build.board is not None:
        amps = found.pack.build.board.continuous.number
        out += [("/pack/board/continuous_a", r) for r in sizes("board").sizes if r >= amps][:2]
    return out
