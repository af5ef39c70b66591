"""Who is at which rig in which round of a lab, planned again when somebody is late or leaves.

Everybody comes to every rig before anybody comes to one twice, as far as seats allow; who has no seat works on paper
at the desk, and the next time somebody else does.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from wolfsbane.cycle.errors import BadInputError

#: the place of those who have no seat at a rig; rigs are numbered from 1
DESK = 0
#: place (a rig's number, or the desk) -> who is there
Round = dict[int, list[int]]
_AGAIN, _DESK, _DESK_AGAIN, _PRESSED, _SECOND_SEAT, _ORDER = 1000.0, 50.0, 400.0, 200.0, 5.0, 0.01
MAX_ROUNDS, MAX_SEATS = 24, 6


def enough(people: int, rigs: int, seats: int) -> int:
    """So many rounds bring so many people to every rig, as far as a lab may have rounds."""
    return min(rigs * -(-max(people, 1) // (rigs * seats)), MAX_ROUNDS)


def planned(people: Sequence[int], rigs: Sequence[int], rounds: int, seats: int) -> list[Round]:
    """So many ``rounds`` for ``people`` at ``rigs`` (numbers of each), ``seats`` at a rig. Raises BadInputError."""
    _checked(rigs, rounds, seats)
    return _onward([], people, rigs, rounds, seats)


def replanned(
    before: Sequence[Mapping[int, Sequence[int]]],
    current: int,
    people: Sequence[int],
    rigs: Sequence[int],
    seats: int,
) -> list[Round]:
    """The rounds with ``people`` present now: what is over stays as it was, who stands at a rig in the round
    ``current`` (from 0) stays there, who has come is given a seat, and what follows is planned again.

    Raises BadInputError for rounds that cannot be.
    """
    _checked(rigs, len(before), seats)
    if not 0 <= current < len(before):
        raise BadInputError("current", current, f"a round from 0 to {len(before) - 1}")
    over = [_plain(r) for r in before[:current]]
    here = set(people)
    now = {place: [p for p in found if p in here] for place, found in _plain(before[current]).items() if place in rigs}
    seated = {p for found in now.values() for p in found}
    been = _been(over)
    for person in (p for p in people if p not in seated):
        free = [r for r in rigs if len(now.get(r, [])) < seats]
        place = min(
            free, key=lambda r: (been.get(person, []).count(r), len(now.get(r, [])), rigs.index(r)), default=DESK
        )
        now.setdefault(place, []).append(person)
    return _onward([*over, now], people, rigs, len(before), seats)


def _checked(rigs: Sequence[int], rounds: int, seats: int) -> None:
    if not rigs:
        raise BadInputError("rigs", 0, "at least one rig")
    if not 1 <= rounds <= MAX_ROUNDS:
        raise BadInputError("rounds", rounds, f"1 to {MAX_ROUNDS}")
    if not 1 <= seats <= MAX_SEATS:
        raise BadInputError("seats", seats, f"1 to {MAX_SEATS} people at a rig")


def _plain(one: Mapping[int, Sequence[int]]) -> Round:
    return {int(place): list(found) for place, found in one.items()}


def _been(rounds: Sequence[Round]) -> dict[int, list[int]]:
    """Person -> the places of the rounds so far."""
    been: dict[int, list[int]] = {}
    for one in rounds:
        for place, found in one.items():
            for person in found:
                been.setdefault(person, []).append(place)
    return been


def _onward(over: list[Round], people: Sequence[int], rigs: Sequence[int], rounds: int, seats: int) -> list[Round]:
    from scipy.optimize import linear_sum_assignment  # takes a third of a second to import

    made = list(over)
    places = [(rig, seat) for seat in range(seats) for rig in rigs]
    places += [(DESK, n) for n in range(max(0, len(people) - len(places)))]
    while len(made) < rounds:
        been, left = _been(made), rounds - len(made)
        # a rig that can only just be given to everybody who was not there yet
        pressed = {rig for rig in rigs if sum(rig not in been.get(p, []) for p in people) >= seats * left}
        cost = [
            [_cost(been.get(person, []), place, seat, i + len(made), rigs, left, pressed) for place, seat in places]
            for i, person in enumerate(people)
        ]
        one: Round = {}
        if people:
            for i, at in zip(*linear_sum_assignment(cost), strict=True):
                one.setdefault(places[at][0], []).append(people[i])
        made.append(one)
    return made


def _cost(
    been: Sequence[int], place: int, seat: int, turn: int, rigs: Sequence[int], left: int, pressed: set[int]
) -> float:
    if place == DESK:
        # rather who has seen the most rigs, and never the same person again while others have not been there
        return _DESK + _DESK_AGAIN * been.count(DESK) - (len(been) - been.count(DESK))
    cost = _AGAIN * been.count(place) + _SECOND_SEAT * seat + _ORDER * ((rigs.index(place) - turn) % len(rigs))
    if place not in been:
        hurried = sum(rig not in been for rig in rigs) >= left
        cost -= _PRESSED * (hurried + (place in pressed))
    return cost
