"""Work that leaves the interface's thread: views, jobs, the journal."""
