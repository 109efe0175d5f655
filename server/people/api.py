"""Who is here: names to pick at a bench, sign-in elsewhere."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from ninja import Body, Router
from pydantic import Field

from dianoia.errors import refuse
from server.people.access import PICKED, come_in
from server.people.accounts import Name, new_name
from server.people.accounts import router as accounts
from server.people.attempts import remember_device, slowed
from server.people.roles import Role, add_person, role_of
from server.problems import Problem
from server.statuses import READS, SIGNS, WRITES

router = Router()
_BACKEND = "django.contrib.auth.backends.ModelBackend"
router.add_router("/accounts", accounts)


@dataclass(frozen=True)
class Person:
    """Someone who works here."""

    id: int
    name: str
    role: Role


@dataclass(frozen=True)
class Here:
    """Who works here."""

    me: Person | None
    """Who works with this page, None for nobody yet."""
    by_password: bool
    """They gave one."""
    way: Literal["pick", "sign-in"]
    """How people come in."""
    people: tuple[Person, ...]
    """Whose names may be picked."""
    idle_minutes: float
    """After so many without a touch it is asked anew who works with this page."""


@dataclass(frozen=True)
class Pick:
    """A name that was picked."""

    person: int
    """The number of who picked the name."""


@dataclass(frozen=True)
class NewName:
    """A name that is not listed yet."""

    name: Name


@dataclass(frozen=True)
class SignIn:
    """Name and password."""

    name: Name
    password: Annotated[str, Field(max_length=500)]


@router.get("/here", response={**READS, 200: Here})
def here(request: HttpRequest) -> Any:
    """Who is here, and how people come in."""
    return _here(request)


@router.post("/pick", response={**WRITES, 200: Here})
def pick(request: HttpRequest, body: Body[Pick]) -> Any:
    """Say who works with this page, at a bench."""
    if not settings.BENCH:
        return 403, _NO_BENCH
    person = User.objects.filter(pk=body.person, is_active=True).first()
    if person is None:
        raise refuse("person", "the number of someone who works here", str(body.person))
    return _in(request, person, picked=True)


@router.post("/new", response={**WRITES, 200: Here})
def new(request: HttpRequest, body: Body[NewName]) -> Any:
    """Add a name at a bench, and work under it."""
    if not settings.BENCH:
        return 403, _NO_BENCH
    return _in(request, add_person(new_name(body.name)), picked=True)


@router.post("/sign-in", response={**SIGNS, 200: Here})
def sign_in(request: HttpRequest, response: HttpResponse, body: Body[SignIn]) -> Any:
    """Come in with name and password. Wrong ones are counted, and after some the door stays shut for a while."""
    if wait := slowed(request):
        response["Retry-After"] = str(wait)
        return 429, Problem(f"Too many names were tried from here. Try again in {wait} seconds.")
    known = User.objects.filter(username__iexact=" ".join(body.name.split())).first()
    person = authenticate(request, username=known.username if known else body.name, password=body.password)
    if isinstance(person, User):
        remember_device(request, response, person.username)
        return _in(request, person, picked=False)
    return 401, Problem("Name or password is wrong.")


@router.post("/sign-out", response={**WRITES, 200: Here})
def sign_out(request: HttpRequest) -> Any:
    """Leave: whoever comes next says who they are."""
    logout(request)
    return _here(request)


_NO_BENCH = Problem("Names are picked at a bench only: sign in.")


def _in(request: HttpRequest, person: User, picked: bool) -> Here:
    login(request, person, backend=_BACKEND)
    come_in(request, picked)
    return _here(request)


def _here(request: HttpRequest) -> Here:
    me = _person(request.user) if isinstance(request.user, User) else None
    listed = User.objects.filter(is_active=True).order_by("username") if settings.BENCH else ()
    by_password = me is not None and not request.session.get(PICKED)
    way: Literal["pick", "sign-in"] = "pick" if settings.BENCH else "sign-in"
    return Here(me, by_password, way, tuple(_person(user) for user in listed), settings.IDLE_MINUTES)


def _person(user: User) -> Person:
    return Person(int(user.pk), user.username, role_of(user))
