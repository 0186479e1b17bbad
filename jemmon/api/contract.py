"""The contract of the web interface: each route says what it takes and what it answers, as frozen dataclasses; requests are
checked against it, answers are written by it, and the OpenAPI description is made from it. There is no second one.

A few lines of our own instead of an extension: the extensions that know pydantic want its models, and our values are plain
dataclasses of the core (docs/formats.md).
"""

import functools
import json
import re
import typing
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass
from typing import Any

from flask import Blueprint, Response, request
from pydantic import TypeAdapter

from .. import __version__

JSON = "application/json"
MOST_BODY_BYTES = 1_000_000
_PART = re.compile(r"<(?:(int):)?(\w+)>")
_PART_SHAPES: Mapping[str, Mapping[str, Any]] = {
    "": {"type": "string", "minLength": 1},
    "int": {"type": "integer", "minimum": 0, "maximum": 2**31},
}
_REF = "#/components/schemas/{model}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """An answer to what went wrong: a stable code, what is wrong and what to do, and where (a field, a line)."""

    code: str
    message: str
    where: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """One route: what it takes (`body`, `query`), what it answers with which status, and what may go wrong. `takes` and `gives`
    are content types; a route that gives no JSON has no `answer`."""

    method: str
    path: str
    name: str
    summary: str
    body: Any = None
    query: type | None = None
    answer: Any = None
    statuses: tuple[int, ...] = (200,)
    fails: tuple[int, ...] = ()
    takes: str = JSON
    gives: str = JSON
    parameters: Mapping[str, str] | None = None


ROUTES: list[Route] = []


@functools.lru_cache(maxsize=256)
def adapter(shape: Any) -> TypeAdapter[Any]:
    """Return what checks and writes values of a shape."""
    return TypeAdapter(shape)


def answer_of(shape: Any, value: Any, status: int = 200) -> Response:
    """Return a value as JSON; a figure that is none is null."""
    return Response(adapter(shape).dump_json(value), status, mimetype=JSON)


def route(
    blueprint: Blueprint,
    method: str,
    path: str,
    *,
    body: Any = None,
    query: type | None = None,
    answer: Any = None,
    statuses: Sequence[int] = (200,),
    fails: Sequence[int] = (),
    takes: str = JSON,
    gives: str = JSON,
    is_raw: bool = False,
    most_bytes: int = MOST_BODY_BYTES,
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Register a view under the blueprint. It is called with the path's parts, `body` and `query` where the route has them, and
    returns the answer, or (answer, status), or a Response of its own. One that `is_raw` reads the request's data itself. What
    the guards hold a request against is read off the view: `takes` and `most_bytes`."""

    def register(view: Callable[..., Any]) -> Callable[..., Any]:
        rule = f"{blueprint.url_prefix or ''}{path}"
        summary = (view.__doc__ or "").strip().split("\n")[0]
        ROUTES.append(
            Route(
                method=method,
                path=rule,
                name=f"{blueprint.name}.{view.__name__}",
                summary=summary,
                body=body,
                query=query,
                answer=answer,
                statuses=tuple(statuses),
                fails=tuple(fails),
                takes=takes,
                gives=gives,
            )
        )

        @functools.wraps(view)
        def checked(**parts: Any) -> Any:
            if body is not None and not is_raw:
                parts["body"] = adapter(body).validate_json(request.get_data())
            if query is not None:
                parts["query"] = adapter(query).validate_strings(request.args.to_dict())
            said = view(**parts)
            if isinstance(said, Response):
                return said
            value, status = said if isinstance(said, tuple) else (said, statuses[0])
            return answer_of(answer, value, status)

        vars(checked).update(takes=takes, most_bytes=most_bytes)
        blueprint.add_url_rule(path, view.__name__, checked, methods=[method])
        return checked

    return register


