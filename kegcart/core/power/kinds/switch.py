"""Switches and relays in the positive line."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import assumed, sized
from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Line, Primitive
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed, Reach
from kegcart.core.power.kinds.base import (
    LINE,
    SMALLEST,
    Choice,
    Copper,
    Cutoff,
    Facts,
    IdleDraw,
    Label,
    PartType,
    needed_current,
    size_voltage,
)  # fmt: skip
from kegcart.core.power.kinds.symbols import contacts, ground
from kegcart.core.reference import assumption, sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current, Power, Voltage

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source

CUTOFF_RANK = 0
"""Loads go first, then inverters, then the board, and last what the cells themselves stand."""


class Switch(Fed):
    """A switch or relay in the positive line; with `cutoff_v` it disconnects its loads by itself."""

    part: Literal["switch"]
    rating_a: Current | None = None
    voltage_v: Voltage | None = Field(None, description="greatest DC voltage of its sheet; null: chosen to serve")
    dc_rated: bool = True
    reach: Reach = Field("outside", description="how one gets at it with the lid shut")
    relay: bool = False
    coil_w: Power | None = Field(None, description="draw of its coil while closed; null: typical of a relay")
    cutoff_v: Voltage | None = Field(None, description="opens by itself below this voltage; null: it does not")
    restart_v: Voltage | None = Field(None, description="and closes again above this one; null: typical")


class SwitchKind(Copper[Switch]):
    """The duties of a switch or relay."""

    key = "switch"
    model = Switch
    facts = Facts(
        words=Words("switch", "a switch", "a switch", "Switch"),
        role="passes",
        fed_by=LINE | {"converter"},
        regulated=True,
        limits=False,
        bolted=True,
        choices=(Choice("rating_a", "rating", "Rating", carries=True), Choice("voltage_v", "voltage", "Voltage rating")),
        fields=(
            FieldWords("reach", "How one gets at it", "choice"),
            FieldWords("cutoff_v", "Opens by itself below", "quantity", "V", "never"),
            FieldWords("restart_v", "Closes again above", "quantity", "V", "typical", needs="cutoff_v"),
            FieldWords("coil_w", "Its coil draws", "quantity", "W", "typical", needs="relay"),
            FieldWords("dc_rated", "Rated for DC", "flag"),
            FieldWords("relay", "It is a relay", "flag"),
            FieldWords("run/sheathed", "Cable sheathed and fixed", "choice", "", "it is not"),
        ),
        own=("rating_a", "voltage_v", "dc_rated", "relay", "coil_w"),
        owes=("power.switch-rating", "power.device-voltage"),
        height=34,
        slim=True,
    )

    def greatest_fuse(self, node: Switch, key: str, ctx: "PathContext") -> float:
        return node.rating_a or sizes("switch").sizes[-1]

    def size(self, node: Switch, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest sold that carries the protection before it: see `size_contact`."""
        size_contact(part, ctx, guard_a, node.rating_a)
        size_voltage(node.voltage_v, part, ctx)

    def resistance(self, node: Switch, part: "PartSizing") -> Figure | None:
        """The resistance of its contact.

        Source: assumptions table.
        """
        return assumption("switch_resistance")

    def idle(self, node: Switch, key: str, ctx: "PathContext") -> IdleDraw | None:
        """A relay's coil; opened, it draws nothing."""
        if not node.relay:
            return None
        at = f"/power/network/{key}/coil_w"
        return IdleDraw(assumed("P_r", node.coil_w, "relay_coil", "W", "coil of the relay", at), own_switch=True)

    def cutoff(self, node: Switch, key: str, ctx: "PathContext") -> Cutoff | None:
        return decided_cutoff(node.cutoff_v, node.restart_v, node.name, key)

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        table = sizes("switch")
        for amps in table.sizes:
            yield self.priced(f"{table.label}, {amps:g} A", {"rating_a": amps}, amps, table.basis.source)

    def body(self, node: Switch, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type("relay" if node.relay else "switch", rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Switch, part: "PartSizing", box: Box) -> list[Primitive]:
        """A contact, open."""
        x, y, w, h = box.x, box.y, box.w, box.h
        if w > h:
            middle = y + h / 2
            blade = ((x + 3, middle), (x + w - 7, y + 1))
            return [ground(box), Line(blade, "ink", 2), *contacts((x + 3, middle), (x + w - 3, middle))]
        middle = x + w / 2
        blade = ((middle, y + h - 3), (middle - 10, y + 5))
        return [ground(box), Line(blade, "ink", 2), *contacts((middle, y + 3), (middle, y + h - 3))]

    def labels(self, node: Switch, part: "PartSizing") -> Sequence[Label]:
        return [*Label.of(part.rating, bold=True), Label(part.name_in_its_tree, faint=True)]


def size_contact(part: "PartSizing", ctx: "PathContext", guard_a: float, own_a: float | None) -> None:
    """The rating of a switch or selector: the smallest sold that carries the fuse before it.

    Source: continuous rating of the switch (sizes table, IEC 60947-3).
    """
    needed, at = needed_current(part, guard_a), f"{part.pointer}/rating_a"
    pick = sizes("switch").pick(needed.number)
    figure = sized("I_rated", own_a, pick, "A", "rating", at, SMALLEST, {"I_need": needed}, "switch")
    part.rating = ctx.put(part.key, "rating", figure)


def decided_cutoff(volts: float | None, restart_v: float | None, name: str, key: str) -> Cutoff | None:
    """The cut-off of a part that disconnects loads, as typed, and where it comes back."""
    if volts is None:
        return None
    figure = Figure.decided("V_cut", volts, "V", f"{name} cuts off", f"/power/network/{key}/cutoff_v")
    return Cutoff(CUTOFF_RANK, figure, True, restart_v)
