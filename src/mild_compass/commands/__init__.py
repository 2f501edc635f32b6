"""What the command line does: a function a command, which knows nothing of how its words were given."""
