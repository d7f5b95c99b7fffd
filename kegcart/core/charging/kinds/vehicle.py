"""Charging from a vehicle: through a converter that limits the current, or straight from its alternator."""

from typing import Annotated, Literal

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
    own_or,
)
from kegcart.core.choice import sized
from kegcart.core.document import FieldWords, Said, Words
from kegcart.core.electrical import conductors, protection
from kegcart.core.electrical.cables import Duty, Practice, Put, RunSizing, least_section, let_through_figure, size_run
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.reference import assumption, constant, wires
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current, Voltage

By = Annotated[
    Literal["converter", "straight"],
    Said((("converter", "a charging converter"), ("straight", "straight, relay or switch only"))),
]
Alternator = Annotated[
    Literal["plain", "smart"], Said((("plain", "plain: holds its voltage"), ("smart", "smart: 12.2 to 15 V as it likes")))
]
Starts = Annotated[
    Literal["voltage", "ignition", "by hand"],
    Said((("voltage", "by voltage: on from 13.3 V, off at 12.8 V"), ("ignition", "by the ignition"), ("by hand", "by hand"))),
]
System = Annotated[Literal["12 V", "24 V"], Said((("12 V", "12 V"), ("24 V", "24 V")))]


class Vehicle(ChargingSource):
    """The alternator of a vehicle, and what leads from it to the station."""

    kind: Literal["vehicle"]
    by: By = "converter"
    system: System = "12 V"
    alternator_a: Current | None = Field(None, description="rating of the alternator; null: an ordinary one")
    alternator: Alternator = "plain"
    alternator_v: Voltage | None = Field(None, description="voltage that it holds; null: typical")
    starts: Starts = "ignition"
    efficiency: Share | None = Field(None, description="of the converter; null: typical")
    isolated: bool = Field(False, description="its converter parts the negative of the vehicle from that of the station")
    run: Run = Field(default_factory=lambda: Run(length_m=5.0), description="cable from the vehicle's battery, one way")
    fuse_a: Current | None = Field(None, description="fuse at the vehicle's battery; null: chosen")
    accepted: bool = Field(False, description="a straight connection, calculated, was decided for")


def lowest_v(source: Vehicle) -> Figure:
    """The lowest voltage at which its converter works, V."""
    return assumption("vehicle_24_v" if source.system == "24 V" else "vehicle_v")


def alternator_v(source: Vehicle, sizing: SourceSizing) -> Figure:
    """What the alternator holds, V."""
    key = "alternator_24_v" if source.system == "24 V" else "alternator_v"
    return own_or("V_alt", source.alternator_v, key, "V", "voltage of the alternator", sizing, "alternator_v")


def alternator_a(source: Vehicle, sizing: SourceSizing) -> Figure:
    """What the alternator is rated for, A."""
    return own_or("I_alt", source.alternator_a, "alternator_a", "A", "rating of the alternator", sizing, "alternator_a")


def lasting_a(source: Vehicle, sizing: SourceSizing) -> Figure:
    """What an alternator gives for long at hot idle, A. Source: practice: half its plate (assumptions table)."""
    of = {"k_alt": assumption("alternator_share"), "I_alt": alternator_a(source, sizing)}
    return Figure.by("I_hot", "k_alt · I_alt", "A", "what the alternator gives for long at hot idle", of)


