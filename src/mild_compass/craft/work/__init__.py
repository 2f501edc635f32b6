"""The work on the sheet: its steps, their times, the order in which they are done, the sittings."""
