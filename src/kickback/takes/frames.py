"""Records as a pandas table, where pandas is installed."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.errors import UsageError
from kickback.takes.plain import PlainMap

if TYPE_CHECKING:
    from pandas import DataFrame

__all__ = ["data_frame"]


def data_frame(data: Sequence[PlainMap] | PlainMap) -> "DataFrame":
    """Return records, or columns by name, as a pandas table.

    Raises UsageError where pandas is not installed.
    """
    try:
        import pandas as pd
    except ImportError as error:
        raise UsageError("a pandas table needs pandas: pip install 'kickback[notebook]'") from error
    return pd.DataFrame(data)
