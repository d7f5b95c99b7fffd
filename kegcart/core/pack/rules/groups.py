"""Sorted cells: none a reject, the groups alike."""

from collections.abc import Iterator, Mapping
from operator import itemgetter

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import (
    Check,
    Fault,
    at_most,
    failed,
    held,
    is_so,
    mend,
    note,
    stop,
)  # fmt: skip
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.pack.build import GroupSizing
from kegcart.core.pack.document import CellPack, Group
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import assumption

LISTED = 3
"""So many cells are named in a sentence."""
SORT_AGAIN = Remedy("Take the cells out, to sort them again in the cell rack", [set_value("/pack/groups", {})])


@judges("pack.groups-stale", "groups as the pack is now", MEND)
@judges("pack.group-spread", "spread of group capacity", MEND)
def groups(pack: PackSizing, build: CellPack) -> Iterator[Check]:
    """Sorted cells are grouped as the pack is now, and the groups are alike.

    Source: practice of sorting: 0.3 % new, 1 % reclaimed (assumptions table).
    """
    if not build.groups:
        return
    for key, group in build.groups.items():
        yield from rejects(key, group)
    members = pack.build.groups
    yield is_so("pack.groups-stale", "/pack/groups", bool(members), lambda: groups_stale(pack, build))
    if not members:
        return
    spread = spread_figure(members)
    target = assumption("spread_reclaimed" if build.cell.reclaimed else "spread_new")
    yield at_most(
        "pack.group-spread",
        "/pack/groups",
        spread,
        target,
        lambda: mend(
            f"The groups differ by {{s}} in capacity, {{s_t}} is the target; group {weakest_of(members)} is the weakest, {{c_min}}.",
            "The weakest group is empty first and full first: it sets what the pack gives, and wears out before the rest.",
            {"s": spread, "s_t": target, "c_min": min((g.capacity for g in members), key=lambda c: c.number)},
            (SORT_AGAIN,),
        ),
    )
    yield group_resistance(build, members)
    yield from balance(pack, spread)


def weakest_of(members: list[GroupSizing]) -> int:
    """The number of the group of the least capacity, from 1."""
    return min(range(len(members)), key=lambda i: members[i].capacity.number) + 1


def spread_figure(members: list[GroupSizing]) -> Figure:
    """Spread of the group capacities, as a share of their mean.

    Source: greatest less least over the mean (definition).
    """
    capacities = [g.capacity for g in members]
    mean = sum(c.number for c in capacities) / len(members)
    return Figure.by(
        "s",
        "(c_max − c_min) / c_mean",
        "share",
        "spread of group capacity",
        c_max=max(capacities, key=lambda c: c.number),
        c_min=min(capacities, key=lambda c: c.number),
        c_mean=Figure.of("c_mean", mean, "Ah", "mean group capacity", how="of all groups"),
    )


def groups_stale(pack: PackSizing, build: CellPack) -> Fault:
    """The groups were sorted for the pack as it is now."""
    wide = max(len(g.cells) for g in build.groups.values())
    as_sorted = [set_value("/pack/series", len(build.groups)), set_value("/pack/parallel", wide)]
    return mend(
        f"Sorted are {len(build.groups)} groups of {wide}; the pack is {{S}} groups of {{P}}, so the sorted cells do not count.",
        "Figures and simulation take all cells as alike until the groups fit the pack.",
        {"S": pack.series, "P": pack.parallel},
        (Remedy(f"Make the pack {len(build.groups)} groups of {wide}", as_sorted), SORT_AGAIN),
    )


@judges("pack.cell-reject", "no rejected cell", STOP)
def rejects(key: str, group: Group) -> Iterator[Check]:
    """No rejected cell is placed in the pack.

    Source: limits of rejection (assumptions table).
    """
    number = key.removeprefix("g")
    bad = [(n, cell) for n, cell in enumerate(group.cells) if cell.reject]
    if not bad:
        yield held("pack.cell-reject", f"/pack/groups/{key}")
    for n, cell in bad:
        fault = stop(
            f"Cell {cell.label}, in place {n + 1} of group {number}, is a reject: {cell.reject}.",
            "One bad cell drains its group, heats, and can take the pack with it.",
            {},
            (SORT_AGAIN,),
        )
        yield failed("pack.cell-reject", f"/pack/groups/{key}/cells/{n}", fault)


