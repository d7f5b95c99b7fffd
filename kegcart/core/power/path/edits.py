"""Ready-made changes of the power path: circuits that loads ask for, each as a JSON Patch with sound defaults."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from kegcart.core.brief.document import Brief
from kegcart.core.finding import release
from kegcart.core.loads.document import Load
from kegcart.core.loads.supplies import SUPPLIES, Supply
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Inverter, Node, Selector, kind_of
from kegcart.core.power.path.network import Network

Operation = dict[str, Any]
LONGEST_NAME = 80
OPENS = ("switch", "selector", "plug")
"""The kinds that a hand can open."""


class Draft:
    """Parts being added to a network, behind the pack or a further bank (`source`); ids and names stay unique."""

    def __init__(self, network: Network, source: str = PACK) -> None:
        self.network, self.source = network, source
        self.parts: dict[str, str] = {key: node.part for key, node in network.nodes.items()}
        self.feeds: dict[str, str] = {key: node.feed for key, node in network.nodes.items()}
        self.names = {node.name for node in network.nodes.values()}
        self.operations: list[Operation] = []

    def add(self, part: str, stem: str, name: str, feed: str, length_m: float, **more: Any) -> str:
        """Put in a part; returns its id."""
        key, n = stem, 2
        while key in self.parts or key in self.network.roots:
            key, n = f"{stem}-{n}", n + 1
        name = self.called(name)
        self.parts[key], self.feeds[key] = part, feed
        self.names.add(name)
        value = {"part": part, "name": name, "feed": feed, "run": {"length_m": length_m}, **more}
        self.operations.append({"op": "add", "path": f"/power/network/{key}", "value": value})
        return key

    def called(self, name: str) -> str:
        """A name that no part has yet: a bank's parts are named after it, further ones of a name are counted."""
        if self.source != PACK:
            name = f"{name}, {self.network.bank_names[self.source]}"
        numbers = (f" {n}" for n in range(2, len(self.names) + 3))
        told_apart = (name[: LONGEST_NAME - len(end)] + end for end in ("", *numbers))
        return next(called for called in told_apart if called not in self.names)

    def source_of(self, key: str) -> str:
        """The pack or bank at the root of a part's tree."""
        while key in self.feeds:
            key = self.feeds[key]
        return key

    def first(self, part: str) -> str | None:
        """The first part of a kind behind the source, if there is one."""
        return next((key for key, kind in self.parts.items() if kind == part and self.source_of(key) == self.source), None)

    def busbar(self) -> str:
        """The busbar; laid out with main fuse and switch where there is none, on an empty path with a shunt."""
        if found := self.first("busbar"):
            return found
        fuse = self.add("protection", "main-fuse", "Main fuse", self.source, 0.15)
        switch = self.add("switch", "main-switch", "Main switch", fuse, 0.2)
        bar = self.add("busbar", "busbar", "Busbar", switch, 0.2)
        if not self.network.nodes and self.source == PACK:
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

    def outlets(self, supplies: Iterable[Supply], on_both_legs: int = 0) -> None:
        """An outlet of each supply, and so many AC outlets between both legs of a split phase."""
        for supply in supplies:
            self.outlet(supply)
        for _ in range(on_both_legs):
            self.outlet("ac", leg="both")


def add_outlets(network: Network, supplies: Iterable[Supply], on_both_legs: int = 0, source: str = PACK) -> list[Operation]:
    """The operations that give a source outlets: see `Draft.outlets`."""
    draft = Draft(network, source)
    draft.outlets(supplies, on_both_legs)
    return draft.operations


def put_fuse_before(network: Network, key: str) -> list[Operation]:
    """The operations that set a fuse into the line just before a part."""
    feed = network.nodes[key].feed
    draft = Draft(network)
    name, length_m = f"{network.nodes[key].name} fuse", 0.15 if feed in network.roots else 0.1
    fuse = draft.add("protection", f"{key[:32]}-fuse", name, feed, length_m)
    return [*draft.operations, {"op": "replace", "path": f"/power/network/{key}/feed", "value": fuse}]


def put_fuse_on_other_way(network: Network, key: str) -> list[Operation]:
    """The operations that set a fuse into the other way of a selector, at what it begins at."""
    node = network.nodes[key]
    assert isinstance(node, Selector)
    draft = Draft(network)
    fuse = draft.add("protection", f"{key[:32]}-other-fuse", f"{node.name} fuse, other way", node.other, 0.15)
    return [*draft.operations, {"op": "replace", "path": f"/power/network/{key}/other", "value": fuse}]


