"""Mains chargers: beside the station or inside it, one for the pack, or one for each module or string."""

from typing import Annotated, Literal

from pydantic import Field

from kegcart.core.brief.document import OUTLET_VOLTAGE
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
from kegcart.core.document import FieldWords, Said, Words
from kegcart.core.figure import Figure
from kegcart.core.reference import ChargerClass, assumption, charger_class, sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Count, Current, Power

Each = Annotated[
    Literal["pack", "series", "string"],
    Said((("pack", "the whole pack"), ("series", "one module in series"), ("string", "one string"))),
]
MainsInput = Annotated[
    Literal["any", "120 V", "230 V"], Said((("any", "any, 100–240 V"), ("120 V", "120 V"), ("230 V", "230 V")))
]
PluggedInto = Annotated[
    Literal["wall", "own inverter"], Said((("wall", "a wall socket"), ("own inverter", "an outlet of this station")))
]


class MainsCharger(ChargingSource):
    """A charger on mains, or several alike."""

    kind: Literal["mains"]
    count: Count = Field(1, description="chargers alike")
    each: Each = Field("pack", description="what each of them charges")
    inside: bool = Field(False, description="it stands in the box, and warms it")
    senses: bool = Field(False, description="it senses the voltage at the posts, and makes up for its leads")
    efficiency: Share | None = Field(None, description="null: typical of its size")
    power_factor: Share | None = Field(None, description="null: typical of its size")
    input: MainsInput = "any"
    plugged_into: PluggedInto = "wall"
    circuit_a: Current | None = Field(None, description="breaker of the wall circuit; null: an ordinary one")
    circuit_other_w: Power = Field(0, description="what else runs on that circuit, W")


def mains_v(ctx: SourceContext) -> Figure:
    """The mains voltage of the brief, V."""
    return Figure.decided("U", OUTLET_VOLTAGE[ctx.brief.mains], "V", "mains voltage", "/brief/mains")


def circuit(source: MainsCharger, sizing: SourceSizing, ctx: SourceContext) -> Figure:
    """The breaker of the wall circuit, A. Source: as typed, or an ordinary one (assumptions table)."""
    key = "circuit_230" if OUTLET_VOLTAGE[ctx.brief.mains] == 230 else "circuit_120"
    return own_or("I_c", source.circuit_a, key, "A", "breaker of the wall circuit", sizing, "circuit_a")


