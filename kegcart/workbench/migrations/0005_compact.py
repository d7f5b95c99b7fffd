"""What the small history let go of is given back to the disk."""

from django.db import migrations


class Migration(migrations.Migration):
    atomic = False
    dependencies = [("workbench", "0004_small_history")]

    operations = [
        migrations.RunSQL("VACUUM", migrations.RunSQL.noop),
        migrations.RunSQL("PRAGMA wal_checkpoint(TRUNCATE)", migrations.RunSQL.noop),
    ]
