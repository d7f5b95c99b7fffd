"""Quick connects in the line, and the connectors that can stand in one."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import sized
from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Line, Primitive, arc
from kegcart.core.figure import Figure
from kegcart.core.power.fed import ConnectorKey, Fed, Pins
from kegcart.core.power.kinds.base import (
    LINE,
    SMALLEST,
    Choice,
    Copper,
    Facts,
    Label,
    PartType,
    connector_rating,
    connector_share,
    form_voltage,
    needed_current,
)  # fmt: skip
from kegcart.core.reference import Connector, assumption, connectors
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Voltage

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class Plug(Fed):
    """A quick connect in the line: what is behind it can be pulled off."""

    part: Literal["plug"]
    connector: ConnectorKey | None = None
    pins: Pins = Field("shrouded", description="contacts on the side of the source")
    voltage_v: Voltage | None = Field(None, description="greatest DC voltage of its sheet; null: typical of its form")


class PlugKind(Copper[Plug]):
    """The duties of a quick connect."""

    key = "plug"
    model = Plug
    facts = Facts(
        words=Words("quick connect", "a quick connect", "a quick connect", "Quick connect"),
        role="passes",
        fed_by=LINE,
        regulated=False,
        limits=False,
        bolted=False,
        choices=(Choice("connector", "connector", "Connector", carries=True),),
        fields=(
            FieldWords("pins", "Contacts on the live side", "choice"),
            FieldWords("voltage_v", "Stands at most", "quantity", "V", "typical of its form"),
        ),
        own=("connector", "voltage_v"),
        owes=("power.connector", "power.live-pins", "power.device-voltage"),
        height=34,
        slim=True,
    )

    def greatest_fuse(self, node: Plug, key: str, ctx: "PathContext") -> float:
        connector = connectors()[node.connector] if node.connector else in_line_connectors()[-1]
        return connector_rating(connector, ctx.site.inside_c).number

    def size(self, node: Plug, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest in-line connector that carries the protection before it.

        Source: continuous rating of the connector (connectors table).
        """
        needed, at = needed_current(part, guard_a), f"{part.pointer}/connector"
        if node.connector:
            chosen = connectors()[node.connector]
        else:
            offered = in_line_connectors()
            share = connector_share(ctx.site.inside_c).number
            chosen = next((c for c in offered if c.rating_a * share >= needed.number - 1e-9), offered[-1])
        said, of = node.connector and chosen.label, "connector:pack"
        figure = sized("connector", said, chosen.label, "", "connector", at, SMALLEST, {"I_need": needed}, of, chosen.key)
        part.choice = ctx.put(part.key, "connector", figure)
        part.rating = ctx.put(part.key, "rating", connector_rating(chosen, ctx.site.inside_c))
        form_voltage(node.voltage_v, chosen, part, ctx)

    def resistance(self, node: Plug, part: "PartSizing") -> Figure | None:
        """The contact resistance of a pair.

        Source: assumptions table.
        """
        return assumption("plug_resistance")

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        for connector in in_line_connectors():
            figures = {"connector": connector.key}
            yield self.priced(connector.label, figures, connector.rating_a, connector.basis.source)

    def body(self, node: Plug, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type(self.key, rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Plug, part: "PartSizing", box: Box) -> list[Primitive]:
        """The shrouded half as a cup on the side of the source, the pin going into it."""
        x, y, w, h = box.x, box.y, box.w, box.h
        if w > h:
            at, middle = x + w / 2, y + h / 2
            cup = arc(at, middle, 6.5, 1, 3)
            return [
                Box(at - 2, middle - 7, 9, 14, "ground"),
                Line(((x, middle), (at - 6.5, middle)), "positive", 2),
                Line(cup, "ink", 1.6),
                Line(((at - 1, middle), (x + w, middle)), "ink", 2.8),
            ]
        middle, at = x + w / 2, y + h / 2
        cup = arc(middle, at, 6.5, 2, 4)
        return [
            Box(middle - 7, at - 2, 14, 9, "ground"),
            Line(((middle, y - 1), (middle, at - 6.5)), "positive", 2),
            Line(cup, "ink", 1.6),
            Line(((middle, at - 1), (middle, y + h + 1)), "ink", 2.8),
        ]

    def labels(self, node: Plug, part: "PartSizing") -> Sequence[Label]:
        return [*Label.of(part.rating, bold=True), Label(part.name_in_its_tree, faint=True)]


def in_line_connectors() -> list[Connector]:
    """Connectors that can stand in a line, smallest first."""
    return sorted((c for c in connectors().values() if "pack" in c.supplies), key=lambda c: c.rating_a)
