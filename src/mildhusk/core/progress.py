"""Progress reporting for long computations."""

from collections.abc import Callable

Tell = Callable[[float, str], None]
"""Is told how far it is, 0 to 1, and what is done next; may raise to stop it."""


def silent(_share: float, _words: str) -> None:
    """Report to nobody."""
