"""Signing in and out; accounts, roles, invitations and tablets of a workshop."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from flask import Response, make_response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, StringConstraints

from mildhusk.api.access import find_visitor, forget_tokens, keep_tokens, known_token
from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Name,
    Shape,
    ShortText,
    backstage,
    transaction,
    visitor_here,
)
from mildhusk.services import accounts
from mildhusk.services.access import Right, Visitor
from mildhusk.services.secrets import LONGEST_PASSWORD, SHORTEST_PASSWORD
from mildhusk.services.signing_in import Tokens, sign_in, sign_out
from mildhusk.store.access_tables import Account, Role

blueprint = APIBlueprint("accounts", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Access")])

Password = Annotated[str, StringConstraints(max_length=LONGEST_PASSWORD)]
Secret = Annotated[str, StringConstraints(min_length=1, max_length=100)]


class AccessShape(Shape):
    """Who asks, and what they may do."""

    is_signed_in: bool
    is_open: bool
    """Whether anybody may come in, because there is no account yet."""
    name: str
    role: Role | None
    rights: list[Right]
    shortest_password: int


class SignInBody(Body):
    """A name and a password."""

    name: ShortText
    password: Password


class FirstOwnerBody(Body):
    """Who the workshop belongs to."""

    name: Name
    password: Password


class PasswordBody(Body):
    """One's password, and the new one."""

    old: Password
    password: Password


class AccountShape(Shape):
    """Somebody who may come in."""

    id: UUID
    name: str
    role: Role
    is_you: bool
    seen_at: datetime | None


class SignedInShape(Shape):
    """A browser that is signed in; a tablet has a name of its own."""

    id: UUID
    name: str
    is_tablet: bool
    is_this: bool
    since: datetime
    seen_at: datetime


class InvitationShape(Shape):
    """An invitation nobody has used yet."""

    id: UUID
    role: Role
    name: str
    is_new: bool
    ends_at: datetime


class AccountList(Shape):
    """Who may come in, who is in, and who is invited."""

    accounts: list[AccountShape]
    signed_in: list[SignedInShape]
    invitations: list[InvitationShape]


class RoleBody(Body):
    """Another role."""

    role: Role


class NewInvitation(Body):
    """Who is invited: as what, or to a new password."""

    role: Role = Role.MAKER
    name: ShortText = ""
    account_id: UUID | None = None


class InvitedShape(Shape):
    """The secret of a link, told once; the link is good until it ends or is used."""

    id: UUID
    secret: str
    ends_at: datetime


class SecretBody(Body):
    """The secret of a link."""

    secret: Secret


class WelcomeShape(Shape):
    """What an invitation is for."""

    workshop: str
    role: Role
    name: str
    is_new: bool
    shortest_password: int = Field(default=SHORTEST_PASSWORD)


class AcceptBody(Body):
    """Coming in by a link; a tablet has neither name nor password."""

    secret: Secret
    name: ShortText = ""
    password: Password = ""


class SignedInNow(Shape):
    """The browser is signed in."""

    signed_in: bool = True


def _signed_in_now(tokens: Tokens) -> Response:
    return keep_tokens(make_response(SignedInNow().model_dump(mode="json")), tokens)


@blueprint.get("/access", responses={200: AccessShape}, summary="Who asks, and what they may do")
def show() -> dict[str, object]:  # noqa: D103
    found = find_visitor()
    return AccessShape(
        is_signed_in=found is not None and not found.is_anybody,
        is_open=found is not None and found.is_anybody,
        name="" if found is None else found.name,
        role=None if found is None else found.role,
        rights=[] if found is None else [one for one in Right if one in found.rights],
        shortest_password=SHORTEST_PASSWORD,
    ).model_dump(mode="json")


@blueprint.post("/sign-in", responses={200: SignedInNow}, summary="Sign in")
def enter(body: SignInBody) -> Response:  # noqa: D103
    at = backstage()
    # Committed whatever comes of it: a failure counts.
    with at.sessions.begin() as session:
        tried = sign_in(
            session,
            at.clock(),
            body.name,
            body.password,
            address=request.remote_addr or "",
            known=known_token(),
        )
    if tried.tokens is None:
        assert tried.refused is not None
        raise tried.refused
    return _signed_in_now(tried.tokens)


