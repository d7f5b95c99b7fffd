"""Cells of a demo build are told apart from the builder's own: they are shown where that build, or a copy of it, is worked on."""

from pathlib import Path
from typing import Any

from django.db import migrations, models

RACKS = Path(__file__).parents[1] / "demo"


def mark_demo_cells(apps: Any, schema_editor: Any) -> None:
    """The cells that came with a demo build, by the labels in its file."""
    cell = apps.get_model("workbench", "RackCell")
    for file in sorted(RACKS.glob("*-rack.csv")):
        labels = [line.split(",")[0] for line in file.read_text(encoding="utf-8").splitlines()[1:]]
        cell.objects.filter(label__in=labels).update(demo=file.stem.removesuffix("-rack"))


class Migration(migrations.Migration):
    dependencies = [("workbench", "0005_compact")]

    operations = [
        migrations.AddField(
            "rackcell",
            "demo",
            models.CharField(blank=True, max_length=40, help_text="name of the demo build that it was put on the rack for", default=""),
            preserve_default=False,
        ),
        migrations.RunPython(mark_demo_cells, migrations.RunPython.noop),
    ]
