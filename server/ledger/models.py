"""All tables of the store. What was read, struck out and changed is an entry of the ledger: it is added, never changed or removed."""

from django.conf import settings
from django.db import models


class Job(models.Model):
    """What a job's entries come to, and what the start page shows of it."""

    header = models.JSONField()
    """The case without its codes and readings, as in the case file."""
    codes = models.JSONField(default=list)
    """As in the case file."""
    entries = models.PositiveIntegerField(default=0)
    """How many the job has in the ledger."""
    lines = models.PositiveIntegerField(default=0)
    """How many of them are readings."""
    summary = models.JSONField(default=dict)
    """The newest verdict in short."""
    key = models.CharField(max_length=64, null=True, unique=True)
    """The client's own for the request that made the job, so that a repeat makes no second one."""
    archived = models.BooleanField(default=False)
    """Put away, out of the daily list."""
    stage = models.CharField(max_length=12, default="new")
    """Of the summary: what the list is filtered by."""
    vehicle = models.CharField(max_length=300, default="")
    """Of the summary: what the list is sorted by."""
    words = models.TextField(default="")
    """Of the summary, in lower case: what the list is searched by."""
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
    RECORDING = "recording", "recording put to the job"
    MARKS = "marks", "marks of a recording"
    PURGED = "purged", "samples of a recording removed"


class Entry(models.Model):
    """One row of the ledger of all jobs. It is added, never changed or removed."""

    number = models.PositiveBigIntegerField(unique=True)
    """In the chain, from 1 on without a gap."""
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="ledger")
    place = models.PositiveIntegerField()
    """Among the job's own entries."""
    line = models.PositiveIntegerField(null=True)
    """Of a reading its place in the job; None for other entries."""
    kind = models.CharField(max_length=10, choices=Kind)
    body = models.TextField()
    """Canonical JSON."""
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    by = models.CharField(max_length=150, blank=True)
    """The person's name at that time; empty where none was kept."""
    at = models.CharField(max_length=40)
    """The server's time, ISO 8601."""
    key = models.CharField(max_length=64, null=True)
    """The client's own for the request, so that a repeat adds nothing."""
    hash = models.CharField(max_length=64)
    """See ``chain``."""

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


class ColumnMemory(models.Model):
    """What the columns of a source were kept as, so that the next file of the same tool is proposed so. It is no part of the ledger."""

    source = models.CharField(max_length=64, unique=True)
    """Hash of its headings."""
    columns = models.JSONField(default=dict)
    """Heading -> signal, sensor, unit."""
    updated = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"Columns of source {self.source}"


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
