"""The tree of the power path: order, branches, which load hangs on which outlet."""

from collections.abc import Iterator
from dataclasses import dataclass

from kegcart.core.loads.document import Supply
from kegcart.core.loads.sizing import Demand
from kegcart.core.power.document import PACK, Inverter, Node, Outlet, PowerPath, Selector

#: Parts that current passes straight through.
IN_LINE = frozenset({"protection", "switch", "selector", "plug"})


@dataclass(frozen=True, slots=True)
class Network:
    """The parts with their children; `order` has every part after the part that feeds it; `roots` are the sources."""

    nodes: dict[str, Node]
    children: dict[str, tuple[str, ...]]
    order: tuple[str, ...]
    roots: tuple[str, ...] = (PACK,)

    @classmethod
    def of(cls, path: PowerPath) -> "Network":
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
        return cls(path.network, {k: tuple(v) for k, v in children.items()}, tuple(order), roots)

    def upstream(self, key: str) -> Iterator[str]:
        """The parts before this one, nearest first."""
        feed = self.nodes[key].feed
        while feed in self.nodes:
            yield feed
            feed = self.nodes[feed].feed

    def source(self, key: str) -> str:
        """The pack or bank at the root of a part's tree."""
        while key in self.nodes:
            key = self.nodes[key].feed
        return key

    def selected_from(self, key: str) -> list[str]:
        """The selectors that can be switched to this part or source."""
        return [k for k, node in self.nodes.items() if isinstance(node, Selector) and node.other == key and node.feed != key]

    def below(self, key: str) -> Iterator[str]:
        """All parts fed through this one, without it."""
        for child in self.children[key]:
            yield child
            yield from self.below(child)

    def segment(self, key: str) -> Iterator[str]:
        """The parts whose runs the protection `key` guards: on to the next protection, the run to it included.

        A converter limits its own output, so what stands behind one is not in the segment.
        """
        for child in self.children[key]:
            yield child
            if self.nodes[child].part not in ("protection", "inverter", "converter"):
                yield from self.segment(child)

    def guard(self, key: str) -> str | None:
        """The protection (or converter) that guards the run to this part; None where nothing does."""
        return next((up for up in self.upstream(key) if self.nodes[up].part in ("protection", "converter")), None)

    def supply(self, key: str) -> Supply:
        """What an outlet gives."""
        node = self.nodes[key]
        if isinstance(node, Outlet) and node.usb:
            return "usb"
        parts = {self.nodes[up].part for up in self.upstream(key)}
        return "ac" if "inverter" in parts else "dc_12v" if "converter" in parts else "pack"

    def outlets(self) -> list[str]:
        return [key for key in self.order if self.nodes[key].part == "outlet"]

    def inverters(self) -> list[tuple[str, Inverter]]:
        return [(key, node) for key, node in self.nodes.items() if isinstance(node, Inverter)]

    def main_path(self, source: str = PACK) -> list[str]:
        """The parts in line from the post to the first part that branches (the busbar), it included."""
        path: list[str] = []
        here = source
        while len(self.children[here]) == 1:
            here = self.children[here][0]
            path.append(here)
            if self.nodes[here].part not in IN_LINE:
                break
        return path


def plug_in(network: Network, demands: dict[str, Demand]) -> tuple[dict[str, list[Demand]], list[Demand]]:
    """Loads by outlet, and those that find none of their supply.

    A load goes where the builder plugged it, else to the outlet of its supply with the least on each way so far.
    """
    plugged: dict[str, list[Demand]] = {key: [] for key in network.outlets()}
    homeless: list[Demand] = []
    supplies = {key: network.supply(key) for key in plugged}
    for demand in demands.values():
        pinned = demand.load.outlet
        if pinned is not None and supplies.get(pinned) == demand.load.supply:
            plugged[pinned].append(demand)
        elif pinned is not None:
            homeless.append(demand)
    weight = {key: sum(d.running.number for d in held) for key, held in plugged.items()}
    for demand in sorted((d for d in demands.values() if d.load.outlet is None), key=lambda d: -d.running.number):
        fitting = [key for key, supply in supplies.items() if supply == demand.load.supply]
        if not fitting:
            homeless.append(demand)
            continue
        ways = {key: _ways(network.nodes[key]) for key in fitting}
        best = min(fitting, key=lambda key: weight[key] / ways[key])
        weight[best] += demand.running.number
        plugged[best].append(demand)
    return plugged, homeless


def _ways(node: Node) -> int:
    return node.ways if isinstance(node, Outlet) else 1
