"""Every summary says how many ledger lines it speaks of."""

from typing import Any

from django.db import migrations


def count_lines(apps: Any, schema_editor: Any) -> None:
    """Until now a summary was written with each reading, so it speaks of all of them."""
    for job in apps.get_model("jobs", "Job").objects.all():
        job.summary["lines"] = job.readings.count()
        job.save(update_fields=["summary"])


class Migration(migrations.Migration):
    """The data only; the tables stay."""

    dependencies = (("jobs", "0002_workshop"),)
    operations = (migrations.RunPython(count_lines, migrations.RunPython.noop),)
