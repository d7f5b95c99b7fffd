"""The tools that a build asks for: what crimps the terminals there are, what makes the holes there are, what tightens the studs there are."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar

from kegcart.core.assembly.cutting import Piece
from kegcart.core.assembly.lines import slug
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.template import bit_for, holes_in, size_text
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference.hardware import torques
from kegcart.core.units import write_quantity

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Tool:
    """A tool: its key, which stands for it in all builds; what it is; what it must be able to do here; why it is needed."""

    key: str
    what: str
    sizes: str
    why: str


def tools_for(pieces: list[Piece], pack: PackSizing, power: PowerSizing, box: BoxSizing | None) -> list[Tool]:
    """Every tool, what works on wire first."""
    return [*wire_tools(pieces), *bolt_tools(pieces), *pack_tools(pack), *box_tools(box), *meters(pieces, power, box)]


def in_order(values: Iterable[T]) -> list[T]:
    """Each value once, as first met."""
    return list(dict.fromkeys(values))


def wire_tools(pieces: list[Piece]) -> Iterable[Tool]:
    """What cuts, strips and crimps."""
    if not pieces:
        return
    by_area = sorted(pieces, key=lambda p: p.area_mm2)
    gauges = in_order(p.gauge for p in by_area)
    span = gauges[0] if len(gauges) == 1 else f"{gauges[0]} to {gauges[-1]}"
    yield Tool("cable-cutter", "cable cutter and stripper", span, "Cut square, stripped without a nicked strand.")
    dies: dict[str, list[str]] = {}
    for piece in by_area:
        for end in piece.ends:
            dies.setdefault(end.terminal.die, []).append(piece.gauge)
    for die, of in dies.items():
        what = "hydraulic crimper with hex dies" if die == "hex die" else die
        key = "hex-crimper" if die == "hex die" else slug(die)
        why = (
            f"One crimp for each {write_quantity(10, 'mm')} of barrel; the die is of the wire's own size."
            if die == "hex die"
            else "Then pulled by hand."
        )
        yield Tool(key, what, ", ".join(in_order(of)), why)
    if "hex die" in dies:
        yield Tool("heat-gun", "heat gun", "adhesive sleeve", "The sleeve's glue must run out at both ends.")


def bolt_tools(pieces: list[Piece]) -> Iterable[Tool]:
    """What tightens studs."""
    holes = {end.hole for piece in pieces for end in piece.ends if end.hole}
    rows = [row for key, row in torques().items() if key in holes]
    if not rows:
        return
    least, most = write_quantity(rows[0].least_nm, "N·m"), write_quantity(rows[-1].most_nm, "N·m")
    yield Tool("torque-key", "torque key", f"{least} to {most}", "The maker's figure goes first.")
    sizes = f"metric, {', '.join(f'{row.spanner_mm:g}' for row in rows)}"
    yield Tool("insulated-spanners", "insulated spanners and sockets", sizes, "A pack cannot be switched off.")


def pack_tools(pack: PackSizing) -> Iterable[Tool]:
    """What works on cells."""
    if isinstance(pack.pack, CellPack):
        if pack.pack.cell.shape == "cylindrical":
            yield Tool(
                "spot-welder",
                "spot welder for strip",
                pack.build.link.choice.text if pack.build.link else "",
                "No soldering to cans.",
            )
        else:
            volts = write_quantity(pack.chemistry.v_max, "V")
            yield Tool(
                "bench-supply",
                "bench supply",
                f"{volts}, with a current limit",
                "Cells are brought to one voltage before they are joined.",
            )


def box_tools(box: BoxSizing | None) -> Iterable[Tool]:
    """What makes the holes there are."""
    if box is None:
        return
    wood, bits = box.layout.case.material == "plywood", dict[str, list[str]]()
    for hole in sorted(holes_in(box.layout), key=lambda h: h.shape.width):
        bits.setdefault(bit_for(hole.shape, wood), []).append(size_text(hole.shape))
    for bit, sizes in bits.items():
        what = "knife, fine saw and file" if bit.startswith("score") else bit
        yield Tool(
            slug(what),
            what,
            ", ".join(in_order(sizes)),
            "Square holes: inside the line, then crept up to it." if what != bit else "Eyes and lungs covered.",
        )
    if bits:
        yield Tool("centre-punch", "centre punch and deburring tool", "", "Holes wander where their middle is not pricked.")


def meters(pieces: list[Piece], power: PowerSizing, box: BoxSizing | None) -> Iterable[Tool]:
    """What measures."""
    volts = max((s.v_max.number for s in power.sources.values()), default=0.0)
    ac = bool(power.inverters)
    yield Tool(
        "multimeter",
        "multimeter",
        f"{write_quantity(volts, 'V')} DC{', mains AC' if ac else ''}, resistance",
        "Polarity and voltage before every fuse.",
    )
    if pieces:
        yield Tool("dc-clamp", "clamp meter for DC", "", "The meter of the station is held against it.")
        if any(piece.bolted for piece in pieces):
            yield Tool("joint-supply", "supply or load of 20 A", "20 A", "Millivolts over a joint are read at a current.")
    metal = box is not None and box.layout.case.material in ("steel", "aluminium")
    if ac or metal:
        yield Tool("insulation-tester", "insulation tester", "250 V", "1 MΩ at least to the box, electronics unplugged.")
    if ac:
        yield Tool("socket-tester", "socket tester with residual-current test", "", "Each AC outlet, before its first load.")
    yield Tool("eye-protection", "eye protection and insulated gloves", "", "No rings, no watches.")
