"""The foreman's list of who works here: accounts made, changed, and shut when someone leaves."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from django.contrib.auth import authenticate, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest
from ninja import Body, Router
from pydantic import Field

from dianoia.errors import refuse
from server.people.roles import Role, add_person, give_role, role_of
from server.problems import Problem
from server.statuses import READS, SIGNS, WRITES

router = Router()
Name = Annotated[str, Field(min_length=1, max_length=60)]
Password = Annotated[str, Field(max_length=500)]


@dataclass(frozen=True)
class Account:
    """Someone's account."""

    id: int
    name: str
    role: Role
    open: bool
    """They may come in."""
    password: bool
    """They have one."""
    seen: datetime | None
    """When they last came in, None for never."""


@dataclass(frozen=True)
class NewAccount:
    """An account as it is added."""

    name: Name
    role: Role = "technician"
    password: Password | None = None
    """None where people only pick their name."""


@dataclass(frozen=True)
class AccountChange:
    """What changes of an account; None leaves it. A name never does: readings are noted with it."""

    role: Role | None = None
    open: bool | None = None
    password: Password | None = None


@dataclass(frozen=True)
class OwnPassword:
    """A change of one's own password."""

    old: Password
    """The one until now."""
    new: Password


def new_name(name: str) -> str:
    """A name as it is kept, in one form whatever way its letters were typed. Raises RefusedInput for none, or one that is there."""
    kept = " ".join(User.normalize_username(name).split())
    if not kept or User.objects.filter(username__iexact=kept).exists():
        raise refuse("name", "a name that is not listed yet", name)
    return kept


@router.get("", response={**READS, 200: list[Account]})
def accounts(request: HttpRequest) -> Any:
    """Everyone, those who left too: what they measured is noted with their name."""
    return _all()


@router.post("", response={**WRITES, 200: list[Account]})
def add(request: HttpRequest, body: Body[NewAccount]) -> Any:
    """Add someone."""
    name = new_name(body.name)
    if body.password is not None:
        _strong("password", body.password, User(username=name))
    add_person(name, body.role, body.password)
    return _all()


# before the one with a number in its address, which would be asked first
@router.post("/password", response={**SIGNS, 204: None})
def own_password(request: HttpRequest, body: Body[OwnPassword]) -> Any:
    """Change one's own password; the person's other sessions end."""
    user = request.user
    if not isinstance(user, User):
        return 403, Problem("Sign in first.")
    if authenticate(request, username=user.username, password=body.old) is None:
        raise refuse("old", "the password until now", "")
    _strong("new", body.new, user)
    user.set_password(body.new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)
    return 204, None


@router.patch("/{person}", response={**WRITES, 200: list[Account], 404: Problem})
def change(request: HttpRequest, person: int, body: Body[AccountChange]) -> Any:
    """Change someone's role or password, shut their account, or open it again."""
    user = User.objects.filter(pk=person).first()
    if user is None:
        return 404, Problem("Nobody here has this number.")
    if body.password is not None:
        _strong("password", body.password, user)
    if body.password is not None:
        user.set_password(body.password)  # a hash takes its time: not while the store is held
    with transaction.atomic():
        _change(user, body)
        if not _foremen():
            transaction.set_rollback(True)
            return 409, Problem("Somebody has to be foreman: make someone else one first.")
    if user.pk == request.user.pk and body.password is not None:
        update_session_auth_hash(request, user)
    return _all()


def _change(user: User, body: AccountChange) -> None:
    if body.role is not None:
        give_role(user, body.role)
    if body.open is not None:
        user.is_active = body.open
    user.save()


def _foremen() -> bool:
    """Whether anyone left may change accounts."""
    return User.objects.filter(is_active=True, groups__name="foreman").exists()


def _strong(field: str, password: str, user: User) -> None:
    """Raises RefusedInput for a weak password, saying what it lacks."""
    try:
        validate_password(password, user)
    except ValidationError as problem:
        raise refuse(field, "a password that is hard to guess: " + " ".join(problem.messages), "") from problem


def _all() -> list[Account]:
    return [
        Account(int(user.pk), user.username, role_of(user), user.is_active, user.has_usable_password(), user.last_login)
        for user in User.objects.order_by("-is_active", "username").prefetch_related("groups")
    ]
