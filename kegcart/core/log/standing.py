"""How each step of the assembly stands: open, done, to be done again, failed, or stopped by one that failed."""

from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import sha256
from typing import Literal

from kegcart.core.assembly.plan.acts import Act, Measure
from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.log.record import Record, StepTick, Value

StepState = Literal["open", "done", "again", "failed", "stopped"]
DIGEST = 16
"""Letters of a digest."""


@dataclass(frozen=True, slots=True)
class Standing:
    """How a step stands. outside: its measures that are outside their limits. stopped_by: the failed step that it waits for, the first in
    the order; empty where there is none. digest: of the figures that it rests on now."""

    act: Act
    state: StepState
    digest: str
    tick: StepTick | None = None
    outside: tuple[Measure, ...] = ()
    stopped_by: str = ""


def within(measure: Measure, value: Value) -> bool:
    """Whether what was measured is within its limits; of what is only looked at, whether it was right."""
    if isinstance(value, bool):
        return value
    least, most = measure.least, measure.most
    return (least is None or value >= least.number - 1e-9) and (most is None or value <= most.number + 1e-9)


def standings(build: AssemblySizing, record: Record, box: BoxSizing | None) -> dict[str, Standing]:
    """How every step of a build stands, by its act, in the order of assembly. What was recorded of an act that is no more counts no more.

    A step waits for all that it needs, by whatever way: where one of those failed, it is stopped.
    """
    layout = box.layout if box else None
    pieces = {piece.key: piece for piece in build.pieces}
    out: dict[str, Standing] = {}
    for step in build.steps:
        act = step.act
        wires = "|".join(
            f"{p.gauge} {p.cut.number} {p.count} {[e.hole or e.terminal.key for e in p.ends]}"
            for p in (pieces[k] for k in act.pieces)
        )
        digest = digest_of(act, wires, layout)
        tick = record.get(act.key)
        outside = tuple(m for m in act.measures if tick and m.key in tick.values and not within(m, tick.values[m.key]))
        # Whatever this one needs comes before it in the order, and stands already.
        before = [out[key] for key in act.needs if key in out]
        stopped = min(
            (b.stopped_by or b.act.key for b in before if b.state == "failed" or b.stopped_by), key=list(out).index, default=""
        )
        out[act.key] = Standing(act, state_of(tick, digest, bool(outside), bool(stopped)), digest, tick, outside, stopped)
    return out


def state_of(tick: StepTick | None, digest: str, failed: bool, stopped: bool) -> StepState:
    """How a step stands by what was recorded of it."""
    if failed:
        return "failed"
    if tick is None or not tick.done:
        return "stopped" if stopped else "open"
    return "done" if tick.digest == digest else "again"


def digest_of(act: Act, wires: str, layout: BoxLayout | None) -> str:
    """A digest of the figures that an act rests on: its words with their ratings, its limits, its wires, and where its parts stand.

    What has another name, or another number in the order, rests on the same.
    """
    limits = [f"{m.key} {figure.number if figure else None}" for m in act.measures for figure in (m.least, m.most)]
    return sha256("\n".join([act.text, *limits, wires, *places_of(act, layout)]).encode()).hexdigest()[:DIGEST]


def places_of(act: Act, layout: BoxLayout | None) -> list[str]:
    """Where what an act fits, or cuts, is in the box, to a tenth of a millimetre."""
    if layout is None or not act.key.startswith(("fit:", "mark:", "drill:", "cut:")):
        return []
    fit = act.key.removeprefix("fit:")
    out = [str([round(mm, 1) for mm in s.solid]) for key, s in layout.standing.items() if key == fit]
    out += [str([round(mm, 1) for mm in solid]) for key, solid in layout.fixtures.items() if f"fixture:{key}" == fit]
    for fitted in layout.fitted:
        if fitted.at in act.places or fit in (fitted.key, f"fitting:{fitted.key}"):
            out.append(
                f"{fitted.face} {round(fitted.outline.x, 1)} {round(fitted.outline.y, 1)} {round(fitted.outline.width, 1)}"
            )
    return out


def counted(standing: Mapping[str, Standing]) -> int:
    """How many steps are done and stand."""
    return sum(s.state == "done" for s in standing.values())
