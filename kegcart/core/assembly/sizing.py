"""Figures of the assembly: what is cut, listed, bought and used, the steps in their order, how many evenings they take."""

from dataclasses import dataclass
from typing import NamedTuple

from kegcart.core.assembly.cutting import CutList, Piece
from kegcart.core.assembly.document import Assembly
from kegcart.core.assembly.parts_list import ListedFrom, parts_list
from kegcart.core.assembly.plan import build_plan
from kegcart.core.assembly.plan.acts import STAGES, Act, BuildPlan
from kegcart.core.assembly.shopping import Shopping, shop
from kegcart.core.assembly.tools import Tool, tools_for
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing

MOST_REASONS = 3
"""So many reasons are told of one step."""


class Reason(NamedTuple):
    """Why a step stands where it does: the step that it comes after, or before, and what for; no step where its stage says it."""

    step: str
    before: bool
    why: str


@dataclass(frozen=True, slots=True, eq=False)
class Step:
    """An act in its place: its number from 1, the evening in which it is done, from 1, and why it stands there."""

    number: int
    evening: int
    act: Act
    reasons: tuple[Reason, ...]


@dataclass(slots=True, eq=False)
class AssemblySizing:
    """What the assembly comes to."""

    pieces: list[Piece]
    shopping: Shopping
    tools: list[Tool]
    plan: BuildPlan
    steps: list[Step]
    figures: Sheet


def size_assembly(
    decided: Assembly, pack: PackSizing, power: PowerSizing, charging: ChargingSizing, box: BoxSizing | None, sheet: Sheet
) -> AssemblySizing:
    """Figures of the assembly, entered on a sheet. Written in the units shown at present."""
    pieces = list(CutList(power, charging).pieces())
    listed = parts_list(ListedFrom(pack, power, charging, box, pieces))
    shopping = shop(listed, pieces, decided, power.available, sheet)
    plan = build_plan(decided, pieces, pack, power, charging, box)
    steps = steps_of(plan, decided.evening_h * 60)
    how = "counted in the order of assembly"
    sheet.put("assembly/steps", Figure.of("n", len(steps), "", "steps", how=how))
    minutes = sum(step.act.minutes for step in steps)
    sheet.put("assembly/hours", Figure.of("t", minutes / 60, "h", "of work", how="typical minutes of each step, added up"))
    label, how = "evenings", "a step is done in one evening; powering up is not left half done"
    sheet.put("assembly/evenings", Figure.of("n", steps[-1].evening if steps else 0, "", label, how=how))
    return AssemblySizing(pieces, shopping, tools_for(pieces, pack, power, box), plan, steps, sheet)


def steps_of(plan: BuildPlan, evening_min: float) -> list[Step]:
    """The acts in order, each with its evening and its reasons."""
    acts = plan.in_order()
    at = {act.key: n for n, act in enumerate(acts)}
    later: dict[str, list[str]] = {act.key: [] for act in acts}
    for act in acts:
        for before in act.needs:
            later[before].append(act.key)
    evenings = by_evening(acts, evening_min)
    return [
        Step(n + 1, evenings[n], act, tuple(reasons_of(act, plan, later[act.key], at))[:MOST_REASONS])
        for n, act in enumerate(acts)
    ]


def by_evening(acts: list[Act], evening_min: float) -> list[int]:
    """The evening of each act, from 1: one ends where the next act would not be done in it. What is live is not left half done over
    night: powering up begins where all of it fits, or with an evening."""
    out: list[int] = []
    evening, used = 1, 0.0
    power = sum(act.minutes for act in acts if act.stage == "power")
    begun = False
    for act in acts:
        needed = act.minutes
        if act.stage == "power" and not begun:
            begun, needed = True, power
        if used > 0 and used + needed > evening_min + 1e-9:
            evening, used = evening + 1, 0.0
        used += act.minutes
        out.append(evening)
    return out


def reasons_of(act: Act, plan: BuildPlan, later: list[str], at: dict[str, int]) -> list[Reason]:
    """Why an act stands where it does: what tells most first, then what it was last waiting for; where nothing is, what its stage is for."""
    needs = sorted(act.needs, key=lambda key: -at[key])
    told = [Reason(key, False, act.needs[key].why) for key in needs if act.needs[key].telling]
    followers = sorted((key for key in later if plan.acts[key].needs[act.key].telling), key=lambda key: at[key])
    told += [Reason(key, True, plan.acts[key].needs[act.key].why) for key in followers]
    told += [Reason(key, False, act.needs[key].why) for key in needs[:1] if not act.needs[key].telling]
    unlike = {reason.why: reason for reason in reversed(told)}
    return [reason for reason in told if unlike[reason.why] is reason] or [Reason("", False, STAGES[act.stage][1])]
