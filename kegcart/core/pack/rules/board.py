"""The protection board against the cells it watches."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import (
    Bound,
    Check,
    Fault,
    at_least,
    at_most,
    compared,
    is_so,
    mend,
    not_yet,
    stop,
)  # fmt: skip
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.units import write_quantity

THRESHOLD_SLACK_V = 0.15
"""How far a board's thresholds may stand outside its chemistry's range before they are of another one."""


@judges("pack.board-series", "cells the board is made for", STOP)
def board_series(pack: PackSizing) -> Iterator[Check]:
    """The protection board is made for as many cells as there are.

    Source: the board measures each cell: its count is that of the pack (maker's sheet).
    """
    board = pack.build.board
    if board is None:
        return
    yield compared(
        "pack.board-series",
        "/pack/board/series",
        board.series.number == pack.series.number,
        board.series,
        pack.series,
        Bound.EQUAL,
        lambda: stop(
            "The protection board is made for {S_b} cells in series; the pack has {S}.",
            "It watches the wrong number of cells: one is not watched at all, or the board never closes.",
            {"S_b": board.series, "S": pack.series},
            (Remedy("A board for as many cells as the pack has", [release("/pack/board/series")]),),
        ),
    )


@judges("pack.board-chemistry", "chemistry of the board", STOP)
def board_chemistry(pack: PackSizing, build: CellPack) -> Iterator[Check]:
    """The board is made for the chemistry, and opens at the voltage down to which its cells are used.

    Source: cut-off voltages of the chemistry (chemistries table).
    """
    board, row, slack = pack.build.board, pack.chemistry, THRESHOLD_SLACK_V
    if board is None:
        return
    of = build.board.chemistry
    fits = of in (None, build.chemistry) and row.v_min - slack <= board.cell_min.number < row.v_nom

    def fault() -> Fault:
        pinned = (name for name in ("chemistry", "cell_min_v") if getattr(build.board, name) is not None)
        patch = [release(f"/pack/board/{name}") for name in pinned]
        return stop(
            f"The board opens at {{v_cut}} and stops charging at {{v_full}} a cell; {row.label} is used from {{v_min}} to {{v_max}}.",
            "Its thresholds are of another chemistry: the cells are overcharged, run flat, or never filled.",
            {
                "v_cut": board.cell_min,
                "v_full": board.cell_max,
                "v_min": row.figure("v_min", row.v_min, "V", "least voltage of a cell"),
                "v_max": row.figure("v_max", row.v_max, "V", "greatest voltage of a cell"),
            },
            (Remedy(f"A board for {row.label}", patch),) if patch else (),
        )

    yield is_so("pack.board-chemistry", "/pack/board/chemistry", fits, fault)
    if of in (None, build.chemistry):
        yield from board_threshold(pack, board.cell_max, build)
    else:
        yield not_yet("pack.board-threshold", "/pack/board/cell_max_v", "a board for this chemistry")


@judges("pack.board-threshold", "where the board stops charging", STOP, MEND)
def board_threshold(pack: PackSizing, stops: Figure, build: CellPack) -> Iterator[Check]:
    """The board stops charging within what its cells stand, and not so low that they are never filled.

    Source: where boards of each chemistry stop a cell (makers' sheets, chemistries table).
    """
    row, at = pack.chemistry, "/pack/board/cell_max_v"
    if row.stop_high is None or row.stop_low is None:
        return
    most = row.figure("v_most", row.stop_high, "V", f"most to which {row.label} is charged, one cell")
    least = row.figure("v_least", row.stop_low, "V", f"least at which {row.label} is full, one cell")
    usual = (
        (Remedy(f"A board that stops at {row.v_max:g} V a cell", [release(at)]),) if build.board.cell_max_v is not None else ()
    )
    above = at_most(
        "pack.board-threshold",
        at,
        stops,
        most,
        lambda: stop(
            f"The board lets a cell go to {{v_full}}; {{v_most}} is the most that {row.label} stands.",
            "Overcharged cells swell and vent, and the board is the last thing that could have stopped it.",
            {"v_full": stops, "v_most": most},
            usual,
        ),
    )
    yield above
    if above.finding is not None:
        return

    def early() -> Fault:
        return mend(
            "The board stops charging at {v_full} a cell, below {v_least}: of the planned depth of {DoD}, {DoD_r} is reached.",
            "The cells are never full and never balanced, and the energy above the stop is carried for nothing.",
            {"v_full": stops, "v_least": least, "DoD": pack.depth, "DoD_r": pack.reached},
            usual,
        )

    yield at_least("pack.board-threshold", at, stops, least, early)


@judges("pack.sense-lead", "sense leads of the board", STOP)
def sense_leads(pack: PackSizing, build: CellPack) -> Iterator[Check]:
    """Each sense lead has a small fuse at its cell, which opens the fault that its copper lets through, and carries that fuse.

    Source: 1 to 2 A at the cell (practice); interrupt rating by voltage (protections table); A ≥ √(I²t)/k (IEC 60364-4-43).
    """
    board, at = pack.build.board, "/pack/board/sense"
    lead = board.sense if board else None
    if lead is None:
        return
    yield is_so(
        "pack.sense-lead",
        "/pack/board/sense_fused",
        lead.fuse is not None,
        lambda: stop(
            "The sense leads of {gauge} have no fuse at their cells: two that touch carry {I_fault}.",
            "They run side by side over every cell: one chafed through lights the whole loom.",
            {"gauge": lead.run.gauge, "I_fault": lead.fault},
            (Remedy("A small fuse in each, at its cell", [set_value("/pack/board/sense_fused", True)]),),
        ),
    )
    if lead.fuse is None or lead.run.short is None:
        return
    fuse, short = lead.fuse, lead.run.short
    usual = (Remedy("Let the gauge of the sense leads be chosen", [release(f"{at}/gauge")]),) if build.board.sense.gauge else ()
    figures = {"gauge": lead.run.gauge, "I_fuse": fuse, "I_amp": lead.run.ampacity, "A_min": short}
    thin = stop(
        "The sense leads of {gauge} are too thin for their fuse of {I_fuse}: they carry {I_amp}, and a short asks for {A_min}.",
        "In a short all the heat stays in the copper: too thin, its insulation is gone in a hundredth of a second.",
        figures,
        usual,
    )
    yield at_most("pack.sense-lead", at, fuse, lead.run.ampacity, lambda: thin)
    yield at_least("pack.sense-lead", at, lead.run.area, short, lambda: thin)
    longer = (
        (Remedy(f"Leads of {write_quantity(0.5, 'm')}", [set_value(f"{at}/length_m", 0.5)]),)
        if build.board.sense.length_m < 0.5
        else ()
    )
    yield at_least(
        "pack.sense-lead",
        at,
        lead.interrupts,
        lead.fault,
        lambda: stop(
            "The small fuses of the sense leads open {I_int}; two leads that touch carry {I_fault}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning.",
            {"I_int": lead.interrupts, "I_fault": lead.fault},
            longer,
        ),
    )
