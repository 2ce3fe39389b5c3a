"""Pixels: their depth and light, and what blends, scales, samples or reduces them."""
