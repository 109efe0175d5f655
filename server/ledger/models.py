"""All tables of the store. What was read, struck out and changed is an entry of the ledger: it is added, never changed or removed."""

from django.conf import settings
from django.db import models


class Job(models.Model):
    """What a job's entries come to, and what the start page shows of it.

    header: the case without its codes and readings, codes: its codes, both as in the case file; entries: how many it has, lines:
    how many of them are readings; summary: the newest verdict in short. key: the client's own for the request that made it,
    so that a repeat makes no second one; archived: put away, out of the daily list. stage, vehicle, words: of the summary, what the
    list is filtered, sorted and searched by; words are in lower case.
    """

    header = models.JSONField()
    codes = models.JSONField(default=list)
    entries = models.PositiveIntegerField(default=0)
    lines = models.PositiveIntegerField(default=0)
    summary = models.JSONField(default=dict)
    key = models.CharField(max_length=64, null=True, unique=True)
    archived = models.BooleanField(default=False)
    stage = models.CharField(max_length=12, default="new")
    vehicle = models.CharField(max_length=300, default="")
    words = models.TextField(default="")
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        """Newest first."""

        ordering = ("-updated",)
        indexes = (
            models.Index(fields=("archived", "stage", "-updated"), name="jobs_by_stage"),
            models.Index(fields=("archived", "-updated", "stage", "words"), name="jobs_by_time"),
            models.Index(fields=("archived", "vehicle", "-updated"), name="jobs_by_vehicle"),
            models.Index(fields=("-updated",), name="jobs_newest"),
        )

    def __str__(self) -> str:
        return f"Job {self.pk}: {self.header['vehicle']['label']}"


class Kind(models.TextChoices):
    """What an entry is."""

    OPENED = "opened", "job opened"
    READING = "reading", "reading"
    STRIKE = "strike", "reading struck out"
    CHANGE = "change", "change of what is known"
    STEP = "step", "step of a repair sheet"
    PHOTO = "photo", "photo at a step"
    TIME = "time", "working time corrected"
    CUSTOMER = "customer", "customer's data entered or removed"


class Entry(models.Model):
    """One row of the ledger of all jobs. number: in the chain, from 1 on without a gap; place: among the job's own entries; line:
    of a reading its place in the job, else None; body: canonical JSON; person: whose account, by: the name it had then, empty
    where none was kept; at: the server's time, ISO 8601; key: the client's own for the request, so that a repeat adds nothing;
    hash: see ``chain``.
    """

    number = models.PositiveBigIntegerField(unique=True)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="ledger")
    place = models.PositiveIntegerField()
    line = models.PositiveIntegerField(null=True)
    kind = models.CharField(max_length=10, choices=Kind)
    body = models.TextField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    by = models.CharField(max_length=150, blank=True)
    at = models.CharField(max_length=40)
    key = models.CharField(max_length=64, null=True)
    hash = models.CharField(max_length=64)

    class Meta:
        """In the order they were written; a place is filled once."""

        ordering = ("number",)
        constraints = (
            models.UniqueConstraint(fields=("job", "place"), name="one_entry_a_place"),
            models.UniqueConstraint(fields=("job", "line"), name="one_reading_a_line"),
            models.UniqueConstraint(fields=("job", "key"), name="one_entry_a_request"),
        )

    def __str__(self) -> str:
        return f"Entry {self.number}: {self.kind}"


class Customer(models.Model):
    """Whom the vehicle belongs to: the only personal data, in rows of its own, which can be removed. salt: of what stands for
    it in the chain.
    """

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="customer")
    name = models.CharField(max_length=200, blank=True)
    plate = models.CharField(max_length=40, blank=True)
    vin = models.CharField(max_length=40, blank=True)
    salt = models.CharField(max_length=64, blank=True)

    def __str__(self) -> str:
        return f"Customer of job {self.job_id}"


class Photo(models.Model):
    """A photo at a step of a repair, as a small JPEG; the ledger holds its hash."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="photos")
    step = models.CharField(max_length=60)
    image = models.BinaryField()

    def __str__(self) -> str:
        return f"Photo {self.pk} of job {self.job_id}"


class CachedView(models.Model):
    """A job's view, compressed JSON. It counts while ``key`` is the present one (see ``server.work.kept_views``)."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="shown")
    key = models.CharField(max_length=64)
    body = models.BinaryField()

    class Meta:
        """The table has the name of older versions."""

        db_table = "jobs_shown"

    def __str__(self) -> str:
        return f"View of job {self.job_id}"


class Printed(models.Model):
    """What the papers of a job said when it was closed as proven, compressed JSON without the customer. closed_at: of that closing."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="printed")
    closed_at = models.CharField(max_length=40)
    body = models.BinaryField()

    def __str__(self) -> str:
        return f"The papers of job {self.job_id}"


class Workshop(models.Model):
    """What the workshop has and what its time is worth, as in the case file's ``workshop``; at most one row. mark: what stands on its
    papers, as a small PNG.
    """

    settings = models.JSONField(default=dict)
    mark = models.BinaryField(default=bytes)

    def __str__(self) -> str:
        return "The workshop"
