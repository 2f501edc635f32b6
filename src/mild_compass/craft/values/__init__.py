"""Values and masses."""
