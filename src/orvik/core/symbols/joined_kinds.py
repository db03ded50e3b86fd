"""A kind that the symbol book had twice: what was written under the name that is gone, read under the one that stayed.

An axis of a small fold that is measured at a place was "fold_axis" among the lines in rock and "minor_fold" among the
folds, drawn in two ways. Projects, symbol books and templates of that time say either.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

JOINED: Mapping[str, str] = {"minor_fold": "fold_axis"}
# The ids of the symbols that a kind had, and those that stand for them now: what is drawn is the first, what wears a
# look of its own is all of them.
SYMBOLS: Mapping[str, tuple[str, ...]] = {
    "minor_fold": ("fold_axis-plunging", "fold_axis-horizontal", "fold_axis-vertical")
}
# In these places of what is written a bare text is the name of a kind.
_KINDS = ("kind", "worn")


def kind_now(name: str) -> str:
    """The name that a kind has now."""
    return JOINED.get(name, name)


def read_now(value: Any, claimed: Sequence[str] = ()) -> Any:
    """Something as JSON gives it, with every mention of a joined kind or of its symbols under their present names.

    Where something is there under the present name already, that stays and the other is left out.

    Parameters
    ----------
    claimed
        The ids of symbols that wear another look already, so that this one is not worn by them.

    >>> read_now({"kind": "minor_fold", "text": "minor_fold"})
    {'kind': 'fold_axis', 'text': 'minor_fold'}
    >>> read_now({"ranks": {"kind minor_fold": "subject"}})
    {'ranks': {'kind fold_axis': 'subject'}}
    """
    if isinstance(value, Mapping):
        out: dict[str, Any] = {}
        for name, held in value.items():
            if name in _KINDS and isinstance(held, str):
                out[name] = kind_now(held)
            elif name == "worn_by" and isinstance(held, list):
                out[name] = _worn_now(held, claimed)
            elif (now := _key_now(name)) == name or now not in value:
                out[now] = read_now(held, claimed)
        return out
    if isinstance(value, list):
        return [read_now(one, claimed) for one in value]
    return _key_now(value) if isinstance(value, str) else value


def worn_of(body: Any) -> list[str]:
    """The ids of the symbols that wear a drawn one, in what is written of it."""
    worn = body.get("worn_by") if isinstance(body, Mapping) else None
    return [one for one in worn if isinstance(one, str)] if isinstance(worn, list) else []


def _worn_now(ids: Sequence[Any], claimed: Sequence[str]) -> list[Any]:
    out: list[Any] = []
    for one in ids:
        if isinstance(one, str) and one in SYMBOLS:
            out += [now for now in SYMBOLS[one] if now not in claimed and now not in ids and now not in out]
        else:
            out.append(one)
    return out


def _key_now(key: str) -> str:
    """A key of an emphasis (``kind NAME``) or of an explanation (``symbol ID``, ``symbol ID, FORM``) as it is now."""
    what, _, rest = key.partition(" ")
    name, comma, form = rest.partition(",")
    if what == "kind" and not comma and name in JOINED:
        return f"kind {JOINED[name]}"
    # Of that time is "sign", too.
    if what in ("symbol", "sign") and name in SYMBOLS:
        return f"{what} {SYMBOLS[name][0]}{comma}{form}"
    return key
