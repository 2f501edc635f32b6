"""The sheet: what is drawn on it, the squared grid, tiles."""
