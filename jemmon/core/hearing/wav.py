"""A WAV file as samples: PCM of any width, the channels together, read from the bytes without a file beside them."""

import io
import struct
import warnings

import numpy as np
from scipy.io import wavfile

from ..base.errors import CoreError

MOST_BYTES = 100_000_000
_MOST_MIN = 20.0  # what a tablet's memory holds of the spectra; a run-up takes five
# what the reader raises on a header that is broken, by a run over 6,000 of them
_BROKEN = (ValueError, EOFError, MemoryError, OverflowError, ZeroDivisionError, UnboundLocalError, struct.error)
_LEAST_HZ, _MOST_HZ = 4_000, 384_000


class SoundError(CoreError):
    """A sound cannot be read, or an engine cannot be heard."""

    code = "sound_error"


def samples_of(data: bytes) -> tuple[np.ndarray, int]:
    """Return (samples from -1 to 1, shape (n,); their rate [Hz]) of a WAV file.

    Raises:
        SoundError: it is not a WAV of PCM, is over 100 MB or over 20 minutes long.
    """
    if len(data) > MOST_BYTES:
        raise SoundError(f"This sound is too long: at most {MOST_BYTES / 1e6:.0f} MB are read.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", wavfile.WavFileWarning)  # chunks that recorders add about themselves
            rate_hz, whole = wavfile.read(io.BytesIO(data))
    except _BROKEN as error:
        raise SoundError("This is not a WAV file of PCM; record it as one.") from error
    if whole.dtype.kind == "f":
        raise SoundError("This WAV file is not PCM but holds floating-point figures; record it as PCM.")
    if not whole.size or not _LEAST_HZ <= rate_hz <= _MOST_HZ:
        raise SoundError(
            f"This WAV file holds no sound that can be heard: it needs {_LEAST_HZ:,} samples a second or more."
        )
    if (minutes := len(whole) / rate_hz / 60) > _MOST_MIN:
        raise SoundError(
            f"This sound has {minutes:.0f} minutes; at most {_MOST_MIN:.0f} are heard at once. Cut it to the run-up."
        )
    full = 128 if whole.dtype == np.uint8 else np.iinfo(whole.dtype).max + 1
    samples = (whole.astype(np.float32) - (128 if whole.dtype == np.uint8 else 0)) / full
    return samples if samples.ndim == 1 else samples.mean(axis=1), int(rate_hz)
