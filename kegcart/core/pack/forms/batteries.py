"""Finished batteries: one, or several (batteries, or modules with own boards) in series and in parallel."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, ClassVar

from kegcart.core.brief.sizing import Site
from kegcart.core.choice import assumed
from kegcart.core.figure import Figure, Sheet
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.bank import MOST_STRINGS, size_bank
from kegcart.core.pack.build import Build
from kegcart.core.pack.document import Bank, Battery, BatteryPack
from kegcart.core.pack.energy import Kept
from kegcart.core.pack.forms.base import LARGEST, BoardCurrents, ColdLock, PackForm
from kegcart.core.reference import Chemistry, constant

if TYPE_CHECKING:
    from kegcart.core.pack.sizing import PackSizing


class OneBatteryForm(PackForm[BatteryPack]):
    """One finished battery."""

    names: ClassVar[Mapping[str, str]] = {"battery": "one finished battery"}
    owes = ("pack.current", "pack.depth", "pack.voltage-over-60", "pack.freeze")
    series_place = "/pack/battery/series"

    def size(self, pack: BatteryPack, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
        return size_bank(pack, row, loads, site, kept, sheet)

    def cell_ohm(self, pack: BatteryPack, row: Chemistry) -> float:
        return cell_ohm_of(pack.battery, row)

    def stops_at(self, pack: BatteryPack) -> Figure | None:
        return None

    def board_draw(self, sizing: "PackSizing") -> tuple[str, str, Figure, Figure] | None:
        assert isinstance(sizing.pack, BatteryPack)
        return board_inside(sizing, sizing.pack.battery)

    def protection(self, sizing: "PackSizing") -> BoardCurrents | None:
        return protection_inside(sizing)

    def cutoff_pinned(self, pack: BatteryPack) -> bool:
        return False

    def cold_lock(self, sizing: "PackSizing") -> ColdLock | None:
        assert isinstance(sizing.pack, BatteryPack)
        return lock_inside(sizing, sizing.pack.battery)

    def grown(self, sizing: "PackSizing", factor: float) -> tuple[Remedy, ...]:
        assert isinstance(sizing.pack, BatteryPack)
        wanted_ah = math.ceil(sizing.pack.battery.capacity_ah * factor / 10) * 10
        if wanted_ah > LARGEST:
            return ()
        return (Remedy(f"A battery of {wanted_ah} Ah", [set_value("/pack/battery/capacity_ah", wanted_ah)]),)

    def strengthened(self, sizing: "PackSizing", needed_a: float, burst_a: float) -> tuple[Remedy, ...]:
        assert isinstance(sizing.pack, BatteryPack)
        battery = sizing.pack.battery
        wanted = math.ceil(max(needed_a, burst_a / constant("board_burst")) / 10) * 10
        patch = [set_value("/pack/battery/continuous_a", wanted)]
        if battery.burst_a is not None and battery.burst_a < burst_a:
            patch.append(release("/pack/battery/burst_a"))
        return (Remedy(f"A battery that gives {wanted} A", patch),) if wanted <= LARGEST else ()

    def with_series(self, sizing: "PackSizing", cells: int) -> tuple[Remedy, ...]:
        return (Remedy(f"A battery of {cells} cells in series", [set_value("/pack/battery/series", cells)]),)

    def recast(self, sizing: "PackSizing", cells: int) -> list[dict[str, Any]]:
        return []


class BankForm(PackForm[Bank]):
    """Batteries or modules together."""

    names: ClassVar[Mapping[str, str]] = {"batteries": "batteries in series and parallel", "modules": "modules with own boards"}
    owes = ("pack.current", "pack.depth", "pack.voltage-over-60", "pack.freeze", "pack.series-limit", "pack.too-many-strings")
    series_place = "/pack/battery/series"

    def size(self, pack: Bank, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
        return size_bank(pack, row, loads, site, kept, sheet)

    def cell_ohm(self, pack: Bank, row: Chemistry) -> float:
        return cell_ohm_of(pack.battery, row)

    def stops_at(self, pack: Bank) -> Figure | None:
        return None

    def board_draw(self, sizing: "PackSizing") -> tuple[str, str, Figure, Figure] | None:
        assert isinstance(sizing.pack, Bank)
        return board_inside(sizing, sizing.pack.battery)

    def protection(self, sizing: "PackSizing") -> BoardCurrents | None:
        return protection_inside(sizing)

    def cutoff_pinned(self, pack: Bank) -> bool:
        return False

    def cold_lock(self, sizing: "PackSizing") -> ColdLock | None:
        assert isinstance(sizing.pack, Bank)
        return lock_inside(sizing, sizing.pack.battery)

    def grown(self, sizing: "PackSizing", factor: float) -> tuple[Remedy, ...]:
        assert isinstance(sizing.pack, Bank)
        wanted = math.ceil(sizing.parallel.number * factor - 1e-9)
        if wanted > MOST_STRINGS:
            return ()
        label = f"{wanted} strings in parallel, {wanted * sizing.pack.battery.capacity_ah:g} Ah"
        return (Remedy(label, [set_value("/pack/parallel", wanted)]),)

    def strengthened(self, sizing: "PackSizing", needed_a: float, burst_a: float) -> tuple[Remedy, ...]:
        needed_a = max(needed_a, burst_a / constant("board_burst"))
        wanted = math.ceil(sizing.parallel.number * needed_a / sizing.continuous.number - 1e-9)
        if wanted > MOST_STRINGS:
            return ()
        return (Remedy(f"{wanted} strings in parallel", [set_value("/pack/parallel", wanted)]),)

    def with_series(self, sizing: "PackSizing", cells: int) -> tuple[Remedy, ...]:
        """Fewer or more of them in series, where they add up to that."""
        assert isinstance(sizing.pack, Bank)
        whole, rest = divmod(cells, sizing.pack.battery.series)
        return (Remedy(f"{whole} in series", [set_value("/pack/in_series", whole)]),) if whole and not rest else ()

    def recast(self, sizing: "PackSizing", cells: int) -> list[dict[str, Any]]:
        return []


def cell_ohm_of(battery: Battery, row: Chemistry) -> float:
    """DC resistance of one cell inside a finished battery, Ω: of its sheet, or typical of its chemistry.

    Source: the sheet's resistance shared over its cells; else typical by capacity (chemistries table).
    """
    whole = battery.resistance_mohm
    typical = row.r_ah_mohm / battery.capacity_ah * constant("dc_resistance_ratio")
    return (whole / battery.series if whole else typical) / 1000


def board_inside(sizing: "PackSizing", battery: Battery) -> tuple[str, str, Figure, Figure] | None:
    """The boards inside finished lithium batteries, one in each string."""
    if sizing.chemistry.kind != "lithium":
        return None
    own = None if battery.own_draw_ma is None else battery.own_draw_ma / 1000
    amps = assumed("I_own", own, "board_own", "A", "own draw of its board", "/pack/battery/own_draw_ma")
    return "/pack/battery", "Board inside the battery", amps, sizing.parallel


def protection_inside(sizing: "PackSizing") -> BoardCurrents | None:
    """What the boards inside lithium batteries let through together: until that of the hardest-worked string opens."""
    if sizing.chemistry.kind == "lead":
        return None
    continuous, burst = next(iter(sizing.build.limits.values()))  # of its electronics, the first; string fuses come after
    return BoardCurrents(continuous, burst, sizing.charge_limit)


def lock_inside(sizing: "PackSizing", battery: Battery) -> ColdLock | None:
    """Whether the board inside locks charging in the cold; lead has no need of it."""
    if sizing.chemistry.kind == "lead":
        return None
    return ColdLock(battery.cold_lock, "/pack/battery/cold_lock", True)
