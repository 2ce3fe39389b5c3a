"""One module for each command: its options, and the work."""
