"""What to make sure of before a mould is cast in, each with its reason."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Check:
    """A check and why it is made."""

    id: str
    title: str
    reason: str


CHECKS = (
    Check(
        "seated",
        "The rubber is seated all round",
        "Feel from the inside for hollow places behind it: unseated rubber bends the cast.",
    ),
    Check(
        "part-line",
        "The part line is shut and strapped",
        "A gap of a hair runs resin into the seam, and the flash tears the rubber at demould.",
    ),
    Check(
        "release-dry",
        "The release is dry",
        "Wet release spoils the skin of the cast; silicone on silicone welds.",
    ),
    Check(
        "whole",
        "No tear, and no torn-off bit left inside",
        "A piece of rubber left in a deep place is a flaw in every cast.",
    ),
    Check(
        "clean",
        "Dry, clean, dusted or bare as the sheet says",
        "Water bubbles in urethane; old release keeps paint off.",
    ),
)
