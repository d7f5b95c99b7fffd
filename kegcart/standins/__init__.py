"""Stand-ins for the instruments of a bench: servers that answer as instruments do, fed by a true station. Nothing of the app is known here."""
