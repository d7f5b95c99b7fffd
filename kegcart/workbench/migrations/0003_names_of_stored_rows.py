"""One word, one meaning: the core's `Design` and `Cell` are the plain ones, the stored rows say so."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("workbench", "0002_rack_and_own_parts")]

    operations = [
        migrations.RenameModel("Design", "StoredDesign"),
        migrations.RenameModel("Cell", "RackCell"),
    ]
