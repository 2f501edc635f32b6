"""Plan to JSON text and back, checked on reading."""

from __future__ import annotations

import json
from dataclasses import fields, is_dataclass, replace
from functools import cache
from threading import Lock
from typing import TYPE_CHECKING, Any

from mild_compass.plan.bounds import require_bounded
from mild_compass.plan.errors import PlanError
from mild_compass.plan.migrations import VERSION, migrated
from mild_compass.plan.model import LogEntry, Plan

if TYPE_CHECKING:
    from pydantic import TypeAdapter

FORMAT = "mildplan"
_LOADING = Lock()


def _adapter() -> TypeAdapter[Plan]:
    """The checker, made once; two threads that first need it at one time load its library one after the other."""
    with _LOADING:
        return _made()


@cache
def _made() -> TypeAdapter[Plan]:
    # Imported when first needed: it is slow to load and a fresh plan does without it.
    try:
        from pydantic import TypeAdapter
    except ImportError:
        # Qt's binding looks into every module while it loads, and now and then, with other threads at work, that trips
        # over an import of this library's own which only comes later. What is missing is there at a second try.
        from pydantic import TypeAdapter

    return TypeAdapter(Plan)


def encode(plan: Plan) -> str:
    """The plan as indented JSON text with its format version."""
    body = _adapter().dump_python(plan, mode="json")
    return json.dumps({"format": FORMAT, "version": VERSION, "plan": body}, indent=1, ensure_ascii=False) + "\n"


def warm() -> None:
    """Load the checker, which takes a while, so that it is there when it is wanted."""
    _adapter()


def encode_quickly(plan: Plan) -> str:
    """The same in one line, for the journal: made in a twentieth of the time, for nobody reads it by hand.

    While the checker has not been loaded it does without: the first edits must be on disk as soon as the others.
    """
    loaded = _made.cache_info().currsize > 0
    rest = replace(plan, log=())
    body = _adapter().dump_json(rest).decode() if loaded else _text(rest)
    if plan.log:  # an edit adds a line to thousands: those that were written before are not written anew
        body = body.replace('"log":[]', f'"log":[{_LOG.text(plan.log)}]', 1)
    return f'{{"format": "{FORMAT}", "version": {VERSION}, "plan": {body}}}'


class _LogText:
    """The lines of a log as JSON, kept from one time to the next."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._log: tuple[LogEntry, ...] = ()
        self._lines: list[str] = []

    def text(self, log: tuple[LogEntry, ...]) -> str:
        """All lines, those that were there the last time as they were written then."""
        with self._lock:
            kept = 0
            for entry, before in zip(log, self._log, strict=False):
                if entry is not before:
                    break
                kept += 1
            self._lines[kept:] = [_text(entry) for entry in log[kept:]]
            self._log = log
            return ",".join(self._lines)


_LOG = _LogText()


def _text(value: Any) -> str:
    """A plan, or a part of it, as JSON, in one line without spaces."""
    return json.dumps(_plain(value), ensure_ascii=False, separators=(",", ":"))


def _plain(value: Any) -> Any:
    """A plan's parts as JSON has them."""
    if is_dataclass(value):
        return {field.name: _plain(getattr(value, field.name)) for field in fields(value)}
    return [_plain(each) for each in value] if isinstance(value, tuple) else value


def decode(text: str | bytes) -> Plan:
    """The plan in a JSON text of this or an older version; a PlanError says what is wrong with it.

    Raises:
        PlanError: the text is not a plan, or an entry of it makes no sense.
    """
    checker = _adapter()
    from pydantic import ValidationError

    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise PlanError("The plan inside the file is not readable text. The file was left as it is.") from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise PlanError("The file does not hold a plan of this application. It was left as it is.")
    try:
        plan = checker.validate_python(migrated(document)["plan"], strict=False)
        require_bounded(plan)
        return plan
    except RecursionError as error:
        raise PlanError("The plan inside the file is nested far too deep. The file was left as it is.") from error
    except ValidationError as error:
        first = error.errors()[0]
        place = " > ".join(str(part) for part in first["loc"])
        raise PlanError(
            f"The plan has a wrong entry at {place or 'its top'}: {first['msg']}. The file was left as it is."
        ) from error


def json_schema() -> dict[str, Any]:
    """JSON Schema of plan.json, made from the model."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "plan.json of a .mildplan file",
        "type": "object",
        "required": ["format", "version", "plan"],
        "properties": {"format": {"const": FORMAT}, "version": {"const": VERSION}, "plan": _plan_schema()},
        "$defs": _adapter().json_schema()["$defs"],
    }


def _plan_schema() -> dict[str, Any]:
    schema = dict(_adapter().json_schema())
    schema.pop("$defs")
    return schema
