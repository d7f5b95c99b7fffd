"""The log: what was done at the bench and measured, judged against the design as it stands."""
