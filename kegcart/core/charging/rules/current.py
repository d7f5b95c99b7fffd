"""How much flows in: by one source, and by all together."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.check import Check, Fault, at_most, mend, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.reference import assumption


def judge_currents(charging: ChargingSizing) -> Iterator[Check]:
    """Every check of what flows in."""
    for sizing in charging.sources.values():
        yield too_much(sizing)
        if sizing.charged.row.kind == "lithium":
            yield too_fast(sizing)
    for key, total in charging.sums.items():
        if len(charging.of_bank(key)) > 1:
            yield together(key, total, charging)


def lowered(sizing: SourceSizing, limit: Figure) -> tuple[Remedy, ...]:
    """Less current: left to choice, or held to a limit."""
    at, out = f"{sizing.pointer}/current_a", []
    if sizing.source.current_a is not None:
        out.append(Remedy("Let its current be chosen", [release(at)]))
    if sizing.one.pointer == at and limit.number >= 0.1:
        beside = max(1.0, sizing.current.number / max(sizing.one.number, 1e-9))
        amps = float(f"{limit.number / beside:.3g}")
        amps = amps if amps * beside <= limit.number + 1e-9 else round(limit.number / beside * 0.99, 3)
        out.append(Remedy(f"Set it to {amps:g} A", [set_value(at, amps)]))
    return tuple(out)


@judges("charging.current", "current into the cells", STOP, MEND)
def too_much(sizing: SourceSizing) -> Check:
    """A source gives no more than cells and board of what it charges take.

    Source: charge limits of cells and boards (their sheets, chemistries table).
    """
    charged = sizing.charged
    return at_most(
        "charging.current",
        f"{sizing.pointer}/current_a",
        sizing.current,
        charged.limit,
        lambda: stop(
            f"{sizing.name} gives {{I}}; {charged.name} may be charged with {{I_ch}}.",
            "Charged too fast, lithium plates out as metal and lead gasses; a board that cuts it off does so again and again.",
            {"I": sizing.current, "I_ch": charged.limit},
            lowered(sizing, charged.limit),
        ),
    )


@judges("charging.current")
def too_fast(sizing: SourceSizing) -> Check:
    """A source charges at a rate with which the cells keep long.

    Source: 0.2 to 0.3 C for a long life (assumptions table).
    """
    of = {"k_l": assumption("charge_long"), "C": sizing.charged.capacity}
    # Never stricter than a maker who allows less altogether: that is a matter of the limit.
    limit = Figure.by("I_long", "k_l · C", "A", "greatest current for a long life", of)
    return at_most(
        "charging.current",
        f"{sizing.pointer}/current_a",
        sizing.current,
        limit,
        lambda: mend(
            f"{sizing.name} gives {{I}}, more than the {{I_long}} with which {sizing.charged.name} keeps long.",
            "Slower charging costs an hour of the night and gives years.",
            {"I": sizing.current, "I_long": limit},
            lowered(sizing, limit),
        ),
    )


@judges("charging.sum", "all sources together", STOP)
def together(key: str, total: Figure, charging: ChargingSizing) -> Check:
    """All that flows into a bank at once stays within what it takes.

    Source: currents add at a node (Kirchhoff); charge limits of cells and boards.
    """
    into, limit = charging.of_bank(key), charging.charged[key].limit

    def fault() -> Fault:
        pinned = [s for s in into if s.source.current_a is not None]
        remedies = []
        if pinned:
            remedies.append(Remedy("Let their currents be chosen", [release(f"{s.pointer}/current_a") for s in pinned]))
        share = [s for s in into if s.one.pointer == f"{s.pointer}/current_a"]
        factor = limit.number / total.number
        patch = [set_value(f"{s.pointer}/current_a", max(0.1, float(f"{s.one.number * factor * 0.995:.3g}"))) for s in share]
        remedies.append(Remedy("Lower each of them in proportion", patch))
        return stop(
            f"{' + '.join(s.current.text for s in into)} flow into {into[0].charged.name} at once: {{I_sum}}; it takes {{I_ch}}.",
            "No single source shows it: on the day when sun, engine and charger meet, board, links and fuse see the sum.",
            {"I_sum": total, "I_ch": limit},
            tuple(remedies),
        )

    return at_most("charging.sum", "/charging/sources", total, limit, fault)
