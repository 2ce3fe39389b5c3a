"""How clips play: changed, traced, and kept when what they are of is made again."""
