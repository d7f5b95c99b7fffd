"""Charging: how the energy gets back in."""
