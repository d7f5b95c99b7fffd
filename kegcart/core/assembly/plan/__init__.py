"""The order of assembly: a graph of acts, each with what it must come after and why, sorted."""

from kegcart.core.assembly.cutting import Piece
from kegcart.core.assembly.document import Assembly
from kegcart.core.assembly.plan.acts import BuildPlan
from kegcart.core.assembly.plan.box_work import plan_box
from kegcart.core.assembly.plan.fitting import plan_fitting
from kegcart.core.assembly.plan.joining import plan_sources
from kegcart.core.assembly.plan.pack_work import plan_pack
from kegcart.core.assembly.plan.powering import plan_power
from kegcart.core.assembly.plan.wiring import plan_wiring
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing


def build_plan(
    decided: Assembly, pieces: list[Piece], pack: PackSizing, power: PowerSizing, charging: ChargingSizing, box: BoxSizing | None
) -> BuildPlan:
    """Every act of a build, and what each comes after."""
    plan = BuildPlan()
    if box is not None:
        plan_box(box.layout, plan)
    plan_pack(pack, power, pieces, plan)
    hidden = plan_fitting(power, box, pack.build.mass, plan)
    made = plan_wiring(pieces, power, hidden, plan)
    plan_power(power, made, decided, box, hidden, plan)
    plan_sources(charging, power, made, plan)
    return plan
