"""Lines, rectangles and the map between photo and sheet."""
