"""Ready-made changes of the power path: circuits that loads ask for, each as a JSON Patch with sound defaults."""

from collections.abc import Mapping
from typing import Any

from kegcart.core.finding import Remedy
from kegcart.core.loads.supplies import SUPPLIES, Supply
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Inverter, Node, Selector, kind_of
from kegcart.core.power.path.network import Network

Operation = dict[str, Any]


class Draft:
    """Parts being added to a network; ids stay unique."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.parts: dict[str, str] = {key: node.part for key, node in network.nodes.items()}
        self.feeds: dict[str, str] = {key: node.feed for key, node in network.nodes.items()}
        self.operations: list[Operation] = []

    def add(self, part: str, stem: str, name: str, feed: str, length_m: float, **more: Any) -> str:
        """Put in a part; returns its id."""
        key, n = stem, 2
        while key in self.parts or key == PACK:
            key, n = f"{stem}-{n}", n + 1
        self.parts[key], self.feeds[key] = part, feed
        value = {"part": part, "name": name, "feed": feed, "run": {"length_m": length_m}, **more}
        self.operations.append({"op": "add", "path": f"/power/network/{key}", "value": value})
        return key

    def first(self, part: str) -> str | None:
        """The first part of a kind, if there is one."""
        return next((key for key, kind in self.parts.items() if kind == part), None)

    def busbar(self) -> str:
        """The busbar; laid out with main fuse, switch and shunt where there is none."""
        if found := self.first("busbar"):
            return found
        fuse = self.add("protection", "main-fuse", "Main fuse", PACK, 0.15)
        switch = self.add("switch", "main-switch", "Main switch", fuse, 0.2)
        bar = self.add("busbar", "busbar", "Busbar", switch, 0.2)
        if not self.network.nodes:
            self.operations.append({"op": "add", "path": "/power/shunt", "value": {}})
        return bar

    def fuse_block(self) -> str:
        """The fuse block, put in where there is none."""
        if found := self.first("fuse_block"):
            return found
        fuse = self.add("protection", "block-fuse", "Fuse block feed", self.busbar(), 0.1)
        return self.add("fuse_block", "fuse-block", "Fuse block", fuse, 0.4)

    def circuit(self, name: str, stem: str) -> str:
        """A fuse position in the block."""
        return self.add("protection", f"{stem}-fuse", f"{name} fuse", self.fuse_block(), 0.0)

    def outlet(self, supply: Supply, **more: Any) -> str:
        """An outlet of a supply with all it needs before it; `more` of its own fields."""
        name = SUPPLIES[supply].outlet
        if supply == "ac":
            inverter = self.first("inverter")
            if inverter is None:  # the main fuse guards its cable: a second fuse of that size would open with it
                inverter = self.add("inverter", "inverter", "Inverter", self.busbar(), 0.5)
            return self.add("outlet", "ac-outlet", name, inverter, 0.0, **more)
        if supply == "dc_12v":
            converter = self.first("converter")
            if converter is None:
                fuse = self.circuit("Converter", "converter")
                converter = self.add("converter", "converter", "Converter to 12 V", fuse, 0.4)
            return self.add("outlet", "dc-outlet", name, converter, 0.5)
        if supply == "usb":
            return self.add("outlet", "usb-outlet", name, self.circuit("USB", "usb"), 0.6, usb=True, ways=4)
        return self.add("outlet", "pack-outlet", name, self.circuit("Outlet", "outlet"), 0.6)


def add_outlets(network: Network, supplies: list[Supply], on_both_legs: int = 0) -> list[Operation]:
    """The operations that give the network an outlet of each supply, and so many AC outlets between both legs of a split phase."""
    draft = Draft(network)
    for supply in supplies:
        draft.outlet(supply)
    for _ in range(on_both_legs):
        draft.outlet("ac", leg="both")
    return draft.operations


def put_fuse_before(network: Network, key: str) -> list[Operation]:
    """The operations that set a fuse into the line just before a part."""
    feed = network.nodes[key].feed
    draft = Draft(network)
    fuse = draft.add(
        "protection", f"{key[:32]}-fuse", f"{network.nodes[key].name} fuse"[:80], feed, 0.15 if feed == PACK else 0.1
    )
    return [*draft.operations, {"op": "replace", "path": f"/power/network/{key}/feed", "value": fuse}]


def put_fuse_on_other_way(network: Network, key: str) -> list[Operation]:
    """The operations that set a fuse into the other way of a selector, at what it begins at."""
    node = network.nodes[key]
    assert isinstance(node, Selector)
    draft = Draft(network)
    fuse = draft.add("protection", f"{key[:32]}-other-fuse", f"{node.name} fuse, other way"[:80], node.other, 0.15)
    return [*draft.operations, {"op": "replace", "path": f"/power/network/{key}/other", "value": fuse}]


def gather_on_busbar(network: Network, source: str) -> list[Operation]:
    """The operations that take every cable at a post but one to a busbar; one with its main fuse is put in where there is none."""
    draft, children = Draft(network), network.children[source]
    bar = next((k for k in network.order if network.nodes[k].part == "busbar" and network.source(k) == source), None)
    if bar is None:
        fuse = draft.add("protection", "main-fuse", "Main fuse", source, 0.15)
        bar, first = draft.add("busbar", "busbar", "Busbar", fuse, 0.2), None
    else:
        first = next(k for k in (bar, *network.upstream(bar)) if network.nodes[k].feed == source)
    able = [key for key in children if key != first and "busbar" in kind_of(network.nodes[key]).facts.fed_by]
    moved = [{"op": "replace", "path": f"/power/network/{key}/feed", "value": bar} for key in able]
    return [*draft.operations, *moved]


def put_switch(network: Network) -> list[Operation]:
    """The operations that set a main switch behind the first protection, or at the post where there is none."""
    draft = Draft(network)
    first = network.main_path()
    after = first[0] if first and network.nodes[first[0]].part == "protection" else PACK
    switch = draft.add("switch", "main-switch", "Main switch", after, 0.2)
    moved = [{"op": "replace", "path": f"/power/network/{key}/feed", "value": switch} for key in network.children[after]]
    return [*draft.operations, *moved]


def release_cutoffs(nodes: Mapping[str, Node]) -> list[Operation]:
    """The operations that give pinned inverter cut-offs back to auto: they belonged to another pack voltage."""
    return [
        {"op": "replace", "path": f"/power/network/{key}/cutoff_v", "value": None}
        for key, node in nodes.items()
        if isinstance(node, Inverter) and node.cutoff_v is not None
    ]


def offers(network: Network) -> list[Remedy]:
    """What can be added to the path, ready to apply."""
    return [
        Remedy(f"Add {'an' if facts.outlet.startswith('A') else 'a'} {facts.outlet}", add_outlets(network, [supply]))
        for supply, facts in SUPPLIES.items()
    ]
