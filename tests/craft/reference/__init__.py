"""Each kernel written as plain Python, function for function."""
