"""File formats: each is one dataclass whose fields say what they accept, and :class:`Format` reads and writes them all.

A field is ``name: Annotated[type, accept(...)]``. What it accepts is said once, for the reader, for the error line and
for the published JSON Schema.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError
from pydantic_core import core_schema

from wolfsbane.cycle.errors import BadInputError, require_range

if TYPE_CHECKING:
    from pydantic_core import ErrorDetails

T = TypeVar("T")
_DRAFT = "https://json-schema.org/draft/2020-12/schema"
#: what stands in an error where a field's name belongs, until the reader puts it there; one beneath it is ".name"
HERE = ""
_REQUIRED = "a value: this field is required"


@dataclass(frozen=True)
class Accept:
    """What a field accepts: ``check`` returns the value as it is kept or raises BadInputError with :data:`HERE`, a name
    beneath it or a name of its own for the field; ``schema`` is the JSON Schema of what ``check`` lets through.
    """

    check: Callable[[Any], Any]
    schema: dict[str, Any] = field(hash=False)

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> core_schema.CoreSchema:
        return core_schema.no_info_plain_validator_function(self.check)

    def __get_pydantic_json_schema__(self, core: Any, handler: Any) -> dict[str, Any]:
        return dict(self.schema)


def refuse(value: Any, allowed: str, at: str = HERE) -> BadInputError:
    """The error of a field that does not accept ``value``."""
    return BadInputError(at, value, allowed)


def optional(accepted: Accept) -> Accept:
    """The same, or null, which is kept as None."""
    return Accept(lambda v: None if v is None else accepted.check(v), _or_null(accepted.schema))


def usual(accepted: Accept, value: Any) -> Accept:
    """The same, or null, which stands for ``value``."""
    return Accept(lambda v: value if v is None else accepted.check(v), _or_null(accepted.schema))


def either(first: Accept, second: Accept) -> Accept:
    """What one of two accepts; the error is that of the second."""

    def check(value: Any) -> Any:
        try:
            return first.check(value)
        except BadInputError:
            return second.check(value)

    return Accept(check, {"anyOf": [first.schema, second.schema]})


def _or_null(schema: dict[str, Any]) -> dict[str, Any]:
    if "enum" in schema:
        return {**schema, "enum": [*schema["enum"], None]}
    return {"anyOf": [schema, {"type": "null"}]}


def number(low: float = -1e9, high: float = 1e9, unit: str = "") -> Accept:
    """A number from ``low`` to ``high`` in ``unit``, kept as float; without ends any number that is finite."""
    if (low, high) == (-1e9, 1e9):
        return Accept(_any_number, {"type": "number"})
    return Accept(
        lambda v: require_range(HERE, v, low, high, unit),
        {"type": "number", "minimum": low, "maximum": high, **({"description": unit} if unit else {})},
    )


def _any_number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise refuse(value, "a number")
    return float(value)


def whole(low: int, high: int) -> Accept:
    """A whole number."""

    def check(value: Any) -> int:
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            raise refuse(value, f"a whole number from {low} to {high}")
        return value

    return Accept(check, {"type": "integer", "minimum": low, "maximum": high})


def word(names: Collection[str]) -> Accept:
    """One of ``names``."""

    def check(value: Any) -> str:
        if not isinstance(value, str) or value not in names:
            raise refuse(value, ", ".join(names))
        return value

    return Accept(check, {"enum": list(names)})


def own_or(names: Collection[str]) -> Accept:
    """One of ``names``, or something of the instructor's own, whose id begins with own-."""
    named = word(names)

    def own(value: Any) -> str:
        if not isinstance(value, str) or not value.startswith("own-"):
            raise refuse(value, "an id that begins with own-")
        return value

    return either(Accept(own, {"type": "string", "pattern": "^own-"}), named)


def text(least: int, most: int, *, strip: bool = False) -> Accept:
    """Text of ``least`` to ``most`` characters, with ``strip`` measured and kept without the blanks around it."""
    allowed = f"{least} to {most} characters" if least else f"text of at most {most} characters"

    def check(value: Any) -> str:
        kept = value.strip() if strip and isinstance(value, str) else value
        if not isinstance(kept, str) or not least <= len(kept) <= most:
            raise refuse(value, allowed)
        return kept

    return Accept(check, {"type": "string", **({"minLength": least} if least else {}), "maxLength": most})


def flag() -> Accept:
    """True or false."""

    def check(value: Any) -> bool:
        if not isinstance(value, bool):
            raise refuse(value, "true or false")
        return value

    return Accept(check, {"type": "boolean"})


def words(names: Collection[str], least: int = 0) -> Accept:
    """A list of ``names``, each kept once, in the order given."""

    def check(value: Any) -> tuple[str, ...]:
        if not isinstance(value, (list, tuple)) or len(value) < least:
            raise refuse(value, "a list of " + ", ".join(names))
        for item in value:
            if not isinstance(item, str) or item not in names:
                raise refuse(item, ", ".join(names))
        return tuple(dict.fromkeys(value))

    bounds = {"minItems": least} if least else {}
    return Accept(check, {"type": "array", "items": {"enum": list(names)}, **bounds})


def lines(most: int, length: int) -> Accept:
    """At most ``most`` lines of text."""

    def check(value: Any) -> tuple[str, ...]:
        if (
            not isinstance(value, (list, tuple))
            or len(value) > most
            or not all(isinstance(x, str) and len(x) <= length for x in value)
        ):
            raise refuse(value, f"at most {most} lines of at most {length} characters")
        return tuple(value)

    return Accept(check, {"type": "array", "maxItems": most, "items": {"type": "string", "maxLength": length}})


