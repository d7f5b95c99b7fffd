"""What a place of the document is called, in words: where a finding, a check, a line of a list speaks of."""

from kegcart.core.design import Design
from kegcart.core.measured import LABELS
from kegcart.core.pack.document import Bank

STATIONS = {
    "brief": "Brief",
    "loads": "Loads",
    "pack": "Pack",
    "charging": "Charging",
    "power": "Power path",
    "box": "Box",
    "assembly": "Assembly",
    "bench": "Bench",
    "log": "Log",
}
OF_THE_PACK = {
    "board": "Protection board",
    "link": "Links between cells",
    "collector": "Collector of an end group",
    "lead": "Leads of the strings",
    "groups": "Groups",
    "strings": "Strings",
}
SHUNT = "Shunt"


def about(pointer: str, design: Design) -> str:
    """What a JSON pointer stands for: a run, a part, a bank, a group, a string, a load, or a station."""
    station, *rest = pointer.split("/")[1:]
    match [station, *rest]:
        case ["power", "network", key, *field] if key in design.power.network:
            name = design.power.network[key].name
            return {"run": f"Run to {name}", "other_run": f"Run to {name}, other way"}.get(field[0] if field else "", name)
        case ["power", "banks", key, *_] if key in design.power.banks:
            return design.power.banks[key].name
        case ["charging", "sources", key, *field] if key in design.charging.sources:
            name = design.charging.sources[key].name
            return f"Cable to {name}" if field[:1] == ["run"] else name
        case ["power", "shunt", "lead" | "lead_fused", *_]:
            return "Supply lead of the meter"
        case ["power", "shunt", *_]:
            return SHUNT
        case ["power", "negative", *_]:
            return "Main negative"
        case ["pack", "board", "sense" | "sense_fused", *_]:
            return "Sense leads"
        case ["pack", "link", *_] if isinstance(design.pack, Bank):
            return "Link from string to string"
        case ["bench", "measured" | "tests", *_]:
            return at_the_bench(pointer)
        case ["box", "places", key, *_]:
            return thing_called(key, design)
        case ["box", "fixtures", key, *_] if key in design.box.fixtures:
            return design.box.fixtures[key].name
        case ["box", "fittings", key, *_] if key in design.box.fittings:
            return design.box.fittings[key].name
        case ["loads", "items", key, *_] if key in design.loads.items:
            return design.loads.items[key].name
        case ["pack", "groups", key, *_]:
            return f"Group {key.removeprefix('g')}"
        case ["pack", "strings", key, *_]:
            return f"String {key.removeprefix('s')}"
        case ["brief", "site_min_c"]:
            return "The coldest days"
        case ["brief", "site_max_c"]:
            return "The hottest days"
        case ["pack", part, *_] if part in OF_THE_PACK:
            return OF_THE_PACK[part]
    return STATIONS.get(station, station)


def at_the_bench(pointer: str) -> str:
    """What a place of the bench is called: a load test, or a figure that was measured in one."""
    *_, part, key = pointer.split("/")
    label = next((label for measured, label in LABELS.items() if part == "measured" and measured == key), "load test")
    return label[0].upper() + label[1:]


def thing_called(key: str, design: Design) -> str:
    """What stands in a place of the box, by its key there."""
    kind, _, of = key.partition(":")
    match kind:
        case "part" if of in design.power.network:
            return design.power.network[of].name
        case "bank" if of in design.power.banks:
            return design.power.banks[of].name
        case "source" if of in design.charging.sources:
            return design.charging.sources[of].name
    return {"pack": STATIONS["pack"], "board": OF_THE_PACK["board"], "shunt": SHUNT}.get(key, STATIONS["box"])
