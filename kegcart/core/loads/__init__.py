"""Station Loads: what is to run, when, and from which supply."""
