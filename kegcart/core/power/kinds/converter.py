"""Converters from pack voltage to regulated 12 V."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import assumed, sized
from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.loads.supplies import Supply, conversion, efficiency
from kegcart.core.power.fed import Fed, Negative
from kegcart.core.power.kinds.base import (
    LINE,
    RUNNING,
    UNLIMITED,
    Choice,
    Cutoff,
    Device,
    Facts,
    IdleDraw,
    Kind,
    Label,
    PartType,
)  # fmt: skip
from kegcart.core.power.kinds.switch import decided_cutoff
from kegcart.core.power.kinds.symbols import device
from kegcart.core.power.path.flow import REGULATED_V, Flow, into_converter, regulated_voltage
from kegcart.core.reference import constant, sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.simulation.inputs import Loss
from kegcart.core.units import Current, Power, Voltage

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class Converter(Fed):
    """A converter from pack voltage to regulated 12 V, limited to its rating."""

    part: Literal["converter"]
    rating_a: Current | None = None
    idle_w: Power | None = Field(None, description="no-load draw; null: typical")
    cutoff_v: Voltage | None = Field(None, description="switches off below this input voltage; null: it does not")
    restart_v: Voltage | None = Field(None, description="and on again above this one; null: typical")
    window_min_v: Voltage | None = Field(None, description="least input voltage of its sheet")
    window_max_v: Voltage | None = Field(None, description="greatest input voltage of its sheet")
    negative: Negative = "busbar"


class ConverterKind(Kind[Converter]):
    """The duties of a converter."""

    key = "converter"
    model = Converter
    facts = Facts(
        words=Words("converter", "a converter", "a converter to 12 V", "Converter to 12 V"),
        role="changes",
        fed_by=LINE,
        regulated=False,
        limits=True,
        bolted=False,
        choices=(Choice("rating_a", "rating", "Output rating"),),
        fields=(
            FieldWords("idle_w", "No-load draw", "quantity", "W", "typical"),
            FieldWords("cutoff_v", "Switches off below", "quantity", "V", "never"),
            FieldWords("restart_v", "On again above", "quantity", "V", "typical", needs="cutoff_v"),
            FieldWords("window_min_v", "Takes at least", "quantity", "V", "not said"),
            FieldWords("window_max_v", "Takes at most", "quantity", "V", "not said"),
        ),
        own=("rating_a", "idle_w", "window_min_v", "window_max_v"),
        owes=("power.converter", "power.converter-idle", "power.shunt-bypass"),
        height=52,
        slim=False,
    )

    def gives(self, node: Converter) -> Supply | None:
        return "dc_12v"

    def brings(self, node: Converter, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def flow(self, node: Converter, key: str, behind: Flow, ctx: "PathContext") -> Flow:
        return into_converter(behind, REGULATED_V, ctx.source(key).v_low.number, node.idle_w)

    def running(self, node: Converter, key: str, ctx: "PathContext") -> Figure:
        """Its output, its losses and its no-load draw, at the lowest working voltage.

        Source: P = U · I; efficiency is output over input (definitions).
        """
        day, step = ctx.loads.day, ctx.flows[key].peak_step
        amps = sum(ctx.flows[c].running[step] for c in ctx.network.feeds[key])
        out = Figure.of("I_out", amps, "A", f"output from {day.moment(day.edges_h[step])}", how="the sum of what it feeds")
        return Figure.by(
            "I",
            "(I_out · U / η_c + P_c) / V_low",
            "A",
            RUNNING,
            I_out=out,
            U=regulated_voltage(),
            η_c=conversion("dc_12v"),
            P_c=no_load_draw(node, key),
            V_low=ctx.source(key).v_low,
        )

    def at_rating(self, node: Converter, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def taken_at(self, node: Converter, key: str, ctx: "PathContext") -> Figure | None:
        return ctx.source(key).v_low

    def greatest_fuse(self, node: Converter, key: str, ctx: "PathContext") -> float:
        return UNLIMITED

    def size(self, node: Converter, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest sold that gives 1.25 × its greatest output.

        Source: practice: a fifth of its rating is kept free (assumptions table); sizes sold.
        """
        children = ctx.network.children[part.key]
        out = Flow.total((ctx.parts[child].flow for child in children), ctx.loads.day)
        shares = {
            f"{ctx.network.nodes[c].name} ({c})": Figure.of(
                "I",
                ctx.parts[c].flow.running[out.peak_step],
                "A",
                ctx.network.nodes[c].name,
                how="at the moment of the greatest sum",
            )
            for c in children
        }
        output = ctx.put(part.key, "output", Figure.by("I_out", "sum", "A", "greatest output", shares))
        part.extra = {"output": output}
        at, how = f"{part.pointer}/rating_a", "smallest sold from 1.25 × its output"
        pick = sizes("converter").pick(out.peak * constant("fuse_margin"))
        figure = sized("I_rated", node.rating_a, pick, "A", "output rating", at, how, {"I_out": output}, "converter")
        part.rating = ctx.put(part.key, "rating", figure)

    def resistance(self, node: Converter, part: "PartSizing") -> Figure | None:
        return None

    def idle(self, node: Converter, key: str, ctx: "PathContext") -> IdleDraw | None:
        """Its no-load draw.

        Source: its sheet as typed, or typical (assumptions table).
        """
        return IdleDraw(no_load_draw(node, key))

    def cutoff(self, node: Converter, key: str, ctx: "PathContext") -> Cutoff | None:
        return decided_cutoff(node.cutoff_v, node.restart_v, node.name, key)

    def makes(self, node: Converter, key: str, ctx: "PathContext") -> Device | None:
        """Regulated 12 V, with its no-load draw and its efficiency.

        Source: efficiency is output over input (definition; assumptions table).
        """
        return Device(REGULATED_V, Loss(no_load_draw(node, key).number, 1 / efficiency("dc_12v") - 1, 0.0))

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        table = sizes("converter")
        for amps in table.sizes:
            yield self.priced(f"{table.label}, {amps:g} A", {"rating_a": amps}, amps, table.basis.source)

    def body(self, node: Converter, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type(self.key, rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Converter, part: "PartSizing", box: Box) -> list[Primitive]:
        return device(box, direct=True)

    def labels(self, node: Converter, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree, bold=True), *Label.of(part.rating), *Label.of(part.current, faint=True)]


def no_load_draw(node: Converter, key: str) -> Figure:
    """What a converter draws without a load, W."""
    return assumed("P_c", node.idle_w, "converter_idle", "W", "no-load draw", f"/power/network/{key}/idle_w")
