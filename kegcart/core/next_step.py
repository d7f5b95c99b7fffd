"""What is the next thing to do on a build: in working order what was not begun, then what is worst, then what to buy, then the rehearsal."""

from dataclasses import dataclass

from kegcart.core.assess import Assessment
from kegcart.core.design import begun
from kegcart.core.finding import Severity, Station


@dataclass(frozen=True, slots=True)
class NextStep:
    """What to do, at which station and place of the document."""

    text: str
    station: Station
    place: str = ""


def next_step(assessment: Assessment) -> NextStep:
    """The next thing to do on a build."""
    there = begun(assessment.design)
    if "loads" not in there:
        return NextStep("Put in what is to run, with its watts and its hours.", "loads")
    if "pack" not in there:
        return NextStep("Say what the pack is made of: a finished battery, modules, or loose cells.", "pack")
    if "power" not in there:
        return NextStep("Lay out the power path for these loads.", "power")
    worst = next((f for f in assessment.findings if f.severity in (Severity.STOP, Severity.MEND)), None)
    if worst is not None:
        return NextStep(worst.text, worst.station, worst.place)
    if "charging" not in there:
        return NextStep("Say what charges it: mains, sun, a vehicle.", "charging")
    if "box" in there and "assembly" not in there:
        return NextStep("Say what is there already, and see what is left to buy, to cut, and in what order.", "assembly")
    return NextStep("Rehearse it at the bench.", "bench")