def openapi() -> dict[str, Any]:
    """Return the OpenAPI 3.1 description of every route."""
    shapes = [("in", r.body) for r in ROUTES if r.body is not None and r.takes == JSON]
    shapes += [("out", r.answer) for r in ROUTES if r.answer is not None]
    shapes.append(("out", Problem))
    modes: dict[str, typing.Literal["validation", "serialization"]] = {"in": "validation", "out": "serialization"}
    unique = {(way, _key(shape)): shape for way, shape in shapes}
    inputs = [(key, modes[key[0]], adapter(shape)) for key, shape in unique.items()]
    made, definitions = TypeAdapter.json_schemas(inputs, ref_template=_REF)
    schema_of = {key: schema for (key, _), schema in made.items()}
    defined = definitions.get("$defs", {})
    taken = _named_in([schema for (way, _), schema in schema_of.items() if way == "in"], defined)
    for name in defined.keys() - taken:  # an answer holds each of its fields, those with a default too
        if "properties" in defined[name]:
            defined[name]["required"] = list(defined[name]["properties"])
    paths: dict[str, Any] = {}
    for r in ROUTES:
        path = _PART.sub(r"{\2}", r.path)
        paths.setdefault(path, {})[r.method.lower()] = _operation(r, path, schema_of)
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Jemmon",
            "version": __version__,
            "description": "The interface of one Jemmon on this machine.",
        },
        "paths": dict(sorted(paths.items())),
        "components": {"schemas": dict(sorted(defined.items()))},
    }


def _named_in(schemas: Sequence[Any], defined: Mapping[str, Any]) -> set[str]:
    """Return the names of all definitions that schemas refer to, by whatever steps."""
    names: set[str] = set()
    prefix, waiting = _REF.format(model=""), list(schemas)
    while waiting:
        part = waiting.pop()
        if isinstance(part, Mapping):
            waiting += part.values()
        elif isinstance(part, list):
            waiting += part
        elif isinstance(part, str) and part.startswith(prefix):
            name = part.removeprefix(prefix)
            if name in defined and name not in names:
                names.add(name)
                waiting.append(defined[name])
    return names


def _key(shape: Any) -> str:
    return getattr(shape, "__name__", None) or repr(shape)


def _operation(r: Route, path: str, schema_of: Mapping[Any, Any]) -> dict[str, Any]:
    parameters = [
        {"name": name, "in": "path", "required": True, "schema": dict(_PART_SHAPES[converter])}
        for converter, name in _PART.findall(r.path)
    ]
    parameters += _query_parameters(r.query)
    content = schema_of[("out", _key(r.answer))] if r.answer is not None else {"type": "string"}
    answers = {
        str(status): {"description": "As asked.", "content": {r.gives: {"schema": content}}} for status in r.statuses
    }
    problem = {"description": "What is wrong.", "content": {JSON: {"schema": schema_of[("out", "Problem")]}}}
    answers |= {str(status): problem for status in sorted({*_FAILS, *r.fails, *((413, 415, 422) if r.body else ())})}
    operation: dict[str, Any] = {"operationId": r.name, "summary": r.summary, "responses": answers}
    if parameters:
        operation["parameters"] = parameters
    if r.query is not None:
        answers["422"] = problem
    if r.body is not None:
        shape = schema_of[("in", _key(r.body))] if r.takes == JSON else {"type": "string"}
        operation["requestBody"] = {"required": True, "content": {r.takes: {"schema": shape}}}
    return operation


_FAILS = (400, 404)


def _query_parameters(query: type | None) -> list[dict[str, Any]]:
    if query is None or not is_dataclass(query):
        return []
    shape = adapter(query).json_schema()
    required = shape.get("required", [])
    return [
        {"name": f.name, "in": "query", "required": f.name in required, "schema": shape["properties"][f.name]}
        for f in fields(query)
    ]


def openapi_text() -> str:
    """Return the description as it is committed: stable, one line a part."""
    return json.dumps(openapi(), indent=1, ensure_ascii=False, sort_keys=False) + "\n"
