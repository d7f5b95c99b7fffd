"""The hydrogen that lead gives off while it is charged, and the openings that let it out.

Source: IEC 62485-2: Q = 0.05 · n · I_gas · C, opening 28 · Q cm², in and out; I_gas at boost 20 mA/Ah flooded, 8 mA/Ah AGM.
"""

from kegcart.core.figure import Figure
from kegcart.core.reference import Chemistry

GAS_SHARE = 0.05
"""m³ of air for each Ah of gassing current, n cells apart; of IEC 62485-2, as is the opening."""
OPENING_CM2 = 28.0


def hydrogen_air(row: Chemistry, series: Figure, capacity: Figure) -> Figure:
    """The air that must carry the hydrogen off, m³/h."""
    return Figure.by(
        "Q",
        "k_g · n · i_gas · C / 1000",
        "m³/h",
        "air that carries the hydrogen off while it is charged",
        k_g=Figure.of("k_g", GAS_SHARE, "m³/Ah", "for each cell", how="IEC 62485-2"),
        n=series,
        i_gas=row.figure("i_gas", row.gas_ma_ah or 0.0, "mA/Ah", f"gassing current at boost, {row.label}"),
        C=capacity,
    )


def hydrogen_opening(air: Figure) -> Figure:
    """The opening that lets so much air pass, one low and one high, cm²."""
    per = Figure.of("k_o", OPENING_CM2, "cm²h/m³", "of opening for each m³/h", how="IEC 62485-2, by natural draught")
    return Figure.by("A", "k_o · Q", "cm²", "opening, one low and one high", k_o=per, Q=air)
