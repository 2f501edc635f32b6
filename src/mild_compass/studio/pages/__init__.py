"""Pages that take the board's whole width: rows of pictures, two photos side by side, a photo to cut from."""
