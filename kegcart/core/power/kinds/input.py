"""Inputs: where current is brought in."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import assumed
from kegcart.core.drawing import Box, Circle, Line, Primitive
from kegcart.core.figure import Figure
from kegcart.core.loads.supplies import Supply
from kegcart.core.power.fed import Fed, Negative
from kegcart.core.power.kinds.base import (
    LINE,
    RUNNING,
    UNLIMITED,
    Cutoff,
    Device,
    Facts,
    FieldWords,
    IdleDraw,
    Kind,
    Label,
    PartType,
    Words,
)
from kegcart.core.power.path.flow import Flow
from kegcart.core.units import Current, Power

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class Input(Fed):
    """Where current is brought in: a charger, a solar controller, a vehicle's converter, another station."""

    part: Literal["input"]
    source: Literal["mains charger", "solar", "vehicle", "another station"] = "mains charger"
    current_a: Current = 10
    own_draw_w: Power | None = Field(
        None, description="what a solar controller draws by itself, day and night; null: typical of one, nothing for the others"
    )
    negative: Negative = "busbar"


class InputKind(Kind[Input]):
    """The duties of an input."""

    key = "input"
    model = Input
    facts = Facts(
        words=Words("charging input", "an input", "a charging input", "Charging input"),
        role="ends",
        fed_by=LINE,
        regulated=False,
        limits=False,
        bolted=False,
        choices=(),
        fields=(
            FieldWords("source", "Brought in by", "choice"),
            FieldWords("current_a", "Current", "quantity", "A"),
            FieldWords("own_draw_w", "It draws by itself", "quantity", "W", "typical"),
        ),
        own=("source", "current_a", "own_draw_w"),
        owes=("power.load-dump",),
        height=52,
        slim=True,
    )

    def gives(self, node: Input) -> Supply | None:
        return None

    def brings(self, node: Input, key: str) -> Figure | None:
        at = f"/power/network/{key}/current_a"
        return Figure.decided("I", node.current_a, "A", f"brought in by the {node.source}", at)

    def flow(self, node: Input, key: str, behind: Flow, ctx: "PathContext") -> Flow:
        return Flow.total((), ctx.loads.day)

    def running(self, node: Input, key: str, ctx: "PathContext") -> Figure:
        return Figure.of("I", 0.0, "A", RUNNING, how="it takes nothing")

    def at_rating(self, node: Input, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def taken_at(self, node: Input, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def greatest_fuse(self, node: Input, key: str, ctx: "PathContext") -> float:
        return UNLIMITED

    def size(self, node: Input, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """Nothing is sized of it: its current is that of what is plugged in."""

    def resistance(self, node: Input, part: "PartSizing") -> Figure | None:
        return None

    def idle(self, node: Input, key: str, ctx: "PathContext") -> IdleDraw | None:
        """What its controller draws round the clock; a charger that is unplugged draws nothing.

        Source: its sheet as typed, or typical of a solar controller (assumptions table).
        """
        if node.own_draw_w is None and node.source != "solar":
            return None
        at = f"/power/network/{key}/own_draw_w"
        return IdleDraw(assumed("P_s", node.own_draw_w, "solar_idle", "W", "own draw of the controller", at))

    def cutoff(self, node: Input, key: str, ctx: "PathContext") -> Cutoff | None:
        return None

    def makes(self, node: Input, key: str, ctx: "PathContext") -> Device | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        yield from ()

    def symbol(self, node: Input, part: "PartSizing", box: Box) -> list[Primitive]:
        """A ring with an arrow towards the source."""
        middle, y = box.x + box.w / 2, box.y
        head = ((middle - 4, y + 11), (middle, y + 6), (middle + 4, y + 11))
        return [Circle(middle, y + 12, 9), Line(head, "inward", 1.8), Line(((middle, y + 6), (middle, y + 18)), "inward", 1.8)]

    def labels(self, node: Input, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree), *Label.of(part.current, bold=True), Label(node.source, faint=True)]
