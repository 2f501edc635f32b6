"""Loops over pixels and borders that no library does, in C: each module here is the thin Python side of the C file of
its name, built into one shared library with the package. The plain Python of each stands in tests/craft/reference."""
