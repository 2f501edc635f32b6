"""The interface: the only room that knows Qt."""
