"""The days: what is to be done, who is there, the plan, today."""

from datetime import date
from typing import Annotated
from uuid import UUID
from zoneinfo import ZoneInfo, available_timezones

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, BaseModel, Field, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    IdPath,
    Name,
    Number,
    Shape,
    Word,
    backstage,
    calmly,
    download,
    file_of,
    transaction,
    visitor_here,
)
from mildhusk.core.days.collisions import ChangeKind
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.documents.day_sheet import DaySheetTask, day_sheet_pdf
from mildhusk.documents.days_calendar import CalendarTask, days_ics
from mildhusk.services.access import Right
from mildhusk.services.days.board import board
from mildhusk.services.days.changes import WhatCollides, make_change, what_collides
from mildhusk.services.days.jobs import (
    NewDayJob,
    add_job,
    add_run_to_days,
    edit_job,
    end_job,
)
from mildhusk.services.days.people import (
    MOST_OF_A_PLACE,
    MOST_PEOPLE,
    calendar_secret,
    people_here,
    places_here,
    set_calendar_secret,
    set_people,
    set_place,
    workshop_of_calendar,
)
from mildhusk.services.days.planning import plan_days_here, take_back_tick, tick
from mildhusk.services.days.today import Today, today
from mildhusk.services.errors import NotFoundError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayJobKind
from mildhusk.store.values import DayJobRequest