@blueprint.post("/sign-out", responses={200: Deleted}, summary="Sign out")
def leave() -> Response:  # noqa: D103
    with transaction() as at:
        sign_out(at.session, visitor_here())
    return forget_tokens(make_response(Deleted().model_dump(mode="json")))


@blueprint.put("/access/password", responses={200: SignedInNow}, summary="Change your password")
def change_password(body: PasswordBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        accounts.change_password(at, visitor_here(), body.old, body.password)
    return SignedInNow().model_dump(mode="json")


@blueprint.get("/accounts", responses={200: AccountList}, summary="Who may come in")
def index() -> dict[str, object]:  # noqa: D103
    asks = visitor_here()
    with transaction() as at:
        people = accounts.list_accounts(at)
        browsers = accounts.list_signed_in(at)
        invited = accounts.list_invitations(at)
    names = {one.id: one.name for one in people}
    seen = {one.account_id: one.seen_at for one in reversed(browsers)}
    return AccountList(
        accounts=[_account(one, asks, seen.get(one.id)) for one in people],
        signed_in=[
            SignedInShape(
                id=one.id,
                name=one.tablet_name or names.get(one.account_id or one.id, ""),
                is_tablet=one.account_id is None,
                is_this=one.id == asks.signed_in_id,
                since=one.created_at,
                seen_at=one.seen_at,
            )
            for one in browsers
        ],
        invitations=[
            InvitationShape(
                id=one.id,
                role=one.role,
                name=one.name,
                is_new=one.account_id is None,
                ends_at=one.ends_at,
            )
            for one in invited
        ],
    ).model_dump(mode="json")


def _account(row: Account, asks: Visitor, seen_at: datetime | None) -> AccountShape:
    return AccountShape(
        id=row.id, name=row.name, role=row.role, is_you=row.id == asks.account_id, seen_at=seen_at
    )


@blueprint.post("/accounts/first", responses={200: SignedInNow}, summary="Become its owner")
def first(body: FirstOwnerBody) -> Response:  # noqa: D103
    with transaction() as at:
        tokens = accounts.make_first_owner(at, body.name, body.password)
    return _signed_in_now(tokens)


@blueprint.put("/accounts/<uuid:id>", responses={200: AccountShape}, summary="Change a role")
def change_role(path: IdPath, body: RoleBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        row = accounts.change_role(at, path.id, body.role)
        return _account(row, visitor_here(), None).model_dump(mode="json")


@blueprint.delete("/accounts/<uuid:id>", responses={200: Deleted}, summary="Remove an account")
def remove(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        accounts.remove(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.delete("/signed-in/<uuid:id>", responses={200: Deleted}, summary="Sign a browser out")
def end_sign_in(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        accounts.end_sign_in(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.post("/invitations", responses={201: InvitedShape}, summary="Invite somebody")
def invite(body: NewInvitation) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        made = accounts.invite(at, body.role, body.name, body.account_id)
    told = InvitedShape(id=made.id, secret=made.secret, ends_at=made.ends_at)
    return told.model_dump(mode="json"), 201


@blueprint.delete(
    "/invitations/<uuid:id>", responses={200: Deleted}, summary="Take an invitation back"
)
def take_back(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        accounts.take_back(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.post(
    "/invitations/welcome", responses={200: WelcomeShape}, summary="What an invitation is for"
)
def welcome(body: SecretBody) -> dict[str, object]:  # noqa: D103
    at = backstage()
    with at.sessions.begin() as session:
        found = accounts.welcome(session, at.clock(), body.secret)
    return WelcomeShape(
        workshop=found.workshop, role=found.role, name=found.name, is_new=found.is_new
    ).model_dump(mode="json")


@blueprint.post(
    "/invitations/accept", responses={200: SignedInNow}, summary="Come in by an invitation"
)
def accept(body: AcceptBody) -> Response:  # noqa: D103
    at = backstage()
    with at.sessions.begin() as session:
        tokens = accounts.accept(session, at.clock(), body.secret, body.name, body.password)
    return _signed_in_now(tokens)
