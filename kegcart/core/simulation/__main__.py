"""`python -m kegcart.core.simulation`: compile the equations, so that the first who simulates does not wait for it."""

from kegcart.core.simulation.inputs import CellBank, CellCurve, CellGroup, Feed, Lane, Plan, Surroundings
from kegcart.core.simulation.run import simulate

CURVE = CellCurve((0.0, 1.0), (3.0, 4.0), (3.0, 4.0))
BANK = CellBank("cell", CURVE, (CellGroup(1.0, 1.0, 1.0),), 1.0, 0.1, 0.4, 45.0, 1.0, 0.0, 50.0, 0.1, 0.0)

if __name__ == "__main__":
    simulate(
        Lane(
            (BANK,),
            (),
            (),
            Surroundings(20.0, 1.0, 100.0),
            Plan(0.0, 1.0, 24.0, 24.0),
            ((25.0, 1.0, 1.0),),
            (Feed("charger", 0, 1.0, 4.0, 0.05),),
        )
    )
