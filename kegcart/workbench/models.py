"""Designs and their revisions, the rack of cells, the builder's own parts.

A revision is a state of a design's document; undo and redo move the design's head along the tree of revisions, so nothing
that was ever stored is lost. How revisions are kept small is told in `history`.
"""

import secrets
from typing import Any

from django.db import models
from django.utils import timezone

from kegcart.core.pack.rack import Measured, limits_of


def new_id() -> str:
    return secrets.token_hex(6)


class StoredDesign(models.Model):
    """A build. `revision` rises with every change of the head: it is what a patch names as its base."""

    id = models.CharField(primary_key=True, max_length=12, default=new_id, editable=False)
    revision = models.PositiveIntegerField(default=1)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    demo = models.CharField(max_length=40, blank=True, help_text="name of the demo build it was made from")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)
    name = models.CharField(max_length=80, blank=True, help_text="as the head has it, to search and sort by")
    purpose = models.CharField(max_length=2000, blank=True)
    stops = models.PositiveIntegerField(default=0)
    mends = models.PositiveIntegerField(default=0)
    card = models.JSONField(null=True, help_text="what the shelf shows of it")
    card_mark = models.CharField(max_length=40, blank=True, help_text="the rules that the card was worked out by")
    acts = models.JSONField(
        default=list, help_text="the last changes and steps that were stored, by the ids that screens gave them"
    )
    elsewhere = models.JSONField(default=dict, help_text="its cells that another build holds: label -> name of that build")

    document: dict[str, Any]
    """The head's document, in the newest version: read when a design is asked for; no column."""

    class Meta:
        ordering = ("created_at",)

    def __str__(self) -> str:
        return self.id


class Revision(models.Model):
    """One state of a design's document: as a snapshot, or as the patch that makes it of its parent's."""

    design = models.ForeignKey(StoredDesign, on_delete=models.CASCADE, related_name="revisions")
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="children")
    patch = models.JSONField(default=list, help_text="JSON Patch from the parent's document; empty where there is none")
    steps = models.PositiveSmallIntegerField(default=0, help_text="patches since the last lasting snapshot; 0: it is one itself")
    label = models.CharField(max_length=200, blank=True)
    merge_key = models.CharField(max_length=200, blank=True, help_text="typing in one field merges into one step of undo")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.design_id}: {self.label}"


class Snapshot(models.Model):
    """The whole document of a revision, as JSON text. In a table of its own: small rows stay close together."""

    revision = models.OneToOneField(Revision, primary_key=True, on_delete=models.CASCADE)
    text = models.TextField()

    def __str__(self) -> str:
        return f"{self.revision_id}"


class CellClaim(models.Model):
    """A cell of the rack that a build on the shelf holds. The claim that has stood the longest counts."""

    design = models.ForeignKey(StoredDesign, on_delete=models.CASCADE, related_name="claims")
    label = models.CharField(max_length=limits_of("label")["maxLength"], db_index=True)
    group = models.PositiveIntegerField(help_text="from 1")
    place = models.PositiveIntegerField(help_text="from 1")

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.design_id}: {self.label}"


class RackCell(models.Model):
    """A measured cell on the rack, which all designs share. Which build it is in follows from the designs."""

    label = models.CharField(max_length=limits_of("label")["maxLength"], unique=True)
    format = models.CharField(max_length=limits_of("format")["maxLength"], blank=True)
    chemistry = models.CharField(max_length=20, default="nmc")
    capacity_ah = models.FloatField(null=True, blank=True)
    rated_ah = models.FloatField(null=True, blank=True)
    resistance_mohm = models.FloatField(null=True, blank=True)
    resistance_by = models.CharField(max_length=4, default="1khz")
    resting_v = models.FloatField(null=True, blank=True)
    resting_on = models.DateField(null=True, blank=True)
    later_v = models.FloatField(null=True, blank=True)
    later_on = models.DateField(null=True, blank=True)
    source = models.CharField(max_length=limits_of("source")["maxLength"], blank=True)
    remarks = models.CharField(max_length=limits_of("remarks")["maxLength"], blank=True)
    damaged = models.BooleanField(default=False)
    demo = models.CharField(max_length=40, blank=True, help_text="name of the demo build that it was put on the rack for")

    FIELDS = tuple(Measured.model_fields)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.label

    def measured(self) -> Measured:
        """The cell as the core knows it: checked when it was stored, and not again."""
        return Measured.model_construct(**{name: getattr(self, name) for name in self.FIELDS})


