"""A recording is heard through the interface, judged, and leaves nothing behind."""

import io
import wave

import numpy as np
import pytest

from tests.strange.sound import RATE_HZ, run_up


def wav_of(samples: np.ndarray) -> bytes:
    written = io.BytesIO()
    with wave.open(written, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE_HZ)
        file.writeframes((samples * 32_000).astype("<i2").tobytes())
    return written.getvalue()


def heard(client, data: bytes, aircraft: str = "a-trainer", query: str = "at_s=4&rpm=1800"):
    url = f"/api/aircraft/{aircraft}/hearing?{query}"
    return client.post(url, data=data, headers={"Content-Type": "application/octet-stream"})


def test_a_recorded_run_up_is_heard_and_its_drops_are_judged(client):
    made = run_up(501, 12.0)
    answer = heard(client, wav_of(made.samples))
    assert answer.status_code == 200, answer.json
    page = answer.json
    assert page["told_pct"] > 90
    assert page["why"] is None
    check = next(one for one in page["checks"] if one["title"] == "Magnetos")
    assert "first" in check["because"]
    assert "left" not in check["because"]
    rpm = np.array([np.nan if value is None else value for value in page["rpm"]])
    told = np.isfinite(rpm[: len(made.rpm)])
    assert np.quantile(np.abs(rpm[: len(made.rpm)] - made.rpm)[told], 0.5) < 3


@pytest.mark.parametrize(
    ("data", "aircraft", "query", "status", "says"),
    [
        (b"not a sound", "a-trainer", "at_s=4&rpm=1800", 400, "WAV"),
        (b"not a sound", "a-trainer", "at_s=4&rpm=100", 422, "rpm"),
        (None, "e-rotor", "at_s=4&rpm=1800", 400, "rotor"),
    ],
)
def test_what_cannot_be_heard_is_refused_in_words(client, data, aircraft, query, status, says):
    answer = heard(client, wav_of(np.zeros(RATE_HZ)) if data is None else data, aircraft, query)
    assert answer.status_code == status
    assert says in str(answer.json)


def test_nothing_of_a_sound_is_kept(client, tmp_path):
    mark = np.random.default_rng(502).integers(-20_000, 20_000, 64).astype("<i2")
    data = wav_of(np.concatenate([mark / 32_000, run_up(503, 10.0).samples[: 4 * RATE_HZ]]))
    heard(client, data)
    needle = data[44 : 44 + 64]
    files = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert not [path.name for path in files if needle in path.read_bytes()]
