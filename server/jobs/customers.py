"""Whom a vehicle belongs to: kept apart from the ledger, which holds only a salted commitment to it."""

from dataclasses import dataclass
from secrets import token_hex
from typing import Annotated

from django.db import transaction
from pydantic import Field

from server.ledger.chain import commitment
from server.ledger.customer_data import committed_data
from server.ledger.entries import NOBODY, Author, NewEntry, append, locked
from server.ledger.models import CachedView, Customer, Job, Kind


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
    for name in committed_data(row):
        entered = getattr(change, name)
        if entered is not None:
            setattr(row, name, entered.strip())
    row.salt = token_hex(16)
    row.save()
    append(job, [NewEntry(Kind.CUSTOMER, {"commitment": commitment(row.salt, committed_data(row))})], by)
    job.save(update_fields=["entries"])
    return customer_of(job)


@transaction.atomic
def remove(job: Job, by: Author = NOBODY) -> None:
    """Remove a customer's data; with its salt gone, what stands in the ledger says nothing of it any more."""
    job = locked(job)
    Customer.objects.filter(job=job).delete()
    CachedView.objects.filter(job=job).delete()
    append(job, [NewEntry(Kind.CUSTOMER, {"removed": True})], by)
    job.save(update_fields=["entries"])
