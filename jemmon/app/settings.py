"""The settings of the server, each with its default and what it is for."""

from dataclasses import dataclass, field
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Settings:
    """What `create_app` is told."""

    database: Path = field(default_factory=lambda: Path("data/jemmon.db"))
    """Where flights are kept."""
    most_upload_bytes: int = 100_000_000
    """A larger trace file is refused before it is read."""
    speeds: tuple[int, ...] = (1, 4, 10)
    """How many times real time the simulated engine may run; tests add 60."""
    oat_c: float = 15.0
    """Outside temperature at the simulated field."""
    weather_url: str = "http://127.0.0.1:8410"
    """Where METARs are asked for: the simulated weather service."""
    web: Path = Path(__file__).parent.parent / "web"
    """The built front end."""
    hosts: tuple[str, ...] = ("127.0.0.1", "localhost")
    """Host names that the server answers to."""
    frame_s: float = 0.08
    """A screen gets a frame so often at the most [s]: a little less than the tick of a feed, so that a sample does not wait for the
    end of a pause. A slow tablet does with fewer."""
