"""The stations: instruments, their options, and how marks are handled. No computation."""
