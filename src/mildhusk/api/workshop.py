"""The workshop: its name, its money, and what the browser should know before it sends something."""

from dataclasses import asdict, replace
from datetime import timedelta

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, Body, Number, Price, desk
from mildhusk.api.sheets import CoatSchoolShape, WishShape
from mildhusk.core.bench import Bench
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.mixing.cup import Cup
from mildhusk.core.planning.coats import WHEN
from mildhusk.core.planning.wish import FIRST_WISH
from mildhusk.services.costs import hour_rate_of
from mildhusk.services.workshop import bench_of, set_bench, set_hour_rate, the_workshop
from mildhusk.store.tables import Workshop

blueprint = APIBlueprint("workshop", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Workshop")])


class CupShape(Body):
    """A round cup, straight or tapered."""

    bottom_diameter_m: Number
    top_diameter_m: Number
    height_m: Number


class BenchShape(Body):
    """What the workshop works with, and when; hours count from midnight."""

    opens_h: Number
    closes_h: Number
    machine_limit_kg: Number
    hands: int
    scale_step_kg: Number
    cup: CupShape
    cover_m2_s: Number

    @classmethod
    def of(cls, bench: Bench) -> "BenchShape":
        """Return the core's value as it is shown."""
        return cls(
            opens_h=bench.opens.total_seconds() / 3600.0,
            closes_h=bench.closes.total_seconds() / 3600.0,
            machine_limit_kg=bench.machine_limit_kg,
            hands=bench.hands,
            scale_step_kg=bench.scale_step_kg,
            cup=CupShape.model_validate(asdict(bench.cup)),
            cover_m2_s=bench.cover_m2_s,
        )

    def to_core(self) -> Bench:
        """Return it as the core's checked value."""
        return Bench(
            opens=timedelta(hours=self.opens_h),
            closes=timedelta(hours=self.closes_h),
            machine_limit_kg=self.machine_limit_kg,
            hands=self.hands,
            scale_step_kg=self.scale_step_kg,
            cup=Cup(**self.cup.model_dump()),
            cover_m2_s=self.cover_m2_s,
        )


class WorkshopShape(BaseModel):
    """The workshop, and what the browser should know before it sends something."""

    name: str
    currency: str
    hour_rate: str
    hour_rate_is_own: bool
    max_mesh_file_bytes: int
    first_wish: WishShape
    bench: BenchShape
    coat_schools: list[CoatSchoolShape]


class HourRate(Body):
    """What an hour of work costs."""

    hour_rate: Price


def _shape(found: Workshop | None) -> WorkshopShape:
    assert found is not None  # the desk founded it
    bench = bench_of(found)
    first = replace(FIRST_WISH, hands=bench.hands, scale_step_kg=bench.scale_step_kg)
    return WorkshopShape(
        name=found.name,
        currency=found.currency,
        hour_rate=str(hour_rate_of(found).amount),
        hour_rate_is_own=found.hour_rate is not None,
        max_mesh_file_bytes=MAX_MESH_FILE_BYTES,
        first_wish=WishShape.model_validate(asdict(first)),
        bench=BenchShape.of(bench),
        coat_schools=[
            CoatSchoolShape(key=key, name=name, when=when) for key, (name, when) in WHEN.items()
        ],
    )


@blueprint.get("/workshop", responses={200: WorkshopShape}, summary="The workshop")
def show() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(the_workshop(at.session))
    return shown.model_dump(mode="json")


@blueprint.put("/workshop/hour-rate", responses={200: WorkshopShape}, summary="Price of an hour")
def set_rate(body: HourRate) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(set_hour_rate(at.session, body.hour_rate))
    return shown.model_dump(mode="json")


@blueprint.put("/workshop/bench", responses={200: WorkshopShape}, summary="What it works with")
def change_bench(body: BenchShape) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(set_bench(at.session, body.to_core()))
    return shown.model_dump(mode="json")
