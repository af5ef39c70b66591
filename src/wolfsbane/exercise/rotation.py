"""Station rotation: who stands at which rig when, so that everybody comes to every rig once and no rig holds two groups."""

from wolfsbane.cycle.errors import BadInputError


def groups_of(names, rigs):
    """``names`` dealt into as many groups as there are rigs, sizes differing by one at most."""
    return [list(names[i::rigs]) for i in range(rigs)]


def rotation(groups, stations, minutes, change_minutes=5):
    """The timetable as plain data: rounds of {number, from_min, to_min, places: [{station, group}]}.

    ``groups`` are lists of names, ``stations`` titles; with fewer groups than stations some stand empty for a round. Raises
    BadInputError where there are more groups than stations.
    """
    if not stations or not 1 <= len(groups) <= len(stations):
        raise BadInputError("groups", len(groups), f"1 to {len(stations)}: one for each station at most")
    if not 5 <= minutes <= 240:
        raise BadInputError("minutes", minutes, "5 to 240 min a round")
    rounds = []
    for turn in range(len(stations)):
        start = turn * (minutes + change_minutes)
        rounds.append({"number": turn + 1, "from_min": start, "to_min": start + minutes, "places": [
            {"station": (g + turn) % len(stations) + 1, "title": stations[(g + turn) % len(stations)], "group": g + 1}
            for g in range(len(groups))]})
    return {"rounds": rounds, "minutes": rounds[-1]["to_min"],
            "groups": [{"number": i, "names": list(names)} for i, names in enumerate(groups, start=1)]}
