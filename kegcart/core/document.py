"""What every part of the design document shares."""

from pydantic import BaseModel, ConfigDict


class Decisions(BaseModel):
    """A part of the document: unknown fields are an error, never dropped; numbers are finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
