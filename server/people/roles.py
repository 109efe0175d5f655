"""What people may do. A role is a Django group; without one a person is a technician."""

from typing import Literal, get_args

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, Group, User

Role = Literal["technician", "foreman", "reader"]
ROLES: tuple[Role, ...] = get_args(Role)


def role_of(user: User) -> Role:
    """A person's role."""
    held = {group.name for group in user.groups.all()}
    return next((role for role in ("reader", "foreman") if role in held), "technician")


def add_person(name: str, role: Role = "technician", password: str | None = None) -> User:
    """A new account. Without a password it can only be used where people pick their name."""
    person = User.objects.create_user(username=name, password=password)
    give_role(person, role)
    return person


def give_role(user: User, role: Role) -> None:
    """Give a person one role in place of any other."""
    user.groups.set([] if role == "technician" else [Group.objects.get_or_create(name=role)[0]])


def may_write(user: AbstractBaseUser | AnonymousUser) -> bool:
    """Whether a person may add and change; a reader may not."""
    return isinstance(user, User) and user.is_active and role_of(user) != "reader"
