from django.db import migrations


class Migration(migrations.Migration):
    """``Shown`` is ``CachedView`` in the code; its table keeps its name."""

    dependencies = [("jobs", "0010_listed")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameModel("Shown", "CachedView"),
                migrations.AlterModelTable("cachedview", "jobs_shown"),
            ]
        )
    ]
