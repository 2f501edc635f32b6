"""The record of a plan."""
