"""Taking sheets apart."""
