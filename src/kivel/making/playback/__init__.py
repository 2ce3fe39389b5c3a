"""How clips play: changed, listed over time, and kept when what they are of is made again."""
