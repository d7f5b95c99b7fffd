"""The power path: a tree of parts from the posts of the pack to the last socket.

Every part names the part that feeds it and the run of cable that leads to it. The negative
side mirrors the tree: a part's negative goes to the negative busbar, behind the shunt,
unless it is taken straight to the post. A second bank is the root of a tree of its own; a
selector lets a branch be fed from either.
"""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from kegcart.core.document import Decisions, few
from kegcart.core.electrical.run import Run
from kegcart.core.pack.document import ChemistryKey, Series
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import KINDS, Node, Selector, kind_of
from kegcart.core.reference import chemistries
from kegcart.core.text import Name
from kegcart.core.units import Charge, Current, Id, Resistance, SmallCurrent, Voltage


class Shunt(Decisions):
    """The meter's shunt between the pack's negative post and the negative busbar."""

    rating_a: Current | None = None
    own_draw_ma: SmallCurrent | None = Field(None, description="draw of its meter; null: typical")
    meter_v: Voltage | None = Field(None, description="greatest voltage of its meter; null: typical")
    lead: Run = Field(default_factory=lambda: Run(length_m=1.0), description="supply lead of its meter, from the positive post")
    lead_fused: bool = Field(True, description="that lead has a small fuse at the post")


class SecondBank(Decisions):
    """Another bank with a job of its own, by its sheet."""

    name: Name
    job: Literal["short high current", "house"] = "house"
    chemistry: ChemistryKey = "lfp"
    series: Series = 4
    capacity_ah: Charge = 100
    continuous_a: Current = 100
    burst_a: Current | None = Field(None, description="null: twice the continuous current")
    resistance_mohm: Resistance | None = Field(None, description="null: typical of its chemistry")

    @model_validator(mode="before")
    @classmethod
    def cells_as_sold(cls, data: Any) -> Any:
        """One whose cells are not said has as many as a battery of its chemistry usually has: lead six, not four."""
        if isinstance(data, dict) and "series" not in data and data.get("chemistry") in chemistries():
            return {**data, "series": chemistries()[data["chemistry"]].cells_12v}
        return data


MOST_PARTS = 120
BANK_OWES = ("pack.current", "pack.voltage-over-60", "pack.freeze", "loads.energy-short")
"""The checks that every further bank must be given."""


class PowerPath(Decisions):
    """The tree of parts by id, the shunt, further banks, and the bond to the chassis."""

    network: Annotated[dict[Id, Node], few(MOST_PARTS)] = Field(default_factory=dict, max_length=MOST_PARTS)
    shunt: Shunt | None = None
    negative: Run | None = Field(None, description="main negative, from the post to the negative bar; null: as the positive")
    banks: dict[Id, SecondBank] = Field(default_factory=dict, max_length=3)
    chassis_bond: bool = Field(False, description="the negative is bonded to a metal box or chassis, at one point")

    @model_validator(mode="after")
    def is_tree(self) -> "PowerPath":
        """Every part is fed by a part that may feed it, and the pack is at the root."""
        sources = {PACK, *self.banks}
        if PACK in self.banks or sources & set(self.network):
            raise ValueError("no part or bank may be called 'pack', or a part like a bank: those are the sources")
        for key, node in self.network.items():
            self._check_feed(key, node, sources)
        regulated: dict[str, bool] = dict.fromkeys(sources, False)
        for key in self.network:
            self._check_way(key, regulated)
        for key, node in self.network.items():
            if isinstance(node, Selector) and key in self._way(node.other):
                raise ValueError(f"'{key}' selects a part that it feeds itself")
        return self

    def _check_feed(self, key: str, node: Node, sources: set[str]) -> None:
        """What feeds a part is there, and may feed it."""
        if node.feed not in sources and node.feed not in self.network:
            raise ValueError(f"'{key}' is fed from '{node.feed}', which is not there")
        if isinstance(node, Selector) and (node.other not in sources and node.other not in self.network):
            raise ValueError(f"'{key}' selects '{node.other}', which is not there")
        feeder = PACK if node.feed in sources else self.network[node.feed].part
        if feeder not in kind_of(node).facts.fed_by:
            before = "the pack" if feeder == PACK else KINDS[feeder].facts.words.article
            raise ValueError(f"'{key}': {kind_of(node).facts.words.article} cannot be fed from {before}")

    def _check_way(self, key: str, regulated: dict[str, bool]) -> None:
        """The way from a source to a part has no loop, and behind a converter stands only what may stand there.

        regulated: whether a part stands behind a converter, filled as the ways are walked.
        """
        way: list[str] = []
        here = key
        while here not in regulated:
            if here in way:
                raise ValueError(f"'{here}' feeds itself")
            way.append(here)
            here = self.network[here].feed
        for step in reversed(way):
            node = self.network[step]
            fed_by = self.network.get(node.feed)
            behind = regulated[node.feed] or (fed_by is not None and kind_of(fed_by).gives(fed_by) == "dc_12v")
            if behind and (not kind_of(node).facts.regulated or kind_of(node).gives(node) is not None):
                raise ValueError(f"'{step}': behind a converter only fuses, switches, blocks and 12 V outlets can stand")
            regulated[step] = behind

    def _way(self, key: str) -> Iterator[str]:
        """A part and all that feed it, up to the source."""
        while key in self.network:
            yield key
            key = self.network[key].feed
