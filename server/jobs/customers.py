"""Whom a vehicle belongs to: kept apart from the ledger, which holds only a salted commitment to it."""

from dataclasses import dataclass
from secrets import token_hex
from typing import Annotated

from django.db import transaction
from pydantic import Field

from server.jobs.chain import commitment
from server.jobs.ledger import NOBODY, Author, New, append, locked, told
from server.jobs.models import Customer, Job, Kind, Shown


@dataclass(frozen=True)
class CustomerData:
    """Name, plate and vehicle identification number; empty for not known."""

    name: Annotated[str, Field(max_length=200)] = ""
    plate: Annotated[str, Field(max_length=40)] = ""
    vin: Annotated[str, Field(max_length=40)] = ""


@dataclass(frozen=True)
class CustomerChange:
    """What is entered of them; None leaves what stands."""

    name: Annotated[str, Field(max_length=200)] | None = None
    plate: Annotated[str, Field(max_length=40)] | None = None
    vin: Annotated[str, Field(max_length=40)] | None = None


def customer_of(job: Job) -> CustomerData:
    """What is kept of a job's customer."""
    row = Customer.objects.filter(job=job).first()
    return CustomerData(row.name, row.plate, row.vin) if row else CustomerData()


@transaction.atomic
def keep(job: Job, change: CustomerChange, by: Author) -> CustomerData:
    """Keep a customer's data; that it was entered, by whom and when, goes into the ledger."""
    job = locked(job)
    row, _ = Customer.objects.get_or_create(job=job)
    for name in told(row):
        entered = getattr(change, name)
        if entered is not None:
            setattr(row, name, entered.strip())
    row.salt = token_hex(16)
    row.save()
    append(job, [New(Kind.CUSTOMER, {"commitment": commitment(row.salt, told(row))})], by)
    job.save(update_fields=["entries"])
    return customer_of(job)


@transaction.atomic
def remove(job: Job, by: Author = NOBODY) -> None:
    """Remove a customer's data; with its salt gone, what stands in the ledger says nothing of it any more."""
    job = locked(job)
    Customer.objects.filter(job=job).delete()
    Shown.objects.filter(job=job).delete()
    append(job, [New(Kind.CUSTOMER, {"removed": True})], by)
    job.save(update_fields=["entries"])
