"""The look of the studio: colours, font, icons."""
