"""When a coat gels, may be covered, and comes out."""
