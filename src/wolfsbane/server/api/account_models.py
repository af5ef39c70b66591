"""What goes in and out of the API of log-in, accounts and the trail of a school."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from wolfsbane.server.api.class_models import Language, LogInName, Password, PersonName, Role
from wolfsbane.server.api.models import Id, Model, Text

Typed = Annotated[str, Field(min_length=1, max_length=200)]
Code = Annotated[Text, Field(min_length=1, max_length=40)]


class LoginBody(Model):
    login: Annotated[Text, Field(min_length=1, max_length=80)]
    password: Typed
    #: short name of the school, where the server has more than one
    school: Annotated[Text, Field(max_length=80)] = ""
    #: code of the authenticator, or a recovery code
    code: Annotated[Text, Field(max_length=40)] = ""


class OwnPasswordBody(Model):
    old: Typed
    password: Password


class User(Model):
    login: str
    name: str
    role: str
    school: str
    time_zone: str
    #: somebody else chose the password: nothing else is open before there is one of their own
    must_change: bool = False
    #: whether a second factor is on
    totp: bool = False
    #: what a student reads in
    language: Language = "en"


class LanguageBody(Model):
    language: Language


class SessionReply(Model):
    user: User | None
    csrf: str
    #: whether more than one school shares this server, so that the school is asked for
    asks_school: bool = False
    #: what the school's own log-in is called, where there is one
    provider: str = ""


class ProviderStart(Model):
    #: link the account of whoever is logged in, rather than log in
    link: bool = False


class ProviderBack(BaseModel):
    """What a provider sends back; it may add more."""

    model_config = ConfigDict(extra="ignore")
    code: Annotated[str, Field(max_length=4000)] = ""
    state: Annotated[str, Field(max_length=400)] = ""
    error: Annotated[str, Field(max_length=400)] = ""


class ProviderState(Model):
    there: bool
    linked: bool


class CodeBody(Model):
    code: Code


class WelcomeReply(Model):
    login: str
    name: str
    school: str


class CodePasswordBody(CodeBody):
    password: Password


class PasswordBody(Model):
    password: Typed


class SecondFactorReply(Model):
    secret: str
    #: what an authenticator reads, and the picture of it as a data address
    address: str
    picture: str


class RecoveryReply(Model):
    #: each lets in once in place of the authenticator; shown this once
    codes: list[str]


class PlaceRow(Model):
    id: int
    began_at: str
    seen_at: str
    address: str
    browser: str
    here: bool


class PlaceList(Model):
    places: list[PlaceRow]


class PlacePath(Model):
    place_id: Id


class AccountRow(Model):
    id: int
    login: str
    name: str
    role: str
    disabled: bool
    totp: bool
    #: until when a code to get in with waits for its owner
    code_until: str | None
    seen_at: str | None
    apprentice: str | None = None


class AccountMade(AccountRow):
    #: the one-time code where no password was given, shown this once
    code: str = ""


class AccountList(Model):
    accounts: list[AccountRow]


class AccountBody(Model):
    login: LogInName
    #: left out: a one-time code is made in its place
    password: Password | None = None
    name: PersonName
    role: Role


class AccountChange(Model):
    name: PersonName
    role: Role
    disabled: bool = False
    password: Password | None = None


class AccountPath(Model):
    account_id: Id


class TrailQuery(Model):
    before: Id | None = None


class TrailRow(Model):
    id: int
    at: str
    writer: str
    did: str


class TrailList(Model):
    rows: list[TrailRow]
