"""Plain data: what JSON and TOML hold, and the flat records that results are written as."""

from collections.abc import Mapping
from typing import Any, TypeAlias

__all__ = ["PlainDict", "PlainMap"]

PlainDict: TypeAlias = dict[str, Any]
"""An object of JSON, a table of TOML, or a flat record, to be filled or changed."""

PlainMap: TypeAlias = Mapping[str, Any]
"""The same, to be read."""
