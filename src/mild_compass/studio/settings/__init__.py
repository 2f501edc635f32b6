"""The artist's own settings."""
