"""A second judge of the order of assembly: it walks the design, not the graph, and says what stands where it must not."""

from collections.abc import Iterator

from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.assess import Assessment
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.space import Solid
from kegcart.core.charging.kinds import SolarArray
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.power.drawing.wire_table import rows
from kegcart.core.power.kinds import Outlet, Protection

HAND_MM = 60.0
ON_IT = {"/power/negative": "fit:negative-bar:pack", "/power/shunt": "fit:shunt"}
"""What fits an end that is on no part of the tree."""


def wrong_in(found: Assessment, built: AssemblySizing) -> list[str]:
    """What is wrong in the order of a build, in words."""
    at = {step.act.key: step.number for step in built.steps}
    return [
        *numbered(built, at),
        *wires(found, built, at),
        *fuses(found, at),
        *posts(found, at),
        *strings(found, at),
        *last(found, at),
        *geometry(found, at),
    ]


def before(one: str, two: str, at: dict[str, int]) -> bool:
    """Whether an act comes before another, where there are both."""
    return one not in at or two not in at or at[one] < at[two]


def numbered(built: AssemblySizing, at: dict[str, int]) -> Iterator[str]:
    """Numbers, needs and evenings as such."""
    if sorted(at.values()) != list(range(1, len(built.steps) + 1)):
        yield "steps are not numbered one by one"
    for step in built.steps:
        yield from (f"{step.act.key} before {need}" for need in step.act.needs if at[need] > step.number)
        if not step.reasons or not all(reason.why for reason in step.reasons):
            yield f"{step.act.key} does not say why"
    evenings = [step.evening for step in built.steps]
    if evenings != sorted(evenings):
        yield "an evening is gone back to"


def wires(found: Assessment, built: AssemblySizing, at: dict[str, int]) -> Iterator[str]:
    """Every run of the wire table is made once, while nothing is live, and its ends stand by then."""
    made: dict[str, int] = {}
    for step in built.steps:
        if step.act.key.startswith("wire:"):
            for piece in step.act.pieces:
                made[piece] = made.get(piece, 0) + 1
                for end in next(p for p in built.pieces if p.key == piece).ends:
                    fit = f"fit:part:{end.at.rpartition('/')[2]}"
                    fit = ON_IT.get(end.at, fit)
                    if at.get(fit, 0) > step.number and f"join:{step.act.pieces[0]}" not in at:
                        yield f"{step.act.key} ends at {end.name}, which is not in yet"
                    cover = f"cover:{fit.removeprefix('fit:')}"
                    done = at.get(f"join:{step.act.pieces[0]}", step.number)
                    if at.get(cover, done) < done:
                        yield f"{cover} before {step.act.key}"
    for row in rows(found.power):
        pieces = [p.key for p in built.pieces if p.run == row.key]
        if row.length_m > 0 and (not pieces or any(made.get(key) != 1 for key in pieces)):
            yield f"the run {row.key} is not made once"
    live = min((n for key, n in at.items() if key.startswith("post:")), default=10**6)
    covering = {key for key, n in at.items() if n > live and key.startswith("fit:")}
    if not covering:  # where posts are under something they are joined early, with every slot empty
        yield from (
            f"{key} while the posts are joined"
            for key, n in at.items()
            if key.startswith("wire:") and n > live and ":source:" not in key
        )