class LogEntry(models.Model):
    """Something that was recorded of a build at the bench. Undo leaves it, and a copy of the build starts without. Nothing is written over:
    of a kind about the same thing the last counts."""

    design = models.ForeignKey(StoredDesign, on_delete=models.CASCADE, related_name="log")
    kind = models.CharField(max_length=12)
    about = models.CharField(max_length=120, help_text="what it is about: the act of a step")
    at = models.DateTimeField(default=timezone.now)
    data = models.JSONField()
    entry = models.CharField(max_length=40, help_text="the id that the screen gave it: what is sent twice is stored once")

    class Meta:
        ordering = ("pk",)
        indexes = (models.Index(fields=("design", "kind", "about"), name="log_by_about"),)
        constraints = (models.UniqueConstraint(fields=("design", "entry"), name="log_stored_once"),)

    def __str__(self) -> str:
        return f"{self.design_id}: {self.kind} {self.about}"


class TestRun(models.Model):
    """A load test of a build as it was run, or is being run: one at a time. What was read stands in chunks, what happened in events."""

    id = models.CharField(primary_key=True, max_length=12, default=new_id, editable=False)
    design = models.ForeignKey(StoredDesign, on_delete=models.CASCADE, related_name="runs")
    begun_at = models.DateTimeField(default=timezone.now)
    over_at = models.DateTimeField(null=True, blank=True)
    prepared = models.JSONField(help_text="its steps, lines and expected courses, see core.bench.prepared")
    document = models.JSONField(help_text="the design that it is a test of, as it was")
    by_itself = models.BooleanField(default=False)
    instruments = models.JSONField(default=list, help_text="those that were connected: name, address, asks, acts")
    channels = models.JSONField(default=list, help_text="by which the chunks number them")
    judged = models.JSONField(null=True, help_text="what its readings said when they were last judged")

    class Meta:
        ordering = ("begun_at",)

    def __str__(self) -> str:
        return f"{self.design_id}: {self.begun_at}"


class TestRunEvent(models.Model):
    """Something that happened in a test. See `core.bench.live.TestEvent`."""

    run = models.ForeignKey(TestRun, on_delete=models.CASCADE, related_name="events")
    at_s = models.FloatField()
    kind = models.CharField(max_length=12)
    data = models.JSONField(default=dict)
    stored_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.run_id}: {self.kind}"


class ReadingChunk(models.Model):
    """The readings of some seconds of a test. See `core.bench.chunks`."""

    run = models.ForeignKey(TestRun, on_delete=models.CASCADE, related_name="chunks")
    number = models.PositiveIntegerField(help_text="in their order, from 0")
    begin_s = models.FloatField()
    end_s = models.FloatField()
    extremes = models.JSONField(help_text="of each trace its least and its greatest")
    content = models.BinaryField()
    stored_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("run", "number"), name="chunk_stored_once"),)

    def __str__(self) -> str:
        return f"{self.run_id}: {self.number}"


class OwnInstrument(models.Model):
    """An instrument that the builder has, whatever is built: where it is, what it is asked, what it can be told to do."""

    name = models.CharField(max_length=60, unique=True)
    address = models.CharField(max_length=80)
    kind = models.CharField(max_length=20, blank=True, help_text="key of its kind; empty where it is asked in its own words")
    asks = models.JSONField(default=list, help_text="text, channels, unit, scale, optional; as its kind where it is empty")
    acts = models.JSONField(default=dict)
    every_s = models.FloatField(default=0.1)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.name


class OwnTool(models.Model):
    """A tool that the builder has, whatever is built: by the key that the core gives it."""

    LONGEST = 60

    key = models.CharField(primary_key=True, max_length=LONGEST)

    def __str__(self) -> str:
        return self.key


class OwnPart(models.Model):
    """A part of the builder's own, kept for all builds: its figures as a design writes them."""

    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=80)
    figures = models.JSONField()
    owned = models.PositiveIntegerField(default=0, help_text="how many lie on the shelf")

    class Meta:
        ordering = ("kind", "name", "pk")

    def __str__(self) -> str:
        return self.name
