"""The tree of the power path: order, branches, which load hangs on which outlet."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from kegcart.core.loads.sizing import Demand
from kegcart.core.loads.supplies import Supply
from kegcart.core.power.document import PowerPath
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Input, Node, Outlet, Selector, kind_of
from kegcart.core.power.kinds.base import Role
from kegcart.core.reference import constant

DOUBLE = "240 V 60 Hz"
"""The mains of a load that hangs between both legs of a split phase."""


def where_it_joins(path: "PowerPath") -> dict[str, str]:
    """The input or outlet at which each charging source joins, by the id of the source; without those that join nowhere."""
    return {
        node.source: key for key, node in path.network.items() if isinstance(node, Input | Outlet) and node.source is not None
    }


@dataclass(frozen=True, slots=True)
class Network:
    """The parts with their children; `order` has every part after the part that feeds it; `roots` are the sources.

    feeds: what a part or source may have to feed: its children, and the selectors that can be switched to it.
    taps: the branch fuses at the end of a short sheathed run from a fused bar: that run is sized for them.
    outward: those that lead to something that takes current; a charger's own branch does not.
    sources: the pack or bank at the root of a part's tree. guarded_by: the protection (or converter) that guards the run to a part,
        None where nothing does.
    stands_on: the supply before a part: what the nearest converter or inverter before it makes, else the pack's.
    """

    nodes: Mapping[str, Node]
    children: Mapping[str, tuple[str, ...]]
    order: tuple[str, ...]
    roots: tuple[str, ...]
    feeds: Mapping[str, tuple[str, ...]]
    bank_names: Mapping[str, str]
    roles: Mapping[str, Role]
    taps: frozenset[str]
    outward: frozenset[str]
    sources: Mapping[str, str]
    guarded_by: Mapping[str, str | None]
    stands_on: Mapping[str, Supply]

    @classmethod
    def of(cls, path: PowerPath) -> "Network":
        """The tree of a power path. Errors: KeyError where a part's feed is missing, which the document refuses."""
        roots = (PACK, *path.banks)
        children: dict[str, list[str]] = {root: [] for root in roots}
        for key in path.network:
            children[key] = []
        for key, node in path.network.items():
            children[node.feed].append(key)
        order: list[str] = []
        waiting = [key for root in roots for key in children[root]]
        while waiting:
            key = waiting.pop(0)
            order.append(key)
            waiting[:0] = children[key]
        feeds = {key: tuple(behind) for key, behind in children.items()}
        for key, node in path.network.items():
            if isinstance(node, Selector) and node.other != node.feed:
                feeds[node.other] += (key,)
        stands_on: dict[str, Supply] = {}
        sources: dict[str, str] = {}
        guarded_by: dict[str, str | None] = {}
        for key in order:
            feed = path.network[key].feed
            sources[key] = sources.get(feed, feed)
            guarded_by[key] = feed if feed not in roots and kind_of(path.network[feed]).facts.limits else guarded_by.get(feed)
            stands_on[key] = "pack" if feed in roots else kind_of(path.network[feed]).gives(path.network[feed]) or stands_on[feed]
        tree = {key: tuple(behind) for key, behind in children.items()}
        roles = {key: kind_of(node).facts.role for key, node in path.network.items()}
        outward: set[str] = set()
        for key in reversed(order):
            ends_here = not children[key] and not kind_of(path.network[key]).facts.brings_in
            if ends_here or not outward.isdisjoint(children[key]):
                outward.add(key)
        whole = cls(
            path.network,
            tree,
            tuple(order),
            roots,
            feeds,
            {key: bank.name for key, bank in path.banks.items()},
            roles,
            frozenset(),
            frozenset(outward),
            sources,
            guarded_by,
            stands_on,
        )
        return replace(whole, taps=frozenset(key for key in order if whole.is_short(key)))

    def upstream(self, key: str) -> Iterator[str]:
        """The parts before this one, nearest first."""
        feed = self.nodes[key].feed
        while feed in self.nodes:
            yield feed
            feed = self.nodes[feed].feed

    def source(self, key: str) -> str:
        """The pack or bank at the root of a part's tree."""
        return self.sources.get(key, key)

    def below(self, key: str) -> Iterator[str]:
        """All parts fed through this one, without it."""
        waiting = list(reversed(self.children[key]))
        while waiting:
            child = waiting.pop()
            yield child
            waiting += reversed(self.children[child])

    def role(self, key: str) -> Role:
        """What a part does with the current: see `kinds.base.Role`."""
        return self.roles[key]

    def in_line(self, key: str) -> bool:
        """Whether current passes straight through a part, to one next part as it were."""
        return self.role(key) in ("protects", "passes")

    def in_block(self, key: str) -> bool:
        """Whether a part is a fuse that sits in a fuse block, so that no cable leads to it."""
        feeder = self.nodes.get(self.nodes[key].feed)
        return self.role(key) == "protects" and feeder is not None and feeder.part == "fuse_block"

    def segment(self, key: str) -> Iterator[str]:
        """The parts whose runs the protection `key` guards: on to the next protection, the run to it included.

        A converter limits its own output, so what stands behind one is not in the segment; a short tap is the care of the fuse
        at its end.
        """
        seen: set[str] = set()
        waiting = list(reversed(self.feeds[key]))
        while waiting:
            child = waiting.pop()
            if child in seen or child == key or child in self.taps:
                continue
            seen.add(child)
            yield child
            if self.role(child) not in ("protects", "changes"):
                waiting += reversed(self.feeds[child])

    def guard(self, key: str) -> str | None:
        """The protection (or converter) that guards the run to this part; None where nothing does."""
        return self.guarded_by[key]

    def is_first(self, key: str) -> bool:
        """Whether a part is a fuse or breaker with none before it: it stands at its source, and guards the run that leads to it."""
        return self.role(key) == "protects" and self.guard(key) is None

    def is_short(self, key: str) -> bool:
        """Whether a part is a branch fuse at the end of a short sheathed run from a fused bar: see `taps`.

        Source: 0.18 m (small-craft practice; assumptions table).
        """
        node = self.nodes[key]
        if self.role(key) != "protects" or node.run.sheathed is False or node.run.length_m > constant("short_tap"):
            return False
        return node.feed in self.nodes and self.role(node.feed) == "spreads" and not self.in_block(key) and self.fused(node.feed)

    def fused(self, key: str) -> bool:
        """Whether a fuse or breaker, rather than a converter, guards the run to a part."""
        guard = self.guard(key)
        return guard is not None and self.role(guard) == "protects"

    def guards_its_own(self, key: str) -> bool:
        """Whether a fuse or breaker is what guards the run that leads to it: at its source, or at the end of a short tap."""
        return key in self.taps or self.is_first(key)

    def guards(self, key: str) -> list[str]:
        """Every protection (or converter) that may guard the run to this part, by either way of the selectors before it."""
        out: list[str] = []
        seen: set[str] = set()
        waiting = [self.nodes[key].feed]
        while waiting:
            here = waiting.pop()
            if here in seen or here not in self.nodes:
                continue
            seen.add(here)
            node = self.nodes[here]
            if kind_of(node).facts.limits:
                out.append(here)
                continue
            waiting += [node.other] if isinstance(node, Selector) else []
            waiting.append(node.feed)
        return out

    def guard_of_way(self, feed: str) -> str | None:
        """The protection (or converter) that guards a run that begins at a part or source; None where nothing does."""
        if feed in self.nodes and kind_of(self.nodes[feed]).facts.limits:
            return feed
        return self.guard(feed) if feed in self.nodes else None

    def nearest_protections(self, key: str) -> list[str]:
        """The protections that stand next behind a part, with none between."""
        out = []
        for child in self.children[key]:
            if self.role(child) == "protects":
                out.append(child)
            elif self.role(child) != "changes":
                out += self.nearest_protections(child)
        return out

    def leaves_before(self, key: str) -> list[str]:
        """The devices a protection feeds with no further protection between."""
        out = []
        for child in self.children[key]:
            if self.role(child) in ("changes", "ends"):
                out.append(child)
            elif self.role(child) != "protects":
                out += self.leaves_before(child)
        return out

    def supply(self, key: str) -> Supply:
        """What an outlet gives: what it makes itself, or the supply on which it stands."""
        return kind_of(self.nodes[key]).gives(self.nodes[key]) or self.stands_on[key]

    def outlets(self) -> list[str]:
        """The ids of all outlets, in the order of the document."""
        return [key for key in self.order if isinstance(self.nodes[key], Outlet)]

    def main_path(self, source: str = PACK) -> list[str]:
        """The parts in line from the post to the first part that branches (the busbar), it included."""
        path: list[str] = []
        here = source
        while len(behind := self.branches(here)) == 1:
            here = behind[0]
            path.append(here)
            if not self.in_line(here):
                break
        return path

    def branches(self, key: str) -> list[str]:
        """The branches of a part or source that lead to loads; where none does, all of them."""
        return [child for child in self.children[key] if child in self.outward] or list(self.children[key])


