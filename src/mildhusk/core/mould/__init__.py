"""Moulds: rubber, support shell, and whether the piece lets go."""
