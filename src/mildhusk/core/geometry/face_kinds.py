"""What each face of a casting face is, as it is shown in colour."""

from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from mildhusk.core.geometry.mesh import Flags

Kinds = NDArray[np.uint8]


class FaceKind(IntEnum):
    """What a face of the casting face is."""

    CASTING = 0
    CUT_AWAY = 1
    """Cast and then cut out or off: an eye, a visor, a skirt."""
    IN_QUESTION = 2
    """Another answer to a question would leave it out."""
    CLOSED = 3
    """It closes a hole of the file; cast over and cut out later."""
    REPAIRED = 4
    """It stood otherwise in the file, or was missing."""


def kinds_of(count: int, kind: FaceKind = FaceKind.CASTING) -> Kinds:
    """Return so many faces of one kind, (count,)."""
    return np.full(count, kind, dtype=np.uint8)


def is_waste(kinds: Kinds) -> Flags:
    """Return which faces are cast and do not stay."""
    return np.asarray((kinds == FaceKind.CUT_AWAY) | (kinds == FaceKind.CLOSED))
