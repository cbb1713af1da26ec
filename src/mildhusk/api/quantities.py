"""Quantities as people type them: the screen reads them as the command line does."""

from enum import StrEnum

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import PREFIX, Body, Shape
from mildhusk.core.errors import QuantityError
from mildhusk.quantities import read_quantity

blueprint = APIBlueprint(
    "quantities", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Quantities")]
)


class TypedKind(StrEnum):
    """What a field asks for, by its SI unit."""

    LENGTH = "m"
    AREA = "m2"
    VOLUME = "m3"
    MASS = "kg"
    TIME = "min"
    TEMPERATURE = "K"
    SHARE = "share"


class TypedSystem(StrEnum):
    """In which units a field is shown."""

    METRIC = "metric"
    IMPERIAL = "imperial"


# SI unit, and the unit that stands behind the field in either system.
_MEANT = {
    TypedKind.LENGTH: ("m", "mm", "in"),
    TypedKind.AREA: ("m^2", "cm^2", "sq in"),
    TypedKind.VOLUME: ("m^3", "ml", "fl oz"),
    TypedKind.MASS: ("kg", "g", "g"),
    TypedKind.TIME: ("s", "min", "min"),
    TypedKind.TEMPERATURE: ("K", "C", "F"),
    TypedKind.SHARE: ("1", "%", "%"),
}


class TypedQuantity(Body):
    """What was typed into a field, and what the field asks for."""

    text: str = Field(max_length=100)
    kind: TypedKind
    system: TypedSystem = TypedSystem.METRIC


class ReadQuantity(Shape):
    """What it means, in SI; None with a sentence where it cannot be read."""

    value: float | None
    said: str = ""


@blueprint.post("/quantities", responses={200: ReadQuantity}, summary="Read what was typed")
def read(body: TypedQuantity) -> dict[str, object]:  # noqa: D103
    unit, metric, imperial = _MEANT[body.kind]
    assumed = metric if body.system is TypedSystem.METRIC else imperial
    try:
        value = read_quantity(body.text, unit, assumed, name="This", field="text")
    except QuantityError as error:
        # Somebody is still typing: that is an answer, no fault.
        return ReadQuantity(value=None, said=str(error)).model_dump(mode="json")
    return ReadQuantity(value=value).model_dump(mode="json")
