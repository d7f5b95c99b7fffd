"""Which numbers of a lane the figures of a load test are, by their keys: read out of it, and put into it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from kegcart.core.simulation.inputs import Branch, Lane, Loss


def numbers_of(lane: Lane, way: Sequence[int], inverter: int | None, rated_w: float) -> dict[str, float]:
    """The figures of a lane that a test can find out.

    way: the parts from the posts to where it is loaded. inverter: the last of them, where it is one; rated_w: what that is rated for.
    """
    bank, around = lane.banks[0], lane.around
    out = {
        "resistance": bank.resistance_ohm,
        "late_share": bank.late_share,
        "late_s": bank.late_s,
        "capacity": bank.capacity_ah,
        "path": sum(lane.parts[place].ohm for place in way),
    }
    if inverter is not None:
        loss = lane.parts[inverter].loss
        assert loss is not None
        out |= {"idle": loss.idle_w, "linear": loss.linear, "square": loss.square * rated_w}
    if (standing := standing_w(lane)) > 0:
        out["standing"] = standing
    heat = {"walls": around.walls_w_k, "box_heat": around.box_j_k, "pack_surface": bank.heat_w_k, "pack_heat": bank.heat_j_k}
    return out | heat


def standing_w(lane: Lane) -> float:
    """What draws at the posts while everything is switched off, W: no-load draws of parts that hang on the path without a switch of their
    own, with the idle of converters."""
    return sum(
        part.draw_w + (part.loss.idle_w if part.loss and not part.inverts else 0.0) for part in lane.parts if part.bank == 0
    )


def with_numbers(lane: Lane, way: Sequence[int], inverter: int | None, rated_w: float, values: Mapping[str, float]) -> Lane:
    """A lane with other figures, by their keys; what is not named stays. See `numbers_of`.

    What lies behind one figure is changed in proportion: each part of the way, each draw, and what a stirred or vented box lets out.
    """
    was = numbers_of(lane, way, inverter, rated_w)
    now = was | dict(values)
    bank = replace(
        lane.banks[0],
        resistance_ohm=now["resistance"],
        late_share=now["late_share"],
        late_s=now["late_s"],
        capacity_ah=now["capacity"],
        heat_w_k=now["pack_surface"],
        heat_j_k=now["pack_heat"],
    )
    parts = list(lane.parts)
    longer = now["path"] / was["path"] if was["path"] else 1.0
    for place in way:
        parts[place] = replace(parts[place], ohm=parts[place].ohm * longer)
    if inverter is not None:
        parts[inverter] = replace(parts[inverter], loss=Loss(now["idle"], now["linear"], now["square"] / rated_w))
    if "standing" in was:
        parts = [drawing(part, now["standing"] / was["standing"]) if part.bank == 0 else part for part in parts]
    freer = now["walls"] / was["walls"]
    around = replace(
        lane.around,
        walls_w_k=now["walls"],
        stirred_w_k=lane.around.stirred_w_k * freer,
        draught_w=lane.around.draught_w * freer,
        box_j_k=now["box_heat"],
    )
    return replace(lane, banks=(bank, *lane.banks[1:]), parts=tuple(parts), around=around)


def drawing(part: Branch, times: float) -> Branch:
    """A part whose own draw is so many times what it was; an inverter's idle draw is a figure of its own."""
    loss = part.loss
    if loss is not None and not part.inverts:
        loss = replace(loss, idle_w=loss.idle_w * times)
    return replace(part, draw_w=part.draw_w * times, loss=loss)