def gather_on_busbar(network: Network, source: str) -> list[Operation]:
    """The operations that take every cable at a post but one to a busbar; one with its main fuse is put in where there is none."""
    draft, children = Draft(network, source), network.children[source]
    bar = next((k for k in network.order if network.nodes[k].part == "busbar" and network.source(k) == source), None)
    if bar is None:
        fuse = draft.add("protection", "main-fuse", "Main fuse", source, 0.15)
        bar, first = draft.add("busbar", "busbar", "Busbar", fuse, 0.2), None
    else:
        first = next(k for k in (bar, *network.upstream(bar)) if network.nodes[k].feed == source)
    able = [key for key in children if key != first and "busbar" in kind_of(network.nodes[key]).facts.fed_by]
    moved = [{"op": "replace", "path": f"/power/network/{key}/feed", "value": bar} for key in able]
    return [*draft.operations, *moved]


def put_switch(network: Network, source: str) -> list[Operation]:
    """The operations that set a main switch behind the first protection of a source, or at its post where there is none."""
    draft = Draft(network, source)
    first = network.main_path(source)
    after = first[0] if first and network.nodes[first[0]].part == "protection" else source
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


def take_out(network: Network, key: str, loads: Mapping[str, Load]) -> list[Operation] | None:
    """The operations that take one part out and join what is behind it to what was before, over both cables; None where what is
    behind it cannot hang there.
    """
    node, feed = network.nodes[key], network.nodes[key].feed
    feeder = PACK if feed in network.roots else network.nodes[feed].part
    behind = network.children[key]
    if behind and (network.role(key) == "changes" or any(feeder not in kind_of(network.nodes[k]).facts.fed_by for k in behind)):
        return None
    operations: list[Operation] = []
    for child in behind:
        run_m = sum(network.nodes[k].run.length_m for k in (key, child) if not network.in_block(k))
        operations.append({"op": "replace", "path": f"/power/network/{child}/feed", "value": feed})
        operations.append({"op": "replace", "path": f"/power/network/{child}/run/length_m", "value": round(run_m, 4)})
    return [*operations, *turned_away(network, {key}, node.feed), *without(network, [key], loads)]


def take_out_whole(network: Network, key: str, loads: Mapping[str, Load]) -> list[Operation]:
    """The operations that take out a part or a further bank with all behind it; loads that were plugged in there go back to auto."""
    gone = [*network.below(key), key]
    freed = [release(f"/loads/items/{k}/bank") for k, load in loads.items() if load.bank == key]
    return [*turned_away(network, set(gone), None), *freed, *without(network, reversed(gone), loads)]


def turned_away(network: Network, gone: set[str], feed: str | None) -> list[Operation]:
    """The operations that turn the other way of selectors from parts that go to `feed`; to their own where that is None."""
    return [
        {"op": "replace", "path": f"/power/network/{key}/other", "value": feed or node.feed}
        for key, node in network.nodes.items()
        if isinstance(node, Selector) and node.other in gone and key not in gone
    ]


def without(network: Network, gone: Iterable[str], loads: Mapping[str, Load]) -> list[Operation]:
    """The operations that remove parts and banks, in an order in which none is fed by one that is gone, with what is plugged in."""
    going = list(gone)
    unplugged = [release(f"/loads/items/{key}/outlet") for key, load in loads.items() if load.outlet in going]
    removed = [
        {"op": "remove", "path": f"/power/network/{key}" if key in network.nodes else f"/power/banks/{key}"} for key in going
    ]
    return [*unplugged, *removed]


@dataclass(frozen=True, slots=True)
class Addition:
    """Outlets with all they need before them, ready to be added behind a source; behind each, where that is empty."""

    source: str
    label: str
    patch: list[Operation]


def offers(network: Network, brief: Brief) -> list[Addition]:
    """What can be added behind the pack and each further bank; no AC where the brief has no mains."""
    return [
        Addition(
            source,
            f"Add {'an' if supply == 'ac' else 'a'} {facts.outlet.replace('Pack', 'pack')}",
            add_outlets(network, [supply], source=source),
        )
        for source in network.roots
        for supply, facts in SUPPLIES.items()
        if supply != "ac" or brief.mains != "none"
    ]


def new_input(network: Network, source: str, name: str, bank: str) -> list[Operation]:
    """The operations that give a charging source a fused input of its own, at the first busbar of a bank that nothing before it can
    leave without the bank, or at its post."""
    bars = (k for k in network.order if network.nodes[k].part == "busbar" and network.source(k) == bank)
    bar = next((k for k in bars if not any(network.nodes[up].part in OPENS for up in network.upstream(k))), bank)
    draft = Draft(network, bank)
    fuse = draft.add("protection", "input-fuse", f"Fuse, {name}", bar, 0.1)
    draft.add("input", "input", f"Input, {name}", fuse, 0.5, source=source)
    return draft.operations
