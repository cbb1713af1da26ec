"""How big a piece is and how much resin a wall on it takes."""
