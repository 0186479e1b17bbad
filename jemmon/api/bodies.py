"""What requests may say: strict and closed models."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9:._-]{1,120}$")]


class Body(BaseModel):
    """A request's body: unknown names are refused, types are not guessed."""

    model_config = ConfigDict(extra="forbid", strict=True)


class BeginFlight(Body):
    """Begin a flight; the id is made by the client."""

    id: Id
    aircraft: str
    registration: str
    pilot: Annotated[str, StringConstraints(min_length=1, max_length=80)]
    source: Literal["bench", "manual", "device"] = "bench"
    speed: int = 1


class PostEvent(Body):
    """A pilot's event; the id is made by the client, so that a repeat changes nothing."""

    id: Id
    kind: str
    body: dict[str, Any] = Field(default_factory=dict)


class Undo(Body):
    """Take back the last pilot event."""

    id: Id


class Levers(Body):
    """Levers and switches of the simulated engine."""

    levers: dict[str, float | int | bool | str]


class Prime(Body):
    """Strokes of the primer or of the hand pump, or blades turned through: what a hand does at once, each id once."""

    id: Id
    strokes: Annotated[float, Field(gt=0, le=15)] = 1.0
    action: Annotated[str, Field(pattern="^(e2_)?(prime_strokes|prime_s|wobble_strokes|turn_blades)$")] = (
        "prime_strokes"
    )


class Speed(Body):
    """How many times real time."""

    speed: int


class Fault(Body):
    """A fault of the simulated engine."""

    name: str
    size: Annotated[float, Field(ge=0, le=1)]


class Device(Body):
    """Where the engine instrument is."""

    host: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9.:-]{1,100}$")]
    port: Annotated[int, Field(ge=1, le=65535)]
