"""A WAV file as samples: PCM of 8, 16, 24 or 32 bits, the channels together, read from the bytes without a file beside them."""

import io
import wave

import numpy as np

from ..base.errors import CoreError

MOST_BYTES = 100_000_000


class SoundError(CoreError):
    """A sound cannot be read, or an engine cannot be heard."""

    code = "sound_error"


def samples_of(data: bytes) -> tuple[np.ndarray, int]:
    """Return (samples from -1 to 1, shape (n,); their rate [Hz]) of a WAV file.

    Raises:
        SoundError: it is not a WAV of PCM, or is over 100 MB.
    """
    if len(data) > MOST_BYTES:
        raise SoundError(f"This sound is too long: at most {MOST_BYTES / 1e6:.0f} MB are read.")
    try:
        with wave.open(io.BytesIO(data)) as file:
            width, channels, rate = file.getsampwidth(), file.getnchannels(), file.getframerate()
            raw = file.readframes(file.getnframes())
    except (wave.Error, EOFError) as error:
        raise SoundError("This is not a WAV file of PCM; record it as one.") from error
    if not raw or channels < 1 or not 4_000 <= rate <= 384_000:
        raise SoundError("This WAV file holds no sound that can be heard: it needs 4,000 samples a second or more.")
    raw = raw[: len(raw) // (width * channels) * width * channels]
    return _as_floats(raw, width).reshape(-1, channels).mean(axis=1), rate


def _as_floats(raw: bytes, width: int) -> np.ndarray:
    """Return samples from -1 to 1 of so many bytes each."""
    if width == 1:
        return (np.frombuffer(raw, np.uint8).astype(float) - 128) / 128
    if width == 3:
        parts = np.frombuffer(raw, np.uint8).reshape(-1, 3).astype(np.int32)
        whole = parts[:, 0] | parts[:, 1] << 8 | parts[:, 2] << 16
        return np.asarray((whole - ((whole & 0x800000) << 1)) / 8_388_608)
    kind, full = (np.dtype("<i2"), 32_768) if width == 2 else (np.dtype("<i4"), 2_147_483_648)
    return np.asarray(np.frombuffer(raw, kind).astype(float) / full)
