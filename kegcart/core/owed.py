"""What is owed a judgement: by every part, every run of cable, the pack, every source, every further bank.

A check that is owed and never made would let "holds" be said of something nobody judged.
"""

from collections.abc import Iterator

from kegcart.core.assess import Assessment
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.rules.fit import FITTED_OWES, STANDING_OWES
from kegcart.core.charging.kinds import source_kind
from kegcart.core.charging.kinds.base import SOURCE_OWES
from kegcart.core.pack.forms import form_of
from kegcart.core.power.document import BANK_OWES
from kegcart.core.power.fed import BEHIND_A_FUSE_OWES, RUN_OWES
from kegcart.core.power.kinds import kind_of

WITH_A_SHUNT = frozenset({"power.shunt-bypass"})
"""Owed only where there is a shunt that could be passed by."""


def owed(assessment: Assessment) -> Iterator[tuple[str, str]]:
    """(id, JSON pointer of what is judged) of every check that is owed; the check's place is there or within."""
    power = assessment.power
    for part in power.parts.values():
        for check in kind_of(part.node).facts.owes:
            if power.shunt is not None or check not in WITH_A_SHUNT:
                yield check, part.pointer
        if part.run is not None:
            owes = RUN_OWES + (BEHIND_A_FUSE_OWES if part.guard is not None or power.network.is_first(part.key) else ())
            yield from ((check, f"{part.pointer}/run") for check in owes)
        if part.other is not None:
            yield from ((check, f"{part.pointer}/other_run") for check in ("power.other-feed", "power.drop"))
        if (acts := kind_of(part.node).cutoff(part.node, part.key, power.ctx)) and acts.pinned:
            yield "power.cutoff-high", part.pointer
        if power.network.stands_on[part.key] == "ac" and part.node.part == "outlet":
            yield "power.socket-breaker", part.pointer
        if part.node.feed in power.sources:
            yield "power.post-lugs", power.sources[part.node.feed].pointer
    if power.ctx.negative is not None:
        yield from ((check, "/power/negative") for check in (*RUN_OWES, *BEHIND_A_FUSE_OWES))
    if power.shunt is not None:
        owes = ("power.shunt-rating", "power.device-voltage", "power.wire-unprotected")
        yield from ((check, "/power/shunt") for check in owes)
    if strings := power.ctx.pack.build.strings:
        if len(strings.leads) > 1:
            yield from (("pack.string-lead", f"/pack/strings/s{i}") for i in range(1, len(strings.leads) + 1))
        if strings.link is not None:
            yield "pack.string-lead", "/pack/link"
    form = form_of(assessment.design.pack)
    own = form.board_owes if assessment.pack.build.board else ()
    yield from ((check, "/pack") for check in (*form.owes, *own))
    for sizing in assessment.charging.sources.values():
        for check in (*SOURCE_OWES, *source_kind(sizing.source).facts.owes):
            yield check, sizing.pointer
    if assessment.box is not None:
        for place, owes in owed_in_box(assessment.box.layout):
            yield from ((check, place) for check in owes)
    for key in power.banks:
        yield from ((check, f"/power/banks/{key}") for check in BANK_OWES)


def owed_in_box(layout: BoxLayout) -> Iterator[tuple[str, tuple[str, ...]]]:
    """(JSON pointer, ids) of the checks that are owed to what stands in the box, and to what sits in its faces."""
    yield "/box/case/rated_kg", ("box.load",)
    for standing in layout.standing.values():
        yield standing.thing.place, STANDING_OWES + (("box.bend",) if standing.thing.post_room > 0 else ())
    for fitted in layout.fitted:
        yield fitted.at, FITTED_OWES + (("box.depth",) if fitted.deep > 0 else ())


def never_made(assessment: Assessment) -> list[tuple[str, str]]:
    """The checks that are owed and were not made, not even as one that cannot be judged yet."""
    made: dict[str, list[str]] = {}
    for check in assessment.checks:
        made.setdefault(check.id, []).append(check.place)
    return [
        (id, pointer)
        for id, pointer in owed(assessment)
        if not any(place == pointer or place.startswith(f"{pointer}/") for place in made.get(id, ()))
    ]
