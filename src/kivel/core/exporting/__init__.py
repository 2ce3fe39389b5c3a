"""What other programs are told of frames and clips: numbers, places on a texture, steps with their times."""
