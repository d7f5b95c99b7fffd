"""The search: until everything stands, then again and again for shorter cables; the same answer for the same question."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from random import Random
from threading import Event, Thread
from types import MappingProxyType
from typing import Any

from kegcart.core.box.arranging.apart import apart_from_what_stays, apart_in_faces, apart_inside, reached
from kegcart.core.box.arranging.costs import MOST_COST, NEAR_M, balanced, cables, fittings
from kegcart.core.box.arranging.model import Arranging
from kegcart.core.box.arranging.things import add_sitting, add_standing
from kegcart.core.box.document import SIDES, Inside, OnFace, Place
from kegcart.core.box.layout import BoxLayout, outline_of
from kegcart.core.box.runs import Link

SEED = 7
TIGHT, FIRST, BETTER, ROUGH, AGAIN = 0.4, 1.0, 1.2, 0.25, 0.1
"""Work until everything stands with all short runs short; until everything stands; to make its cables shorter after that, of that at first
with everything free, and in each round: the solver's deterministic seconds, some six of a processor each."""
LEAST_BETTER = 0.4
TOGETHER = 4
"""So many things are stood anew in a round."""
LEAST_WORK = 0.01
"""What a round counts at least, so that it comes to an end."""
TICK_S = 0.1
COVERS = 0.25
"""What is as large as this share of something in plan, or larger, hides it."""
NOWHERE: Mapping[str, Place] = MappingProxyType({})
Told = Callable[[float], bool]
"""Called with how far it is, 0 to 1; it ends with the best it has where that returns False."""


@dataclass(slots=True)
class Progress:
    """How far it is, told and asked for by turns."""

    told: Told
    done: float = 0.0

    def tell(self, done: float) -> bool:
        """That it is so far. Returns False where it is to end."""
        self.done = max(self.done, done)
        return self.told(self.done)

    def goes_on(self) -> bool:
        """Whether it is to go on."""
        return self.told(self.done)


def arrange(
    layout: BoxLayout,
    masses: Mapping[str, float],
    links: Sequence[Link],
    rolling: bool,
    told: Told = lambda done: True,
    covers: float = COVERS,
    near: Mapping[str, Place] = NOWHERE,
) -> dict[str, Inside | OnFace] | None:
    """Places for all that has none in a layout, with what is there left as it is; None where none were found.

    masses: kg by key, that of box and cables under the empty one. rolling: it stands on wheels. covers: see `Arranging`; several that are
    smaller may hide something together. near: where things stand as yet: it is begun from there. Where it is stopped it gives the best that it has. Errors: ImportError where the solver is not
    installed.
    """
    from ortools.sat.python import cp_model  # takes half a second and 60 MB: only when asked for

    progress = Progress(told)
    near_ones, spent = any(link.most_m <= NEAR_M for link in links), 0.0
    for anyhow, tight in ((False, True), (False, False), (True, False)):
        if tight and not near_ones:
            continue
        a = Arranging(layout, masses, links, rolling, covers, anyhow, tight, cp_model.CpModel(), cp_model)
        costs = entered(a)
        begin_from(a, near)
        if costs is not None:
            solver, work = solved(a, a.model, TIGHT if tight else FIRST, progress)
            spent += work
            if solver is not None:
                found = values_of(a, solver)
                # What was spent until everything stood is not there any more to shorten cables, but for a part.
                return read_places(a, shorter(a, costs, found, max(LEAST_BETTER, BETTER - spent), progress) if costs else found)
        if not progress.goes_on():
            break
    return None


def begin_from(a: Arranging, near: Mapping[str, Place]) -> None:
    """Begin the search where things stand as yet, as far as they stand in ways that there are."""
    for key, place in near.items():
        if key in a.standing and isinstance(place, Inside):
            s = a.standing[key]
            like = [
                n for n, o in enumerate(s.options) if (o.on, o.up) == (place.on, place.up) and (o.turn - place.turn) % 180 == 0
            ]
            exact = [n for n in like if s.options[n].turn == place.turn] or like
            for n, so in enumerate(s.taken if exact else ()):
                a.model.add_hint(so, n == exact[0])
            for var, at in ((s.x, place.x_mm), (s.y, place.y_mm), *([(s.z, place.z_mm)] if place.on in SIDES else [])):
                a.model.add_hint(var, round(at))
        elif key in a.sitting and isinstance(place, OnFace) and place.face in a.sitting[key].taken:
            t = a.sitting[key]
            for face, so in t.taken.items():
                a.model.add_hint(so, face == place.face)
            a.model.add_hint(t.along[place.face], round(place.x_mm - t.wide / 2))
            a.model.add_hint(t.up, round(place.y_mm - t.high / 2))


