"""Load tests as they are run: instruments asked, readings judged and stored as they come, screens told."""
