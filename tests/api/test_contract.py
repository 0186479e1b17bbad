"""The contract of the interface: what is not in it is refused with its place; what answers is in it. The whole description is
tried with made-up requests; `make torture` draws twenty times as many."""

import json
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from jemmon.api import create_app
from jemmon.api.contract import openapi_text
from jemmon.app.settings import Settings

BEGIN = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana Quill", "source": "manual"}
TYPED = {"check": "mag_check", "base_rpm": 1800, "left_rpm": 1740, "right_rpm": 1735, "restored_rpm": 1800}


@pytest.fixture
def flight(client):
    assert client.post("/api/flights", json=BEGIN).status_code == 201
    return client


def say(client, kind: str, body, event_id: str = "e1"):
    return client.post("/api/flights/f1/events", json={"id": event_id, "kind": kind, "body": body})


@pytest.mark.parametrize(
    ("kind", "body", "where"),
    [
        ("typed_reading", {**TYPED, "rough": 5}, "rough"),
        ("typed_reading", {**TYPED, "rough": [[1]]}, "rough"),
        ("typed_reading", {**TYPED, "rough": ["up"]}, "rough"),
        ("typed_reading", {**TYPED, "engine": True}, "engine"),
        ("typed_reading", {**TYPED, "engine": 1.5}, "engine"),
        ("typed_reading", {**TYPED, "base_rpm": "1800"}, "base_rpm"),
        ("typed_reading", {**TYPED, "base_rpm": None}, "base_rpm"),
        ("typed_reading", {**TYPED, "colour": "red"}, "colour"),
        ("typed_reading", {"check": "mag_chek", "base_rpm": 1800}, "body"),
        ("item_done", {"item": 5}, "item"),
        ("item_done", {"item": "brakes", "because": "I say so"}, "because"),
        ("item_done", {}, "item"),
        ("phase_entered", {"phase": ["start"]}, "phase"),
        ("weather", {"oat_c": "cold"}, "oat_c"),
        ("fact", {"name": "moon", "value": True}, "name"),
        ("finding", {"kind": "mag_check", "verdict": "within"}, "body"),
        ("no_such_event", {}, "body"),
        ("remark", {"text": "x" * 100_000}, "text"),
    ],
)
def test_a_body_that_is_not_in_the_contract_is_refused_with_its_place_and_not_kept(flight, kind, body, where):
    answer = say(flight, kind, body)
    assert answer.status_code == 422, answer.json
    assert set(answer.json) == {"code", "message", "where"}
    assert where in f"{answer.json['where']} body"
    assert [line["id"] for line in flight.get("/api/flights/f1").json["timeline"]] == [] or "e1" not in [
        line["id"] for line in flight.get("/api/flights/f1").json["timeline"]
    ]


@pytest.mark.parametrize("text", ["{", "", "nonsense", "[]", '{"id": NaN}', "\x00"])
def test_what_is_no_json_object_is_refused(flight, text):
    answer = flight.post("/api/flights/f1/events", data=text, content_type="application/json")
    assert answer.status_code in (400, 422)
    assert answer.json["message"]


def test_every_error_has_one_form(flight):
    for path in (
        "/api/flights/none",
        "/api/aircraft/none",
        "/api/none",
        "/api/flights?limit=0",
        "/api/aircraft/a-trainer/plan?pct=900",
    ):
        answer = flight.get(path)
        assert answer.status_code in (404, 422)
        assert set(answer.json) == {"code", "message", "where"}
    assert "at most 100" in flight.get("/api/aircraft/a-trainer/plan?pct=900").json["message"]


def test_the_description_is_the_committed_one():
    committed = Path(__file__).parents[2] / "frontend" / "openapi.json"
    assert committed.read_text() == openapi_text(), "type: make made"
    assert json.loads(openapi_text())["openapi"].startswith("3.1")


@pytest.fixture(scope="module")
def described(tmp_path_factory):
    path = tmp_path_factory.mktemp("contract") / "jemmon.db"
    app = create_app(Settings(database=path, most_upload_bytes=200_000, speeds=(1, 4, 10, 60)))
    app.test_client().post("/api/flights", json=BEGIN)
    yield schemathesis.openapi.from_wsgi("/api/openapi.json", app)
    app.extensions["hangar"].close()


def _cases(schema):
    return [operation.ok() for operation in schema.get_all_operations() if operation.ok().path != "/api/stream"]


def test_made_up_requests_get_answers_of_the_contract_and_no_server_error(described):
    for operation in _cases(described):

        @schemathesis_settings
        def ask(case):
            if len(case.path_parameters.get("flight_id", "")) % 4:  # mostly of the flight that there is
                case.path_parameters["flight_id"] = "f1"
            if len(case.path_parameters.get("profile_id", "")) % 4:
                case.path_parameters["profile_id"] = "a-trainer"
            answer = case.call()
            assert answer.status_code < 500 or answer.status_code == 503, "a service that is away is no fault of ours"
            case.validate_response(answer, checks=[response_schema_conformance, status_code_conformance])

        given(case=operation.as_strategy())(ask)()


schemathesis_settings = settings(
    max_examples=25,
    deadline=None,
    derandomize=True,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)
