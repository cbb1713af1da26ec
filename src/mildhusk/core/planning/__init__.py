"""From a piece, a resin and a wish to a cast sheet."""
