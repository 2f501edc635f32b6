"""The guide: its chapters, what is found in it, and where a reading is explained."""
