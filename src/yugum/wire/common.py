"""Pieces every noun uses: strict models, pages, problems."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Mapping
from datetime import date, datetime
from decimal import Decimal
from enum import StrEnum
from functools import cache
from types import NoneType, UnionType
from typing import TYPE_CHECKING, Annotated, Any, Generic, TypeVar, Union, get_args, get_origin

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    GetCoreSchemaHandler,
    GetJsonSchemaHandler,
    PlainSerializer,
    ValidationInfo,
    ValidatorFunctionWrapHandler,
    field_validator,
)
from pydantic_core import CoreSchema, core_schema

from yugum.core.applications import Duty
from yugum.core.dates import is_zone
from yugum.wire.texts import FILLED, LINE, address, maybe, one_line, shape, written

if TYPE_CHECKING:
    from _typeshed import DataclassInstance

Item = TypeVar("Item")
E = TypeVar("E", bound=StrEnum)
D = TypeVar("D", bound="DataclassInstance")
TYPED: Mapping[str, bool] = {"typed": True}
"""The context under which numbers, and yes or no, may be texts: as they were typed."""
LENIENT: Mapping[str, bool] = {"lenient": True}
"""The context under which a value that this version does not know is taken as it is."""


Slug = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,59}$")]
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
Line = Annotated[str, Field(max_length=300), AfterValidator(one_line), shape(pattern=LINE)]
"""One line of text from outside."""


def _not_the_password(duty: Duty) -> Duty:
    if duty is Duty.PASSWORD:
        raise ValueError("a new password is asked for by must_change: true")
    return duty


AskedDuty = Annotated[Duty, AfterValidator(_not_the_password)]
"""What can be asked for at the first sign-in of every account; a new password comes with the credential."""

Words = Annotated[
    str, Field(min_length=1, max_length=300), AfterValidator(one_line), shape(pattern=FILLED)
]
"""One line that says something."""
When = Annotated[Line, maybe("moment")]
"""A day or moment as people write it (docs/guide/joiners-and-movers.md); empty where none is said."""
Address = Annotated[Line, AfterValidator(address), maybe("email")]
"""One mail address (RFC 5321 4.1.2, RFC 6531), or nothing."""


def _no_answer(value: object) -> object:
    if isinstance(value, bool):
        raise ValueError("this is to be a number")
    return value


Days = Annotated[int, Field(ge=0, le=3650), BeforeValidator(_no_answer)]
"""A number of days, where nothing else sees to it that yes is none."""


def phone(text: str) -> str:
    """A telephone number as people write it: digits, with + first and blanks, dots or dashes between."""
    if text and not PHONE.fullmatch(text):
        raise ValueError("a telephone number is written as +00 555 0119")
    return text


def language(text: str) -> str:
    """A language tag (RFC 5646 2.1), as SCIM has it for preferredLanguage and locale."""
    if text and not LANGUAGE.fullmatch(text):
        raise ValueError("a language is written as en or sv-FI")
    return text


def birthday(text: str) -> str:
    """A full day as ISO 8601 has it, without a time."""
    try:
        return date.fromisoformat(text.strip()).isoformat() if text.strip() else ""
    except ValueError as error:
        raise ValueError("a day of birth is written as 1990-05-31") from error


PHONE = re.compile(r"\+?[0-9][0-9 ().\-/]{1,38}[0-9]")
LANGUAGE = re.compile(r"[A-Za-z]{2,3}(-[A-Za-z0-9]{1,8}){0,4}")
Phone = Annotated[Line, AfterValidator(phone), shape(pattern=f"^({PHONE.pattern})?$")]
Language = Annotated[Line, AfterValidator(language), shape(pattern=f"^({LANGUAGE.pattern})?$")]


def _plain(amount: Decimal) -> str:
    """At least two digits after the point, and no noughts beyond."""
    short = amount.normalize()
    return f"{short:.2f}" if int(short.as_tuple().exponent) > -2 else f"{short:f}"


def currency(code: str) -> str:
    """Three capital letters (ISO 4217); whether there is such a currency is looked at by the service."""
    if not CURRENCY.fullmatch(code):
        raise ValueError("a currency is written as EUR (ISO 4217)")
    return code


CURRENCY = re.compile("[A-Z]{3}")
Currency = Annotated[str, AfterValidator(currency), shape(pattern=f"^{CURRENCY.pattern}$")]
Price = Annotated[
    Decimal,
    Field(ge=0, max_digits=14, decimal_places=4),
    AfterValidator(lambda amount: Decimal(_plain(amount))),
    PlainSerializer(str, when_used="json"),
]
"""An amount of money, written as a text: 4.50."""
Money = dict[str, Price]
"""Amounts by currency (ISO 4217)."""
Birthday = Annotated[Line, AfterValidator(birthday), maybe("date")]
"""A day of birth (ISO 8601); empty where none is said. It is never kept or shown, only a digest of it."""
READ_AS = {
    "mail": address,
    "outside_mail": address,
    "phone": phone,
    "mobile": phone,
    "preferred_language": language,
    "locale": language,
}
"""Fields of a person that are more than one line of text."""


def _addresses(changes: dict[str, str | None]) -> dict[str, str | None]:
    return {k: READ_AS[k](v) if v and k in READ_AS else v for k, v in changes.items()}


Changes = Annotated[dict[str, Line | None], AfterValidator(_addresses)]
"""Fields of a person, to be set or emptied."""


def _known_zone(name: str) -> str:
    if name and not is_zone(name):
        raise ValueError("there is no time zone of that name; one is called Europe/Helsinki")
    return name


Zone = Annotated[str, AfterValidator(_known_zone), written("time-zone")]
"""A time zone of the IANA database; empty where the organisation's counts."""


