"""An adjustable step-down converter: constant voltage and current from any higher DC supply."""

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
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Power, Voltage


class StepDown(ChargingSource):
    """A converter set to a voltage and a current, behind a supply of a higher voltage."""

    kind: Literal["step_down"]
    supply_v: Voltage = Field(24, description="voltage of what feeds it")
    supply_w: Power | None = Field(None, description="greatest power of what feeds it; null: it is not the limit")
    window_min_v: Voltage | None = Field(None, description="lowest input of its sheet; null: not said")
    window_max_v: Voltage | None = Field(None, description="highest input of its sheet; null: not said")
    efficiency: Share | None = Field(None, description="null: typical")


class StepDownKind(SourceKind[StepDown]):
    """The duties of a step-down converter."""

    key = "step_down"
    model = StepDown
    facts = SourceFacts(
        words=Words("step-down converter", "a step-down converter", "an adjustable step-down converter", "Step-down converter"),
        currents="step-down",
        rate="charge_rate",
        ends="never",
        fields=(
            FieldWords("supply_v", "It is fed with", "quantity", "V"),
            FieldWords("supply_w", "What feeds it gives", "quantity", "W", "enough"),
            FieldWords("window_min_v", "Lowest input", "quantity", "V", "not said"),
            FieldWords("window_max_v", "Highest input", "quantity", "V", "not said"),
            FieldWords("efficiency", "Efficiency", "quantity", "%", "typical"),
            *COMMON,
        ),
        owes=("charging.input-window",),
    )

    while_plugged = True

    def usual_hours(self, source: StepDown, ctx: SourceContext) -> Spans:
        return plugged_hours(ctx.brief)

    def units(self, source: StepDown) -> tuple[int, int]:
        return 1, 1

    def limits(self, source: StepDown, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """What feeds it. Source: P = U · I, efficiency is output over input."""
        if source.supply_w is None:
            return {}
        watts = decided("P", source.supply_w, "W", "what feeds it gives", sizing, "supply_w")
        of = {"η": self.efficiency(source, sizing, ctx), "P": watts, "V_set": sizing.set_point}
        return {"what feeds it": Figure.by("I_supply", "η · P / V_set", "A", "what its supply gives", of)}

    def body(self, source: StepDown, sizing: SourceSizing) -> BodyType | None:
        return body_type(self.key)

    def efficiency(self, source: StepDown, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """As typed, or typical (assumptions table)."""
        return own_or("η", source.efficiency, "step_down_eta", "share", "efficiency of the converter", sizing, "efficiency")

    def size(self, source: StepDown, sizing: SourceSizing, ctx: SourceContext) -> None:
        """What it takes of its supply, A. Source: P = U · I."""
        volts = decided("U", source.supply_v, "V", "voltage of what feeds it", sizing, "supply_v")
        sizing.extra["supply_v"] = ctx.put("supply_v", volts)
        taken = Figure.by("I_in", "P_in / U", "A", "taken from what feeds it", P_in=sizing.taken_w, U=volts)
        sizing.extra["input_a"] = ctx.put("input_a", taken)
