"""Text cells that no spreadsheet runs as a formula."""

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def harmless(cell: str) -> str:
    """Return a cell, behind a quote mark when a spreadsheet would run it; numbers stay."""
    return f"'{cell}" if _would_run(cell) else cell


def as_typed(cell: str) -> str:
    """Undo `harmless`."""
    return cell[1:] if cell[:1] == "'" and _would_run(cell[1:]) else cell


def _would_run(cell: str) -> bool:
    if not cell.startswith(_FORMULA_STARTS):
        return False
    try:
        float(cell)
    except ValueError:
        return True
    return False
