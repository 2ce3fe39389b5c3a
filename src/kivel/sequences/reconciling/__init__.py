"""Frames that were added, removed, renamed or repainted since a manifest said something of them."""
