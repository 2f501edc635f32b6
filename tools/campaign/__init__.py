"""A campaign of bad inputs, kills and full disks against the application (``make campaign``)."""
