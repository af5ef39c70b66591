"""What a field of a file accepts: reader, error line and JSON Schema say the same, for every kind of field."""

from dataclasses import dataclass, field
from typing import Annotated

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import Field

from wolfsbane.cycle import fields as f
from wolfsbane.cycle.errors import BadInputError

WORDS = ("txv", "eev", "fixed_orifice")
KINDS = {
    "number": f.number(-5, 40, "°F"),
    "any number": f.number(),
    "whole": f.whole(1, 5),
    "word": f.word(WORDS),
    "own or": f.own_or(WORDS),
    "flag": f.flag(),
    "words": f.words(WORDS),
    "words, one at least": f.words(WORDS, 1),
    "lines": f.lines(3, 8),
    "text": f.text(1, 6),
    "optional": f.optional(f.number(0, 1)),
    "optional word": f.optional(f.word(WORDS)),
    "usual": f.usual(f.words(WORDS), ("txv",)),
    "either": f.either(f.number(0, 9), f.word(("mild", "severe"))),
    "object": f.fields_of({"a": f.whole(0, 3), "b": f.optional(f.text(0, 4))}, required=("a",)),
}
#: JSON values near what is accepted, and far from it
LEAVES = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-9, 60),
    st.floats(-9, 60, allow_nan=False),
    st.sampled_from([*WORDS, "own-1", "own-", "mild", "", "x", "a longer text"]),
)
VALUES = st.one_of(
    LEAVES,
    st.lists(LEAVES, max_size=4),
    st.dictionaries(st.sampled_from(["a", "b", "c"]), LEAVES, max_size=3),
)


@pytest.mark.parametrize("kind", KINDS)
@settings(max_examples=150, deadline=None, database=None, derandomize=True)
@given(value=VALUES)
def test_reader_and_schema_let_the_same_values_through(kind, value):
    accepted = KINDS[kind]
    try:
        accepted.check(value)
    except BadInputError as error:
        assert error.allowed
        read = False
    else:
        read = True
    # JSON knows no difference between 2 and 2.0; a whole number here is written as one.
    if isinstance(value, float) and value.is_integer() and kind == "whole":
        return
    if isinstance(value, dict) and any(isinstance(v, float) and v.is_integer() for v in value.values()):
        return
    assert jsonschema.Draft202012Validator(accepted.schema).is_valid(value) == read


@pytest.mark.parametrize(
    ("accepted", "value", "kept"),
    [
        (f.number(0, 9), 3, 3.0),
        (f.words(WORDS), ["eev", "txv", "eev"], ("eev", "txv")),
        (f.lines(2, 5), ["a", "b"], ("a", "b")),
        (f.text(1, 9, strip=True), "  Friday ", "Friday"),
        (f.usual(f.number(0, 1), 0.5), None, 0.5),
        (f.optional(f.flag()), None, None),
        (f.span(0, 9, "°F"), [2, 4], (2.0, 4.0)),
        (f.own_or(WORDS), "own-shop", "own-shop"),
    ],
)
def test_what_is_kept_of_a_value(accepted, value, kept):
    assert accepted.check(value) == kept and type(accepted.check(value)) is type(kept)


@pytest.mark.parametrize("value", [[4, 2], [1], [1, 2, 3], "1 to 2", [1, "x"], [1, 99]])
def test_a_span_is_two_numbers_with_the_lower_first(value):
    with pytest.raises(BadInputError):
        f.span(0, 9, "°F").check(value)


@pytest.mark.parametrize("value", [float("inf"), float("nan"), True, "3"])
def test_a_number_is_finite_and_no_word(value):
    with pytest.raises(BadInputError):
        f.number().check(value)


def named(accepted, value):
    with pytest.raises(BadInputError) as error:
        f.at("top", accepted.check, value)
    return error.value.field, error.value.value


def test_an_error_is_named_with_the_way_to_it_unless_it_has_a_name_of_its_own():
    inner = f.fields_of({"low": f.whole(0, 3), "high": f.called("limit", f.whole(0, 3))})
    outer = f.fields_of({"range": inner}, stranger=f.one_of(("range",)))
    assert named(outer, 5) == ("top", 5)
    assert named(outer, {"range": {"low": 9}}) == ("top.range.low", 9)
    assert named(outer, {"range": {"high": 9}}) == ("limit", 9)
    assert named(outer, {"range": {"mid": 1}}) == ("top.range.mid", 1)
    assert named(outer, {"span": 1}) == ("top", "span")


@dataclass(frozen=True, kw_only=True)
class Visit:
    title: Annotated[str, f.text(1, 9, strip=True)]
    practice_id: Annotated[str, f.word(("plain", "tight")), Field(alias="practice")] = "plain"
    tags: Annotated[tuple[str, ...], f.lines(2, 5)] = ()
    weather: Annotated[dict[str, tuple[float, float]], f.usual(f.fields_of({"out": f.span(50, 120, "°F")}), {})] = (
        field(default_factory=dict)
    )


VISIT = f.Format(Visit, "visit", "A visit", version=2, renamed={"school": "practice"})
PART = f.Format(Visit, "part", "A part of a visit", prefix="part.")


def test_a_file_is_read_written_and_read_again_to_the_same():
    made = VISIT.read(
        {"schema": 2, "title": " Yard ", "practice": "tight", "tags": ["a"], "weather": {"out": [60, 90]}}
    )
    assert made == Visit(title="Yard", practice_id="tight", tags=("a",), weather={"out": (60.0, 90.0)})
    written = VISIT.write(made)
    assert written["schema"] == 2 and written["practice"] == "tight" and "practice_id" not in written
    assert VISIT.read(written) == made
    jsonschema.validate(written, VISIT.json_schema())


def test_a_field_of_an_older_file_is_read_by_its_old_name_and_never_beside_the_new_one():
    assert VISIT.read({"title": "x", "school": "tight"}).practice_id == "tight"
    with pytest.raises(BadInputError, match="school"):
        VISIT.read({"title": "x", "school": "tight", "practice": "plain"})


@pytest.mark.parametrize(
    ("data", "name", "value"),
    [
        ("x", "visit", "str"),
        ([], "visit", "list"),
        ({}, "title", None),
        ({"title": ""}, "title", ""),
        ({"title": "x", "schema": 3}, "schema", 3),
        ({"title": "x", "schema": True}, "schema", True),
        ({"title": "x", "mood": 1}, "mood", 1),
        ({"title": "x", "practice": []}, "practice", []),
        ({"title": "x", "weather": {"out": [90, 60]}}, "weather.out", [90, 60]),
        ({"title": "x", "weather": {"in": [1, 2]}}, "weather.in", [1, 2]),
    ],
)
def test_a_bad_file_is_told_by_field_value_and_what_is_allowed(data, name, value):
    with pytest.raises(BadInputError) as error:
        VISIT.read(data)
    assert (error.value.field, error.value.value) == (name, value) and error.value.allowed


def test_a_format_without_a_number_names_its_fields_under_its_own_name_and_may_be_empty():
    with pytest.raises(BadInputError) as error:
        PART.read({"title": 7})
    assert error.value.field == "part.title"
    with pytest.raises(BadInputError) as error:
        PART.read(None)
    assert error.value.field == "part.title" and "schema" not in PART.write(Visit(title="x"))


def test_the_schema_asks_for_what_the_reader_asks_for():
    schema = VISIT.json_schema()
    assert schema["required"] == ["title"] and schema["additionalProperties"] is False
    assert schema["properties"]["schema"] == {"const": 2}
    assert set(schema["properties"]) == {"schema", "title", "practice", "tags", "weather"} == {"schema", *VISIT.names}
