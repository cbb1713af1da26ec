"""Patterns to cut at 1:1: part-line walls, skirts, boxes, visors, strips, stencils."""
