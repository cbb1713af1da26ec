"""What can go wrong, as a maker would be told it.

HuskError
└── InputError (also ValueError)      something given cannot be used; `field` says which
    ├── QuantityError                 a number or a unit that cannot be read
    ├── MeshFileError                 a file that is not a usable shape
    │   └── MeshTooLargeError         a file above the size limit
    ├── WallError                     a wall the piece cannot have
    ├── TapeError                     measures taken by hand that do not go together
    ├── MouldError                    a mould that cannot be built so
    ├── PatternError                  a pattern that cannot be cut so
    ├── CoatingError                  a coat that cannot be simulated
    ├── MaterialError                 a data sheet that is incomplete or contradicts itself
    ├── DaysError                     tasks or working hours that cannot be
    └── ConditionError                a temperature, loss or allowance out of range

Every message is one or two sentences: what was given, what is allowed, what to do.
"""


class HuskError(Exception):
    """Root of every error that Mild Husk raises on purpose."""


class InputError(HuskError, ValueError):
    """Something given cannot be used; `field` names it as the core's value does."""

    def __init__(self, message: str, field: str | None = None) -> None:
        super().__init__(message)
        self.field = field


class QuantityError(InputError):
    """A number or a unit that cannot be read."""


class MeshFileError(InputError):
    """A file that is not a usable shape."""

    def __init__(self, message: str, field: str | None = "file") -> None:
        super().__init__(message, field)


class MeshTooLargeError(MeshFileError):
    """A shape file above the size limit."""


class WallError(InputError):
    """A wall that the piece cannot have."""

    def __init__(self, message: str, field: str | None = "wall_m") -> None:
        super().__init__(message, field)


class TapeError(InputError):
    """Measures taken by hand that do not go together."""


class MouldError(InputError):
    """A mould that cannot be built so."""


class PatternError(InputError):
    """A pattern that cannot be cut so."""


class CoatingError(InputError):
    """A coat that cannot be simulated: its face, its motion, its charge."""


class MaterialError(InputError):
    """A data sheet that is incomplete or contradicts itself."""


class DaysError(InputError):
    """Tasks that wait for each other, working hours that cannot be."""


class ConditionError(InputError):
    """A temperature, loss or allowance out of range."""
