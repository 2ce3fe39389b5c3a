"""Describes what `kivel check` looks at: frames, pages, maps, clips and packs, and what is let pass."""
