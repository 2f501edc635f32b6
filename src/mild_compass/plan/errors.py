"""The one kind of error that is meant to be read by the artist."""


class PlanError(Exception):
    """A sentence a painter understands: what happened, what is kept, what to do."""
