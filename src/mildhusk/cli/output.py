"""What commands print: JSON of the core's values, quantities in metric."""

import json
from typing import Any

from pydantic_core import to_jsonable_python

from mildhusk.core.wording import Quantity, Unit, in_metric


def plain(answer: Any) -> Any:
    """Return a value of the core as plain JSON; money as text."""
    return to_jsonable_python(answer)


def as_json(answer: Any) -> str:
    """Return a value of the core as indented JSON."""
    return json.dumps(plain(answer), indent=2, ensure_ascii=False)


def grams(kg: float) -> str:
    """Show a weight."""
    return in_metric(Quantity(kg, Unit.MASS))
