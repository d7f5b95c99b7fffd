"""How long each run of the power path is in the box as it is laid out."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import product

from kegcart.core.box.contents import Thing
from kegcart.core.box.layout import BoxLayout, Fitted, Installed
from kegcart.core.box.space import OWN, Solid, turned_way
from kegcart.core.figure import Figure
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.network import Network
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption, constant

Point = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Link:
    """A run between two things that may stand in the box, by their keys. part: that it feeds. area: of its copper, mm². most_m: it is to
    be no longer, m: what it was taken to be, or what is allowed before a fuse. short: whether that is so."""

    part: str
    one: str
    other: str
    area: float
    most_m: float
    short: bool = False


def links_of(power: PowerSizing, things: Mapping[str, Thing]) -> Iterator[Link]:
    """The runs between things in the box."""
    network = power.network
    for key, part in power.parts.items():
        here = f"part:{key}"
        if part.run is None or here not in things or network.in_block(key):
            continue
        there = fed_from(part.node.feed, network, things)
        if there is not None and there != here:
            protects = network.role(key) == "protects" and not part.node.run.sheathed
            short = protects and (part.node.feed in network.roots or key in network.taps)
            taken = part.node.run.length_m + constant("run_slack")
            most = min(taken, constant("main_unfused")) if short else taken
            yield Link(key, here, there, part.run.area.number * part.node.run.parallel, most, short)


def fed_from(feed: str, network: Network, things: Mapping[str, Thing]) -> str | None:
    """The key of what a run comes from: the nearest before it that has a body of its own; None where that is not in the box."""
    while feed not in network.roots:
        if f"part:{feed}" in things:
            return f"part:{feed}"
        feed = network.nodes[feed].feed
    key = "pack" if feed == PACK else f"bank:{feed}"
    return key if key in things else None


def terminals(of: Installed | Fitted) -> list[Solid]:
    """Where cables may be bolted on to a thing, each a cuboid without depth: all of a top with studs along it, the middle of a face, the
    two ends of a pack; where nothing is known of it, its middle.

    Source: geometry; bodies table.
    """
    solid = of.solid
    if isinstance(of, Fitted):
        return [Solid(*solid.middle, *solid.middle)]
    if of.thing.type is None:
        return list(both_ends(solid.beside(OWN["top"], of.thing.post_mm)))
    ways = [turned_way(OWN[face], of.place.up, of.place.turn) for face in of.thing.posts]
    if not ways:
        return [Solid(*solid.middle, *solid.middle)]
    return [stud_of(solid, way, of.thing.post_mm) for way in ways]


def both_ends(top: Solid) -> Iterator[Solid]:
    """The two ends of what lies over a pack, along its longer side."""
    z, (x, y, _) = top.z1, top.middle
    if top.x1 - top.x0 >= top.y1 - top.y0:
        yield from (Solid(at, y, z, at, y, z) for at in (top.x0, top.x1))
    else:
        yield from (Solid(x, at, z, x, at, z) for at in (top.y0, top.y1))


def stud_of(solid: Solid, way: tuple[int, int, int], stands_out: float) -> Solid:
    """Where studs stand on a face of a thing: along all of its top, in the middle of a side."""
    out = solid.beside(way, stands_out)
    if way == OWN["top"]:
        return Solid(out.x0, out.y0, out.z1, out.x1, out.y1, out.z1)
    x, y, z = (a + (b - a) * (1 + s) / 2 for a, b, s in zip(solid[:3], solid[3:], way, strict=True))
    return Solid(x, y, z, x, y, z)


def apart(a: Solid, b: Solid) -> float:
    """How far a cable goes from one place to another along the walls of the box, mm: the sum of its ways along each axis."""
    return sum(max(0.0, a[n] - b[n + 3], b[n] - a[n + 3]) for n in range(3))


def way_between(a: Solid, b: Solid) -> list[Point]:
    """The corners of the way from one place to another: up to the higher of the two, across, and down, each along one axis of the box.

    It is as long as they are `apart`.
    """
    (x0, x1), (y0, y1), (z0, z1) = (nearest(a[n], a[n + 3], b[n], b[n + 3]) for n in range(3))
    top = max(z0, z1)
    way = [(x0, y0, z0), (x0, y0, top), (x1, y0, top), (x1, y1, top), (x1, y1, z1)]
    return [point for n, point in enumerate(way) if n == 0 or point != way[n - 1]]


def nearest(a0: float, a1: float, b0: float, b1: float) -> tuple[float, float]:
    """The places in two stretches that are nearest to one another; the middle of what they share where they do."""
    low, high = max(a0, b0), min(a1, b1)
    if low <= high:
        return (low + high) / 2, (low + high) / 2
    return (a1, b0) if a1 < b0 else (a0, b1)


@dataclass(frozen=True, slots=True)
class Routed:
    """A run as it goes in the box: to which part and from which thing, by their places, and between which terminals."""

    name: str
    of: str
    to: str
    ends: tuple[Solid, Solid]

    @property
    def mm(self) -> float:
        """From terminal to terminal along each axis, mm."""
        return apart(*self.ends)


def routed(links: Iterable[Link], layout: BoxLayout) -> dict[str, Routed]:
    """Each run between the nearest terminals of its ends, by the part that it feeds; without those of which an end has no place."""
    at: dict[str, Installed | Fitted] = {**layout.standing, **{f.key: f for f in layout.fitted if f.thing}}
    things = {thing.key: thing for thing in layout.things}
    out = {}
    for link in links:
        if link.one in at and link.other in at:
            pairs = product(terminals(at[link.one]), terminals(at[link.other]))
            to, of = things[link.one], things[link.other]
            out[link.part] = Routed(to.name, of.place, to.place, min(pairs, key=lambda pair: apart(*pair)))
    return out


def run_lengths(links: Iterable[Link], layout: BoxLayout) -> dict[str, Figure]:
    """How long each run is as it is laid out, m, by the part that it feeds; without those of which an end has no place.

    Source: the way along each axis between the nearest terminals, a tenth more, and both ends (assumptions table).
    """
    out = {}
    for part, run in routed(links, layout).items():
        way = Figure.of("d", run.mm / 1000, "m", "from terminal to terminal", how="along each axis, measured in the layout")
        more, both = assumption("route_more"), assumption("route_ends")
        out[part] = Figure.by("l", "d · k_r + l_e", "m", f"run to {run.name} in the box", d=way, k_r=more, l_e=both)
    return out
