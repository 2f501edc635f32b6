"""A test bed for the perspective: made scenes with a known camera, and how right the answers on them are."""
