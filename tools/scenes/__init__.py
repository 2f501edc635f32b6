"""Renders the made-up demo photographs, with the camera of each written beside it."""
