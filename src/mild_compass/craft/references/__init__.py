"""The photos of a plan."""
