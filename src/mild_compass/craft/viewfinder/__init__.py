"""The viewfinder: how it moves and what it says."""
