"""Readings and codes become entries of one chained ledger."""

from datetime import UTC, datetime
from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from server.ledger.chain import START, canonical, link, record


def carry_over(apps: Any, schema_editor: Any) -> None:
    """Every job's readings, in order, as entries without a name: names were not kept before."""
    Job, Entry = apps.get_model("jobs", "Job"), apps.get_model("jobs", "Entry")
    number, before = 0, START
    at = datetime.now(UTC).isoformat(timespec="milliseconds")
    for job in Job.objects.order_by("pk"):
        codes = [{"code": row.text, **({"status": row.status} if row.status else {})} for row in job.code_rows.order_by("pk")]
        readings = list(job.reading_rows.order_by("place"))
        known = {**job.header, **({"codes": codes} if codes else {})}
        entries: list[Any] = [("opened", {"known": known}, None, None)]
        entries += [("reading", {"reading": row.body, "imported": True}, row.place, row.key) for row in readings]
        entries += [("strike", {"line": row.place, "reason": row.struck}, None, None) for row in readings if row.struck]
        for place, (kind, body, line, key) in enumerate(entries):
            number += 1
            text = canonical(body)
            before = link(before, record(number, job.pk, place, kind, "", at, text))
            Entry.objects.create(number=number, job=job, place=place, line=line, kind=kind, body=text, by="", at=at, key=key, hash=before)
        job.codes, job.entries, job.lines = codes, len(entries), len(readings)
        Job.objects.filter(pk=job.pk).update(codes=codes, entries=job.entries, lines=job.lines)


class Migration(migrations.Migration):
    dependencies = [("jobs", "0005_archived"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]

    operations = [
        migrations.AlterField("code", "job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="code_rows", to="jobs.job")),
        migrations.AlterField("reading", "job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="reading_rows", to="jobs.job")),
        migrations.AddField("job", "codes", models.JSONField(default=list)),
        migrations.AddField("job", "entries", models.PositiveIntegerField(default=0)),
        migrations.AddField("job", "lines", models.PositiveIntegerField(default=0)),
        migrations.CreateModel(
            name="Entry",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveBigIntegerField(unique=True)),
                ("place", models.PositiveIntegerField()),
                ("line", models.PositiveIntegerField(null=True)),
                ("kind", models.CharField(max_length=10, choices=[("opened", "job opened"), ("reading", "reading"), ("strike", "reading struck out"), ("change", "change of what is known"), ("customer", "customer's data entered or removed")])),
                ("body", models.TextField()),
                ("by", models.CharField(blank=True, max_length=150)),
                ("at", models.CharField(max_length=40)),
                ("key", models.CharField(max_length=64, null=True)),
                ("hash", models.CharField(max_length=64)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="ledger", to="jobs.job")),
                ("person", models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL)),
            ],
            options={
                "ordering": ("number",),
                "constraints": [
                    models.UniqueConstraint(fields=("job", "place"), name="one_entry_a_place"),
                    models.UniqueConstraint(fields=("job", "line"), name="one_reading_a_line"),
                    models.UniqueConstraint(fields=("job", "key"), name="one_entry_a_request"),
                ],
            },
        ),
        migrations.CreateModel(
            name="Customer",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(blank=True, max_length=200)),
                ("plate", models.CharField(blank=True, max_length=40)),
                ("vin", models.CharField(blank=True, max_length=40)),
                ("salt", models.CharField(blank=True, max_length=64)),
                ("job", models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name="customer", to="jobs.job")),
            ],
        ),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.DeleteModel("Code"),
        migrations.DeleteModel("Reading"),
    ]
