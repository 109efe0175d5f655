"""Adds an account."""

from getpass import getpass
from typing import Any

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.people.roles import ROLES, add_person


class Command(BaseCommand):
    """``manage.py add_person NAME [--role ROLE] [--no-password]``."""

    help = "Add someone who works here; the password is asked for."

    def add_arguments(self, parser: CommandParser) -> None:
        """Name and role."""
        parser.add_argument("name")
        parser.add_argument("--role", choices=ROLES, default="technician")
        parser.add_argument("--no-password", action="store_true", help="for a bench where people pick their name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a name that is there already, or a weak password."""
        name = options["name"].strip()
        if not name or User.objects.filter(username__iexact=name).exists():
            raise CommandError("Expected a name that is not there yet.")
        password = None if options["no_password"] else getpass("Password: ")
        try:
            if password is not None:
                validate_password(password)
        except ValidationError as problem:
            raise CommandError(" ".join(problem.messages)) from problem
        add_person(name, options["role"], password)
        self.stdout.write(f"{name} may come in as {options['role']}.")
