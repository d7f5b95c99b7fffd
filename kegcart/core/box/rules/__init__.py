"""What is judged of the box: how everything fits, what it weighs and how it is held, air, water and gas, the order of fitting."""

from collections.abc import Iterator

from kegcart.core.box.document import Enclosure
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.rules.fit import judge_fit
from kegcart.core.box.rules.order import judge_order
from kegcart.core.box.rules.site import judge_site
from kegcart.core.box.rules.weight import judge_weight
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.check import Check, not_yet
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.units import units_shown


def judge_box(
    box: Enclosure, sizing: BoxSizing | None, brief: Brief, site: Site, pack: PackSizing, power: PowerSizing
) -> Iterator[Check]:
    """Every check of the box; until one is chosen, that nothing of it can be judged."""
    if sizing is None:
        yield not_yet("box.fit", "/box", "a box to put it in")
        return
    yield from geometry(sizing.layout)
    yield from judge_weight(sizing, brief)
    yield from judge_site(sizing, brief, site, pack, power)


def geometry(layout: BoxLayout) -> list[Check]:
    """What is judged of the layout alone: once for each, as most changes of a design move nothing in its box."""
    units = units_shown()
    if units not in layout.judged:
        layout.judged[units] = [*judge_fit(layout), *judge_order(layout)]
    return layout.judged[units]
