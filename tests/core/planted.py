"""Boxes that can hold what is to go into them: planted, that is built from a layout in which every rule holds."""

from dataclasses import replace
from random import Random

from kegcart.core.box.contents import Thing, bend_radius, cable_outside
from kegcart.core.box.document import Case, Enclosure, Feature, Fitting
from kegcart.core.box.layout import BoxLayout, lay_out
from kegcart.core.box.moves import place_things
from kegcart.core.box.proposal import Task
from kegcart.core.box.runs import Link
from kegcart.core.reference.boxes import bodies
from tests.core.box_judge import broken

INSIDE = ("inverter", "converter", "protection", "busbar", "fuse_block", "shunt", "board", "relay", "plug", "mains", "step_down")
IN_FACES = ("socket", "switch")
TRIES = 40


def thing_of(n: int, kind: str, chance: Random) -> tuple[Thing, float]:
    """A part by a row of the list that is not the largest of its kind, with cables of some section; and its mass."""
    rows = [row for (k, _), found in bodies().items() if k == kind for _, row in found if row.width_mm <= 340]
    row = chance.choice(rows)
    mm = cable_outside(chance.choice([1.5, 2.5, 6, 10, 16, 25]))
    size = (row.width_mm, row.depth_mm, row.height_mm)
    reached = "outside" if kind == "switch" else "inside" if kind in ("protection", "fuse_block") else ""
    bend = bend_radius(mm, chance.choice(["silicone", "pvc"]))
    part = Thing(f"part:p{n}", f"Part {n}", f"/power/network/p{n}", row, size, 1, mm, bend, row.post_mm, row.posts, row.along)
    part.reached = reached
    return part, row.mass_kg


def tenths(chance: Random, low: float, high: float) -> float:
    """A length between two mm, as inches give."""
    return round(chance.uniform(low, high), 1)


def pack_of(chance: Random) -> tuple[Thing, float]:
    """A pack of some size, no denser than cells are."""
    size = (tenths(chance, 140, 400), tenths(chance, 100, 260), tenths(chance, 70, 220))
    kg = size[0] * size[1] * size[2] / 1e6 * chance.uniform(1.2, 2.0)
    return Thing("pack", "Pack", "/pack", None, size, post_mm=16.0, cable_mm=9.6, posts=("top",), reached="inside"), kg


def case_of(size: list[float], taper: float) -> Case:
    """A box of a size with two latches and a rib."""
    length, width, height = size
    latch = {"kind": "latch", "face": "front", "y_mm": height - 20, "width_mm": 50, "height_mm": 36}
    features = {
        "latch-1": Feature.model_validate({**latch, "x_mm": length * 0.25}),
        "latch-2": Feature.model_validate({**latch, "x_mm": length * 0.75}),
        "rib": Feature.model_validate(
            {
                "kind": "rib",
                "face": "right",
                "x_mm": width / 2,
                "y_mm": height * 0.4,
                "width_mm": 5,
                "height_mm": height * 0.7,
                "inside_mm": 6,
            }
        ),
    }
    return Case(
        name="Box",
        length_mm=length,
        width_mm=width,
        height_mm=height,
        taper_mm=taper,
        features=features,
        mass_kg=4,
        rated_kg=None,
    )


def vents_of(size: list[float]) -> dict[str, Fitting]:
    """A vent low on the left and one high on the right, which must be left free."""
    _, width, height = size
    places = (("left", width / 2, height * 0.2), ("right", width * 0.2, height * 0.75))
    return {
        f"vent-{face}": Fitting.model_validate({"kind": "vent", "name": face, "face": face, "x_mm": x, "y_mm": y, "width_mm": 50})
        for face, x, y in places
    }


def planted(chance: Random) -> tuple[Task, BoxLayout]:
    """A task of 5 to 20 parts, and the layout it was built from: the smallest box tried in which one was found in which all rules hold."""
    while True:
        count = chance.randint(5, 20)
        faced = chance.randint(1, max(1, count // 2))
        kinds = [chance.choice(IN_FACES) for _ in range(faced)] + [chance.choice(INSIDE) for _ in range(count - faced - 1)]
        parts = [pack_of(chance), *(thing_of(n, kind, chance) for n, kind in enumerate(kinds))]
        things, masses = [t for t, _ in parts], {t.key: kg for t, kg in parts}
        taper, vented, found = chance.choice([0, 0, 5, 9.7]), chance.random() < 0.5, None
        for step in range(TRIES):
            grow = 1.6 - 0.02 * step
            size = [tenths(chance, grow * low, grow * high) for low, high in ((380, 560), (260, 400), (200, 300))]
            box = Enclosure(case=case_of(size, taper), fittings=vents_of(size) if vented else {})
            assert box.case is not None
            bare = lay_out(box, box.case, things)
            places, left = place_things(bare, [t.key for t in things], all_or_none=True)
            if left:
                continue
            whole = lay_out(box.model_copy(update={"places": places}), box.case, things)
            volume = size[0] * size[1] * size[2]
            if not broken(whole, {**masses, "": 4.5}, False) and (found is None or volume < found[0]):
                found = (volume, whole, bare)
        if found is not None:
            ends = [t.key for t in things]
            links = [
                Link(key, key, chance.choice(ends[:n]), chance.choice([2.5, 10, 25]), float("inf"))
                for n, key in enumerate(ends)
                if n
            ]
            return Task(found[2], masses, 0.5, links, False), found[1]


def shaken(task: Task, chance: Random) -> Task:
    """The same task with its parts in another order."""
    things = list(task.layout.things)
    chance.shuffle(things)
    return replace(task, layout=lay_out(task.layout.box, task.layout.case, things))
