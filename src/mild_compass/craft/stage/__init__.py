"""The stage: things in metres become lines, light and shadow, and values on the sheet."""
