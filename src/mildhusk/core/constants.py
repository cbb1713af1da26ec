"""Limits and constants of the craft, each with its reason."""

from typing import Final

ZERO_CELSIUS_K: Final = 273.15
"""0 degrees Celsius in kelvin (BIPM SI brochure, 9th ed., 2.3.1)."""

MAX_MESH_FILE_BYTES: Final = 200_000_000
"""A binary STL of 4 million faces; far above any printed master, far below what stalls a server."""

SMALLEST_PIECE_M: Final = 0.005
LARGEST_PIECE_M: Final = 20.0
"""A largest extent outside these two is nearly always a wrong unit."""

MIXING_TIME_S: Final = 45.0
"""Stirring, scraping and pouring over into a second cup (common practice, no source)."""

WEIGHING_TIME_S: Final = 60.0
"""Taring, weighing or measuring A and B of one coat (common practice, no source)."""

SPREADING_TIME_S: Final = 60.0
"""From the pour until everything is covered once (common practice, no source)."""

RATE_DOUBLING_K: Final = 10.0
"""Warmer by this much cures twice as fast (rule of thumb, common practice, no source)."""

CLOCK_LOWEST_K: Final = 5.0 + ZERO_CELSIUS_K
CLOCK_HIGHEST_K: Final = 45.0 + ZERO_CELSIUS_K
"""Outside these room temperatures no clock is offered."""

LOSS_BAND: Final = 0.5
"""The assumed loss may be wrong by this share of itself, until pours have taught it."""

AREA_BAND: Final = 0.005
"""What a faceted file may miss of the true face, as a share (assumed)."""

USUAL_UNEVENNESS: Final = 0.15
"""Thin places of a rolled wall lie this far under its mean (common practice, no source)."""

STRETCH_SAFETY: Final = 3.0
"""Elongation at break is divided by this: every demould stretches it again (assumed)."""

GRAVITY_M_S2: Final = 9.80665
"""Standard acceleration of free fall (3rd CGPM, 1901)."""

SURFACE_TENSION_N_M: Final = 0.035
"""Of casting resins; those of organic liquids lie between 0.025 and 0.045 (from memory). A film
that is drawn out hangs on it by less than its sixth root."""

CAST_SETUP_H: Final = 0.25
"""Seating and strapping the mould, laying out cups (assumed)."""

CAST_FINISH_H: Final = 0.75
"""Taking out, trimming, washing off, cleaning the mould (assumed)."""
