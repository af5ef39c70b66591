"""Simulated apprentices at one page, all of them at once: what they read, what they make of it and what the shop card
then weighs most. Compiled.
"""

from __future__ import annotations

import numpy as np

from wolfsbane.cycle.compiling import njit

#: readings that are taken, and figures that are worked out of them: superheat, subcooling, TD, CTOA, drier drop, in the
#: order of :data:`wolfsbane.diagnosis.technician.JUDGED`
SUCTION_SATURATION, LIQUID_SATURATION, SUCTION_LINE, LIQUID_LINE, RETURN, OUTDOOR, DRIER_OUT = range(7)
FIGURES = 5
_SUBCOOLING, _DRIER = 1, 4
#: no sight glass stands in the place of subcooling
NO_GLASS = -9


#: a page as it is judged: low and high ends of its targets (5,), which figures are judged (5,), the limit of the drier
#: drop, what the sight glass says; how well each verdict goes with an answer (answers, 5, 3), what looks and tests say
#: of each answer (answers,) and how common it is (answers,)
Page = tuple[np.ndarray, np.ndarray, np.ndarray, float, int, np.ndarray, np.ndarray, np.ndarray]


@njit(cache=True, error_model="numpy")
def gone_through(
    exact: np.ndarray,
    misread_f: float,
    read: np.ndarray,
    slipped: np.ndarray,
    turned: np.ndarray,
    thrown: np.ndarray,
    looks: np.ndarray,
    taste: np.ndarray,
    page: Page,
    tasted: float,
) -> tuple[np.ndarray, np.ndarray]:
    """(answer that each of n picks by the card (n,), verdicts -1, 0 and 1 (n, 5)).

    ``exact`` (7,) are readings in degrees F, nan where one is withheld; each is misread by ``misread_f`` times ``read``
    (n, 7). A figure that is ``slipped`` (n, 5) has its sign ``turned`` or is ``thrown`` so far. What looks and tests
    say counts where ``looks`` (n,) heeds them; ``taste`` (n, columns, gone through again where there are more answers)
    is everybody's own, and weighs ``tasted``.
    """
    low, high, judged, drier_limit, glass, weights, told, common = page
    n, answers = len(read), len(weights)
    picked, signs = np.empty(n, dtype=np.int64), np.empty((n, FIGURES), dtype=np.int64)
    r, figure = np.empty(7), np.empty(FIGURES)
    for a in range(n):
        for k in range(7):
            r[k] = exact[k] + misread_f * read[a, k]
        figure[0] = r[SUCTION_LINE] - r[SUCTION_SATURATION]
        figure[1] = r[LIQUID_SATURATION] - r[LIQUID_LINE]
        figure[2] = r[RETURN] - r[SUCTION_SATURATION]
        figure[3] = r[LIQUID_SATURATION] - r[OUTDOOR]
        figure[4] = r[LIQUID_LINE] - r[DRIER_OUT]
        for i in range(FIGURES):
            if slipped[a, i]:
                figure[i] = -figure[i] if turned[a, i] else figure[i] + thrown[a, i]
            signs[a, i] = 0
            if i == _DRIER:
                signs[a, i] = 1 if figure[i] > drier_limit else 0
            elif i == _SUBCOOLING and glass != NO_GLASS:
                signs[a, i] = glass
            elif judged[i]:
                signs[a, i] = 1 if figure[i] > high[i] else -1 if figure[i] < low[i] else 0
        best = -np.inf
        for k in range(answers):
            score = common[k] + tasted * taste[a, k % taste.shape[1]]
            if looks[a]:
                score += told[k]
            for i in range(FIGURES):
                if judged[i]:
                    score += weights[k, i, signs[a, i] + 1]
            if score > best:
                best, picked[a] = score, k
    return picked, signs


#: verdicts -1, 0 and 1 of every figure written as one number are this many numbers
KINDS = 3**FIGURES


@njit(cache=True, error_model="numpy")
def counted(
    exact: np.ndarray,
    skills: np.ndarray,
    read: np.ndarray,
    slip: np.ndarray,
    turned: np.ndarray,
    thrown: np.ndarray,
    looks: np.ndarray,
    taste: np.ndarray,
    page: Page,
    right: np.ndarray,
    tasted: float,
) -> tuple[np.ndarray, np.ndarray]:
    """(how many of each skill pick an answer that is ``right`` (answers,) by the card, (s,); how many come to each
    number of verdicts who overlook what was looked at and who heed it, (s, 2, :data:`KINDS`)).

    ``skills`` (s, 3) are how far each misreads, and the shares that slip and that overlook; ``read`` (s, n, 7),
    ``slip``, ``turned``, ``thrown`` (s, n, 5), ``looks`` (s, n) and ``taste`` (s, n, columns) are everybody's own,
    drawn between 0 and 1 but for the misreading, the throw and the taste; the rest is as in :func:`gone_through`.
    """
    named = np.zeros(len(skills), dtype=np.int64)
    often = np.zeros((len(skills), 2, KINDS), dtype=np.int64)
    for s in range(len(skills)):
        heeds = looks[s] >= skills[s, 2]
        picked, signs = gone_through(
            exact,
            skills[s, 0],
            read[s],
            slip[s] < skills[s, 1],
            turned[s] < 0.5,
            thrown[s],
            heeds,
            taste[s],
            page,
            tasted,
        )
        for a in range(len(picked)):
            kind, place = 0, 1
            for i in range(FIGURES):
                kind += (signs[a, i] + 1) * place
                place *= 3
            often[s, 1 if heeds[a] else 0, kind] += 1
            named[s] += right[picked[a]]
    return named, often
