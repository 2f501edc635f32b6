"""The sheet over a whole screen: at its true size, or thrown onto a wall or canvas."""
