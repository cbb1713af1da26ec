"""Mild Husk: measuring, arithmetic, scheduling and record keeping for hollow casts."""

__version__ = "0.1.0"
