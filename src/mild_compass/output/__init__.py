"""Writers of a drawing or of readings."""
