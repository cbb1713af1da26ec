"""Splitting a charge into parts, and reading it off a cup."""
