"""Station rotation: who stands at which rig when, so that everybody comes to every rig once and no rig holds two
groups.
"""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.errors import BadInputError


def groups_of(names: list[str], rigs: int) -> list[list[str]]:
    """``names`` dealt into as many groups as there are rigs, sizes differing by one at most."""
    return [list(names[i::rigs]) for i in range(rigs)]


def rotation(groups: list[list[str]], stations: list[str], minutes: int, change_minutes: int = 5) -> dict[str, Any]:
    """The timetable as plain data: rounds of {number, from_min, to_min, places: [{station, group}]}.

    ``groups`` are lists of names, ``stations`` titles; with fewer groups than stations some stand empty for a round.
    Raises BadInputError where there are more groups than stations.
    """
    if not stations or not 1 <= len(groups) <= len(stations):
        raise BadInputError("groups", len(groups), f"1 to {len(stations)}: one for each station at most")
    if not 5 <= minutes <= 240:
        raise BadInputError("minutes", minutes, "5 to 240 min a round")
    rounds = []
    for turn in range(len(stations)):
        start = turn * (minutes + change_minutes)
        rounds.append(
            {
                "number": turn + 1,
                "from_min": start,
                "to_min": start + minutes,
                "places": [
                    {
                        "station": (g + turn) % len(stations) + 1,
                        "title": stations[(g + turn) % len(stations)],
                        "group": g + 1,
                    }
                    for g in range(len(groups))
                ],
            }
        )
    return {
        "rounds": rounds,
        "minutes": rounds[-1]["to_min"],
        "groups": [{"number": i, "names": list(names)} for i, names in enumerate(groups, start=1)],
    }


DESK = "Desk: the rest of the sheet"


def timetable(
    people: list[dict[str, str]], plants: list[str], minutes: int, rigs: int | None = None, desk: bool = True
) -> dict[str, Any]:
    """Who stands where on a class's rigs, as plain data: columns, rounds of {number, from_min, to_min, cells}, groups,
    minutes.

    ``people`` are {name, group_name}; their own groups count where everybody has one and there is room for all of them.
    ``plants`` are the titles of the planted calls in order, ``rigs`` how many rigs stand in the shop: with twice as
    many rigs as plants each plant is set twice and two halves of the class go round side by side. With ``desk`` one
    station holds what is on paper. ``cells`` hold the numbers of the groups at each column. Raises BadInputError where
    rigs do not suffice or time is off.
    """
    if not plants:
        raise BadInputError("plants", 0, "at least one call on a rig")
    if rigs is not None and rigs < len(plants):
        raise BadInputError("rigs", rigs, f"at least {len(plants)}, one for each call on a rig")
    lanes = min((rigs or len(plants)) // len(plants), max(len(people), 1))
    stations = [*plants, *([DESK] if desk else [])]
    groups = _groups(people, lanes * len(stations))
    columns = [
        {"rig": number, "title": plants[(number - 1) % len(plants)]} for number in range(1, lanes * len(plants) + 1)
    ]
    columns += [{"rig": None, "title": DESK}] if desk else []
    turns = [rotation(groups[lane::lanes] or [[]], stations, minutes)["rounds"] for lane in range(lanes)]
    rounds = []
    for round_ in turns[0]:
        cells: list[list[Any]] = [[] for _ in columns]
        for lane, turn in enumerate(turns):
            for place in turn[round_["number"] - 1]["places"]:
                group, at = (place["group"] - 1) * lanes + lane + 1, place["station"] - 1
                if group <= len(groups):
                    cells[-1 if at == len(plants) else lane * len(plants) + at].append(group)
        rounds.append({key: round_[key] for key in ("number", "from_min", "to_min")} | {"cells": cells})
    return {
        "columns": columns,
        "rounds": rounds,
        "minutes": rounds[-1]["to_min"],
        "groups": [{"number": i, "names": list(names)} for i, names in enumerate(groups, start=1)],
    }


def _groups(people: list[dict[str, str]], most: int) -> list[list[str]]:
    named = sorted({p["group_name"] for p in people if p["group_name"]})
    if named and all(p["group_name"] for p in people) and len(named) <= most:
        return [[p["name"] for p in people if p["group_name"] == g] for g in named]
    return [g for g in groups_of([p["name"] for p in people], most) if g]
