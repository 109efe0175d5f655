"""Stored jobs. A reading is a row of a ledger: it is added, or struck out with a reason, never changed or deleted."""

from django.db import models


class Job(models.Model):
    """A case without its codes and readings, and what the start page shows of it.

    header: the case's other fields as in the case file. summary: the newest verdict in short. key: the client's own for
    the request that made it, so that a repeat makes no second one; archived: put away, out of the daily list.
    """

    header = models.JSONField()
    summary = models.JSONField(default=dict)
    key = models.CharField(max_length=64, null=True, unique=True)
    archived = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        """Newest first."""

        ordering = ("-updated",)

    def __str__(self) -> str:
        return f"Job {self.pk}: {self.header['vehicle']['label']}"


class Workshop(models.Model):
    """What the workshop has and what its time is worth, as in the case file's ``workshop``; at most one row."""

    settings = models.JSONField(default=dict)

    def __str__(self) -> str:
        return "The workshop"


class Code(models.Model):
    """A code as listed by the scan tool."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="codes")
    text = models.CharField(max_length=60)
    status = models.CharField(max_length=12, blank=True)

    class Meta:
        """In the order they were entered."""

        ordering = ("pk",)


class Reading(models.Model):
    """One line of the ledger. place: its index in the job; body: the reading as in the case file, without ``struck``;
    key: the client's own for the request that added it, so that a repeat adds nothing.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    place = models.PositiveIntegerField()
    body = models.JSONField()
    struck = models.CharField(max_length=300, blank=True)
    key = models.CharField(max_length=64, null=True)

    class Meta:
        """In the order they were taken; a place is filled once."""

        ordering = ("place",)
        constraints = (
            models.UniqueConstraint(fields=("job", "place"), name="one_reading_a_place"),
            models.UniqueConstraint(fields=("job", "key"), name="one_reading_a_request"),
        )
