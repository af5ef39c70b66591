"""Answers that depend on this release and on what is asked, and on nothing that a school keeps: worked out once in a
process, and not sent again to a browser that has them (entity tags, RFC 9110).
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from functools import lru_cache, wraps
from pathlib import Path
from threading import Lock
from typing import Any

from flask import Response, current_app, request

import wolfsbane

#: answers kept in a process; one is a few kB
_MOST = 400
#: what begins the id of a school's own machine or practice: its answers are not everybody's
_OWN = "own-"
_kept: OrderedDict[str, bytes] = OrderedDict()
_one = Lock()


@lru_cache(maxsize=1)
def _release() -> str:
    """Digest of every file of this release: whatever is changed in it, nothing older is answered."""
    found = hashlib.sha256()
    root = Path(wolfsbane.__file__).parent
    for path in sorted(p for p in root.rglob("*") if p.suffix in (".py", ".json", ".npz") and p.is_file()):
        found.update(path.read_bytes())
    return found.hexdigest()


def _tag() -> str:
    asked = sorted(request.args.items(multi=True))
    return hashlib.sha256(repr((_release(), request.path, asked)).encode()).hexdigest()[:24]


def by_version(view: Callable[..., Any]) -> Callable[..., Any]:
    """Declare that a view's answer, plain data, is the same for everybody until the release changes. What names a
    machine or practice of a school's own is worked out each time.
    """

    @wraps(view)
    def answer(*args: Any, **more: Any) -> Any:
        if any(_OWN in value for value in (request.path, *request.args.values())):
            return view(*args, **more)
        tag = _tag()
        reply = Response(status=304)
        if not request.if_none_match.contains_weak(tag):
            with _one:
                found = _kept.get(tag)
                if found is not None:
                    _kept.move_to_end(tag)
            if found is None:
                found = current_app.json.dumps(view(*args, **more)).encode()
                with _one:
                    _kept[tag] = found
                    while len(_kept) > _MOST:
                        _kept.popitem(last=False)
            reply = Response(found, mimetype="application/json")
        reply.set_etag(tag, weak=True)  # packed or not, it is the same answer
        # whoever is logged out asks in vain: the browser asks each time, and is mostly told that it has it
        reply.headers["Cache-Control"] = "private, no-cache"
        return reply

    return answer
