"""Video files, through PyAV, which is an extra: frames with their exact times out of them, and previews into them."""
