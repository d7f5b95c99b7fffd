"""The physics in time: a station of plain numbers (`inputs`), run from moment to moment (`run`).

Any station of the design may fill the inputs and ask; it asks none. `run.simulate` is one run with its series, `run.simulate_many`
any number of them, each by the same equations.
"""