def plug_in(network: Network, demands: dict[str, Demand], split: bool) -> tuple[dict[str, list[Demand]], list[Demand]]:
    """Loads by outlet, and those that find none of their supply.

    A load goes where the builder plugged it, else to the outlet of its supply, on the bank chosen for it, with the least on each way so far. split: whether AC
    outlets hang on one leg or on both, which give twice the voltage.
    """

    def takes(key: str, demand: Demand) -> bool:
        node = network.nodes[key]
        if supplies[key] != demand.load.supply or demand.load.bank not in (None, network.source(key)):
            return False
        if not split or supplies[key] != "ac" or not isinstance(node, Outlet):
            return True
        any_mains = demand.load.mains == "any" and demand.load.outlet == key
        return any_mains or (demand.load.mains == DOUBLE) == (node.leg == "both")

    plugged: dict[str, list[Demand]] = {key: [] for key in network.outlets()}
    without_outlet: list[Demand] = []
    supplies = {key: network.supply(key) for key in plugged}
    ways = {key: node.ways for key, node in network.nodes.items() if isinstance(node, Outlet)}
    for demand in demands.values():
        pinned = demand.load.outlet
        if pinned is not None and pinned in supplies and takes(pinned, demand):
            plugged[pinned].append(demand)
        elif pinned is not None:
            without_outlet.append(demand)
    weight = {key: sum(d.running.number for d in held) for key, held in plugged.items()}
    for demand in sorted((d for d in demands.values() if d.load.outlet is None), key=lambda d: -d.running.number):
        fitting = [key for key in supplies if takes(key, demand)]
        if not fitting:
            without_outlet.append(demand)
            continue
        best = min(fitting, key=lambda key: weight[key] / ways[key])
        weight[best] += demand.running.number
        plugged[best].append(demand)
    return plugged, without_outlet
