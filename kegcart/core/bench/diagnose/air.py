"""The air of the box and the pack in it, carried on from the heat that was lost in a test: compiled, as it is asked for a thousand times."""

from typing import Any

import numpy as np

from kegcart.core.simulation.compiler import equation

Records = Any
COLDEST_C, HOTTEST_C = -273.0, 1000.0
"""Beyond this no reading is meant: a meter in another unit, or nonsense."""


@equation
def carry_air(
    dt: float, lost_w: Records, own_w: Records, first_c: float, outside_c: float, box: Records, pack: Records, fan_w_k: Records
) -> tuple[Records, Records]:
    """°C of the air inside and of the pack at each moment of a grid, and one more at its end.

    lost_w, own_w: heat into the air and into the pack over each step. box: W/K still, W/K stirred, W/K^1.5 by its draught, J/K.
    pack: W/K to the air, J/K. fan_w_k: W/K that the fans carry over each step; where one runs, it stirs the air.
    Source: two nodes, explicit steps much shorter than either's time constant.
    """
    many = len(lost_w)
    air, cells = np.empty(many + 1), np.empty(many + 1)
    inside, of_pack = first_c, first_c
    for n in range(many):
        air[n], cells[n] = inside, of_pack
        over = inside - outside_c
        out = ((box[1] + fan_w_k[n]) if fan_w_k[n] > 0 else box[0]) * over
        if over > 0:
            out += box[2] * over**1.5
        into = pack[0] * (of_pack - inside)
        inside = min(max(inside + dt * (lost_w[n] + into - out) / box[3], COLDEST_C), HOTTEST_C)
        of_pack = min(max(of_pack + dt * (own_w[n] - into) / pack[1], COLDEST_C), HOTTEST_C)
    air[many], cells[many] = inside, of_pack
    return air, cells
