"""Anything that gives power by the hour through a wide-input controller: wind, water, a bicycle."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.charging.kinds.base import (
    COMMON,
    ChargingSource,
    Powers,
    Share,
    SourceContext,
    SourceFacts,
    SourceKind,
    SourceSizing,
    Spans,
    decided,
    own_or,
)
from kegcart.core.document import FieldWords, Words
from kegcart.core.figure import Figure
from kegcart.core.reference import assumption
from kegcart.core.reference.boxes import BodyType
from kegcart.core.units import Power, series_reader


class ByHour(ChargingSource):
    """A generator whose power is known by the hour, and its controller."""

    kind: Literal["by_hour"]
    watts: Power = Field(50, description="power in the hours in which it gives, W")
    hourly_w: Annotated[list[Power], Field(min_length=24, max_length=24), BeforeValidator(series_reader("W"))] | None = Field(
        None, description="power of each hour of the day from midnight, W; null: `watts` throughout"
    )
    efficiency: Share | None = Field(None, description="of its controller; null: typical")


class ByHourKind(SourceKind[ByHour]):
    """The duties of a source by the hour."""

    key = "by_hour"
    model = ByHour
    facts = SourceFacts(
        words=Words(
            "wide-input controller",
            "a wide-input controller",
            "wind, water or anything else by the hour",
            "Wide-input controller",
        ),
        currents="",
        rate="charge_rate",
        ends="its current",
        fields=(
            FieldWords("watts", "It gives", "quantity", "W"),
            FieldWords("hourly_w", "Or by the hour from midnight", "numbers", "W", "the same throughout"),
            FieldWords("efficiency", "Efficiency", "quantity", "%", "typical"),
            *COMMON,
        ),
        owes=(),
    )

    def usual_hours(self, source: ByHour, ctx: SourceContext) -> Spans:
        return [(0.0, 24.0)]

    def units(self, source: ByHour) -> tuple[int, int]:
        return 1, 1

    def limits(self, source: ByHour, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """Its strongest hour, at the lowest voltage of what it charges. Source: P = U · I, efficiency is output over input."""
        of = {"η": self.efficiency(source, sizing, ctx), "P": strongest(source, sizing), "V_0": ctx.charged.empty}
        return {"its strongest hour": Figure.by("I_most", "η · P / V_0", "A", "what its strongest hour gives", of)}

    def body(self, source: ByHour, sizing: SourceSizing) -> BodyType | None:
        return None

    def efficiency(self, source: ByHour, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """As typed, or typical (assumptions table)."""
        return own_or("η", source.efficiency, "wide_input_eta", "share", "efficiency of the controller", sizing, "efficiency")

    def usual_draw(self, source: ByHour, sizing: SourceSizing) -> Figure | None:
        """Typical of a controller (assumptions table)."""
        return assumption("solar_idle")

    def powers(self, source: ByHour, sizing: SourceSizing, month: int, days: int) -> Powers:
        """Its hours with the power that its controller makes of them."""
        eta = sizing.efficiency.number
        if source.hourly_w is None:
            return tuple((begin, end, eta * source.watts) for begin, end in sizing.hours)
        inside = [(h, w) for h, w in enumerate(source.hourly_w) if any(a <= h < b for a, b in sizing.hours)]
        return tuple((float(h), h + 1.0, eta * w) for h, w in inside if w > 0)

    def day_wh(self, source: ByHour, sizing: SourceSizing, month: int) -> Figure:
        """Its hours together. Source: energy is power times time (definition)."""
        whole = sum((end - begin) * watts for begin, end, watts in self.powers(source, sizing, month, 1))
        how = "power of each hour, less what its controller loses"
        return Figure.of("E_can", whole, "Wh", f"{sizing.name} can bring a day", how=how, inputs={"η": sizing.efficiency})

    def size(self, source: ByHour, sizing: SourceSizing, ctx: SourceContext) -> None:
        """Nothing besides."""


def strongest(source: ByHour, sizing: SourceSizing) -> Figure:
    """The power of its strongest hour, W."""
    if source.hourly_w is None:
        return decided("P", source.watts, "W", "power in the hours in which it gives", sizing, "watts")
    return decided("P", max(source.hourly_w), "W", "power of its strongest hour", sizing, "hourly_w")