def fuses(found: Assessment, at: dict[str, int]) -> Iterator[str]:
    """No fuse before its slot was measured, before what feeds it, before the dead checks, or before a wire that it feeds."""
    network = found.power.network
    for key, node in network.nodes.items():
        if not isinstance(node, Protection):
            continue
        fuse = f"fuse:{key}"
        if fuse not in at:
            yield f"{fuse} is never put in"
            continue
        if f"live:{key}" not in at or not before(f"live:{key}", fuse, at):
            yield f"{fuse} before it was measured"
        for feeder in network.upstream(key):
            if isinstance(network.nodes[feeder], Protection) and not before(f"fuse:{feeder}", f"live:{key}", at):
                yield f"{key} measured while {feeder} is out"
        yield from (f"{fuse} before {check}" for check in at if check.startswith("dead:") and at[check] > at[fuse])
        yield from (
            f"{fuse} before {wire}" for wire in (f"wire:{k}" for k in network.below(key)) if wire in at and at[wire] > at[fuse]
        )
        if network.source(key) == "pack":
            yield from (f"{fuse} before {post}" for post in at if post.startswith("post:pack:") and at[post] > at[fuse])
            if not before("sense:plug", fuse, at):
                yield f"{fuse} before the board watches"
    for key, node in network.nodes.items():
        if isinstance(node, Outlet) and network.stands_on[key] != "ac":
            guard = network.guard(key)
            if f"out:{key}" not in at or (guard and not before(f"fuse:{guard}", f"out:{key}", at)):
                yield f"{key} is not measured behind its fuse"
    for key in found.power.inverters:
        load, outlets = f"ac:load:{key}", [k for k in network.below(key) if isinstance(network.nodes[k], Outlet)]
        if outlets and (load not in at or any(not before(f"ac:out:{k}", load, at) or f"ac:out:{k}" not in at for k in outlets)):
            yield f"a load on {key} before its outlets are proved"


def posts(found: Assessment, at: dict[str, int]) -> Iterator[str]:
    """One school at the posts; the board in, and its plug measured, before; its plug in after its own negative."""
    first = found.design.assembly.pole_first
    second = "negative" if first == "positive" else "positive"
    for source in found.power.sources:
        if not before(f"post:{source}:{first}", f"post:{source}:{second}", at):
            yield f"{source}: {second} first"
    yield from (f"{one} after {two}" for one, two in (
        ("pack:even", "pack:stack"), ("pack:stack", "pack:links"), ("wire:lead:sense", "pack:sense-check"), ("pack:links", "pack:cover"),
        ("pack:sense-check", "pack:cover"), ("pack:cover", "fit:pack"), ("fit:board", "sense:plug"), ("pack:sense-check", "sense:plug"),
        ("post:pack:negative", "sense:plug"), ("wire:lead:negative:1", "sense:plug"), ("join:lead:negative:1", "sense:plug"), ("wire:lead:meter:return", "meter:on"), ("post:pack:positive", "meter:on"),
    ) if not before(one, two, at))  # fmt: skip
    if isinstance(found.pack.pack, CellPack) and found.pack.build.board is not None and "sense:plug" not in at:
        yield "the sense leads are never plugged in"
    for key in found.power.inverters:
        guard = found.power.network.guard(key)
        if f"precharge:{key}" in at and guard and not before(f"precharge:{key}", f"fuse:{guard}", at):
            yield f"{guard} closes on the empty capacitors of {key}"


def strings(found: Assessment, at: dict[str, int]) -> Iterator[str]:
    """Strings of a bank one by one, alike before, its own links before, the box after; and none forgotten."""
    pack = found.pack.pack
    if not isinstance(pack, Bank):
        return
    count = int(found.pack.parallel.number)
    wanted = [f"{what}:{n}" for n in range(1, count + 1) for what in ("series", "string")]
    wanted = [key for key in wanted if (pack.in_series if key.startswith("series") else count) > 1]
    if [key for key in sorted(at, key=lambda k: at[k]) if key.startswith(("series:", "string:"))] != wanted:
        yield "the strings are not joined one by one"
    for key in wanted:
        yield from (f"{key} before {one}" for one in ("pack:even", "fit:pack") if not before(one, key, at))
        yield from (f"{key} after {post}" for post in at if post.startswith("post:pack:") and at[post] < at[key])
        yield from (
            f"{key} before {made}"
            for made in at
            if made.startswith("wire:lead:string") and at[made] > at[key] and key.startswith("string")
        )
    if wanted and "pack:even" not in at:
        yield "strings that nobody brought to one voltage"


