"""The cast sheet: a wish, limits, a school, coats on a clock, and the wall they really leave."""
