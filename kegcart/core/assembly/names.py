"""What parts are called at the bench: by their name, and by the short tag that is written on labels, a letter for the kind and a number in the
order of the tree.
"""

from collections.abc import Mapping
from typing import Final

from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.power.drawing.wire_table import NEGATIVE_BAR
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.parts import PowerSizing

LETTERS: Final[Mapping[str, str]] = {
    "protection": "F",
    "switch": "S",
    "selector": "S",
    "plug": "P",
    "busbar": "B+",
    "fuse_block": "FB",
    "inverter": "INV",
    "ac_breaker": "Q",
    "converter": "DC",
    "outlet": "X",
    "input": "IN",
}
ALONE: Final = frozenset({"busbar", "inverter", "fuse_block"})
"""Kinds of which the first needs no number where it is alone."""


def tags_of(power: PowerSizing, charging: ChargingSizing) -> dict[str, str]:
    """The tag of every part, by its pointer."""
    out = {"/pack": "BAT", NEGATIVE_BAR: "B−", "/power/shunt": "SH", "/power/shunt/meter": "MT", "/pack/board": "BMS"}
    for n, (key, source) in enumerate(((k, s) for k, s in power.sources.items() if k != PACK), 2):
        out |= {source.pointer: f"BAT{n}", f"/power/banks/{key}/negative": f"B−{n}"}
    if (strings := power.ctx.pack.build.strings) is not None:
        out |= {f"/pack/strings/s{n}": f"ST{n}" for n in range(1, len(strings.leads) + 1)}
    counts: dict[str, int] = {}
    letters = [LETTERS[power.parts[key].node.part] for key in power.network.order]
    for key, letter in zip(power.network.order, letters, strict=True):
        counts[letter] = counts.get(letter, 0) + 1
        part = power.parts[key]
        alone = part.node.part in ALONE and letters.count(letter) == 1
        out[part.pointer] = letter if alone else f"{letter}{counts[letter]}"
    for n, sizing in enumerate(charging.sources.values(), 1):
        out[sizing.pointer] = f"CH{n}"
    return out


def names_of(power: PowerSizing, charging: ChargingSizing) -> dict[str, str]:
    """The name of every part, by its pointer."""
    out = {
        "/pack": "Pack",
        "/pack/board": "Protection board",
        NEGATIVE_BAR: "Negative bar",
        "/power/shunt": "Shunt",
        "/power/shunt/meter": "Meter",
    }
    for key, source in power.sources.items():
        if key != PACK:
            out |= {source.pointer: source.name, f"{source.pointer}/negative": f"Negative bar, {source.name}"}
    if (strings := power.ctx.pack.build.strings) is not None:
        out |= {f"/pack/strings/s{n}": f"String {n}" for n in range(1, len(strings.leads) + 1)}
    out |= {part.pointer: part.node.name for part in power.parts.values()}
    return out | {sizing.pointer: sizing.name for sizing in charging.sources.values()}
