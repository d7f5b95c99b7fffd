"""The power path drawn: the single-line diagram, the sheet to keep, the wire table."""
