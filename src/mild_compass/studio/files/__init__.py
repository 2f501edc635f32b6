"""Photos in, plans in and out, sheets and pages out."""
