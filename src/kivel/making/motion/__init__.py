"""Maps of motion, and the frames that are kept where motion serves for the others."""
