"""What can be asked by menu and key, in one table."""
