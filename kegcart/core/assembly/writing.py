"""The assembly as plain JSON data, as the screen and papers take it."""

from typing import Any

from kegcart.core.assembly.cutting import Piece, WireEnd
from kegcart.core.assembly.lines import GROUPS, ListLine
from kegcart.core.assembly.plan.acts import STAGES, write_measure
from kegcart.core.assembly.shopping import Roll
from kegcart.core.assembly.sizing import AssemblySizing, Step
from kegcart.core.figure import Figure, write_figure
from kegcart.core.reference.hardware import torques
from kegcart.core.units import as_builder_has_it, write_quantity


def write_build(sizing: AssemblySizing) -> dict[str, Any]:
    """Lists and steps of a build."""
    shopping = sizing.shopping
    return {
        "groups": [{"key": key, "name": name} for key, name in GROUPS.items()],
        "lines": [write_line(line) for line in shopping.lines],
        "rolls": [{"line": key, "roll": write_roll(roll)} for key, rolls in shopping.rolls.items() for roll in rolls],
        "sold": shopping.sold.label,
        "pieces": [write_piece(piece) for piece in sizing.pieces],
        "tools": [{"key": tool.key, "what": tool.what, "sizes": tool.sizes, "why": tool.why} for tool in sizing.tools],
        "stages": [{"key": key, "name": name, "why": why} for key, (name, why) in STAGES.items()],
        "steps": [write_step(step, sizing) for step in sizing.steps],
        "circles": sizing.plan.circles,
    }


def figure(found: Figure | None) -> dict[str, object] | None:
    """A figure with its working, where there is one."""
    return None if found is None else write_figure(found, top=True)


def write_line(line: ListLine) -> dict[str, Any]:
    """A line of the list."""
    return {
        "key": line.key,
        "group": line.group,
        "what": line.what,
        "rating": line.rating,
        "unit": line.unit,
        "places": line.places,
        "need": figure(line.need),
        "owned": line.owned,
        "price": figure(line.price),
        "packet": line.packet,
        "buy": figure(line.buy),
        "cost": figure(line.cost),
        "comes_with": line.comes_with,
    }


def write_roll(roll: Roll) -> dict[str, Any]:
    """A length of wire with what is cut from it, in words."""
    return {
        "length": write_quantity(roll.length, "m"),
        "owned": roll.owned,
        "cuts": [write_quantity(cut, "m") for cut in roll.cuts],
        "left": write_quantity(roll.left, "m"),
        "shares": [cut / roll.length for cut in roll.cuts],
    }


def write_piece(piece: Piece) -> dict[str, Any]:
    """A piece of wire."""
    return {
        "key": piece.key,
        "pole": piece.pole,
        "colour": piece.colour,
        "gauge": piece.gauge,
        "cores": piece.cores,
        "count": piece.count,
        "cut": figure(piece.cut),
        "ends": [write_end(end) for end in piece.ends],
        "place": piece.place,
    }


def write_end(end: WireEnd) -> dict[str, Any]:
    """An end of a piece."""
    row = torques().get(end.hole)
    torque = f"{as_builder_has_it(row.least_nm, 'N·m')[0]:g} to {write_quantity(row.most_nm, 'N·m')}" if row else ""
    return {
        "at": end.at,
        "name": end.name,
        "terminal": end.terminal.label,
        "kind": end.terminal.kind,
        "die": end.terminal.die,
        "barrel": write_quantity(end.terminal.barrel_mm, "mm"),
        "hole": end.hole,
        "torque": torque,
        "label": end.label,
    }


def write_step(step: Step, sizing: AssemblySizing) -> dict[str, Any]:
    """A step of the order."""
    act = step.act
    return {
        "number": step.number,
        "evening": step.evening,
        "key": act.key,
        "stage": act.stage,
        "title": act.title,
        "text": act.text,
        "places": list(act.places),
        "pieces": list(act.pieces),
        "tools": list(act.tools),
        "minutes": act.minutes,
        "caution": act.caution,
        "measures": [write_measure(measure) for measure in act.measures],
        "needs": list(act.needs),
        "reasons": [
            {
                "step": reason.step,
                "title": sizing.plan.acts[reason.step].title if reason.step else "",
                "before": reason.before,
                "why": reason.why,
            }
            for reason in step.reasons
        ],
    }
