"""Reading photos, and light as the eye weighs it."""
