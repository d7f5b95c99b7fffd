"""Assessment -> how it is built: the lists and the order of assembly, and what is judged of them. It takes too long to stand in `assess`."""

from dataclasses import replace

from kegcart.core.assembly.lid import LidSheet, lid_sheet
from kegcart.core.assembly.rules import judge_assembly
from kegcart.core.assembly.sizing import AssemblySizing, size_assembly
from kegcart.core.assess import Assessment, assess, stops_after
from kegcart.core.check import Check
from kegcart.core.design import patched, write_design
from kegcart.core.figure import Sheet
from kegcart.core.finding import Remedy


def build_of(assessment: Assessment, sheet: Sheet | None = None) -> AssemblySizing:
    """The assembly of a design. sheet: where its figures are entered. Written in the units shown at present."""
    a = assessment
    return size_assembly(a.design.assembly, a.pack, a.power, a.charging, a.box, Sheet() if sheet is None else sheet)


def lid_of(assessment: Assessment) -> LidSheet:
    """The sheet for the lid of a design. Written in the units shown at present."""
    a = assessment
    return lid_sheet(build_of(a), a.design.brief, a.pack, a.power, a.charging, a.box)


def judge_build(assessment: Assessment, sheet: Sheet) -> list[Check]:
    """Every check of the assembly; of what would mend one, only what was tried and does."""
    sizing = build_of(assessment, sheet)
    checks = list(judge_assembly(sizing, assessment.design.brief, assessment.power, assessment.box))
    for check in checks:
        if check.finding is not None and check.finding.remedies:
            able = tuple(remedy for remedy in check.finding.remedies if ends_circles(assessment, remedy))
            check.finding = replace(check.finding, remedies=able)
    return checks


def ends_circles(assessment: Assessment, remedy: Remedy) -> bool:
    """Whether a change leaves an order in which it can be built, and brings no stop."""
    changed = assess(patched(write_design(assessment.design), remedy.patch), assessment.elsewhere)
    return not build_of(changed).plan.circles and not stops_after(assessment, remedy.patch)
