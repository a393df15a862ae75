"""Numbers that files may hold and no calculation can: whole ones beyond a float's range."""

import sys

__all__ = ["beyond_range"]


def beyond_range(data: object) -> str | None:
    """Return the key of the first number in plain data, at any depth, that is too large.

    "" where it has no key of its own; None where there is none. Not recursive: data from
    outside may be nested as deep as its reader allows.
    """
    waiting: list[tuple[str, object]] = [("", data)]
    while waiting:
        key, item = waiting.pop()
        if isinstance(item, dict):
            waiting += [(f"'{name}'", inner) for name, inner in item.items()]
        elif isinstance(item, list):
            waiting += [(key, inner) for inner in item]
        elif type(item) is int and abs(item) > sys.float_info.max:
            return key
    return None
