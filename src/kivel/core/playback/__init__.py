"""Exact time: integers of ticks and fractions of a second, never floats."""
