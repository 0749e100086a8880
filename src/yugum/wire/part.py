"""What every part of a rules document is made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Name = Annotated[str, Field(min_length=1, max_length=120)]
Days = Annotated[int, Field(ge=0, le=3650, strict=True)]


class Part(BaseModel):
    """Unknown fields are refused, so that a typing error is not passed over."""

    model_config = ConfigDict(extra="forbid")
