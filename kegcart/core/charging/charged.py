"""A bank as what charges it sees it: the pack, or a further bank. Filled by who knows the bank."""

from dataclasses import dataclass

from kegcart.core.figure import Figure
from kegcart.core.reference import Chemistry, SetPoint, set_points


@dataclass(frozen=True, slots=True, eq=False)
class Charged:
    """Voltages in V, currents in A, capacity in Ah, resistance in Ω.

    limit: what cells and board may be charged with. stop_v: where the board ends a charge, a cell; None without a board.
    modules: blocks in series, and strings in parallel, of which each may have a charger of its own.
    """

    key: str
    name: str
    pointer: str
    row: Chemistry
    series: Figure
    capacity: Figure
    limit: Figure
    v_nom: Figure
    resistance: Figure
    empty: Figure
    """rested, at the bottom of its daily window, V"""
    stop_v: Figure | None
    modules: tuple[int, int]
    mass: Figure | None = None
    """of its cells, kg, where that is known"""

    def half_full(self) -> Figure:
        """Its voltage when it is rested and half full, V."""
        volts = self.series.number * self.row.open_circuit(0.5)
        return self.row.figure("V_mid", volts, "V", f"{self.name}, rested, half full")

    def set_point(self, goal: str) -> SetPoint:
        """The set points of its chemistry for a goal."""
        return set_points()[self.row.key, goal]
