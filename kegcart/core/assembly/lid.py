"""What stands on the sheet in the lid, for whoever opens it in some years, or in a hurry: how it is switched off and on, what it stands, how it
is charged, its fuses and cut-offs, which manuals belong to it, which spares.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from kegcart.core.assembly.lines import ListLine
from kegcart.core.assembly.parts_list import precharge_energy
from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Converter, Inverter, Outlet, Protection, Selector, Switch
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import connectors
from kegcart.core.units import significant, write_quantity

ENDED = {
    "mains": "out of its socket",
    "solar": "its panels unplugged or covered, before the battery goes",
    "vehicle": "engine off, its cable unplugged",
}
"""How a source is ended, by its kind; any other is unplugged."""
OF_THIN_LEADS = {"sense": "sense leads of the board", "cell": "each cell", "lead": "lead of the meter"}
"""What fuses that are no part of the tree protect."""
MANUALS = ("batteries", "board", "shunt", "source:")
"""Lines of the list that come with a manual, by how their key begins."""


@dataclass(frozen=True, slots=True)
class LidSection:
    """A section of the sheet: its title; lines of words, numbered where they are done in their order; a table, each row as long as its
    headings."""

    title: str
    lines: tuple[str, ...] = ()
    numbered: bool = False
    headings: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True, slots=True)
class LidSheet:
    """The sheet, panel by panel: the front, the back, and what stands under the diagram inside."""

    front: tuple[LidSection, ...]
    back: tuple[LidSection, ...]
    inside: tuple[LidSection, ...]


def lid_sheet(
    built: AssemblySizing, brief: Brief, pack: PackSizing, power: PowerSizing, charging: ChargingSizing, box: BoxSizing | None
) -> LidSheet:
    """The sheet of a build, in the units shown at present."""
    return LidSheet(
        (switched_off(power, charging), in_danger(pack), switched_on(power, charging), what_it_is(brief, pack, power, box)),
        (charged(pack, charging), limits(brief, pack, power), manuals(built, power), spares(built)),
        (fuses(built, power, charging), cutoffs(power)),
    )


def what_it_is(brief: Brief, pack: PackSizing, power: PowerSizing, box: BoxSizing | None) -> LidSection:
    """Pack, energy, what it gives, mass."""
    kind = f"{pack.chemistry.label}, {pack.series.text} cells in series"
    rows = [
        ("Pack", f"{kind}, {pack.v_nom.text}, {pack.capacity.text}"),
        ("Usable", f"{power.available.text} with the loads of the design"),
    ]
    for key, sizing in power.inverters.items():
        node = power.parts[key].node
        volts = write_quantity(OUTLET_VOLTAGE[brief.mains], "V")
        rows.append((node.name, f"{volts} AC, {sizing.rating.text}, for a start {sizing.surge.text}"))
    for part in (power.parts[key] for key in power.network.order):
        if isinstance(part.node, Outlet) and power.network.stands_on[part.key] != "ac":
            rows.append((part.node.name, outlet_words(part, part.node)))
    if box is not None:
        rows.append(
            ("It weighs", f"{box.weight.mass.text}; carried by {brief.carriage}" if by_hand(brief) else box.weight.mass.text)
        )
    return LidSection("What it is", rows=tuple(rows), headings=("", ""))


def by_hand(brief: Brief) -> bool:
    """Whether it is carried."""
    return brief.carriage in ("one hand", "two hands", "two persons")


def outlet_words(part: PartSizing, node: Outlet) -> str:
    """An outlet by its form and what it may give."""
    form = connectors().get(part.choice.key or str(part.choice.value)) if part.choice else None
    ways = f"{node.ways} × " if node.ways > 1 else ""
    return f"{ways}{form.label}" if form else f"{ways}{part.current.text}"


def first_switches(power: PowerSizing) -> Iterator[PartSizing]:
    """What cuts all behind it off by hand: the switches, and the breakers that serve as one, that have none before them."""

    def by_hand_off(key: str) -> bool:
        node = power.parts[key].node
        return (isinstance(node, Switch) and not node.relay) or (isinstance(node, Protection) and node.reach is not None)

    for key in power.network.order:
        if by_hand_off(key) and not any(by_hand_off(before) for before in power.network.upstream(key)):
            yield power.parts[key]


def switched_off(power: PowerSizing, charging: ChargingSizing) -> LidSection:
    """The order in which it is switched off.

    Source: practice: loads, then what charges (an array before the battery), then the main switch; the posts stay live.
    """
    lines = ["Switch off what is plugged in, at the things themselves."]
    lines += [f"{power.parts[key].node.name} off at its own switch." for key in power.inverters]
    sources = sorted(charging.sources.values(), key=lambda s: s.source.kind != "solar")
    lines += [f"{s.name}: {ENDED.get(s.source.kind, 'unplugged')}." for s in sources]
    switches = list(first_switches(power))
    lines += [f"{part.node.name} to OFF." for part in switches]
    firsts = [power.parts[key].node.name for key in power.network.order if power.network.is_first(key)]
    if not switches:
        lines.append(f"There is no main switch: take out or open {', '.join(firsts) or 'what is first at the posts'}.")
    lines.append(
        "The posts, and all up to the first fuse, are never off. Before work: main fuse out, five minutes for capacitors, then measure."
    )
    return LidSection("To switch it off", tuple(lines), numbered=True)


def switched_on(power: PowerSizing, charging: ChargingSizing) -> LidSection:
    """The order in which it is switched on.

    Source: practice: pre-charge before what closes on capacitors; controller to battery before array.
    """
    lines = []
    for key in power.inverters:
        if (ohm := power.ctx.sheet.get(f"power/{key}/precharge")) is not None:
            energy = precharge_energy(ohm, power.parts[key].source.v_max)
            name = power.parts[key].node.name
            said = f"{ohm.text}, {energy['rating'].text}, held over the open way for {energy['wait'].text}"
            lines.append(f"After its fuse was out: pre-charge {name} ({said}).")
    lines += [f"{part.node.name} to ON." for part in first_switches(power)]
    lines += [f"{power.parts[key].node.name} on, without load." for key in power.inverters]
    lines.append("Then the loads, one at a time.")
    if any(s.source.kind == "solar" for s in charging.sources.values()):
        lines.append("The array last, when its controller shows the battery's voltage.")
    return LidSection("To switch it on", tuple(lines), numbered=True)


def in_danger(pack: PackSizing) -> LidSection:
    """What to do where it goes wrong.

    Source: advice that fire services give on batteries (practice).
    """
    if pack.chemistry.kind == "lithium":
        lines: tuple[str, ...] = (
            "Smoke, hissing, a sweet smell, swelling, heat: away from it, everybody, upwind. Call the fire service: lithium battery.",
            "Only where it is safe: main switch off, outdoors with it. The gas is poisonous and can explode in a closed room.",
            "Water in quantity cools. What seems out can burn again for days.",
        )
    else:
        lines = (
            "A smell of rotten eggs, heat, boiling: charging off, air the room, no spark and no switch beside it.",
            "Acid on skin or in eyes: rinse with much water at once and for long, then to a doctor.",
        )
    return LidSection("If something is wrong", lines)


def charged(pack: PackSizing, charging: ChargingSizing) -> LidSection:
    """What charges it, until which voltage, with how much; when it must not be charged."""
    chem = pack.chemistry
    cold = (
        f"Charge it between {write_quantity(chem.charge_min_c, '°C')} and {write_quantity(chem.charge_max_c, '°C')} at its cells"
    )
    lines = [f"{cold}, never colder, in a dry and aired place, not unattended the first times."]
    if chem.kind == "lithium":
        lines.append("In storage at 40 to 60 % of its charge, not full.")
    else:
        lines.append("In storage full; charge it again before it falls to nine tenths.")
    rows = tuple((s.name, s.set_point.text, s.current.text) for s in charging.sources.values())
    if not rows:
        lines.append("Nothing that charges it is in the design.")
    return LidSection("To charge it", tuple(lines), headings=("by", "up to", "into the pack") if rows else (), rows=rows)


def limits(brief: Brief, pack: PackSizing, power: PowerSizing) -> LidSection:
    """What must not be passed."""
    chem, source = pack.chemistry, power.sources[PACK]
    rows = [
        ("From the pack, all the time", f"at most {pack.continuous.text}"),
        ("Into the pack", f"at most {pack.charge_limit.text}"),
        ("At its posts", f"{source.v_low.text} to {source.v_max.text}"),
        ("Into a short at its posts", source.fault.text),
        ("In use from", write_quantity(chem.discharge_min_c, "°C")),
        (
            "Where it stands",
            f"{write_quantity(brief.site_min_c, '°C')} to {write_quantity(brief.site_max_c, '°C')}, {brief.exposure}",
        ),
        (
            "On the shelf, all off",
            f"look at it after {power.shelf_days.text} at the latest" if power.shelf_days.number < 1000 else "",
        ),
    ]
    return LidSection("Its limits", headings=("", ""), rows=tuple(row for row in rows if row[1]))


def manuals(built: AssemblySizing, power: PowerSizing) -> LidSection:
    """What has a manual, to be kept with it; with room for the number of each."""
    names = [line.what for line in built.shopping.lines if line.key.startswith(MANUALS)]
    names += [part.node.name for part in power.parts.values() if isinstance(part.node, Inverter | Converter | Selector)]
    return LidSection(
        "Manuals kept with it", tuple(f"{name[0].upper()}{name[1:]}, no. ____________" for name in dict.fromkeys(names))
    )


def spares(built: AssemblySizing) -> LidSection:
    """The spare fuses that lie in the lid."""
    lines = [line for line in built.shopping.lines if line.group == "spares"]
    said = tuple(f"{significant(line.need.number)} × {line.what.removeprefix('spare ')}, {line.rating}" for line in lines)
    return LidSection("Spares in the lid", said or ("none",))


def fuses(built: AssemblySizing, power: PowerSizing, charging: ChargingSizing) -> LidSection:
    """Every fuse and breaker: what it is and what it protects, those of the tree in its order."""
    rows: dict[tuple[str, str, str], int] = {}
    order = {key: n for n, key in enumerate(power.network.order)}
    found = [(line, item.split(":")[1:]) for line in built.shopping.lines for item in line.items if item.startswith("fuse:")]
    shown = {item[0] for _, item in found}
    for line in built.shopping.lines:
        kind, _, key = line.key.partition(":")
        if kind == "part" and key not in shown and power.network.role(key) == "protects":
            found.append((line, [key]))
    found.sort(key=lambda pair: order.get(pair[1][0], len(order)))
    for line, item in found:
        protects = (fused(item, power, charging), rating_of(line), behind(item, power))
        rows[protects] = rows.get(protects, 0) + 1
    said = tuple((f"{n} × {name}" if n > 1 else name, rating, what) for (name, rating, what), n in rows.items())
    caution = "Only by the same rating and family: a fuse that blows again has a cause."
    return LidSection("Fuses", (caution,), headings=("fuse", "rating", "protects"), rows=said)


def rating_of(line: ListLine) -> str:
    """Rating and family of a fuse or breaker."""
    return line.rating if line.key.startswith(("part:", "breaker:")) else f"{line.rating} {line.what.split(',')[0]}"


def fused(item: list[str], power: PowerSizing, charging: ChargingSizing) -> str:
    """What a fuse is called."""
    match item:
        case ["string", n]:
            return f"Fuse of string {n}"
        case ["source", key]:
            return f"Fuse of {charging.sources[key].name}"
        case [key] if key in power.parts:
            return power.parts[key].node.name
    return "Small fuse"


def behind(item: list[str], power: PowerSizing) -> str:
    """What a fuse protects."""
    match item:
        case [key] if key in power.parts:
            node = power.parts[key].node
            if isinstance(node, Outlet):
                return node.name
            return ", ".join(power.parts[k].node.name for k in power.network.children[key]) or "nothing yet"
        case ["string", n]:
            return f"string {n}"
        case ["source", *_]:
            return "its cable from the vehicle"
        case [kind, *_]:
            return OF_THIN_LEADS[kind]
    return ""


def cutoffs(power: PowerSizing) -> LidSection:
    """What opens by itself as the pack empties, the first first."""
    rows = tuple((step.name[0].upper() + step.name[1:], step.volts.text) for step in power.cutoffs)
    lines = (
        "After a cut-off charge it the same day: an empty cell ages, and below its least voltage it must not be charged again.",
    )
    return LidSection("Cut-offs, at the posts", lines, headings=("opens by itself", "below"), rows=rows)
