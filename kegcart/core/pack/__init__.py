"""Station Pack: where the energy comes from."""
