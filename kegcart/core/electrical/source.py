"""A battery as a source: loaded voltage, greatest power, fault current, first current on joining."""

from math import sqrt


def loaded_voltage(emf_v: float, resistance_ohm: float, power_w: float) -> float | None:
    """Terminal voltage in V at constant power: (E + √(E² − 4RP))/2; None where that power does not exist."""
    inside = emf_v * emf_v - 4 * resistance_ohm * power_w
    return (emf_v + sqrt(inside)) / 2 if inside >= 0 else None


def greatest_power(emf_v: float, resistance_ohm: float) -> float:
    """The greatest power in W a source can give: E²/4R."""
    return emf_v * emf_v / (4 * resistance_ohm)


def fault_current(emf_v: float, resistance_ohm: float) -> float:
    """Prospective short-circuit current in A."""
    return emf_v / resistance_ohm


def joining_current(
    emf_1_v: float, emf_2_v: float, resistance_1_ohm: float, resistance_2_ohm: float, leads_ohm: float = 0.0
) -> float:
    """First current in A when two packs at different voltage are joined: ΔV/(R1 + R2 + R_leads)."""
    return abs(emf_1_v - emf_2_v) / (resistance_1_ohm + resistance_2_ohm + leads_ohm)
