"""The board and what is drawn on it."""
