"""Vanishing points, horizon, pins and the string check."""
