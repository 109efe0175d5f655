"""What is forgotten of a person who has left: all but the name beside what they measured."""

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.db import transaction


@transaction.atomic
def forget(person: User) -> None:
    """Take away a person's sessions, tries to come in, role and password; the account itself where no entry needs its name.

    Entries of the ledger keep the name: each is hashed with it.
    """
    number = str(person.pk)
    for session in Session.objects.all():
        if session.get_decoded().get("_auth_user_id") == number:
            session.delete()
    for rows in (AccessAttempt, AccessLog, AccessFailureLog):
        rows.objects.filter(username__iexact=person.username).delete()
    person.groups.clear()
    person.is_active, person.last_login = False, None
    person.set_unusable_password()
    person.save()
