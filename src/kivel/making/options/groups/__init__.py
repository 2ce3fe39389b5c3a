"""Groups of options that several commands share."""