class MainsKind(SourceKind[MainsCharger]):
    """The duties of a mains charger."""

    key = "mains"
    model = MainsCharger
    facts = SourceFacts(
        words=Words("mains charger", "a mains charger", "a mains charger", "Mains charger"),
        currents="charger",
        rate="charge_rate",
        ends="its current",
        fields=(
            FieldWords("count", "Chargers alike", "quantity"),
            FieldWords("each", "Each charges", "choice"),
            FieldWords("inside", "Stands in the box", "flag"),
            FieldWords("senses", "Senses at the posts", "flag"),
            FieldWords("plugged_into", "Plugged into", "choice"),
            FieldWords("circuit_a", "Breaker of that circuit", "quantity", "A", "an ordinary one"),
            FieldWords("circuit_other_w", "What else runs on it", "quantity", "W"),
            FieldWords("input", "Made for", "choice"),
            FieldWords("efficiency", "Efficiency", "quantity", "%", "typical of its size"),
            FieldWords("power_factor", "Power factor", "quantity", "%", "typical of its size"),
            *COMMON,
        ),
        owes=("charging.wall-circuit", "charging.mains-mismatch", "charging.module-chargers"),
    )

    while_plugged = True

    def usual_hours(self, source: MainsCharger, ctx: SourceContext) -> Spans:
        return plugged_hours(ctx.brief)

    def units(self, source: MainsCharger) -> tuple[int, int]:
        return (source.count, 1) if source.each == "series" else (1, source.count)

    def limits(self, source: MainsCharger, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """The largest sold that its wall circuit stands.

        Source: P = U · I · pf; practice: 80 % of a circuit for what runs for hours (assumptions table).
        """
        if source.plugged_into == "own inverter":
            return {}
        beside, volts = self.units(source)[1], mains_v(ctx)
        allowed, other = allowed_a(source, sizing, ctx), other_a(source, sizing, volts)

        def from_wall(amps: float) -> float:
            row = class_of(amps, sizing)
            eta, pf = source.efficiency or row.efficiency, source.power_factor or row.power_factor
            return source.count * sizing.set_point.number * amps / (eta * volts.number * pf)

        sold = sizes(self.facts.currents).sizes
        most = max((a for a in sold if from_wall(a) + other.number <= allowed.number + 1e-9), default=0.0)
        how = "largest sold with which the circuit stays within what it is loaded with for hours"
        inputs = {"I_allowed": allowed, "I_other": other}
        return {"the wall": Figure.of("I_wall", most * beside, "A", "what the wall circuit stands", how=how, inputs=inputs)}

    def body(self, source: MainsCharger, sizing: SourceSizing) -> BodyType | None:
        return body_type(self.key, rating=sizing.one.number * sizing.charged.v_nom.number)

    def efficiency(self, source: MainsCharger, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """As typed, or of a charger of its output. Source: chargers table."""
        row = class_of(sizing.one.number, sizing)
        if source.efficiency is not None:
            return decided("η", source.efficiency, "share", "efficiency of the charger", sizing, "efficiency")
        return row.figure("η", row.efficiency, "share", f"efficiency, {row.label}")

    def size(self, source: MainsCharger, sizing: SourceSizing, ctx: SourceContext) -> None:
        """What it asks of the wall, and what it leaves in the box.

        Source: P_ac = V·I/η, I_ac = P_ac/(U·pf) (definitions); power factor typical of its size (chargers table).
        """
        row, volts, put = class_of(sizing.one.number, sizing), mains_v(ctx), ctx.put
        factor = (
            decided("pf", source.power_factor, "share", "power factor", sizing, "power_factor")
            if source.power_factor is not None
            else row.figure("pf", row.power_factor, "share", f"power factor, {row.label}")
        )
        sizing.extra["wall_a"] = put(
            "wall_a", Figure.by("I_ac", "P_ac / (U · pf)", "A", "current from the wall", P_ac=sizing.taken_w, U=volts, pf=factor)
        )
        other = other_a(source, sizing, volts)
        total = Figure.by("I_sum", "I_ac + I_other", "A", "on that circuit together", I_ac=sizing.extra["wall_a"], I_other=other)
        sizing.extra |= {
            "circuit_a": put("circuit_a", total),
            "allowed_a": put("allowed_a", allowed_a(source, sizing, ctx)),
            "breaker_a": put("breaker_a", circuit(source, sizing, ctx)),
        }
        heat = Figure.by("Q", "P_ac · (1 − η)", "W", "heat of the charger", P_ac=sizing.taken_w, η=sizing.efficiency)
        sizing.extra["heat"] = put("heat", heat)


def class_of(amps: float, sizing: SourceSizing) -> ChargerClass:
    """The class of a charger of so many A at its set point."""
    return charger_class(amps * sizing.set_point.number)


def allowed_a(source: MainsCharger, sizing: SourceSizing, ctx: SourceContext) -> Figure:
    """What a wall circuit is loaded with for hours, A. Source: practice: 80 % of its breaker (assumptions table)."""
    of = {"k_w": assumption("wall_share"), "I_c": circuit(source, sizing, ctx)}
    return Figure.by("I_allowed", "k_w · I_c", "A", "for hours on a wall circuit", of)


def other_a(source: MainsCharger, sizing: SourceSizing, volts: Figure) -> Figure:
    """What else runs on that circuit, A. Source: P = U · I."""
    watts = decided("P_other", source.circuit_other_w, "W", "what else runs on that circuit", sizing, "circuit_other_w")
    return Figure.by("I_other", "P_other / U", "A", "what else runs on that circuit", P_other=watts, U=volts)
