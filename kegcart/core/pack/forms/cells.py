"""Loose cells built up to S groups of P."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, ClassVar

from kegcart.core.brief.sizing import Site
from kegcart.core.figure import Figure, Sheet
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.build import Build
from kegcart.core.pack.cells import MOST_PARALLEL, charge_stop, size_cells
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.energy import Kept
from kegcart.core.pack.forms.base import BoardCurrents, ColdLock, PackForm
from kegcart.core.reference import Chemistry, constant, sizes

if TYPE_CHECKING:
    from kegcart.core.pack.sizing import PackSizing

LINK_FIELDS = ("material", "width_mm", "thickness_mm", "layers")


class CellsForm(PackForm[CellPack]):
    """Loose cells with a board of their own."""

    names: ClassVar[Mapping[str, str]] = {"cells": "loose cells"}
    owes = ("pack.current", "pack.depth", "pack.voltage-over-60", "pack.freeze", "pack.links")
    board_owes = ("pack.board-series", "pack.board-chemistry", "pack.board-threshold", "pack.sense-lead")
    series_place = "/pack/series"

    def size(self, pack: CellPack, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
        return size_cells(pack, row, loads, site, kept, sheet)

    def cell_ohm(self, pack: CellPack, row: Chemistry) -> float:
        ohm = (pack.cell.resistance_mohm or row.r_ah_mohm / pack.cell.capacity_ah) / 1000
        return ohm * (constant("dc_resistance_ratio") if pack.cell.resistance_by == "1khz" else 1.0)

    def stops_at(self, pack: CellPack) -> Figure | None:
        return charge_stop(pack)

    def board_draw(self, sizing: "PackSizing") -> tuple[str, str, Figure, Figure] | None:
        board = sizing.build.board
        if board is None:
            return None
        return "/pack/board", "Protection board", board.own_draw, Figure.of("n", 1, "", "board", how="one for the whole pack")

    def protection(self, sizing: "PackSizing") -> BoardCurrents | None:
        board = sizing.build.board
        return BoardCurrents(board.continuous, board.burst, board.charge) if board else None

    def cutoff_pinned(self, pack: CellPack) -> bool:
        return pack.board.cell_min_v is not None

    def cold_lock(self, sizing: "PackSizing") -> ColdLock | None:
        board = sizing.build.board
        return ColdLock(board.cold_lock if board else True, "/pack/board/cold_lock", None)

    def grown(self, sizing: "PackSizing", factor: float) -> tuple[Remedy, ...]:
        build = own(sizing)
        wanted = math.ceil(sizing.parallel.number * factor - 1e-9)
        if wanted > MOST_PARALLEL:
            return ()
        label = f"{wanted} cells in parallel, {wanted * build.cell.capacity_ah:g} Ah"
        return (Remedy(label, [set_value("/pack/parallel", wanted), *without_groups(build)]),)

    def strengthened(self, sizing: "PackSizing", needed_a: float, burst_a: float) -> tuple[Remedy, ...]:
        build, parts, patch = own(sizing), [], []
        needed_a = max(needed_a, burst_a / constant("board_burst"))
        boards, board = sizes("board"), sizing.build.board
        if board and board.continuous.number < needed_a:
            if boards.sizes[-1] < needed_a:
                return ()
            patch.append(set_value("/pack/board/continuous_a", boards.pick(needed_a)))
            parts.append(f"a board of {boards.pick(needed_a):g} A")
        if board and build.board.burst_a is not None and board.burst.number < burst_a:
            patch.append(release("/pack/board/burst_a"))
        one_a = (sizing.continuous.inputs or {})["cells"].number / sizing.parallel.number
        wanted = math.ceil(needed_a / one_a - 1e-9)
        if wanted > MOST_PARALLEL:
            return ()
        if wanted > sizing.parallel.number:
            patch += [set_value("/pack/parallel", wanted), *without_groups(build)]
            parts.append(f"{wanted} cells in parallel")
        if link_pinned(build):
            patch += release_link()
            parts.append("links to match")
        label = " and ".join(parts)
        return (Remedy(label[:1].upper() + label[1:], patch),) if patch else ()

    def with_series(self, sizing: "PackSizing", cells: int) -> tuple[Remedy, ...]:
        return (Remedy(f"{cells} cells in series", [set_value("/pack/series", cells)]),)

    def recast(self, sizing: "PackSizing", cells: int) -> list[dict[str, Any]]:
        fewer = max(1, round(sizing.parallel.number * sizing.series.number / cells))
        return [set_value("/pack/series", cells), set_value("/pack/parallel", fewer)]


def own(sizing: "PackSizing") -> CellPack:
    """The pack as decided, which is one of cells."""
    assert isinstance(sizing.pack, CellPack)
    return sizing.pack


def without_groups(build: CellPack) -> list[dict[str, Any]]:
    """What takes sorted cells out of a pack that is about to have other groups."""
    return [set_value("/pack/groups", {})] if build.groups else []


def link_pinned(build: CellPack) -> bool:
    """Whether anything of the link was pinned."""
    return any(getattr(build.link, name) is not None for name in LINK_FIELDS)


def release_link() -> list[dict[str, Any]]:
    """The operations that give the link back to auto."""
    return [release(f"/pack/link/{name}") for name in LINK_FIELDS]