class VehicleKind(SourceKind[Vehicle]):
    """The duties of a vehicle."""

    key = "vehicle"
    model = Vehicle
    facts = SourceFacts(
        words=Words("vehicle", "a vehicle", "a vehicle", "Vehicle"),
        currents="vehicle-converter",
        rate="charge_rate",
        ends="its current",
        fields=(
            FieldWords("by", "Through", "choice"),
            FieldWords("system", "System", "choice"),
            FieldWords("alternator_a", "Alternator", "quantity", "A", "an ordinary one"),
            FieldWords("alternator", "It is", "choice"),
            FieldWords("alternator_v", "It holds", "quantity", "V", "typical"),
            FieldWords("starts", "Switched on", "choice"),
            FieldWords("run/length_m", "Cable from its battery", "quantity", "m"),
            FieldWords("isolated", "Isolated: its negatives are parted", "flag"),
            FieldWords("efficiency", "Efficiency", "quantity", "%", "typical"),
            *COMMON,
        ),
        owes=("charging.vehicle-direct", "charging.alternator", "charging.vehicle-start", "charging.isolation"),
    )

    def usual_hours(self, source: Vehicle, ctx: SourceContext) -> Spans:
        """A day's drive from the hour it leaves."""
        begins, hours = ctx.brief.ready_h % 24, constant("engine_hours")
        return [(begins, begins + hours)] if begins + hours <= 24 else [(0.0, begins + hours - 24), (begins, 24.0)]

    def units(self, source: Vehicle) -> tuple[int, int]:
        return 1, 1

    def limits(self, source: Vehicle, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """What the alternator gives for long, by way of the converter. Source: P = U · I, efficiency is output over input."""
        if source.by == "straight":
            return {}
        of = {
            "η": self.efficiency(source, sizing, ctx),
            "V_in": lowest_v(source),
            "I_hot": lasting_a(source, sizing),
            "V_out": sizing.set_point,
        }
        return {"the alternator": Figure.by("I_most", "η · V_in · I_hot / V_out", "A", "what the alternator gives for long", of)}

    def flows(self, source: Vehicle, sizing: SourceSizing, ctx: SourceContext) -> Figure | None:
        """Straight, only resistance limits the current, A.

        Source: Ohm's law: I = (V_alt − V_pack)/ΣR, with an empty pack and cold copper.
        """
        if source.by == "converter":
            return None
        gauge = source.run.gauge or self.straight_gauge(source, sizing, ctx)
        area = wires()[gauge].area_mm2
        copper = Figure.of(
            "R_cable",
            conductors.resistance(2 * source.run.length_m, area * source.run.parallel),
            "Ω",
            f"cable of {gauge}, cold, both legs",
            how="ρ20 · 2 · L / A",
        )
        of = {
            "V_alt": alternator_v(source, sizing),
            "V_0": ctx.charged.empty,
            "R": ctx.charged.resistance,
            "R_cable": copper,
            "R_c": assumption("straight_contacts"),
        }
        return Figure.by("I", "max(0, V_alt − V_0) / (R + R_cable + R_c)", "A", "current that only resistance limits", of)

    def straight_gauge(self, source: Vehicle, sizing: SourceSizing, ctx: SourceContext) -> str:
        """The gauge of a straight cable that is left to choice: for what the alternator gives for long."""
        return str(self.cable(source, lasting_a(source, sizing), sizing, ctx, lambda name, figure: figure).gauge.value)

    def body(self, source: Vehicle, sizing: SourceSizing) -> BodyType | None:
        """Its converter; a straight wire is none."""
        return body_type(self.key, rating=sizing.current.number) if source.by == "converter" else None

    def efficiency(self, source: Vehicle, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """As typed, or typical (assumptions table)."""
        if source.by == "straight":
            return Figure.of("η", 1.0, "share", "efficiency", how="nothing is converted")
        return own_or("η", source.efficiency, "vehicle_eta", "share", "efficiency of the converter", sizing, "efficiency")

    def size(self, source: Vehicle, sizing: SourceSizing, ctx: SourceContext) -> None:
        """Its input current, the fuse at the vehicle's battery, the cable from there.

        Source: I_in = V_out·I_out/(η·V_in); 1.25 × (assumptions table); as every run, see `cables.size_run`.
        """
        put = ctx.put
        if source.by == "straight":
            taken = put("input_a", Figure.by("I_in", "I", "A", "taken from the vehicle", I=sizing.current))
        else:
            of = {"V_out": sizing.set_point, "I": sizing.current, "η": sizing.efficiency, "V_in": lowest_v(source)}
            taken = put("input_a", Figure.by("I_in", "V_out · I / (η · V_in)", "A", "taken from the vehicle", of))
        run = self.cable(source, taken, sizing, ctx, put)
        sizing.run = run
        sizing.extra |= {"input_a": taken, "lasting_a": put("lasting_a", lasting_a(source, sizing))}

    def cable(self, source: Vehicle, taken: Figure, sizing: SourceSizing, ctx: SourceContext, put: Put) -> RunSizing:
        """The cable from the vehicle's battery, and the fuse there. Source: see `size`; what stands there gives thousands of A."""
        at, fault, volts = f"{sizing.pointer}/run", assumption("vehicle_fault"), alternator_v(source, sizing)
        picked = protection.pick(
            constant("fuse_margin") * taken.number,
            [],
            volts.number,
            fault.number,
            rating_a=source.fuse_a,
            air_c=constant("vehicle_air"),
        )
        how = "smallest sold from 1.25 × what is taken that opens the fault of the vehicle's battery"
        inputs = {"I_in": taken, "I_sc": fault}
        fuse = sized(
            "I_f", source.fuse_a, picked.rating_a, "A", "fuse at the vehicle's battery", f"{sizing.pointer}/fuse_a", how, inputs
        )
        sizing.extra["fuse"] = put("fuse", fuse)
        sizing.extra["family"] = put("family", picked.family.figure("family", picked.family.label, ""))
        short = least_section(let_through_figure(picked.family, fuse, fault), source.run, at)
        duty = Duty(source.run, at, taken, taken, fuse.number, lowest_v(source), assumption("drop_vehicle"), short)
        practice = Practice(ctx.site.practice.school, ctx.site.practice.system, assumption("vehicle_air"))
        return size_run(duty, practice, lambda name, figure: put(f"run/{name}", figure))
