"""The window and its regions."""
