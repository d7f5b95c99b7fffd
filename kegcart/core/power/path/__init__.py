"""What works on the whole tree of the power path: its order, what flows, how it is sized, what it draws."""
