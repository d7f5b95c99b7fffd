"""What is done at the bench: an act with what it is done to, what is measured at its end, and what it must come after, each with the reason."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from heapq import heapify, heappop, heappush
from typing import Any, Final, Literal

from kegcart.core.figure import Figure, write_figure
from kegcart.core.reference.hardware import act_types

Stage = Literal["dirty", "pack", "parts", "cables", "box", "dead", "power", "ac", "sources"]
STAGES: Final[dict[Stage, tuple[str, str]]] = {
    "dirty": ("Dirty work", "Swarf and dust are made while nothing electric is near: a chip of metal in a pack shorts it."),
    "pack": (
        "Pack on the bench",
        "The pack is finished and covered where there is room for hands, before anything is near its posts.",
    ),
    "parts": ("Parts into the box", "Parts stand before wires are cut to them."),
    "cables": ("Cables", "Wires are laid while every slot is empty: nothing is live yet."),
    "box": ("The pack, and what follows it", "What stands over or before others goes in once those are wired."),
    "dead": ("Dead checks", "What is wrong is found by resistance, while nothing can burn."),
    "power": ("Power up", "Fuses go in last, from the post outwards, one at a time: what is wrong shows at one place."),
    "ac": ("AC side", "The sockets are proved before anything is plugged in."),
    "sources": ("Sources", "What brings current in is joined once what it charges is known to be right."),
}
"""The stages in their order: what each is called, and why what belongs to it stands there."""
RANK: Final[Mapping[str, int]] = {stage: n for n, stage in enumerate(STAGES)}


@dataclass(frozen=True, slots=True)
class Measure:
    """What is measured at the end of an act: its figure expected, its least and its most (None: none), and the likeliest causes where it
    is outside, the likeliest first. unit: empty where it is only looked at, and either right or not."""

    key: str
    label: str
    unit: str = ""
    expected: Figure | None = None
    least: Figure | None = None
    most: Figure | None = None
    causes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Wait:
    """Why one act comes after another. telling: it says more than that one follows the other."""

    why: str
    telling: bool = False


@dataclass(slots=True, eq=False)
class Act:
    """One act.

    kind: by which the time that it takes is known. title: in a few words; text: how it is done. places: pointers of what it is done to.
    pieces: keys of the wires that it makes or joins. tools: keys of what it is done with. caution: what can hurt there. first: what
    comes before others where nothing else decides (smaller comes first). times: how often it is done.
    """

    key: str
    stage: Stage
    kind: str
    title: str
    text: str
    places: tuple[str, ...] = ()
    pieces: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    measures: tuple[Measure, ...] = ()
    caution: str = ""
    first: tuple[float, ...] = ()
    times: int = 1
    needs: dict[str, Wait] = field(default_factory=dict)

    @property
    def minutes(self) -> float:
        """How long it takes, min. Source: acts table."""
        return act_types()[self.kind].minutes * self.times


@dataclass(slots=True)
class BuildPlan:
    """The acts of a build, and what each comes after. circles: acts that cannot be put in any order, as they wait for one another."""

    acts: dict[str, Act] = field(default_factory=dict)
    circles: list[list[str]] = field(default_factory=list)

    def add(self, act: Act) -> Act:
        """Enter an act. Errors: ValueError where there is one of its key."""
        if act.key in self.acts:
            raise ValueError(f"there are two acts '{act.key}'")
        self.acts[act.key] = act
        return act

    def after(self, act: str, before: str | Iterable[str], why: str, telling: bool = False) -> None:
        """Let an act come after one, or after several; what is not in the plan is nothing to wait for."""
        for key in (before,) if isinstance(before, str) else before:
            if key in self.acts and act in self.acts and key != act and key not in self.acts[act].needs:
                self.acts[act].needs[key] = Wait(why, telling)

    def of(self, prefix: str) -> list[str]:
        """The acts of a kind, by the beginning of their keys."""
        return [key for key in self.acts if key.startswith(prefix)]

    def earlier(self, key: str) -> set[str]:
        """All acts that come before one, by whatever way; none before what is not in the plan."""
        seen: set[str] = set()
        waiting = [key] if key in self.acts else []
        while waiting:
            for before in self.acts[waiting.pop()].needs:
                if before not in seen:
                    seen.add(before)
                    waiting.append(before)
        return seen

    def in_order(self) -> list[Act]:
        """The acts in an order in which each comes after what it needs: stage by stage, then by their `first`; the same every time.

        An act moves to the stage of what it waits for. Where acts wait for one another in a circle, one wait that geometry gave is left
        out, and the circle entered in `circles`. Source: topological sort (Kahn).
        """
        self.break_circles()
        later: dict[str, list[str]] = {key: [] for key in self.acts}
        for key, act in self.acts.items():
            for before in act.needs:
                later[before].append(key)
        self.settle_stages(later)
        left = {key: len(act.needs) for key, act in self.acts.items()}
        ready = [self.rank(key) for key, count in left.items() if count == 0]
        heapify(ready)
        out = []
        while ready:
            *_, key = heappop(ready)
            out.append(self.acts[key])
            for after in later[key]:
                left[after] -= 1
                if left[after] == 0:
                    heappush(ready, self.rank(after))
        return out

    def rank(self, key: str) -> tuple[int, tuple[float, ...], str]:
        """What decides between acts of which either could come next."""
        act = self.acts[key]
        return RANK[act.stage], act.first, key

    def settle_stages(self, later: Mapping[str, list[str]]) -> None:
        """Move each act to the latest stage of all that it waits for, so that no stage is gone back to."""
        left = {key: len(act.needs) for key, act in self.acts.items()}
        waiting = [key for key, count in left.items() if count == 0]
        while waiting:
            key = waiting.pop()
            for after in later[key]:
                if RANK[self.acts[key].stage] > RANK[self.acts[after].stage]:
                    self.acts[after].stage = self.acts[key].stage
                left[after] -= 1
                if left[after] == 0:
                    waiting.append(after)

    def break_circles(self) -> None:
        """Leave one wait out of each circle."""
        while circle := self.find_circle():
            self.circles.append(circle)
            ring = list(zip(circle, [*circle[1:], circle[0]], strict=True))
            # Each waits for the next; what only geometry asks for is given up first.
            weak = next(((a, b) for a, b in ring if self.acts[a].needs[b].telling), ring[0])
            del self.acts[weak[0]].needs[weak[1]]

    def find_circle(self) -> list[str]:
        """Acts of which each waits for the next, and the last for the first; empty where there are none."""
        done: set[str] = set()
        for start in self.acts:
            way: list[str] = []
            on_way: set[str] = set()
            stack = [(start, iter(self.acts[start].needs))] if start not in done else []
            if stack:
                way, on_way = [start], {start}
            while stack:
                key, needs = stack[-1]
                before = next(needs, None)
                if before is None:
                    stack.pop()
                    done.add(key)
                    on_way.discard(way.pop())
                elif before in on_way:
                    return way[way.index(before) :]
                elif before not in done:
                    stack.append((before, iter(self.acts[before].needs)))
                    way.append(before)
                    on_way.add(before)
        return []


def write_measure(measure: Measure) -> dict[str, Any]:
    """A measure as plain JSON data."""
    out: dict[str, Any] = {"key": measure.key, "label": measure.label, "unit": measure.unit, "causes": list(measure.causes)}
    for name in ("expected", "least", "most"):
        figure: Figure | None = getattr(measure, name)
        out[name] = write_figure(figure) if figure is not None else None
    return out
