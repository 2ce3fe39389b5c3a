"""A whole job written down: the recipe, what follows from it, what has to be made again, and the making."""