def span(low: float, high: float, unit: str) -> Accept:
    """[low, high] with the lower first."""

    def check(value: Any) -> tuple[float, float]:
        if not isinstance(value, (list, tuple)) or len(value) != 2:
            raise refuse(value, "[low, high]")
        first, second = (require_range(HERE, v, low, high, unit) for v in value)
        if first > second:
            raise refuse(value, "[low, high] with low first")
        return first, second

    return Accept(check, {"type": "array", "items": number(low, high, unit).schema, "minItems": 2, "maxItems": 2})


def one_of(names: Collection[str]) -> Callable[[dict[str, Any], str], BadInputError]:
    """The error of an unknown key that is told as a value: what would have done are ``names``."""
    return lambda value, key: refuse(key, ", ".join(names))


def at_most_keys(data: Any, known: Collection[str], prefix: str = "") -> None:
    """Raises BadInputError for the first key of ``data`` that is not known."""
    for key in data:
        if key not in known:
            raise BadInputError(f"{prefix}{key}", data[key], "one of " + ", ".join(sorted(known)))


def called(name: str, accepted: Accept) -> Accept:
    """The same under a name of its own in errors, wherever it stands."""
    return Accept(lambda v: at(name, accepted.check, v), accepted.schema)


def fields_of(
    parts: Mapping[str, Accept],
    what: str = "a JSON object",
    required: Collection[str] = (),
    stranger: Callable[[dict[str, Any], str], BadInputError] | None = None,
) -> Accept:
    """An object with some of ``parts``, kept as a dict of what was given; ``what`` describes it where it is none.

    ``stranger(value, key)`` is the error of a key that is not among the parts, where it is not named with its own way.
    """

    def check(value: Any) -> dict[str, Any]:
        if not isinstance(value, dict):
            raise refuse(value, what)
        for key in value if stranger else ():
            if key not in parts and stranger:
                raise stranger(value, key)
        at_most_keys(value, parts, ".")
        for name in required:
            if name not in value:
                raise refuse(None, _REQUIRED, f".{name}")
        return {name: beneath(name, parts[name].check, item) for name, item in value.items()}

    properties = {name: accepted.schema for name, accepted in parts.items()}
    needed = {"required": list(required)} if required else {}
    return Accept(check, {"type": "object", "additionalProperties": False, **needed, "properties": properties})


def at(name: str, check: Callable[[Any], Any], value: Any) -> Any:
    """``value`` checked as what is called ``name``; an error that has no name of its own gets it."""
    try:
        return check(value)
    except BadInputError as error:
        if error.field[:1] not in ("", "."):
            raise
        raise BadInputError(f"{name}{error.field}", error.value, error.allowed) from None


def beneath(name: str, check: Callable[[Any], Any], value: Any) -> Any:
    """``value`` checked as the part called ``name`` of a field."""
    return at(f".{name}", check, value)


@dataclass(frozen=True)
class Format(Generic[T]):
    """A file format: the dataclass ``made`` with its annotated fields, and what it is called.

    ``name`` is what the file is called in an error, ``prefix`` stands before the names of its fields there, ``title``
    heads the schema, ``version`` is its schema number (None: it has none, and null or nothing is an empty object),
    ``renamed`` maps fields of older files.
    """

    made: type[T]
    name: str
    title: str
    version: int | None = None
    prefix: str = ""
    renamed: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def _adapter(self) -> TypeAdapter[T]:
        return TypeAdapter(self.made)

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The fields a file may have, its schema number aside."""
        return tuple(self._adapter.json_schema(by_alias=True)["properties"])

    def read(self, data: Any) -> T:
        """A checked object from plain data (as from JSON). Raises BadInputError naming field, value and allowed."""
        if self.version is None and not data:
            data = {}
        if not isinstance(data, dict):
            raise BadInputError(self.name, type(data).__name__, "a JSON object")
        data = self.current_names(data)
        if self.version is not None:
            stated = data.pop("schema", self.version)
            if isinstance(stated, bool) or stated != self.version:
                raise BadInputError("schema", stated, str(self.version))
        at_most_keys(data, self.names, self.prefix)
        try:
            return self._adapter.validate_python(data)
        except ValidationError as error:
            raise self._one_line(error.errors()[0], data) from None

    def current_names(self, data: dict[str, Any]) -> dict[str, Any]:
        """``data`` with the fields of older files called as they are now."""
        return {new if (new := self.renamed.get(key, key)) not in data else key: v for key, v in data.items()}

    def _one_line(self, first: ErrorDetails, data: dict[str, Any]) -> BadInputError:
        name = self.prefix + ".".join(str(part) for part in first["loc"])
        if first["type"] == "missing":
            return BadInputError(name, None, _REQUIRED)
        told = first.get("ctx", {}).get("error")
        if not isinstance(told, BadInputError):
            return BadInputError(name, first["input"], first["msg"])
        inner = told.field[:1] in ("", ".")
        return BadInputError(name + told.field if inner else told.field, told.value, told.allowed)

    def write(self, made: T) -> dict[str, Any]:
        """Plain data with its schema number; :meth:`read` reads it back to the same."""
        plain = self._adapter.dump_python(made, mode="json", by_alias=True)
        return plain if self.version is None else {"schema": self.version, **plain}

    def json_schema(self) -> dict[str, Any]:
        """The published schema."""
        plain = self._adapter.json_schema(by_alias=True)
        version = {} if self.version is None else {"schema": {"const": self.version}}
        return {
            "$schema": _DRAFT,
            "title": self.title,
            "type": "object",
            "additionalProperties": False,
            "required": plain.get("required", []),
            "properties": {**version, **{name: _bare(row) for name, row in plain["properties"].items()}},
        }


def _bare(row: dict[str, Any]) -> dict[str, Any]:
    """A property without the title made up from its name."""
    return {key: value for key, value in row.items() if key != "title"}
