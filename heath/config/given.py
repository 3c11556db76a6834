"""What an installation is given: each setting from the environment (HEATH_HOSTS), from the TOML
file that HEATH_CONFIG names (hosts), or from a file of the folder CREDENTIALS_DIRECTORY
(heath_hosts), in this order. `python -m heath.config.given` says in a sentence what is wrong with
each.
"""

from __future__ import annotations

import difflib
import os
import sys
from functools import cache
from pathlib import Path
from typing import Annotated, Any
from zoneinfo import available_timezones

from pydantic import Field, ValidationError, field_validator
from pydantic_settings import (
    BaseSettings,
    NoDecode,
    PydanticBaseSettingsSource,
    SettingsConfigDict,
    TomlConfigSettingsSource,
)

ROOT = Path(__file__).resolve().parents[2]
PREFIX = "HEATH_"
# Of HEATH_..., what is not a setting of the site: where its file is, and what the scripts use.
OTHERS = {"HEATH_CONFIG", "HEATH_MINUTES"}
Words = Annotated[tuple[str, ...], NoDecode]


class Wrong(Exception):
    """Settings that cannot be used; each line of it is a sentence that says what to do."""


class Given(BaseSettings):
    """The settings, with what is usual. Their descriptions are the table of docs/operating.md."""

    model_config = SettingsConfigDict(
        env_prefix=PREFIX, extra="forbid", frozen=True, env_ignore_empty=True
    )

    secret_key: str = Field(description="what sessions are signed with; must be given")
    old_keys: Words = Field((), description="keys used before, with which sessions still hold")
    data: Path = Field(ROOT / "data", description="folder of photographs, letters, derived files")
    hosts: Words = Field(("127.0.0.1", "localhost"), description="names the site is asked by")
    listen: str = Field("127.0.0.1", description="address that the web process listens on")
    port: int = Field(8000, ge=1, le=65535, description="its port")
    web_processes: int = Field(0, ge=0, le=64, description="web processes; 0 is one for each core")
    workers: int = Field(2, ge=0, le=64, description="workers that bin/serve starts")
    https: bool = Field(False, description="true behind TLS")
    proxy: str = Field("", description="address of the web server in front, which is then trusted")
    db_private: bool = Field(False, description="true: bin/serve runs a PostgreSQL of its own")
    db_name: str = Field("heath", description="database")
    db_user: str = Field("heath", description="its user")
    db_password: str = Field("", description="the user's password")
    db_host: str = Field("127.0.0.1", description="machine of the database")
    db_port: int = Field(5432, ge=1, le=65535, description="its port")
    db_standby: str = Field("", description="host:port of further servers, asked for who writes")
    storage: str = Field("", description="bucket for photographs, by S3's protocol; else `data`")
    storage_endpoint: str = Field("", description="address of that storage")
    storage_key: str = Field("", description="its access key")
    storage_secret: str = Field("", description="its secret key")
    storage_region: str = Field("", description="its region")
    mail_host: str = Field("", description="mail server; without one letters lie in `data`")
    mail_port: int = Field(25, ge=1, le=65535, description="its port")
    mail_from: str = Field("juniper-heath@localhost", description="whom letters come from")
    errors_to: str = Field("", description="e-mail address that errors are sent to")
    errors_url: str = Field("", description="address that errors are posted to, as JSON")
    log: str = Field("plain", description="plain, or json: a line of JSON for each request")
    metrics: bool = Field(False, description="true: counters and timings at /metrics/")
    metrics_from: Words = Field(("127.0.0.1", "::1"), description="addresses that may read them")
    backup_to: str = Field("", description="folder or repository that bin/upgrade backs up to")
    backup_key: Path = Field(Path(), description="file of the key of that backup")
    time_zone: str = Field("Europe/London", description="where clocks and days are read")
    originals_days: int = Field(30, ge=1, description="days that unsorted pictures are kept")
    school_gb: int = Field(100, ge=1, description="gigabytes of photographs of one school")
    standins: bool = Field(False, description="true: simulated devices; the demo alone")

    @field_validator("old_keys", "hosts", "metrics_from", mode="before")
    @classmethod
    def _divided(cls, value: Any) -> Any:
        if isinstance(value, str):
            return tuple(part.strip() for part in value.split(",") if part.strip())
        return value

    @field_validator("db_standby")
    @classmethod
    def _standby(cls, value: str) -> str:
        for one in filter(None, value.split(",")):
            host, _, port = one.strip().rpartition(":")
            if not host or not port.isdigit():
                raise ValueError("write host:port, and a comma between several")
        return value

    @property
    def db_hosts(self) -> tuple[str, str]:
        """The database's servers as libpq takes them: hosts and ports, with commas."""
        others = [one.strip().rpartition(":") for one in filter(None, self.db_standby.split(","))]
        hosts = ",".join([self.db_host, *(host for host, _, _ in others)])
        return hosts, ",".join([str(self.db_port), *(port for _, _, port in others)])

    @field_validator("log")
    @classmethod
    def _log(cls, value: str) -> str:
        if value not in ("plain", "json"):
            raise ValueError("write plain or json")
        return value

    @field_validator("time_zone")
    @classmethod
    def _zone(cls, value: str) -> str:
        if value not in available_timezones():
            raise ValueError("write a time zone such as Europe/London")
        return value

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        """Environment before file, file before credentials."""
        file = os.environ.get("HEATH_CONFIG", "")
        toml = [TomlConfigSettingsSource(settings_cls, Path(file))] if file else []
        return (env_settings, *toml, file_secret_settings)


