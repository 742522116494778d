"""What a validation error says, in the words of this application rather than of its library."""

from collections.abc import Mapping
from typing import Any

_WORDS: dict[str, str] = {
    "missing": "is missing",
    "extra_forbidden": "there is no such field",
    "greater_than_equal": "must be at least {ge:g}",
    "greater_than": "must be above {gt:g}",
    "less_than_equal": "must be at most {le:g}",
    "less_than": "must be below {lt:g}",
    "finite_number": "must be a finite number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
    "int_parsing_size": "is too large",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "string_type": "must be text",
    "string_too_short": "must not be empty",
    "string_too_long": "must have at most {max_length} characters",
    "string_pattern_mismatch": "has characters that are not allowed here",
    "literal_error": "must be {expected}",
    "model_type": "must be an object with named fields",
    "model_attributes_type": "must be an object with named fields",
    "dict_type": "must be an object with named fields",
    "tuple_type": "must be a list",
    "list_type": "must be a list",
    "too_short": "must have {min_length} or more entries",
    "too_long": "must have at most {max_length} entries",
}


def worded(item: Mapping[str, Any]) -> str:
    """The message of one error as pydantic lists it; the library's own where none of ours is known."""
    words = _WORDS.get(item["type"])
    if words is None:
        return str(item["msg"]).removeprefix("Value error, ")
    return words.format(**item.get("ctx", {}))
