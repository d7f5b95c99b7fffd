"""What is judged of the pack that needs no power path."""

from collections.abc import Iterator, Mapping

from kegcart.core.brief.sizing import Site
from kegcart.core.check import Check
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.pack.rules.board import board_chemistry, board_series, sense_leads
from kegcart.core.pack.rules.groups import cells_elsewhere, groups
from kegcart.core.pack.rules.lead import judge_lead
from kegcart.core.pack.rules.strings import bank
from kegcart.core.pack.rules.use import cold_capacity, cold_charge, cold_use, depth, freezing, starting_battery, voltage_over_60
from kegcart.core.pack.sizing import PackSizing


def judge_pack(pack: PackSizing, loads: LoadsSizing, site: Site, elsewhere: Mapping[str, str]) -> Iterator[Check]:
    """Every check that needs the pack and the loads, the power path apart. elsewhere: cells that another build holds, label -> build."""
    yield depth(pack)
    yield cold_capacity(pack)
    yield voltage_over_60(pack)
    yield from starting_battery(pack, loads)
    yield from cold_charge(pack, site)
    if pack.chemistry.kind == "lead":
        yield freezing(pack.chemistry, pack.depth, site, "/pack/depth")
    else:
        yield cold_use(pack.chemistry, site, "/pack/chemistry")
    yield from judge_lead(pack)
    if isinstance(pack.pack, CellPack):
        yield from board_series(pack)
        yield from board_chemistry(pack, pack.pack)
        yield from sense_leads(pack, pack.pack)
        yield from groups(pack, pack.pack)
        if pack.pack.groups:
            yield cells_elsewhere(elsewhere)
    if isinstance(pack.pack, Bank):
        yield from bank(pack, pack.pack)
