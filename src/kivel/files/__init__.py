"""Bytes and files: reading frames, writing sheets, the manifest, and keeping people's files safe."""
