"""Everything stood in a box at once, by constraints over whole millimetres (CP-SAT): what the exact geometry then judges.

Every thing has options: on the floor or a shelf it lies one of some ways up and turned, in a face it sits upright; one option is
chosen, and where it is. Held are: within walls that lean and under the lid, apart from all others, room for cables and air, clear of
latches and ribs, reached from above (or in front), the centre of mass. Then cables are made short, the thick ones most.
The same answer for the same question: one worker, a fixed seed, time counted in work.
"""
