"""Practice: short drills that train the eye, how well it measures, and whether it gets better."""
