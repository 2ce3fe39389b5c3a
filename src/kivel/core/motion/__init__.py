"""How far things move from one frame to the next: estimating it, fitting it, storing it, and warping by it."""