def last(found: Assessment, at: dict[str, int]) -> Iterator[str]:
    """Dirty work before all else, arrays after all else, each behind its controller."""
    dirty = [n for key, n in at.items() if key.startswith(("mark:", "drill:", "cut:", "deburr"))]
    electric = [n for key, n in at.items() if key.startswith(("pack:", "fit:", "wire:"))]
    if dirty and electric and max(dirty) > min(electric):
        yield "dirty work among the electrics"
    arrays = [key for key, s in found.design.charging.sources.items() if isinstance(s, SolarArray) and f"array:{key}" in at]
    for key in arrays:
        if not before(f"connect:{key}", f"array:{key}", at):
            yield f"the array of {key} before its controller"
    if arrays and max(n for key, n in at.items() if not key.startswith("array:")) > min(at[f"array:{key}"] for key in arrays):
        yield "something after the array"


def geometry(found: Assessment, at: dict[str, int]) -> Iterator[str]:
    """Nothing is fitted under, or behind, what stands already."""
    if found.box is None:
        return
    layout = found.box.layout
    door = layout.case.opens == "front"
    bodies = {
        f"fit:{key}": s.solid for key, s in layout.standing.items() if s.place.on not in ("lid", "front" if door else "lid")
    }
    bodies |= {f"fit:fixture:{key}": solid for key, solid in layout.fixtures.items()}
    for low, one in bodies.items():
        for high, two in bodies.items():
            if (
                low != high
                and over(one, two, door)
                and not lid_part(high, layout)
                and not lid_part(low, layout)
                and not before(low, high, at)
            ):
                yield f"{low} after {high}, which stands over it"
    for fitted in layout.fitted:
        name = f"fit:{fitted.key}" if fitted.thing else f"fit:fitting:{fitted.key}"
        if fitted.deep <= 0 or fitted.face in ("lid", "front" if door else "lid") or lifted(fitted.solid.z0, layout):
            continue
        for other, solid in bodies.items():
            if (
                other.startswith("fit:fixture:")
                or lid_part(other, layout)
                or not behind(fitted.face, fitted.solid, solid, fitted.thing.size[1] if fitted.thing else fitted.deep, layout)
            ):
                continue
            if not before(name, other, at):
                yield f"{name} after {other}, which is before its nut"


def over(low: Solid, high: Solid, door: bool) -> bool:
    """Whether one is in the way of another that comes in from the opening."""
    wide = min(low.x1, high.x1) - max(low.x0, high.x0) > 1e-9
    if door:
        return wide and min(low.z1, high.z1) - max(low.z0, high.z0) > 1e-9 and high.y1 <= low.y0 + 1e-9
    return wide and min(low.y1, high.y1) - max(low.y0, high.y0) > 1e-9 and high.z0 >= low.z1 - 1e-9


def lifted(z0: float, layout: BoxLayout) -> bool:
    """Whether something in a side sits in the lid."""
    return layout.case.opens == "above" and layout.case.lid_mm > 0 and z0 >= layout.hollow.height - layout.case.lid_mm - 1e-9


def lid_part(fit: str, layout: BoxLayout) -> bool:
    """Whether what an act fits hangs on a side that opens with the lid."""
    standing = layout.standing.get(fit.removeprefix("fit:"))
    return standing is not None and standing.place.on in ("front", "back", "left", "right") and lifted(standing.solid.z0, layout)


def behind(face: str, fitted: Solid, other: Solid, body: float, layout: BoxLayout) -> bool:
    """Whether something stands so near behind the body of a fitting that no hand comes between."""
    axis, far = {
        "left": (0, False),
        "right": (0, True),
        "front": (1, False),
        "back": (1, True),
        "floor": (2, False),
        "lid": (2, True),
    }[face]
    across = [n for n in range(3) if n != axis]
    if any(min(fitted[n + 3], other[n + 3]) - max(fitted[n], other[n]) <= 1e-9 for n in across):
        return False
    whole = (layout.hollow.length, layout.hollow.width, layout.hollow.height)[axis]
    lean = layout.hollow.lean(fitted.z0) if axis < 2 else 0.0
    room = (whole - lean - other[axis + 3] if far else other[axis] - lean) - body
    return room < HAND_MM - 1e-9
