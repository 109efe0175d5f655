"""Forgets a person who has left, but for the name beside what they measured."""

from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.ledger.forgetting import CopyQuery, copies_with, empty_log, said
from server.ledger.models import Entry
from server.people.forgetting import forget


class Command(BaseCommand):
    """``manage.py forget_person NAME``: the account is shut; its sessions, tries to come in and password go."""

    help = "Shut someone's account and forget their sessions, tries to come in and password; the ledger keeps the name."

    def add_arguments(self, parser: CommandParser) -> None:
        """The person's name."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a name that is not there, and for the only foreman."""
        person = User.objects.filter(username__iexact=options["name"]).first()
        if person is None:
            raise CommandError(f"Nobody here is called {options['name']}.")
        others = User.objects.filter(is_active=True, groups__name="foreman").exclude(pk=person.pk)
        if person.groups.filter(name="foreman").exists() and not others.exists():
            raise CommandError(f"{person.username} is the only foreman. Make someone else one first.")
        name, number = person.username, int(person.pk)
        entries = Entry.objects.filter(person=person).count()
        forget(person)
        if not entries:
            person.delete()
        self.stdout.write(f"{name} is forgotten: sessions, tries to come in, role and password are gone.")
        if entries:
            self.stdout.write(f"The name stays at {entries} entries of the ledger: each is hashed with it.")
        for line in said(empty_log(), copies_with(_traces(name, number))):
            self.stdout.write(line)


def _traces(name: str, number: int) -> list[CopyQuery]:
    tries = [CopyQuery(table, "username = ? COLLATE NOCASE", name)
             for table in ("axes_accessattempt", "axes_accesslog", "axes_accessfailurelog")]  # fmt: skip
    return [CopyQuery("auth_user", "id = ? AND (is_active OR last_login IS NOT NULL)", number), *tries]