def entered(a: Arranging) -> list[tuple[Link, Any]] | None:
    """Enter everything that has no place, and what must hold; what each cable counts. None where there is no way for something."""
    for thing in a.layout.unplaced:
        if not (add_sitting(a, thing) if thing.faced else add_standing(a, thing)):
            return None
    apart_inside(a)
    apart_from_what_stays(a)
    apart_in_faces(a)
    reached(a)
    balanced(a)
    return cables(a)


def values_of(a: Arranging, solver: Any) -> list[int]:
    """What the solver found, by the index of each variable."""
    return [solver.value(a.model.get_int_var_from_proto_index(n)) for n in range(len(a.model.proto.variables))]


def shorter(a: Arranging, costs: list[tuple[Link, Any]], found: list[int], most: float, progress: Progress) -> list[int]:
    """The same with shorter cables: again and again the ends of one, rather of a dear one, and what hangs on them are stood anew, where that
    is better."""
    chance, keys = Random(SEED), sorted([*a.standing, *a.sitting])
    beside: dict[str, list[str]] = {key: [] for key in keys}
    for link, _ in costs:
        for one, other in ((link.one, link.other), (link.other, link.one)):
            if one in beside and other in beside:
                beside[one].append(other)
    paid = a.within(0, MOST_COST)
    a.model.add(paid == sum(cost for _, cost in costs) + fittings(a))
    least = MOST_COST
    rough = a.model.clone()
    rough.minimize(rough.get_int_var_from_proto_index(paid.index))
    for n, value in enumerate(found):
        rough.add_hint(rough.get_int_var_from_proto_index(n), value)
    solver, spent = solved(a, rough, ROUGH, progress)
    if solver:
        found, least = values_of(a, solver), solver.value(rough.get_int_var_from_proto_index(paid.index))
    while spent < most and progress.tell(spent / most):
        now = [1 + found[cost.index] for _, cost in costs if least < MOST_COST] or [1] * len(costs)
        link = chance.choices([link for link, _ in costs], now)[0]
        free = [key for key in (link.one, link.other) if key in beside]
        near = sorted({key for own in free for key in beside[own]} - {*free})
        free += chance.sample(near, min(len(near), max(0, TOGETHER - 1 - len(free))))
        others = [key for key in keys if key not in free]
        free += chance.sample(others, min(len(others), TOGETHER - len(free)))
        model = a.model.clone()
        for var in [var for key in keys if key not in free for var in decided(a, key)]:
            model.add(model.get_int_var_from_proto_index(var.index) == found[var.index])
        own = model.get_int_var_from_proto_index(paid.index)
        model.add(own < least)
        model.minimize(own)
        solver, work = solved(a, model, AGAIN, progress)
        if solver:
            found, least = values_of(a, solver), solver.value(own)
        spent += work
    return found


def decided(a: Arranging, key: str) -> list[Any]:
    """The variables that say where a thing is."""
    if key in a.standing:
        s = a.standing[key]
        return [*s.taken, s.x, s.y, s.z]
    t = a.sitting[key]
    return [*t.taken.values(), *t.along.values(), t.up]


def solved(a: Arranging, model: Any, work: float, progress: Progress) -> tuple[Any, float]:
    """The solver with what it found within so much work, None where it found nothing; and the work that it did. By the clock it is only
    asked whether to stop: what comes of it depends on the work alone."""
    solver = a.cp.CpSolver()
    of = solver.parameters
    of.num_workers, of.random_seed, of.max_deterministic_time = 1, SEED, work
    # Much of its preparation does not pay for so small a search.
    of.linearization_level, of.cp_model_probing_level, of.symmetry_level, of.max_presolve_iterations = 0, 0, 0, 1
    over = Event()

    def watch() -> None:
        while not over.wait(TICK_S):
            if not progress.goes_on():
                solver.stop_search()

    watcher = Thread(target=watch, daemon=True)
    watcher.start()
    try:
        status = solver.solve(model)
    finally:
        over.set()
        watcher.join()
    found = solver if status in (a.cp.OPTIMAL, a.cp.FEASIBLE) else None
    return found, max(solver.response_proto.deterministic_time, LEAST_WORK)


def read_places(a: Arranging, value: list[int]) -> dict[str, Inside | OnFace]:
    """The places that were found, as the design writes them."""
    found: dict[str, Inside | OnFace] = {}
    for key, s in a.standing.items():
        option = next(o for o, so in zip(s.options, s.taken, strict=True) if value[so.index])
        x, y, z = (value[at.index] for at in (s.x, s.y, s.z))
        found[key] = Inside(
            at="inside", on=option.on, x_mm=x, y_mm=y, z_mm=z if option.on in SIDES else 0, up=option.up, turn=option.turn
        )
    for key, t in a.sitting.items():
        face = next(f for f, so in t.taken.items() if value[so.index])
        shape = outline_of(t.thing)
        x, y = value[t.along[face].index] + shape.width / 2, value[t.up.index] + shape.height / 2
        found[key] = OnFace(at="face", face=face, x_mm=x, y_mm=y)
    return found