blueprint = APIBlueprint("days", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Today")])

Zone = Annotated[str, StringConstraints(max_length=60)]
TaskId = Annotated[str, StringConstraints(min_length=1, max_length=200)]
PlaceName = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class NewDayJobBody(Body):
    """A cast, a mould or a task of one's own, to be put into the days."""

    kind: Annotated[str, StringConstraints(pattern="^(cast|mould|own)$")]
    title: Name
    sheet_id: UUID | None = None
    mould_id: UUID | None = None
    due: AwareDatetime | None = None
    finish: FinishWish | None = None
    release: Word = ""
    minutes: Annotated[Number, Field(gt=0, le=60 * 24 * 7)] = 60.0
    hands: Annotated[int, Field(ge=0, le=8)] = 1
    place: Word = ""
    interruptible: bool = False
    zone: Zone = "UTC"


class RunInDays(Body):
    """A run of which the casts that are still wanted are put into the days."""

    run_id: UUID
    finish: FinishWish | None = None
    release: Word = ""
    zone: Zone = "UTC"


class JobEdit(Body):
    """When a job is due; null where it is not."""

    due: AwareDatetime | None = None
    zone: Zone = "UTC"


class InZone(Body):
    """In which zone the workshop's hours are told."""

    zone: Zone = "UTC"


class TaskTick(Body):
    """A task that was begun or is done, or is neither after all."""

    task: TaskId
    what: Annotated[str, StringConstraints(pattern="^(begun|done|undone)$")]
    at: AwareDatetime | None = None
    zone: Zone = "UTC"


class ChangeAsked(Body):
    """A change that frees the days, as it was offered."""

    kind: ChangeKind
    of: PlaceName
    zone: Zone = "UTC"


class HoursGiven(Body):
    """Working hours of a weekday; 0 is Monday. [h]"""

    weekday: Annotated[int, Field(ge=0, le=6)]
    opens_h: Number
    closes_h: Number
    evening_h: Number = 0.0


class HoursOfDay(Body):
    """Working hours of one day, instead of its weekday's. [h]"""

    day: date
    opens_h: Number
    closes_h: Number
    evening_h: Number = 0.0


class WorkerGiven(Body):
    """Somebody who works here."""

    name: Name
    zone: Zone = "UTC"
    hours: Annotated[list[HoursGiven], Field(max_length=7)]
    skills: Annotated[list[Word], Field(default_factory=list, max_length=20)]
    days_off: Annotated[list[date], Field(default_factory=list, max_length=400)]
    extra: Annotated[list[HoursOfDay], Field(default_factory=list, max_length=400)]

    def told(self) -> Person:
        """Return it as the core's value."""
        return Person(
            self.name,
            {one.weekday: Hours(one.opens_h, one.closes_h, one.evening_h) for one in self.hours},
            self.zone,
            frozenset(self.skills),
            frozenset(self.days_off),
            {one.day: Hours(one.opens_h, one.closes_h, one.evening_h) for one in self.extra},
        )


class PeopleGiven(Body):
    """All who work here."""

    people: Annotated[list[WorkerGiven], Field(max_length=MOST_PEOPLE)]


class HoursShape(Shape):
    """Working hours of a weekday, and until when one would go on of an evening. [h]"""

    weekday: int
    opens_h: float
    closes_h: float
    evening_h: float


class HoursOfDayShape(Shape):
    """Working hours of one day. [h]"""

    day: date
    opens_h: float
    closes_h: float
    evening_h: float


class WorkerShape(Shape):
    """Who works here, when, and what they can do."""

    name: str
    zone: str
    hours: list[HoursShape]
    skills: list[str]
    days_off: list[date]
    extra: list[HoursOfDayShape]

    @classmethod
    def of(cls, person: Person) -> "WorkerShape":
        """Return what is shown of a person."""
        return cls(
            name=person.name,
            zone=person.zone,
            hours=[
                HoursShape(
                    weekday=day,
                    opens_h=one.opens_h,
                    closes_h=one.closes_h,
                    evening_h=one.evening_h,
                )
                for day, one in sorted(person.week.items())
            ],
            skills=sorted(person.skills),
            days_off=sorted(person.days_off),
            extra=[
                HoursOfDayShape(
                    day=day, opens_h=one.opens_h, closes_h=one.closes_h, evening_h=one.evening_h
                )
                for day, one in sorted(person.extra.items())
            ],
        )


class PeopleShape(Shape):
    """All who work here."""

    people: list[WorkerShape]


class PlaceGiven(Body):
    """How many there are of a place."""

    name: PlaceName
    count: Annotated[int, Field(ge=1, le=MOST_OF_A_PLACE)]
    zone: Zone = "UTC"


class PlaceShape(Shape):
    """A place of which there are several."""

    name: str
    count: int


class PlacesShape(Shape):
    """The places of which there are several."""

    places: list[PlaceShape]


class TodayAnswer(Answer[Today]):
    """What is to be done now, what comes next, what goes by itself."""


class CollisionsAnswer(Answer[WhatCollides]):
    """Wishes that cannot be kept together, and changes that were tried and free them."""


class CalendarShape(Shape):
    """The path at which a calendar program reads the days; null where none was made."""

    path: str | None


class SecretPath(BaseModel):
    """What stands in a calendar's address."""

    secret: Annotated[str, StringConstraints(min_length=1, max_length=100)]


class DayQuery(BaseModel):
    """A day, and in which zone it begins; today where none is said."""

    day: date | None = None
    zone: Zone = "UTC"


def today_answer(at: Transaction) -> dict[str, object]:
    """Return today as it is answered."""
    return TodayAnswer(today(at)).told()


def known_zone(zone: str) -> str:
    """Return a zone that there is."""
    return zone if zone in available_timezones() else "UTC"


@blueprint.get("/days", responses={200: TodayAnswer}, summary="Today, and the days to come")
def show() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return today_answer(at)


@blueprint.post("/days/jobs", responses={201: TodayAnswer}, summary="Put something into the days")
@calmly
def add(body: NewDayJobBody) -> tuple[dict[str, object], int]:  # noqa: D103
    asked = DayJobRequest(
        body.finish, body.release, body.minutes, body.hands, body.place, body.interruptible
    )
    new = NewDayJob(
        DayJobKind(body.kind), body.title, asked, body.sheet_id, body.mould_id, body.due
    )
    with transaction() as at:
        add_job(at, new)
        plan_days_here(at, known_zone(body.zone))
        return today_answer(at), 201


@blueprint.post(
    "/days/runs", responses={201: TodayAnswer}, summary="Put the casts of a run into the days"
)
@calmly
def add_run(body: RunInDays) -> tuple[dict[str, object], int]:  # noqa: D103
    zone = known_zone(body.zone)
    with transaction() as at:
        add_run_to_days(at, body.run_id, DayJobRequest(body.finish, body.release), zone)
        plan_days_here(at, zone)
        return today_answer(at), 201


@blueprint.put("/days/jobs/<uuid:id>", responses={200: TodayAnswer}, summary="Say when it is due")
@calmly
def edit(path: IdPath, body: JobEdit) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        edit_job(at, path.id, due=body.due)
        plan_days_here(at, known_zone(body.zone), wishes_changed=True)
        return today_answer(at)


@blueprint.delete("/days/jobs/<uuid:id>", responses={200: TodayAnswer}, summary="Take it off again")
@calmly
def end(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        end_job(at, path.id)
        return today_answer(at)


@blueprint.post("/days/plan", responses={200: TodayAnswer}, summary="Plan what is left again")
@calmly
def plan(body: InZone) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        plan_days_here(at, known_zone(body.zone), wishes_changed=True)
        return today_answer(at)


@blueprint.post("/days/ticks", responses={200: TodayAnswer}, summary="A task was begun or is done")
@calmly
def tick_off(body: TaskTick) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        if body.what == "undone":
            take_back_tick(at, body.task)
        else:
            tick(at, body.task, done=body.what == "done", at=body.at)
        plan_days_here(at, known_zone(body.zone))
        return today_answer(at)


@blueprint.get(
    "/days/collisions", responses={200: CollisionsAnswer}, summary="What cannot be kept, and why"
)
@calmly
def collisions() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return CollisionsAnswer(what_collides(at)).told()


@blueprint.post(
    "/days/changes", responses={200: TodayAnswer}, summary="Make a change that frees the days"
)
@calmly
def change(body: ChangeAsked) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        make_change(at, body.kind, body.of)
        plan_days_here(at, known_zone(body.zone), wishes_changed=True)
        return today_answer(at)


@blueprint.get("/days/people", responses={200: PeopleShape}, summary="Who works here")
def people() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _people(at)


@blueprint.put("/days/people", responses={200: PeopleShape}, summary="Say who works here")
def give_people(body: PeopleGiven) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        set_people(at, [one.told() for one in body.people])
        return _people(at)


def _people(at: Transaction) -> dict[str, object]:
    told = [WorkerShape.of(one) for one in people_here(at)]
    return PeopleShape(people=told).model_dump(mode="json")


@blueprint.get(
    "/days/places", responses={200: PlacesShape}, summary="Places of which there are several"
)
def places() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        told = [PlaceShape(name=one.name, count=one.capacity) for one in places_here(at)]
    return PlacesShape(places=told).model_dump(mode="json")


@blueprint.put(
    "/days/places", responses={200: TodayAnswer}, summary="Say how many there are of a place"
)
@calmly
def give_place(body: PlaceGiven) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        set_place(at, body.name, body.count)
        plan_days_here(at, known_zone(body.zone), wishes_changed=True)
        return today_answer(at)


# -- calendar and paper -----------------------------------------------------------------------


@blueprint.get(
    "/days/calendar.ics", responses=file_of("text/calendar"), summary="The days as iCalendar"
)
def calendar() -> Response:  # noqa: D103
    with transaction() as at:
        content = _ics(at)
    return download(content, "text/calendar", "days.ics")


@blueprint.get(
    "/days/calendar", responses={200: CalendarShape}, summary="Where a calendar reads the days"
)
def calendar_address() -> dict[str, object]:  # noqa: D103
    # Whoever has that address reads the days with no sign-in, also when they may come in no more.
    is_told = Right.MAKE in visitor_here().rights
    with transaction() as at:
        return _address(calendar_secret(at) if is_told else None)


@blueprint.post(
    "/days/calendar", responses={200: CalendarShape}, summary="Make a new address for calendars"
)
def make_address() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _address(set_calendar_secret(at, wanted=True))


@blueprint.delete(
    "/days/calendar", responses={200: CalendarShape}, summary="End the address for calendars"
)
def end_address() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _address(set_calendar_secret(at, wanted=False))


@blueprint.get(
    "/calendar/<secret>.ics",
    responses=file_of("text/calendar"),
    summary="The days, for a calendar program that knows the address",
)
def feed(path: SecretPath) -> Response:  # noqa: D103
    with backstage().sessions() as session:
        workshop_id = workshop_of_calendar(session, path.secret)
    if workshop_id is None:
        raise NotFoundError("There is no calendar at this address; it may have been ended.")
    with transaction(workshop_id) as at:
        content = _ics(at)
    return download(content, "text/calendar", "days.ics", shown_at_once=True)


def _address(secret: str | None) -> dict[str, object]:
    path = None if secret is None else f"{PREFIX}/calendar/{secret}.ics"
    return CalendarShape(path=path).model_dump(mode="json")


def _ics(at: Transaction) -> bytes:
    shown = [one for one in board(at).tasks if not one.done]
    tasks = [
        CalendarTask(
            one.id, f"{one.title}: {one.job_title}", one.starts, one.ends, one.hands > 0, one.note
        )
        for one in shown
    ]
    return days_ics(tasks, at.now)


@blueprint.get("/days/sheet.pdf", responses=file_of("application/pdf"), summary="A day on paper")
@calmly
def sheet(query: DayQuery) -> Response:  # noqa: D103
    zone = known_zone(query.zone)
    with transaction() as at:
        day = query.day or at.now.astimezone(ZoneInfo(zone)).date()
        tasks = [
            DaySheetTask(
                one.title,
                one.job_title,
                one.starts,
                one.ends,
                one.closes,
                one.people,
                one.hands,
            )
            for one in board(at).tasks
            if not one.done
        ]
    content = day_sheet_pdf(tasks, day, zone)
    return download(content, "application/pdf", f"day-{day}.pdf", shown_at_once=True)
