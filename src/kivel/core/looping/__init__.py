"""Loops: how well a sequence closes, where it closes best, and closing it."""
