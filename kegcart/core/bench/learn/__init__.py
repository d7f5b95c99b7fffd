"""What readings say of a station: each figure by the rule of the trade, with its uncertainty; refused where they do not carry it."""
