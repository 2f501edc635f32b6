"""Named edits: pure functions from a plan to a plan, a module per station."""