class _Open:
    """A closed set in the schema that whoever reads leniently may find more in.

    A client meets services newer than itself; what these add must not break it.
    """

    def __get_pydantic_core_schema__(
        self, source: type[StrEnum], handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        def read(
            value: object, known: ValidatorFunctionWrapHandler, info: ValidationInfo
        ) -> StrEnum:
            if not (info.context or {}).get("lenient") or value in set(source):
                return known(value)  # type: ignore[no-any-return]
            return unknown(source, str(value))

        return core_schema.with_info_wrap_validator_function(read, handler(source))


def unknown(kind: type[E], value: str) -> E:
    """A member that ``kind`` does not have, for a value from a newer service."""
    member = str.__new__(kind, value)
    member._name_, member._value_ = value.upper(), value
    return member


Seen = Annotated[E, _Open()]
"""One of a closed set, in a response."""

ConnectorKind = Annotated[
    str, Field(description="The name of an installed connector; an open set.", max_length=60)
]
AssetKind = Annotated[str, Field(description="What an application calls a thing; an open set.")]
EventName = Annotated[str, Field(description="noun.verb of an audit event; an open set.")]


def _blank(value: object) -> object:
    return None if value == "" else value


class _Blank:
    """An empty text stands for nothing chosen, and the schema says so."""

    def __get_pydantic_core_schema__(
        self, source: object, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.no_info_before_validator_function(_blank, handler(source))

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        said = handler(schema)
        return {"anyOf": [*said.get("anyOf", [said]), {"const": "", "type": "string"}]}


BlankIsNone = _Blank()


T = TypeVar("T")
Said = Annotated[T | None, Field(exclude_if=lambda value: value is None)]
"""What is left out of a response where it is not said."""
Filled = Annotated[T, Field(exclude_if=lambda value: not value)]
"""What is left out of a response where there is nothing of it."""


class Model(BaseModel):
    """A response; built from mappings and objects alike."""

    model_config = ConfigDict(from_attributes=True)


class Request(BaseModel):
    """A request: unknown fields are refused, so that a typing error is not passed over.

    A number is a number and a yes or no is one: texts that look like them are refused, and so is a yes
    for a number.
    """

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)

    @field_validator("*", mode="before")
    @classmethod
    def _as_it_is(cls, value: object, info: ValidationInfo) -> object:
        if (info.context or {}).get("typed"):  # on a command line everything is a text
            return value
        wanted = _wanted(cls, str(info.field_name))
        if wanted & {int, float} and (
            isinstance(value, bool) or (isinstance(value, str) and str not in wanted)
        ):
            raise ValueError("this is to be a number")
        if bool in wanted and not isinstance(value, bool | NoneType):
            raise ValueError("this is to be true or false")
        if int in wanted and float not in wanted and isinstance(value, float):
            return int(value) if value.is_integer() else value  # JSON knows one kind of number
        return value


@cache
def _wanted(model: type[BaseModel], name: str) -> set[object]:
    return _plain_types(model.model_fields[name].annotation)


def _plain_types(annotation: object) -> set[object]:
    """The types that a field may have, of a union each."""
    if get_origin(annotation) is Annotated:
        return _plain_types(get_args(annotation)[0])
    if get_origin(annotation) in (Union, UnionType):
        return {t for one in get_args(annotation) for t in _plain_types(one)}
    return {annotation}


def as_dataclass(model: BaseModel, kind: type[D], *, only_set: bool = False) -> D:
    """A dataclass of the fields that a request has in common with it, lists as tuples.

    With ``only_set`` those that were not said keep the dataclass's default.
    """
    said = model.model_fields_set if only_set else type(model).model_fields
    values = {f.name: getattr(model, f.name) for f in dataclasses.fields(kind) if f.name in said}
    return kind(**{n: tuple(v) if isinstance(v, list) else v for n, v in values.items()})


class LinkRequest(Request):
    """The token behind the ``#`` of a one-time link."""

    token: Annotated[str, Field(max_length=200)]


class Page(BaseModel, Generic[Item]):
    """Some rows of a list; ``next`` is the cursor of the following page, if there is one."""

    items: list[Item]
    next: str | None = None
    total: int | None = Field(
        None, description="Rows in all, counted to 10,000; told on the first page only."
    )
    over: bool = Field(default=False, description="Whether there are more than `total`.")


class Problem(BaseModel):
    """An error as application/problem+json (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    code: str
    remedy: str = ""
    place: str = ""
    retryable: bool = False


class Named(Model):
    id: str
    name: str


Moment = datetime
Document = dict[str, Any]
