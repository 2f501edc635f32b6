"""Construction lines inside the frame, and the named rectangles."""
