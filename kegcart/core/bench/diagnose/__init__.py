"""Why readings are out of band: every fault that could be is fitted to all of them, and the one that explains them best comes first."""
