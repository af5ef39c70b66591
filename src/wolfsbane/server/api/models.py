"""What goes in and out of the API. The client's types are generated from these."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, WithJsonSchema

from wolfsbane.cycle.fields import Format

Text = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$")]
#: no figure of a machine is larger in any unit
_LARGEST = 1e12


def _of_a_machine(value: float) -> float:
    if abs(value) > _LARGEST:
        raise ValueError("a number between -1e12 and 1e12")
    return value


Number = Annotated[float, Field(allow_inf_nan=False), AfterValidator(_of_a_machine)]
Id = Annotated[int, Field(ge=1, le=2**31 - 1)]
Units = Literal["us", "si"]


class Model(BaseModel):
    """Base: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


def described(made: Format[Any]) -> dict[str, Any]:
    """The fields of a file format as the client is typed by them: field -> schema, ids as plain text."""
    return {
        name: _ids_as_text({key: value for key, value in row.items() if key != "default"})
        for name, row in made.json_schema()["properties"].items()
    }


def filed(made: Format[Any], *, whole: bool = True) -> WithJsonSchema:
    """What marks a ``dict`` as plain data of a file format: it is described by the format's schema and checked by its
    reader. With ``whole`` every field is there, as the writer leaves it; otherwise any may be left out.
    """
    fields = described(made)
    return WithJsonSchema(
        {
            "type": "object",
            "additionalProperties": False,
            "properties": fields,
            "required": list(fields) if whole else [],
        }
    )


def _ids_as_text(schema: Any) -> Any:
    if isinstance(schema, list):
        return [_ids_as_text(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    words = schema.get("enum", [None])
    if all(isinstance(word, str | None) for word in words) and any(words):
        return {"anyOf": [{"type": "string"}, {"type": "null"}]} if None in words else {"type": "string"}
    return {key: _ids_as_text(value) for key, value in schema.items()}


class ErrorDetail(Model):
    code: str
    message: str
    field: str | None = None


class ErrorBody(Model):
    error: ErrorDetail


class PlantedFault(Model):
    id: Annotated[Text, Field(max_length=60)]
    severity: Number | None = None
    cause: Annotated[Text, Field(max_length=60)] | None = None


Names = Annotated[list[Annotated[Text, Field(max_length=60)]], Field(max_length=40)]


class ScenarioPath(Model):
    scenario_id: Id
