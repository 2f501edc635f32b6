"""The document: what the artist decided, and nothing that can be computed."""
