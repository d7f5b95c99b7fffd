"""Station Bench: the station simulated over its days and its load test rehearsed."""
