"""Charging from a vehicle: what its alternator stands, how it is switched, the cable from its battery."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.charging.kinds import Vehicle
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.check import Check, Fault, at_most, held, is_so, mend, stop
from kegcart.core.electrical.cable_checks import carries, chosen_again, drops, survives
from kegcart.core.finding import Remedy, release, set_value


def judge_vehicle(sizing: SourceSizing, source: Vehicle) -> Iterator[Check]:
    """Every check of a vehicle as a source."""
    yield vehicle_direct(sizing, source)
    yield alternator(sizing, source)
    yield vehicle_start(sizing, source)
    if sizing.run is not None:
        at, what = f"{sizing.pointer}/run", f"cable to {sizing.name}"
        again = chosen_again(at, source.run.gauge)
        fuse = sizing.extra["fuse"]
        freed = (Remedy("Let fuse and gauge be chosen", [release(f"{sizing.pointer}/fuse_a"), release(f"{at}/gauge")]),)
        yield carries("power.wire-unprotected", at, fuse, sizing.run, what, freed)
        yield from survives("power.withstand", at, sizing.run, what, freed)
        yield drops(at, sizing.run, what, again, station="charging")


@judges("charging.vehicle-direct", "lithium on an alternator", STOP, MEND)
def vehicle_direct(sizing: SourceSizing, source: Vehicle) -> Check:
    """Lithium is charged from an alternator through a converter that limits the current.

    Source: practice: straight, only resistance limits what flows, and an alternator burns at its full output.
    """
    at, charged = f"{sizing.pointer}/by", sizing.charged
    if source.by == "converter" or charged.row.kind == "lead":
        return held("charging.vehicle-direct", at)
    converter = Remedy("A charging converter between them", [set_value(at, "converter")])
    lasting, run = sizing.extra["lasting_a"], sizing.run
    within = sizing.current.number <= lasting.number and run is not None and sizing.current.number <= run.ampacity.number
    figures = {"I": sizing.current, "I_hot": lasting}
    sentence = f"{charged.name[0].upper()}{charged.name[1:]} hangs straight on the alternator: {{I}} flow when it is empty, limited by cable alone; "

    def fault() -> Fault:
        if within and source.accepted:
            said = "that is within the {I_hot} that it gives for long, and was decided for."
            return mend(
                sentence + said,
                "A shorter cable or a stronger pack changes that figure at once: measure it with a clamp, hot.",
                figures,
                (converter,),
            )
        why = "A short thick cable burns the alternator, and its diodes die where the board opens under load."
        remedies = [converter]
        if within:
            remedies.append(
                Remedy("It was calculated, and is decided for", [set_value(f"{sizing.pointer}/accepted", True)], last_resort=True)
            )
        return stop(sentence + "the alternator gives {I_hot} for long.", why, figures, tuple(remedies))

    return is_so("charging.vehicle-direct", at, False, fault)


@judges("charging.alternator", "share of the alternator", MEND)
def alternator(sizing: SourceSizing, source: Vehicle) -> Check:
    """A source takes no more of an alternator than that gives for long at hot idle.

    Source: practice: half its rating (assumptions table).
    """
    taken, lasting = sizing.extra["input_a"], sizing.extra["lasting_a"]

    def fault() -> Fault:
        remedies = (
            [Remedy("A charging converter between them", [set_value(f"{sizing.pointer}/by", "converter")])]
            if source.by == "straight"
            else []
        )
        if source.by == "converter" and source.current_a is not None:
            remedies.append(Remedy("Let its current be chosen", [release(f"{sizing.pointer}/current_a")]))
            less = float(f"{sizing.one.number * lasting.number / taken.number * 0.99:.2g}")
            remedies.append(Remedy(f"A converter of {less:g} A", [set_value(f"{sizing.pointer}/current_a", less)]))
        return mend(
            f"{sizing.name} takes {{I_in}} of the alternator; at hot idle it gives {{I_hot}} for long.",
            "An alternator cools itself by its own speed: at idle, hot, it burns from what its plate promises.",
            {"I_in": taken, "I_hot": lasting},
            tuple(remedies),
        )

    return at_most("charging.alternator", f"{sizing.pointer}/alternator_a", taken, lasting, fault)


@judges("charging.vehicle-start", "started by the engine alone", MEND)
def vehicle_start(sizing: SourceSizing, source: Vehicle) -> Check:
    """A vehicle's battery is drawn from only while its engine runs.

    Source: practice: on from 13.3 V for 30 s, off at 12.8 V; a smart alternator needs the ignition's signal.
    """
    at = f"{sizing.pointer}/starts"
    wrong = source.starts == "by hand" or (source.starts == "voltage" and source.alternator == "smart")
    ignition = Remedy("Switch it by the ignition", [set_value(at, "ignition")])

    def fault() -> Fault:
        said = (
            "is switched by hand: forgotten, it empties the vehicle's battery with {I_in}."
            if source.starts == "by hand"
            else "is switched by voltage, on an alternator that goes down to 12.2 V as it likes; it takes {I_in}."
        )
        return mend(
            f"{sizing.name} {said}",
            "The engine that should bring the energy then does not start; or the converter never comes on.",
            {"I_in": sizing.extra["input_a"]},
            (ignition,),
        )

    return is_so("charging.vehicle-start", at, not wrong, fault)
