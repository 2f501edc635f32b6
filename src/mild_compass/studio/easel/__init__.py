"""At the easel: one step at a time, readable from two metres."""
