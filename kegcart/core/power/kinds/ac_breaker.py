"""AC breakers between an inverter and its outlets: one for several circuits."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from kegcart.core.document import Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed
from kegcart.core.power.kinds.ac_circuit import circuit_current, size_ac_cable, size_breaker
from kegcart.core.power.kinds.base import UNLIMITED, Choice, Copper, Facts, Label, PartType, shares
from kegcart.core.power.kinds.protection import breaker_symbol
from kegcart.core.reference import sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class AcBreaker(Fed):
    """An AC breaker behind an inverter, before several outlets."""

    part: Literal["ac_breaker"]
    rating_a: Current | None = None


class AcBreakerKind(Copper[AcBreaker]):
    """The duties of an AC breaker."""

    key = "ac_breaker"
    model = AcBreaker
    facts = Facts(
        words=Words("AC breaker", "an AC breaker", "an AC breaker", "AC breaker"),
        role="passes",
        fed_by=frozenset({"inverter"}),
        regulated=False,
        limits=False,
        bolted=False,
        choices=(Choice("rating_a", "rating", "Rating"),),
        fields=(),
        own=("rating_a",),
        owes=("power.socket-breaker",),
        height=38,
        slim=True,
    )

    def running(self, node: AcBreaker, key: str, ctx: "PathContext") -> Figure:
        """The sum of what it feeds, W.

        Source: powers add.
        """
        return Figure.by("P", "sum", "W", "greatest running power", shares(key, ctx, ctx.flows[key].peak_step, "W"))

    def greatest_fuse(self, node: AcBreaker, key: str, ctx: "PathContext") -> float:
        return UNLIMITED

    def size(self, node: AcBreaker, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest sold that carries all that runs behind it, and its cable: see `size_breaker`.

        Source: IEC 60364-4-43: load, breaker and cable in rising order.
        """
        part.extra["circuit"] = circuit_current(part, ctx)
        part.rating = ctx.put(part.key, "rating", size_breaker(node.rating_a, "rating_a", UNLIMITED, part, ctx))
        part.extra["breaker"] = part.rating
        if node.run.length_m > 0:
            size_ac_cable(part, ctx, part.rating)

    def resistance(self, node: AcBreaker, part: "PartSizing") -> Figure | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        for key in ("ac-breaker-230", "ac-breaker-120"):
            table = sizes(key)
            for amps in table.sizes:
                yield self.priced(f"{table.label}, {amps:g} A", {"rating_a": amps}, amps, table.basis.source)

    def body(self, node: AcBreaker, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type(self.key)

    def symbol(self, node: AcBreaker, part: "PartSizing", box: Box) -> list[Primitive]:
        """A contact with a cross at its fixed end, as a DC breaker has (IEC 60617)."""
        return breaker_symbol(box.x + box.w / 2, box.y, box.y + box.h, "mains")

    def labels(self, node: AcBreaker, part: "PartSizing") -> Sequence[Label]:
        return [*Label.of(part.rating, bold=True), Label(part.name_in_its_tree, faint=True)]
