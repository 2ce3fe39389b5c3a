"""Files for other programs, from plain values to text."""
