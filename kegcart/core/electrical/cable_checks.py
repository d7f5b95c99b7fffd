"""What is judged alike of every run of cable, wherever in the station it lies."""

from collections.abc import Iterator

from kegcart.core.check import Check, at_least, at_most, mend, stop
from kegcart.core.electrical.cables import RunSizing
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, Station, release

IN_A_SHORT = "In a short the cable is the fuse: it glows, and lights what it touches."


def carries(id: str, at: str, rating: Figure, run: RunSizing, what: str, remedies: tuple[Remedy, ...]) -> Check:
    """A run carries the protection before it, or what else can flow through it (A). what: the run, as it follows its gauge.

    Source: overcurrent protection of every conductor (IEC 60364-4-43; ISO 10133 on small craft).
    """
    return at_most(
        id,
        at,
        rating,
        run.ampacity,
        lambda: stop(
            f"The {{gauge}} {what} carries {{I_amp}}; {{I}} can flow through it.",
            IN_A_SHORT,
            {"gauge": run.gauge, "I_amp": run.ampacity, "I": rating},
            remedies,
        ),
    )


def survives(id: str, at: str, run: RunSizing, what: str, remedies: tuple[Remedy, ...]) -> Iterator[Check]:
    """A run survives a short until its protection has opened; nothing is judged of one that nothing protects.

    Source: A ≥ √(I²t)/k (IEC 60364-4-43).
    """
    if run.short is None:
        return
    short = run.short
    yield at_least(
        id,
        at,
        run.area,
        short,
        lambda: stop(
            f"The {{gauge}} {what} does not survive a short: until its protection has opened it takes {{A_min}}.",
            "In a short all the heat stays in the copper: too thin, its insulation is gone in a hundredth of a second.",
            {"gauge": run.gauge, "A_min": short},
            remedies,
        ),
    )


def drops(at: str, run: RunSizing, what: str, remedies: tuple[Remedy, ...], station: Station | None = None) -> Check:
    """A run loses no more of the voltage than it may.

    Source: 2 % main and inverter, 3 % outlet circuits (assumptions table).
    """
    return at_most(
        "power.drop",
        at,
        run.drop,
        run.drop_limit,
        lambda: mend(
            f"The {{gauge}} {what} loses {{d}} of the voltage; {{limit}} is the limit here.",
            "What the cable takes heats the box, and the load sees a pack that seems empty early.",
            {"gauge": run.gauge, "d": run.drop, "limit": run.drop_limit},
            remedies,
        ),
        station=station,
    )


def chosen_again(at: str, gauge: str | None) -> tuple[Remedy, ...]:
    """The gauge of a run left to choice, where it was pinned. at: the pointer of the run."""
    return (Remedy("Let the gauge be chosen", [release(f"{at}/gauge")]),) if gauge else ()
