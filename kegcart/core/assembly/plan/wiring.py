"""Wires: each made and joined while nothing is live, checked before the next on its stud, and before what hides it goes in."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise

from kegcart.core.assembly.cutting import OUTSIDE, Piece
from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.assembly.plan.fitting import Hidden, fit_key
from kegcart.core.figure import Figure
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption
from kegcart.core.reference.hardware import torques
from kegcart.core.units import write_quantity

THIN_MM2 = 6.6
"""Up to so many mm² both wires of a pair are made in one go."""
STRINGS = "/pack/strings"
PULL = "Pull each crimp by hand: nothing moves."
LOOSE = "Its far end is live once its post is joined: capped, taped, tied aside until this step."
BAD_JOINT = ("a nut not at its torque", "a crimp with the wrong die", "an oxidised or painted face")


@dataclass(slots=True)
class Wiring:
    """The acts of one wire or pair. fits: the acts that fit what its ends are on, of one side and of the other; of both wires of a pair.
    posts: ends that go on a post of a battery, left capped until then. late: the act that joins its other side, where that goes on
    later. loose: it goes on its post first, as that is under what its other side is on."""

    act: str
    pieces: list[Piece]
    fits: tuple[frozenset[str], frozenset[str]]
    posts: list[str] = field(default_factory=list)
    late: str = ""
    loose: bool = False

    @property
    def area(self) -> float:
        """Its section, mm²."""
        return self.pieces[0].area_mm2

    @property
    def of_string(self) -> bool:
        """Whether it lies between the strings of a bank: both of its ends go on posts, and are joined string by string."""
        return self.pieces[0].ends[0].at.startswith(STRINGS)


def wirings(pieces: list[Piece], power: PowerSizing) -> Iterator[Wiring]:
    """The wires as they are made: thin ones in pairs, all others one by one."""
    by_key = {piece.key: piece for piece in pieces}
    done: set[str] = set()
    for piece in pieces:
        if piece.key in done or piece.key == "lead:sense":
            continue
        group = [piece]
        twin = by_key.get(f"{piece.key}:return")
        if twin is not None and piece.area_mm2 <= THIN_MM2 and piece.run != "lead:meter":
            group.append(twin)
        done |= {p.key for p in group}
        # What is no part of the station, as a vehicle's battery, is joined with its source.
        one, other = (frozenset(fit_key(p.ends[side].at, power) for p in group if p.ends[side].at != OUTSIDE) for side in (0, 1))
        found = Wiring(f"wire:{piece.key}", group, (one, other))
        found.posts = [end.at for p in group for end in p.ends if is_post(end.at, power)]
        if found.of_string:
            found.fits = (frozenset(), frozenset())
        yield found


def is_post(at: str, power: PowerSizing) -> bool:
    """Whether an end goes on a post of a battery."""
    return at.startswith(STRINGS) or at in {source.pointer for source in power.sources.values()}


def plan_wiring(pieces: list[Piece], power: PowerSizing, hidden: list[Hidden], plan: BuildPlan) -> list[Wiring]:
    """The acts of all wires."""
    made = list(wirings(pieces, power))
    for wiring in made:
        make(wiring, power, plan)
        part_ways(wiring, hidden, plan)
    one_by_one(made, power, plan)
    for thing in hidden:
        for wiring in made:
            for act in (wiring.act, wiring.late):
                if act and thing.what in ends_of(act, wiring) and thing.by not in plan.earlier(act):
                    plan.after(thing.by, act, thing.why, telling=True)
    while split_in(plan.find_circle(), made, hidden, plan):
        pass
    for key, name in covered(power):
        wires = [w.late or w.act for w in made if key in w.fits[0] | w.fits[1]]
        if wires:
            act = f"cover:{key.removeprefix('fit:')}"
            text = "Its cover on, or a boot over each lug: a spanner that falls now must fall on plastic."
            places = plan.acts[key].places if key in plan.acts else ()
            plan.add(Act(act, "cables", "cover", f"Cover {name}", text, places))
            plan.after(act, [*wires, key], "its wires are on, and each was checked")
    return made


def ends_of(act: str, wiring: Wiring) -> frozenset[str]:
    """The acts that fit what an act joins a wire to."""
    if not wiring.late:
        return wiring.fits[0] | wiring.fits[1]
    return wiring.fits[0] if act == wiring.act else wiring.fits[1]


def make(wiring: Wiring, power: PowerSizing, plan: BuildPlan) -> None:
    """The act that makes a wire and joins both of its ends, but those for a post."""
    piece = wiring.pieces[0]
    lengths = (
        f"{p.cut.text} of {p.colour} {p.gauge}" if p.cores == 1 else f"{p.cut.text} of {p.gauge} cable" for p in wiring.pieces
    )
    count = f"{piece.count} times " if piece.count > 1 else ""
    ends = "; ".join(dict.fromkeys(end_text(end.terminal.label, end.hole) for p in wiring.pieces for end in p.ends))
    capped = " The end for the post stays capped." if wiring.posts else ""
    if wiring.of_string:
        capped = " Both ends stay capped: they go on with their string."
    act = Act(
        wiring.act,
        "cables",
        "thin-cable" if piece.area_mm2 <= THIN_MM2 else "cable",
        title_of(piece),
        f"{count}{' and '.join(dict.fromkeys(lengths))}: {ends}. {PULL}{capped}",
        tuple(dict.fromkeys(p.place for p in wiring.pieces)),
        tuple(p.key for p in wiring.pieces),
        ("cable-cutter", "torque-key") if any(e.hole for p in wiring.pieces for e in p.ends) else ("cable-cutter",),
        () if wiring.posts else joint_measures(piece),
        first=(-piece.area_mm2,),
        times=sum(p.count for p in wiring.pieces),
    )
    plan.add(act)
    on_posts = {fit_key(at, power) for at in wiring.posts}
    stand = sorted((wiring.fits[0] | wiring.fits[1]) - on_posts)
    plan.after(wiring.act, stand, "both of its ends stand" if len(stand) > 1 else "what it is joined to stands")


def title_of(piece: Piece) -> str:
    """Between what a wire lies."""
    return f"{piece.ends[0].name} to {piece.ends[1].name}"


def part_ways(wiring: Wiring, hidden: list[Hidden], plan: BuildPlan) -> None:
    """Join the ends of a wire one after the other where one of them is under or behind what the other needs."""
    for side in (0, 1):
        first, last = wiring.fits[side], wiring.fits[1 - side]
        before_last = last.union(*(plan.earlier(fit) for fit in last))
        if last and any(h.what in first and h.by in before_last for h in hidden):
            split(wiring, side, hidden, plan)
            return


def split(wiring: Wiring, side: int, hidden: list[Hidden], plan: BuildPlan) -> None:
    """Let a wire be joined at one side, and at the other once what that is on stands."""
    piece, act, far = wiring.pieces[0], plan.acts[wiring.act], [p.ends[1 - side] for p in wiring.pieces]
    wiring.fits = (wiring.fits[side], wiring.fits[1 - side])
    wiring.late, wiring.loose = f"join:{piece.key}", piece.ends[side].at in wiring.posts
    act.text += (
        " Its other end stays capped." if not wiring.loose else " Its far end is joined later, and stays capped until then."
    )
    act.measures, last = (), wiring.fits[1]
    for fit in last - wiring.fits[0]:
        act.needs.pop(fit, None)
    on = "; ".join(dict.fromkeys(end_text("", end.hole) for end in far if end.hole))
    text = f"{on}. {PULL}" if on else PULL
    measures = joint_measures(piece)
    tools = ("torque-key",) if on else ()
    late = Act(
        wiring.late,
        "cables",
        "join",
        f"{title_of(piece)}: its other end",
        text,
        act.places,
        act.pieces,
        tools,
        measures,
        first=act.first,
    )
    late.caution = LOOSE if wiring.loose else ""
    plan.add(late)
    plan.after(wiring.late, [wiring.act, *sorted(last)], "its first end could not be reached any more")
    for thing in hidden:
        if thing.what in last and thing.by in plan.acts and plan.acts[thing.by].needs.pop(wiring.act, None) is not None:
            plan.after(thing.by, wiring.late, thing.why, telling=True)


def split_in(circle: list[str], made: list[Wiring], hidden: list[Hidden], plan: BuildPlan) -> bool:
    """Split a wire of a circle of acts, at the end for which the act before it in the circle waits. Returns whether one could be."""
    for wiring in made:
        if wiring.act not in circle or wiring.late or wiring.posts:
            continue
        n = circle.index(wiring.act)
        waits_for, waiting = circle[(n + 1) % len(circle)], circle[n - 1]
        for side in (0, 1):
            first, last = wiring.fits[side], wiring.fits[1 - side]
            if waits_for in last and waits_for not in first and any(h.what in first and h.by == waiting for h in hidden):
                split(wiring, side, hidden, plan)
                return True
    return False


def end_text(label: str, hole: str) -> str:
    """An end in words: its terminal, and its torque where it is a lug."""
    if not hole:
        return label
    row = torques()[hole]
    crimps = f"{label} {hole}, " if label else f"{hole}, "
    return f"{crimps}{write_quantity(row.least_nm, '')} to {write_quantity(row.most_nm, 'N·m')}"


def joint_measures(piece: Piece) -> tuple[Measure, ...]:
    """What is measured of a wire once it is on: millivolts at a current over both lugs, or only that it holds."""
    if not piece.bolted or piece.area_mm2 <= THIN_MM2:
        return (
            Measure("pulled", "Pulled, and nothing moves", causes=("a crimp with the wrong die", "strands outside the barrel")),
        )
    inputs = {"I_t": assumption("joint_test"), "U_j": assumption("joint_most"), "R": copper(piece)}
    most = Figure.by("U_most", "1000 · (2 · U_j + I_t · R)", "mV", "over both joints and the cable at 20 A", inputs)
    usual = Figure.by("U", "1000 · (2 · U_j / 4 + I_t · R)", "mV", "good joints and the cable at 20 A", inputs)
    return (Measure("drop", "From stud to stud at 20 A", "mV", usual, None, most, BAD_JOINT),)


def copper(piece: Piece) -> Figure:
    """Resistance of one piece, cold, Ω."""
    rho, length = assumption("copper_resistivity"), piece.cut
    area = Figure.of("A", piece.area_mm2, "mm²", f"section of {piece.gauge}")
    return Figure.by("R", "ρ20 · L / A", "Ω", "its copper, cold", ρ20=rho, L=length, A=area)


def one_by_one(made: list[Wiring], power: PowerSizing, plan: BuildPlan) -> None:
    """Wires that share a stud of a part go on one by one, the thickest first, each checked before the next. A bar has a stud for each."""
    bars = {part.pointer for part in power.parts.values() if part.node.part == "busbar"}
    studs: dict[tuple[str, str], list[Wiring]] = {}
    for wiring in made:
        for piece in wiring.pieces:
            for side, end in enumerate(piece.ends):
                if end.bolted and not end.at.endswith("/negative") and end.at not in bars:
                    studs.setdefault((end.at, f"{piece.pole}{'' if side else ' out'}"), []).append(wiring)
    for sharing in studs.values():
        in_turn = sorted({w.act: w for w in sharing if not w.posts}.values(), key=lambda w: (-w.area, w.act))
        for first, second in pairwise(in_turn):
            if first.act not in plan.earlier(second.act) and second.act not in plan.earlier(first.act):
                plan.after(
                    second.act,
                    first.late or first.act,
                    "both are on one stud: each joint is checked before the next is laid on it",
                )


def covered(power: PowerSizing) -> Iterator[tuple[str, str]]:
    """What gets a cover once its wires are on: bars, and the shunt, by the act that fits it."""
    for key, part in power.parts.items():
        if part.node.part == "busbar":
            yield f"fit:part:{key}", part.node.name
    for source in power.sources.values():
        if power.network.children[source.key]:
            yield (
                f"fit:negative-bar:{source.key}",
                "the negative bar" if source.key == "pack" else f"the negative bar of {source.name}",
            )
    if power.shunt is not None:
        yield "fit:shunt", "the shunt"
