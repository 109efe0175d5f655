"""Which passwords are refused besides those that Django refuses."""

from django.contrib.auth.models import User
from django.core.exceptions import ValidationError


class NotTheName:
    """Django's validator: a name with a number is the first thing that anybody tries."""

    def validate(self, password: str, user: User | None = None) -> None:
        """Raises ValidationError for a password that is the person's name, with figures and signs at most."""
        name = _letters(user.get_username()) if user is not None else ""
        if name and _letters(password).replace(name, "") == "" and name in _letters(password):
            raise ValidationError("This is the person's name with a number.", code="password_is_the_name")

    def get_help_text(self) -> str:
        """See Django."""
        return "A password is not the person's name with a number."


def _letters(text: str) -> str:
    return "".join(char for char in text.casefold() if char.isalpha())
