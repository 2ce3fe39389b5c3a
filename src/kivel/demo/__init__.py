"""The demo: art for "Mothlight Orchard", a made-up night-time orchard-keeping game, and an example that uses it."""
