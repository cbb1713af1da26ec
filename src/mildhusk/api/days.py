"""The days: what is to be done, who is there, the plan, today."""

from datetime import date, datetime
from typing import Annotated
from uuid import UUID
from zoneinfo import available_timezones

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    IdPath,
    Name,
    Number,
    Shape,
    Word,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.documents.days_calendar import CalendarTask, days_ics
from mildhusk.services import days
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayJobKind
from mildhusk.store.values import DayJobRequest

blueprint = APIBlueprint("days", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Today")])

Zone = Annotated[str, StringConstraints(max_length=60)]
TaskId = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class NewDayJob(Body):
    """A cast, a mould or a task of one's own, to be put into the days."""

    kind: DayJobKind
    title: Name
    sheet_id: UUID | None = None
    mould_id: UUID | None = None
    due: datetime | None = None
    finish: FinishWish | None = None
    release: Word = ""
    minutes: Annotated[Number, Field(gt=0, le=60 * 24 * 7)] = 60.0
    hands: Annotated[int, Field(ge=0, le=8)] = 1
    place: Word = ""
    interruptible: bool = False
    zone: Zone = "UTC"


class PlanAgain(Body):
    """In which zone the workshop's hours are told."""

    zone: Zone = "UTC"


class TaskTick(Body):
    """A task that was begun or is done, or is neither after all."""

    task: TaskId
    what: Annotated[str, StringConstraints(pattern="^(begun|done|undone)$")]
    at: datetime | None = None
    zone: Zone = "UTC"


class HoursGiven(Body):
    """Working hours of a weekday; 0 is Monday. [h]"""

    weekday: Annotated[int, Field(ge=0, le=6)]
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

    def told(self) -> Person:
        """Return it as the core's value."""
        return Person(
            self.name,
            {one.weekday: Hours(one.opens_h, one.closes_h, one.evening_h) for one in self.hours},
            self.zone,
            frozenset(self.skills),
            frozenset(self.days_off),
        )


class PeopleGiven(Body):
    """All who work here."""

    people: Annotated[list[WorkerGiven], Field(max_length=days.MOST_PEOPLE)]


class HoursShape(Shape):
    """Working hours of a weekday, and until when one would go on of an evening. [h]"""

    weekday: int
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

    @classmethod
    def of(cls, person: Person) -> "WorkerShape":
        """Return what is shown of a person."""
        hours = [
            HoursShape(
                weekday=day,
                opens_h=one.opens_h,
                closes_h=one.closes_h,
                evening_h=one.evening_h,
            )
            for day, one in sorted(person.week.items())
        ]
        return cls(
            name=person.name,
            zone=person.zone,
            hours=hours,
            skills=sorted(person.skills),
            days_off=sorted(person.days_off),
        )


class PeopleShape(Shape):
    """All who work here."""

    people: list[WorkerShape]


class TodayAnswer(Answer[days.Today]):
    """What is to be done now, what comes next, what goes by itself."""


class CollisionsAnswer(Answer[days.WhatCollides]):
    """Wishes that cannot be kept together, and changes that were tried and free them."""


def _today(at: Transaction) -> dict[str, object]:
    return TodayAnswer(days.today(at)).told()


def _zone(zone: str) -> str:
    return zone if zone in available_timezones() else "UTC"


@blueprint.get("/days", responses={200: TodayAnswer}, summary="Today, and the days to come")
def show() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _today(at)


@blueprint.post("/days/jobs", responses={201: TodayAnswer}, summary="Put something into the days")
@calmly
def add(body: NewDayJob) -> tuple[dict[str, object], int]:  # noqa: D103
    asked = DayJobRequest(
        body.finish, body.release, body.minutes, body.hands, body.place, body.interruptible
    )
    new = days.NewDayJob(body.kind, body.title, asked, body.sheet_id, body.mould_id, body.due)
    with transaction() as at:
        days.add_job(at, new)
        days.plan_days_here(at, _zone(body.zone))
        return _today(at), 201


@blueprint.delete("/days/jobs/<uuid:id>", responses={200: TodayAnswer}, summary="Take it off again")
@calmly
def end(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        days.end_job(at, path.id)
        return _today(at)


@blueprint.post("/days/plan", responses={200: TodayAnswer}, summary="Plan what is left again")
@calmly
def plan(body: PlanAgain) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        days.plan_days_here(at, _zone(body.zone))
        return _today(at)


@blueprint.post("/days/ticks", responses={200: TodayAnswer}, summary="A task was begun or is done")
@calmly
def tick(body: TaskTick) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        if body.what == "undone":
            days.take_back_tick(at, body.task)
        else:
            days.tick(at, body.task, done=body.what == "done", at=body.at)
        days.plan_days_here(at, _zone(body.zone))
        return _today(at)


@blueprint.get(
    "/days/collisions", responses={200: CollisionsAnswer}, summary="What cannot be kept, and why"
)
@calmly
def collisions() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return CollisionsAnswer(days.what_collides(at)).told()


@blueprint.get("/days/people", responses={200: PeopleShape}, summary="Who works here")
def people() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        told = [WorkerShape.of(one) for one in days.people_here(at)]
    return PeopleShape(people=told).model_dump(mode="json")


@blueprint.put("/days/people", responses={200: PeopleShape}, summary="Say who works here")
def set_people(body: PeopleGiven) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        days.set_people(at, [one.told() for one in body.people])
        told = [WorkerShape.of(one) for one in days.people_here(at)]
    return PeopleShape(people=told).model_dump(mode="json")


@blueprint.get(
    "/days/calendar.ics", responses=file_of("text/calendar"), summary="The days as iCalendar"
)
def calendar() -> Response:  # noqa: D103
    with transaction() as at:
        found, now = days.today(at), at.now
    tasks = [
        CalendarTask(
            one.id, f"{one.title}: {one.job_title}", one.starts, one.ends, one.hands > 0, one.note
        )
        for one in (*found.now, *found.setting, *found.to_come)
    ]
    return download(days_ics(tasks, now), "text/calendar", "days.ics")
