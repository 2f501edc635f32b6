"""The application as one folder, one archive and one Debian package that need no Python."""