@judges("pack.cell-elsewhere", "cells of this build alone", STOP)
def cells_elsewhere(elsewhere: Mapping[str, str]) -> Check:
    """No cell of the pack is built into another build.

    Source: none, a thing is in one place; two builds name the same cells after an import, an undo or a build brought back.
    """
    labels = sorted(elsewhere)

    def fault() -> Fault:
        listed = ", ".join(labels[:LISTED]) + (f" and {len(labels) - LISTED} more" if len(labels) > LISTED else "")
        builds = " and ".join(sorted(set(elsewhere.values())))
        are, they = ("are", "they stay") if len(labels) > 1 else ("is", "it stays")
        return stop(
            f"{listed} {are} built into {builds}: {they} there until taken out.",
            "A cell is in one build at a time: this pack counts on cells that it does not have.",
            {},
            (SORT_AGAIN,),
        )

    return is_so("pack.cell-elsewhere", "/pack/groups", not labels, fault)


@judges("pack.group-resistance", "resistances inside and between groups", MEND)
def group_resistance(build: CellPack, members: list[GroupSizing]) -> Check:
    """No cell is far off its group's mean resistance, and no group off the others.

    Source: practice: within ±15 % (assumptions table).
    """
    worst: tuple[float, str, str, str] = (0.0, "", "", "g1")
    for key, group in build.groups.items():
        known = [(c.label, c.resistance_mohm) for c in group.cells if c.resistance_mohm]
        mean = sum(mohm for _, mohm in known) / len(known) if known else 0.0
        if known:
            for label, mohm in (min(known, key=itemgetter(1)), max(known, key=itemgetter(1))):
                worst = max(worst, (abs(mohm / mean - 1), "cell", label, key))
    mean = sum(g.resistance.number for g in members) / len(members)
    for member in members:
        worst = max(worst, (abs(member.resistance.number / mean - 1), "group", member.key.removeprefix("g"), member.key))
    off, what, name, key = worst
    against = "the mean of its group" if what == "cell" else "the mean of the groups"
    furthest = Figure.of("Δr", off, "share", "off the mean", how="of the resistances as measured")
    limit = assumption("group_resistance")
    return at_most(
        "pack.group-resistance",
        f"/pack/groups/{key}",
        furthest,
        limit,
        lambda: mend(
            f"{what.capitalize()} {name} is {{off}} off {against} in resistance; {{k_r}} is the limit.",
            "Of cells in parallel the one of low resistance does the work of the others, and ages first.",
            {"off": furthest, "k_r": limit},
            (SORT_AGAIN,),
        ),
    )


@judges("pack.balance", "time to even out the groups", NOTE)
def balance(pack: PackSizing, spread: Figure) -> Iterator[Check]:
    """The board can even out the groups in the hours it is plugged in.

    Source: charge is current times time; a night at the top of charge (assumptions table).
    """
    board = pack.build.board
    if board is None or board.balance.number <= 0:
        return
    parts = spread.inputs or {}
    hours = Figure.by(
        "t_bal",
        "(c_max − c_min) / I_bal",
        "h",
        "time to even out the groups once",
        c_max=parts["c_max"],
        c_min=parts["c_min"],
        I_bal=board.balance,
    )
    day = assumption("balance_hours")
    stronger = (Remedy("A board with 1 A of balancing", [set_value("/pack/board/balance_ma", 1000)]),)
    yield at_most(
        "pack.balance",
        "/pack/board/balance_ma",
        hours,
        day,
        lambda: note(
            "At {I_bal} the board needs {t_bal} to even out the groups once; {t_day} is what one night at the charger leaves.",
            "Charge every cell to full before the first assembly; after that only the small drift is left to the board.",
            {"I_bal": board.balance, "t_bal": hours, "t_day": day},
            stronger if board.balance.number < 1 else (),
        ),
        slack=0.0,
    )
