"""Another station, or a power bank: a store that empties as it charges this one."""

from typing import Literal

from pydantic import Field

from kegcart.core.charging.kinds.base import (
    COMMON,
    ChargingSource,
    Share,
    SourceContext,
    SourceFacts,
    SourceKind,
    SourceSizing,
    Spans,
    decided,
    own_or,
    plugged_hours,
)
from kegcart.core.document import FieldWords, Words
from kegcart.core.figure import Figure
from kegcart.core.reference.boxes import BodyType
from kegcart.core.units import Energy, Power


class AnotherStation(ChargingSource):
    """Another store of energy: what it gives at most, and what it holds."""

    kind: Literal["station"]
    watts: Power = Field(100, description="greatest power of its output, W")
    holds_wh: Energy | None = Field(None, description="energy that it can give away; null: more than is asked")
    efficiency: Share | None = Field(None, description="from its output into this one; null: typical")


class StationKind(SourceKind[AnotherStation]):
    """The duties of another station."""

    key = "station"
    model = AnotherStation
    facts = SourceFacts(
        words=Words("another station", "another station", "another station or power bank", "Another station"),
        currents="",
        rate="charge_rate",
        ends="its current",
        fields=(
            FieldWords("watts", "Its output gives", "quantity", "W"),
            FieldWords("holds_wh", "It can give away", "quantity", "Wh", "more than is asked"),
            FieldWords("efficiency", "Efficiency", "quantity", "%", "typical"),
            *COMMON,
        ),
        owes=(),
    )

    while_plugged = True

    def usual_hours(self, source: AnotherStation, ctx: SourceContext) -> Spans:
        return plugged_hours(ctx.brief)

    def units(self, source: AnotherStation) -> tuple[int, int]:
        return 1, 1

    def limits(self, source: AnotherStation, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """What its output gives. Source: P = U · I, efficiency is output over input."""
        watts = decided("P", source.watts, "W", "greatest power of its output", sizing, "watts")
        of = {"η": self.efficiency(source, sizing, ctx), "P": watts, "V_set": sizing.set_point}
        return {"its output": Figure.by("I_out", "η · P / V_set", "A", "what its output gives", of)}

    def body(self, source: AnotherStation, sizing: SourceSizing) -> BodyType | None:
        return None

    def efficiency(self, source: AnotherStation, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """As typed, or typical (assumptions table)."""
        return own_or("η", source.efficiency, "station_eta", "share", "from its output into this one", sizing, "efficiency")

    def day_wh(self, source: AnotherStation, sizing: SourceSizing, month: int) -> Figure:
        """What its hours bring, and no more than it holds. Source: energy is power times time (definition)."""
        whole = super().day_wh(source, sizing, month)
        if source.holds_wh is None:
            return whole
        holds = decided("E_holds", source.holds_wh, "Wh", "it can give away", sizing, "holds_wh")
        of = {"E_can": whole, "η": sizing.efficiency, "E_holds": holds}
        return Figure.by("E_can", "min(E_can, η · E_holds)", "Wh", f"{sizing.name} can bring a day", of)

    def holds_wh(self, source: AnotherStation) -> float:
        return float("inf") if source.holds_wh is None else source.holds_wh

    def size(self, source: AnotherStation, sizing: SourceSizing, ctx: SourceContext) -> None:
        """Nothing besides."""
