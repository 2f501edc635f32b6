"""Scripts that make what the project ships: scenes, screenshots, the schema."""
