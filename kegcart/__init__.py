"""Keg Cart: design, build and test a portable power station."""
