"""Sizes of paper, and lengths in mm and inches as they are written and typed."""
