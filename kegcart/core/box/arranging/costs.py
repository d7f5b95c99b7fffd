"""What makes an arrangement better: balance that must be, short cables, fittings in a row."""

from collections.abc import Sequence
from itertools import product
from math import ceil, floor, radians, tan
from typing import Any

from kegcart.core.box.arranging.model import Arranging
from kegcart.core.box.runs import Link, terminals
from kegcart.core.reference import constant

GRAMS = 100
"""Masses count by so many to the kilogram."""
OVER = 400
"""What a millimetre counts by which a run is longer than it may be, against one of cable of the mean section."""
NEAR_M = 0.25
"""A run that is to be no longer than so much is to be short: to a main fuse, from a bar to a branch fuse."""
MOST_COST = 10**9


def balanced(a: Arranging) -> None:
    """The centre of mass is in the middle third of the length and in the lower half; on wheels it does not tip before its limit.

    Source: as the rules of weight; what stays where it is counts as it stands, box and cables at the middle.
    """
    hollow, layout = a.layout.hollow, a.layout
    grams = {key: round(GRAMS * kg) for key, kg in a.masses.items()}
    length, width, height = a.size
    own = grams.get("", 0)
    # Twice the moments, as the middles of things may lie between two millimetres.
    total, mx, my, mz = own, own * length, own * width, own * height
    for at, g in ((s.solid.middle, grams.get(key, 0)) for key, s in layout.standing.items()):
        total, mx, my, mz = total + g, mx + round(2 * g * at[0]), my + round(2 * g * at[1]), mz + round(2 * g * at[2])
    for fitted in layout.fitted:
        g, at = grams.get(fitted.key, 0), fitted.solid.middle
        total, mx, my, mz = total + g, mx + round(2 * g * at[0]), my + round(2 * g * at[1]), mz + round(2 * g * at[2])
    for key, s in a.standing.items():
        g = grams.get(key, 0)
        total += g
        mx += 2 * g * s.x + g * (s.plans[0][1] - s.x)
        my += 2 * g * s.y + g * (s.plans[0][3] - s.y)
        mz += g * (s.levels[0][0] + s.levels[0][1])
    for key, t in a.sitting.items():
        g = grams.get(key, 0)
        x0, x1, y0, y1 = t.plan
        total, mx, my, mz = total + g, mx + g * (x0 + x1), my + g * (y0 + y1), mz + 2 * g * t.up + g * t.high
    third = constant("balance_third")
    a.model.add(mx >= ceil(total * length * (1 - third) * 1.01))
    a.model.add(mx <= floor(total * length * (1 + third) * 0.99))
    a.model.add(mz <= floor(2 * constant("balance_height") * total * height * 0.99))
    if not a.rolling:
        return
    slope, lean = tan(radians(constant("tip_limit"))), hollow.taper
    edges = {"left": lean, "right": length - lean, "front": lean, "back": width - lean}
    for feature in layout.case.features.values():
        if feature.kind == "wheel" and feature.face in edges:
            inward = lean - feature.inside_mm / 2
            edges[feature.face] += -inward if feature.face in ("left", "front") else inward
    scale = 1000
    for side, moment in (("left", mx), ("front", my)):
        a.model.add(scale * moment >= round(scale * slope * 1.05) * mz + round(2 * scale * total * edges[side]))
    for side, moment in (("right", mx), ("back", my)):
        a.model.add(scale * moment <= round(2 * scale * total * edges[side]) - round(scale * slope * 1.05) * mz)


def ends_of(a: Arranging, key: str) -> tuple[Any, Any, Any] | None:
    """Where the cable at a thing ends, as the solver has it: x, y, z; None of what has no place."""
    length, width, height = a.size
    here = tuple(a.within(-100, side + 100) for side in (length, width, height))
    if key in a.standing:
        s = a.standing[key]
        for option, so in zip(s.options, s.taken, strict=True):
            ways = [a.whether() for _ in option.ends]
            a.model.add_bool_or([*ways, so.negated()])
            for way, end in zip(ways, option.ends, strict=True):
                a.model.add_implication(way, so)
                for n, base in enumerate(at - floor(c) for at, c in zip((s.x, s.y, s.z), option.corner, strict=True)):
                    a.model.add(here[n] >= base + floor(end[n])).only_enforce_if(way)
                    a.model.add(here[n] <= base + ceil(end[n + 3])).only_enforce_if(way)
        return here
    if key in a.sitting:
        t = a.sitting[key]
        x0, x1, y0, y1 = t.plan
        for twice, at in ((x0 + x1, here[0]), (y0 + y1, here[1]), (2 * t.up + t.high, here[2])):
            a.model.add(2 * at <= twice)
            a.model.add(2 * at >= twice - 1)
        return here
    stays = a.layout.standing.get(key) or next((f for f in a.layout.fitted if f.key == key), None)
    if stays is None:
        return None
    ways = []
    for end in terminals(stays):
        way = a.whether()
        ways.append(way)
        for n in range(3):
            a.model.add(here[n] >= floor(end[n])).only_enforce_if(way)
            a.model.add(here[n] <= ceil(end[n + 3])).only_enforce_if(way)
    a.model.add_bool_or(ways)
    return here


def weights(links: Sequence[Link]) -> list[int]:
    """What a millimetre of each cable counts: as its copper, against the mean."""
    mean = max(1.0, sum(link.area for link in links) / max(1, len(links)))
    return [max(1, round(10 * link.area / mean)) for link in links]


def most_mm(link: Link) -> float:
    """How far the terminals of a run may be apart that may be no longer than so much, mm; infinite where that does not matter."""
    return (1000 * link.most_m - 1000 * constant("route_ends")) / constant("route_more") - 3


def cables(a: Arranging) -> list[tuple[Link, Any]]:
    """What each cable counts, as the solver has it: its copper, and by how much some are longer than they may be."""
    costs = []
    for link, weight in zip(a.links, weights(a.links), strict=True):
        one, other = ends_of(a, link.one), ends_of(a, link.other)
        if one is None or other is None:
            continue
        way = 0
        for p, q in zip(one, other, strict=True):
            along = a.within(0, sum(a.size))
            a.model.add(along >= p - q)
            a.model.add(along >= q - p)
            way = way + along
        cost = weight * way
        if link.most_m < float("inf"):
            over = a.within(0, sum(a.size))
            a.model.add(over >= way - floor(most_mm(link)))
            if a.tight and link.most_m <= NEAR_M:
                a.model.add(over == 0)
            cost = cost + OVER * over
        paid = a.within(0, MOST_COST)
        a.model.add(paid == cost)
        costs.append((link, paid))
    return costs


IN_A_ROW, CRAMPED = 2, 500
"""What half a millimetre counts by which the middle of a fitting is off the row that most are in; what a fitting counts that no hand
reaches once the pack is in."""


def fittings(a: Arranging) -> Any:
    """What fittings count that are not in one row, as a panel that is tidy is read at a glance, and those that must go in before the
    pack."""
    row, off = a.within(0, 2 * a.size[2]), 0
    for t, s in product(a.sitting.values(), a.standing.values()):
        if s.thing.type is None:
            cramped = a.whether()
            low, top = s.levels[0]
            a.clear(t.hand, s.plans[0], (), 0, [t.up >= top, t.up + t.high <= low, cramped >= 1])
            off = off + CRAMPED * cramped
    for t in a.sitting.values():
        away = a.within(0, 2 * a.size[2])
        a.model.add(away >= 2 * t.up + t.high - row)
        a.model.add(away >= row - 2 * t.up - t.high)
        off = off + IN_A_ROW * away
    return off
