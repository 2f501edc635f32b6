"""The computation, a folder per station: pure functions on arrays and frozen values."""
