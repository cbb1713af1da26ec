"""Simulated devices that ship: they speak the same protocol, and fail to order."""
