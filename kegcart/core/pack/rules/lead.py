"""What is lead's own: the cells in a block as it is sold, and the gas that it gives off where it is charged."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Check, Fault, at_least, failed, held, mend, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.pack.document import Bank, BatteryPack
from kegcart.core.pack.hydrogen import hydrogen_air, hydrogen_opening
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.reference import Chemistry
from kegcart.core.units import write_quantity

USUAL = (1, 3, 6, 12)
"""Cells in a block of 2, 6, 12 and 24 V."""
SELDOM = (2, 4)
"""Blocks of 4 and 8 V: there are some, for lift trucks and golf cars."""


@judges("pack.block", "cells in a lead battery", MEND, NOTE)
def block(row: Chemistry, series: float, place: str) -> Check:
    """A lead battery has as many cells as blocks are sold with: six in one of 12 V.

    Source: makers' lists: 2, 6, 12 and 24 V, seldom 4 and 8 V.
    """
    cells = int(series)
    if cells in USUAL:
        return held("pack.block", place)
    volts = Figure.by(
        "V",
        "S · v",
        "V",
        "its voltage",
        S=Figure.decided("S", cells, "", "cells", place),
        v=row.figure("v", row.v_nom, "V", "of a cell"),
    )
    remedy = (Remedy("Six cells: a battery of 12 V", [set_value(place, 6)]),)
    sentence, why = "This lead battery has {S} cells, {V}", "Every voltage of the build rests on it: six cells are usual, 12 V."
    figures = {"S": Figure.decided("S", cells, "", "cells", place), "V": volts}
    told = note(f"{sentence}, which is seldom sold.", why, figures, remedy)
    return failed("pack.block", place, told if cells in SELDOM else mend(f"{sentence}: none is sold.", why, figures, remedy))


@judges("box.gas", "hydrogen where lead is charged", STOP)
def gas(pack: PackSizing) -> Iterator[Check]:
    """Where lead is charged, an opening low and one high let its hydrogen out.

    Source: IEC 62485-2: Q = 0.05 · n · I_gas · C, opening 28 · Q cm²; I_gas at boost 20 mA/Ah flooded, 8 mA/Ah AGM.
    """
    row = pack.chemistry
    if row.kind != "lead" or row.gas_ma_ah is None:
        return
    air = hydrogen_air(row, pack.series, pack.capacity)
    needed = hydrogen_opening(air)
    at = "/pack/gas_opening_cm2"
    own = Figure.decided("A_own", pack.pack.gas_opening_cm2 or 0.0, "cm²", "opening, each", at)

    def fault() -> Fault:
        wanted = float(-(-needed.number // 1))
        return stop(
            "Charged, it gives off hydrogen: {Q} of air carry it off, through {A} low and as much high; {A_own} is decided.",
            "Four parts of hydrogen in a hundred of air explode at the spark of a switch. Inverter, relay and switch stand in a space"
            " of their own.",
            {"Q": air, "A": needed, "A_own": own},
            (Remedy(f"Two openings of {write_quantity(wanted, 'cm²')}, outward, low and high", [set_value(at, wanted)]),),
        )

    yield at_least("box.gas", at, own, needed, fault, station="pack")


def judge_lead(pack: PackSizing) -> Iterator[Check]:
    """What is judged of a pack of lead."""
    if pack.chemistry.kind != "lead":
        return
    if isinstance(pack.pack, BatteryPack | Bank):
        yield block(pack.chemistry, pack.pack.battery.series, "/pack/battery/series")
    yield from gas(pack)
