"""Revisions become patches with a snapshot every so often; designs carry what the shelf shows; cells are claimed.

What was stored before is rewritten: states that were only one word being typed go (undo never led to them), the others stay.
"""

import json
import unicodedata
from collections import Counter

import django.db.models.deletion
from django.db import migrations, models

from kegcart.core.design import patch_between

SNAPSHOT_EVERY = 100


def typed_over(revisions, head_id):
    """Leaves that a later state of the same typing replaced."""
    parents = {r["parent_id"] for r in revisions}
    last = {}
    for r in revisions:
        last[(r["parent_id"], r["merge_key"])] = r["id"]
    return [
        r["id"]
        for r in revisions
        if r["merge_key"]
        and r["id"] not in parents
        and r["id"] != head_id
        and last[(r["parent_id"], r["merge_key"])] != r["id"]
    ]


def parsed(text):
    try:
        return json.loads(text)
    except (TypeError, ValueError):
        return None


def printable(value):
    """The value without control characters, which names may no longer hold."""
    if isinstance(value, dict):
        return {key: printable(entry) for key, entry in value.items()}
    if isinstance(value, list):
        return [printable(entry) for entry in value]
    if isinstance(value, str):
        return "".join(" " if unicodedata.category(c) == "Cc" and c not in "\t\n\r" else c for c in value)
    return value


def make_small(apps, schema_editor):
    designs, revisions = apps.get_model("workbench", "StoredDesign"), apps.get_model("workbench", "Revision")
    claims, snapshots = apps.get_model("workbench", "CellClaim"), apps.get_model("workbench", "Snapshot")
    taken = {}
    for design in designs.objects.order_by("created_at"):
        own = revisions.objects.filter(design=design).order_by("pk")
        typed = typed_over(list(own.values("id", "parent_id", "merge_key")), design.head_id)
        for at in range(0, len(typed), 500):
            own.filter(pk__in=typed[at : at + 500]).delete()
        rows = list(own.values("id", "parent_id"))
        steps = {}
        before = {}
        waiting = Counter(row["parent_id"] for row in rows)  # children to come, for which a document is held in memory
        head = None
        for pk, parent_id in own.values_list("pk", "parent_id"):
            text = own.filter(pk=pk).values_list("document", flat=True).get()
            document = parsed(text)
            if document is not None and printable(document) != document:
                document = printable(document)
                text = json.dumps(document, ensure_ascii=False)
            parent = before.get(parent_id)
            patch = None
            if document and parent and parent.get("version") == document.get("version") and steps[parent_id] + 1 < SNAPSHOT_EVERY:
                patch = patch_between(parent, document)
            steps[pk] = 0 if patch is None else steps[parent_id] + 1
            if patch is None or pk == design.head_id:
                snapshots.objects.create(revision_id=pk, text=text or "")
            own.filter(pk=pk).update(patch=patch or [], steps=steps[pk])
            if pk == design.head_id:
                head = document
            if waiting[pk]:
                before[pk] = document
            waiting[parent_id] -= 1
            if not waiting[parent_id]:
                before.pop(parent_id, None)
        if not isinstance(head, dict):
            continue
        design.name, design.purpose = str(head.get("name", ""))[:80], str((head.get("brief") or {}).get("purpose", ""))[:2000]
        if design.deleted_at is None:
            for g, group in enumerate(((head.get("pack") or {}).get("groups") or {}).values(), 1):
                for place, cell in enumerate(group["cells"], 1):
                    claims.objects.create(design=design, label=cell["label"], group=g, place=place)
                    holder = taken.setdefault(cell["label"], design)
                    if holder.pk != design.pk:
                        design.elsewhere[cell["label"]] = holder.name
        designs.objects.filter(pk=design.pk).update(name=design.name, purpose=design.purpose, elsewhere=design.elsewhere)


class Migration(migrations.Migration):
    dependencies = [("workbench", "0003_names_of_stored_rows")]

    operations = [
        migrations.AddField("storeddesign", "name", models.CharField(blank=True, default="", max_length=80, help_text="as the head has it, to search and sort by"), preserve_default=False),
        migrations.AddField("storeddesign", "purpose", models.CharField(blank=True, default="", max_length=2000), preserve_default=False),
        migrations.AddField("storeddesign", "stops", models.PositiveIntegerField(default=0)),
        migrations.AddField("storeddesign", "mends", models.PositiveIntegerField(default=0)),
        migrations.AddField("storeddesign", "card", models.JSONField(null=True, help_text="what the shelf shows of it")),
        migrations.AddField("storeddesign", "card_mark", models.CharField(blank=True, default="", max_length=40, help_text="the rules that the card was worked out by"), preserve_default=False),
        migrations.AddField("storeddesign", "acts", models.JSONField(default=list, help_text="the last changes and steps that were stored, by the ids that screens gave them")),
        migrations.AddField("storeddesign", "elsewhere", models.JSONField(default=dict, help_text="its cells that another build holds: label -> name of that build")),
        migrations.AlterField("revision", "document", models.TextField(null=True)),
        migrations.AlterField("revision", "patch", models.JSONField(default=list, help_text="JSON Patch from the parent's document; empty where there is none")),
        migrations.AddField("revision", "steps", models.PositiveSmallIntegerField(default=0, help_text="patches since the last lasting snapshot; 0: it is one itself")),
        migrations.CreateModel(
            "Snapshot",
            [
                ("revision", models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, serialize=False, to="workbench.revision")),
                ("text", models.TextField()),
            ],
        ),
        migrations.CreateModel(
            "CellClaim",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("label", models.CharField(db_index=True, max_length=40)),
                ("group", models.PositiveIntegerField(help_text="from 1")),
                ("place", models.PositiveIntegerField(help_text="from 1")),
                ("design", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="claims", to="workbench.storeddesign")),
            ],
            options={"ordering": ("pk",)},
        ),
        migrations.RunPython(make_small, migrations.RunPython.noop),
        migrations.RemoveField("revision", "document"),
    ]