def _likely(name: str) -> str:
    close = difflib.get_close_matches(name, list(Given.model_fields), 1)
    return f" Is {close[0]} meant?" if close else ""


def _sentence(fault: Any) -> str:
    """What is wrong with one setting, and what to write."""
    name = str(fault["loc"][0]) if fault["loc"] else "settings"
    called = f"{name} ({PREFIX}{name.upper()})"
    given, more = fault["input"], fault.get("ctx", {})
    match fault["type"]:
        case "extra_forbidden":
            return f"There is no setting {name}.{_likely(name)}"
        case "missing":
            return (
                f"{called} is missing: make one by"
                " python3 -c 'import secrets; print(secrets.token_urlsafe(50))'."
            )
        case "bool_parsing" | "bool_type":
            wanted = "write true or false"
        case "int_parsing" | "int_type" | "int_from_float":
            wanted = "write a whole number"
        case "greater_than_equal":
            wanted = f"write {more['ge']} or more"
        case "less_than_equal":
            wanted = f"write {more['le']} or less"
        case "value_error":
            wanted = str(more["error"])
        case _:
            wanted = "it cannot be used as it is written"
    return f"{called} is {given!r}: {wanted}."


def read() -> Given:
    """The settings as they are given now. Raises Wrong with a sentence for each that is wrong."""
    file = os.environ.get("HEATH_CONFIG", "")
    if file and not Path(file).is_file():
        raise Wrong(f"HEATH_CONFIG names {file}, which is not there.")
    faults = [
        f"There is no setting {name}.{_likely(name.removeprefix(PREFIX).lower())}"
        for name in os.environ
        if name.startswith(PREFIX)
        and name not in OTHERS
        and name.removeprefix(PREFIX).lower() not in Given.model_fields
    ]
    folder = os.environ.get("CREDENTIALS_DIRECTORY")
    try:
        found = Given(_secrets_dir=folder)  # type: ignore[call-arg]
    except ValidationError as error:
        raise Wrong("\n".join([*faults, *(_sentence(f) for f in error.errors())])) from None
    except (OSError, ValueError) as error:
        raise Wrong(f"{file} cannot be read as TOML: {error}.") from None
    if faults:
        raise Wrong("\n".join(faults))
    return found


@cache
def given() -> Given:
    """The settings, read once."""
    return read()


def table() -> str:
    """The settings as a Markdown table, for docs/operating.md."""
    lines = ["| setting | what it sets | usually |", "|---|---|---|"]
    for name, one in Given.model_fields.items():
        if one.is_required():
            usual = "must be given"
        elif name == "data":
            usual = "`data` beside the program"
        else:
            usual = _shown(one.default)
        what = str(one.description).replace("; must be given", "")
        lines.append(f"| `{name}` | {what} | {usual} |")
    return "\n".join(lines)


def _shown(value: Any) -> str:
    if isinstance(value, tuple):
        return ", ".join(value) or "none"
    if isinstance(value, bool):
        return "on" if value else "off"
    return str(value) if value not in ("", Path()) else "none"


def main() -> int:
    """Say what is wrong, or nothing; with --table print what can be set."""
    if "--table" in sys.argv[1:]:
        print(table())
        return 0
    try:
        read()
    except Wrong as wrong:
        print(wrong, file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
