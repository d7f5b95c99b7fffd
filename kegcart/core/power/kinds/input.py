"""Inputs: where current is brought in."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Circle, Line, Primitive
from kegcart.core.figure import Figure
from kegcart.core.loads.supplies import Supply
from kegcart.core.power.fed import Fed, Negative
from kegcart.core.power.kinds.base import LINE, RUNNING, UNLIMITED, Cutoff, Device, Facts, IdleDraw, Kind, Label, PartType
from kegcart.core.power.path.flow import Flow
from kegcart.core.reference import connectors
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Id

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class Input(Fed):
    """Where current is brought in by a source of the charging."""

    part: Literal["input"]
    source: Id | None = Field(None, description="the charging source that joins here; null: none yet")
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
        fields=(FieldWords("source", "Brought in by", "source"),),
        own=(),
        owes=("power.load-dump", "charging.not-connected"),
        height=52,
        slim=True,
        brings_in=True,
    )

    def gives(self, node: Input) -> Supply | None:
        return None

    def brings(self, node: Input, key: str, ctx: "PathContext") -> Figure | None:
        """The current of its source; nothing where none is named."""
        if node.source is None:
            return Figure.of("I", 0.0, "A", "brought in", how="no source is named")
        return ctx.charging.sources[node.source].current

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
        """Nothing is sized of it: its current is that of its source, which is named beside it."""
        if node.source is not None:
            source = ctx.charging.sources[node.source]
            said = Figure.decided("source", source.name, "", "brought in by", f"{source.pointer}/name")
            part.extra["source"] = ctx.put(part.key, "source", said)

    def resistance(self, node: Input, part: "PartSizing") -> Figure | None:
        return None

    def idle(self, node: Input, key: str, ctx: "PathContext") -> IdleDraw | None:
        """What its source draws of the bank round the clock: see `SourceKind.own_draw`."""
        drawn = ctx.charging.sources[node.source].idle if node.source else None
        return IdleDraw(drawn) if drawn is not None and drawn.number > 0 else None

    def cutoff(self, node: Input, key: str, ctx: "PathContext") -> Cutoff | None:
        return None

    def makes(self, node: Input, key: str, ctx: "PathContext") -> Device | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        yield from ()

    def body(self, node: Input, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        """The smallest panel connector that carries what is brought in."""
        amps = part.current.number if (brought := self.brings(node, part.key, ctx)) is None else brought.number
        sold = [c for c in connectors().values() if "pack" in c.supplies]
        return body_type("socket", next((c.key for c in sold if c.rating_a >= amps), sold[-1].key))

    def symbol(self, node: Input, part: "PartSizing", box: Box) -> list[Primitive]:
        """A ring with an arrow towards the source."""
        middle, y = box.x + box.w / 2, box.y
        head = ((middle - 4, y + 11), (middle, y + 6), (middle + 4, y + 11))
        return [Circle(middle, y + 12, 9), Line(head, "inward", 1.8), Line(((middle, y + 6), (middle, y + 18)), "inward", 1.8)]

    def labels(self, node: Input, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree), *Label.of(part.current, bold=True), *said_of(part)]


def said_of(part: "PartSizing") -> Sequence[Label]:
    """The source that joins here."""
    joins = part.extra.get("source")
    return [Label("no source yet", faint=True)] if joins is None else [Label(str(joins.value), faint=True)]
