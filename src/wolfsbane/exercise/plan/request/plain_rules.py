"""Time, people, levels, weather, instruments and units in a request."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from wolfsbane.exercise.plan.request.sentence import BEGIN, END, NUMBER, whole

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.request.sentence import Found, Sentence

_ABOUT = (
    r"(?:(?:in|within|for|about|around|roughly|approximately|approx|ca|max|maximum|maximum of|at most|up to"
    r"|under|less than"
    r"|no more than|not more than|no longer than|to fill|fits in|fit in|that fit in|lasting|takes|taking|over|say) )*"
)


def _minutes(minutes: float) -> Found:
    if not 5 <= minutes <= 480:
        return None
    return "minutes", round(minutes), f"{round(minutes)} minutes at most"


_PARTS = {"half": 30, "quarter": 15, "three quarters": 45}


def time(s: Sentence) -> None:
    """Minutes in any form."""
    part = "(half|quarter|three quarters)"
    hours = r"(?:hours?|hrs?|h)"
    s.take(
        rf"{BEGIN}{_ABOUT}{NUMBER} {hours}(?: and)? (?:an? )?{part}{END}",
        lambda m: _minutes(60 * whole(m[1]) + _PARTS[m[2]]),
    )
    s.take(rf"{BEGIN}{_ABOUT}{NUMBER} and a {part} {hours}{END}", lambda m: _minutes(60 * whole(m[1]) + _PARTS[m[2]]))
    s.take(rf"{BEGIN}{_ABOUT}hour and (?:an? )?{part}{END}", lambda m: _minutes(60 + _PARTS[m[1]]))
    s.take(rf"{BEGIN}{_ABOUT}(?:an? )?{part}(?: of)?(?: an)? hour{END}", lambda m: _minutes(_PARTS[m[1]]))
    s.take(
        rf"{BEGIN}{_ABOUT}{NUMBER} ?{hours}(?: and)? ?{NUMBER}(?: ?(?:minutes?|mins?|m))?{END}",
        lambda m: _minutes(60 * whole(m[1]) + whole(m[2])) if whole(m[2]) >= 5 else None,
    )
    s.take(rf"{BEGIN}{_ABOUT}(\d):(\d\d)(?: ?{hours})?{END}", lambda m: _minutes(60 * int(m[1]) + int(m[2])))
    s.take(
        rf"{BEGIN}{_ABOUT}(\d{{1,2}}[.,]\d{{1,2}}) ?{hours}{END}",
        lambda m: _minutes(60 * float(m[1].replace(",", "."))),
    )
    s.take(rf"{BEGIN}{_ABOUT}(\d)½ ?{hours}{END}", lambda m: _minutes(60 * int(m[1]) + 30))
    s.take(rf"{BEGIN}{_ABOUT}{NUMBER} ?{hours}(?: long)?{END}", lambda m: _minutes(60 * whole(m[1])))
    to = r"(?: ?(?:to|-|or) ?(\d{1,3}))?"
    s.take(
        rf"{BEGIN}{_ABOUT}{NUMBER}{to} ?(?:minutes?|mins?|min)(?: long)?{END}",
        lambda m: _minutes(int(m[2]) if m[2] else whole(m[1])),
    )


_PEOPLE = (
    r"(?:apprentices?|students?|pupils?|learners?|trainees?|people|kids|techs|technicians|participants?|papers?|copies"
    r"|persons|guys|bodies|seats|heads)"
)


def _people(count: int) -> Found:
    return ("apprentices", count, f"{count} apprentices") if 1 <= count <= 60 else None


def people(s: Sentence) -> None:
    """How many apprentices."""
    year = r"(?:(?:first|second|third|fourth) years?|1st years?|2nd years?|3rd years?|4th years?|beginners?)"
    s.take(
        rf"{BEGIN}(?:for )?(?:a |my |the )?(?:class|group|shop|crew) of {NUMBER}(?: {_PEOPLE})?{END}",
        lambda m: _people(whole(m[1])),
    )
    s.take(rf"{BEGIN}(?:for )?(?:my |the )?{NUMBER} (?:\w+ )?{_PEOPLE}{END}", lambda m: _people(whole(m[1])))
    s.take(
        rf"{BEGIN}(?:for )?(?:my |the )?{NUMBER}(?= {year}{END})",
        lambda m: _people(whole(m[1])) if whole(m[1]) > 1 else None,
    )
    s.take(rf"{BEGIN}for (\d{{1,2}})(?= *(?:,|$))", lambda m: _people(int(m[1])))


_HOW_HARD = {
    "very easy": (1, 1),
    "easiest": (1, 1),
    "easy": (1, 2),
    "easier": (1, 2),
    "simple": (1, 2),
    "basic": (1, 2),
    "gentle": (1, 2),
    "introductory": (1, 2),
    "intro": (1, 2),
    "straightforward": (1, 2),
    "medium": (2, 3),
    "moderate": (2, 3),
    "middling": (2, 3),
    "average": (2, 3),
    "intermediate": (2, 3),
    "mid level": (2, 3),
    "hard": (4, 5),
    "harder": (3, 5),
    "difficult": (4, 5),
    "tough": (4, 5),
    "tougher": (3, 5),
    "challenging": (4, 5),
    "tricky": (4, 5),
    "demanding": (4, 5),
    "advanced": (4, 5),
    "expert": (5, 5),
    "very hard": (5, 5),
    "really hard": (5, 5),
    "hardest": (5, 5),
}
_FOR_WHOM = {
    r"first years?|1st years?|freshm[ae]n|beginners?|beginning|newbies|rookies|novices?|starters|new students"
    r"|entry level|first semester|first term": (1, 2),
    r"second years?|2nd years?|sophomores": (2, 3),
    r"third years?|3rd years?": (3, 4),
    r"fourth years?|4th years?|seniors?|experienced|journeym[ae]n|final exam|finals?|graduating|old hands": (3, 5),
}


def _levels(low: int, high: int) -> Found:
    low, high = sorted((low, high))
    if not 1 <= low <= high <= 5:
        return None
    return "levels", [low, high], f"level {low}" if low == high else f"levels {low} to {high}"


def order(s: Sentence) -> None:
    """In what order: a ladder goes from easy to hard, and no other way."""
    other = (
        r"(?:the )?(?:hardest|hard|toughest) (?:ones? |calls? )?first|(?:from )?(?:hard|difficult) to easy"
        r"|descending(?: order)?"
        r"|(?:in )?(?:a )?(?:random|mixed|shuffled) order|shuffled"
    )
    for match in s.find(rf"{BEGIN}(?:{other}){END}"):
        s.refuse(match.start(), match.end(), "calls run easiest first", "easy to hard")
    s.take(
        rf"{BEGIN}(?:the )?(?:easiest|easy|easier) (?:ones? |calls?"
        rf" )?first{END}",
        lambda m: ("order", "easy", "easiest first"),
    )


def levels(s: Sentence) -> None:
    """How hard: by number, in words, or by who sits the sheet."""
    level, digit = r"(?:levels?|lvls?|lv)", r"(\d|one|two|three|four|five)"

    def at(text: str) -> int:
        return whole(text)

    than = r"(?:nothing|no|not|never|none)(?: any)?"
    s.take(
        rf"{BEGIN}{than} (?:harder|tougher|higher|more|above) (?:than )?{level} {digit}{END}",
        lambda m: _levels(1, at(m[1])),
    )
    s.take(rf"{BEGIN}{than} (?:easier|lower|less|below) (?:than )?{level} {digit}{END}", lambda m: _levels(at(m[1]), 5))
    s.take(rf"{BEGIN}(?:harder|higher|tougher) than {level} {digit}{END}", lambda m: _levels(min(at(m[1]) + 1, 5), 5))
    s.take(
        rf"{BEGIN}{level} {digit} ?,? ?{digit}(?: ?,? ?{digit})? ?,? ?(?:and|&|or) {digit}{END}",
        lambda m: _levels(at(m[1]), at(m[4])),
    )
    s.take(rf"{BEGIN}{level} {digit} ?, ?{digit} ?, ?{digit}{END}", lambda m: _levels(at(m[1]), at(m[3])))
    up = r"(?: ?\+| (?:and|or) (?:up|above|higher|harder|more))"
    s.take(rf"{BEGIN}(?:at |from )?{level} {digit}{up}", lambda m: _levels(at(m[1]), 5))
    s.take(rf"{BEGIN}(?:at least|from|minimum|min|above) {level} {digit}{END}", lambda m: _levels(at(m[1]), 5))
    s.take(rf"{BEGIN}{level} {digit} (?:and|or) (?:below|lower|easier|down){END}", lambda m: _levels(1, at(m[1])))
    s.take(
        rf"{BEGIN}(?:at most|up to|max|maximum|no higher than|nothing above|not above|below|no more than) {level}"
        rf" {digit}{END}",
        lambda m: _levels(1, at(m[1])),
    )
    s.take(
        rf"{BEGIN}(?:at |of |from |between )?{level} {digit}(?: ?(?:to|-|and|through|thru|up to|&) ?(?:{level}"
        rf" )?{digit})?"
        rf"(?! (?:and|or) (?:up|above|below|higher|lower|harder|easier|more|down))(?! ?\+){END}",
        lambda m: _levels(at(m[1]), at(m[2] or m[1])),
    )
    s.take(rf"{BEGIN}l(\d)(?: ?(?:to|-) ?l?(\d))?{END}", lambda m: _levels(int(m[1]), int(m[2] or m[1])))
    s.take(
        rf"{BEGIN}(?:all|every|any|mixed|different|various) (?:levels?|difficult(?:y|ies)){END}",
        lambda m: _levels(1, 5),
    )
    words = "|".join(sorted(map(re.escape, _HOW_HARD), key=len, reverse=True))
    calls = r"(?: (?:calls?|ones?|scenarios?|problems?|stuff|level))?"
    s.take(
        rf"{BEGIN}(?:going |from )?({words}){calls} (?:to|through|up to|then|and|into|-) (?:more )?({words})(?:"
        rf" (?:ones?|level))?{END}",
        lambda m: _levels(
            _HOW_HARD[m[1]][0], max(_HOW_HARD[m[2]][1] - (m[2] in ("hard", "harder", "tough", "difficult")), 1)
        ),
    )
    s.take(
        rf"{BEGIN}(?:(?:increasing|rising|growing|progressive) difficulty|(?:getting|progressively|gradually)"
        rf" (?:harder|tougher)"
        rf"|harder and harder|building up|step by step|ramp(?:ing)? up){END}",
        lambda m: _levels(1, 4),
    )
    s.take(
        rf"{BEGIN}(?:not (?:too|so|very) (?:hard|difficult|tough)|nothing (?:too )?(?:hard|difficult|tough|fancy)"
        rf"|not (?:hard|difficult))"
        rf"{END}",
        lambda m: _levels(1, 3),
    )
    s.take(rf"{BEGIN}(?:not (?:too |so )?easy|nothing (?:too )?easy){END}", lambda m: _levels(3, 5))
    s.take(
        rf"{BEGIN}(?:(?:fairly|pretty|quite|kind of|rather) )?({words})(?: (?:level|difficulty))?{END}",
        lambda m: _levels(*_HOW_HARD[m[1]]),
    )
    for who, span in _FOR_WHOM.items():
        _sits(s, who, span)


def _sits(s: Sentence, who: str, span: tuple[int, int]) -> None:
    group = r"(?: (?:class|group|students?|apprentices?|techs))?"
    s.take(rf"{BEGIN}(?:for )?(?:(?:a|my|the|our) )?(?:{who}){group}{END}", lambda m: _for_whom(s, m[0], span))


def _for_whom(s: Sentence, said: str, span: tuple[int, int]) -> Found:
    """Levels by who sits the sheet, where no levels were named."""
    if any(u.field == "levels" for u in s.understood):
        return "for", " ".join(said.split()), "who it is for; levels as asked"
    return _levels(*span)


_HOT = {
    r"very hot|extremely hot|extreme heat|heat ?wave|record heat|scorching|scorcher|brutal(?:ly hot)?": (105.0, 115.0),
    r"hot": (95.0, 105.0),
    r"warm(?! up)|summer|summertime|july|august": (85.0, 98.0),
    r"mild|spring|fall|autumn": (65.0, 78.0),
    r"cool": (60.0, 70.0),
    r"winter|wintertime|cold|freezing|frosty|snow|january": (15.0, 40.0),
}
#: how far the weather of a call may lie from one degree that is named, degrees F
_AROUND = 2.0
_ROOMS = {
    r"humid|muggy|sticky|damp": ("return_wb_f", (66.0, 70.0), "humid house"),
    r"dry|arid|desert": ("return_wb_f", (56.0, 60.0), "dry house"),
    r"hot (?:house|building|attic|inside)|overheated house": ("return_db_f", (82.0, 88.0), "hot house"),
    r"(?:cool|cold) house": ("return_db_f", (68.0, 72.0), "cool house"),
}


def _f(value: float, unit: str | None) -> float:
    return value * 1.8 + 32.0 if unit and unit.strip() in ("c", "celsius", "degrees c", "degree c", "deg c") else value


def _weather(field: str, low: float, high: float, where: str) -> Found:
    limits = {"outdoor_db_f": (-10, 125), "return_db_f": (55, 100), "box_f": (-25, 75), "water_in_f": (45, 110)}[field]
    low, high = (low - _AROUND, high + _AROUND) if low == high else sorted((low, high))
    low, high = max(low, limits[0]), min(high, limits[1])
    if low > high:
        return None
    return f"weather.{field}", [round(low, 1), round(high, 1)], f"{low:g} to {high:g} °F {where}"


def weather(s: Sentence) -> None:
    """Outdoors, in the house, in the box, and of the water: degrees or words."""
    unit = r"( ?(?:degrees? (?:f|c)|deg (?:f|c)|degrees?|deg|fahrenheit|celsius|f|c)(?![a-z0-9]))?"
    span = rf"(-?\d{{1,3}}){unit}(?: ?(?:to|-|and|through) ?(-?\d{{1,3}}){unit})?"
    places = {
        "outdoor_db_f": (
            r"(?:outside|outdoors?|out|ambient|in the shade|on the roof|in the yard|outdoor air)",
            "outdoors",
        ),
        "return_db_f": (
            r"(?:inside|indoors?|in the house|return|return air|in the building|in the room)",
            "in the house",
        ),
        "box_f": (r"(?:in the box|box|box temp(?:erature)?|in the cooler|in the freezer)", "in the box"),
        "water_in_f": (r"(?:entering water|water in|leaving tower|tower water|water)", "water in"),
    }
    for field, (place, where) in places.items():

        def read(m: re.Match[str], field: str = field, where: str = where) -> Found:
            unit_of = m[4] or m[2]
            low = _f(float(m[1]), unit_of)
            return _weather(field, low, _f(float(m[3]), unit_of) if m[3] else low, where)

        s.take(
            rf"{BEGIN}(?:at |between |about |around |from )?{span} {place}(?: (?:air|temps?|temperatures?|day))?{END}",
            read,
        )
        s.take(
            rf"{BEGIN}(?:at |an? )?{place}(?: (?:air|temps?|temperatures?))?(?: (?:of|at|is|around|about|between"
            rf"|from))? {span}{END}",
            read,
        )
    s.take(
        rf"{BEGIN}(?:(?:on|at|in|about|around) )?(?:an? )?(\d{{2,3}}) ?(degrees? f|degrees? c|degrees?|deg|f|c)(?:"
        rf" (?:day|weather|heat))?{END}",
        lambda m: _some_degrees(float(m[1]), m[2]),
    )
    for words, house in _ROOMS.items():
        _room(s, words, *house)
    for words, outdoors in _HOT.items():
        _day(s, words, *outdoors)
    s.take(
        rf"{BEGIN}(?:at |up at )?(\d{{1,2}}[ ']?\d{{3}}|\d{{3,4}}) ?(?:ft|feet|foot)(?: (?:of )?(?:altitude"
        rf"|elevation|up))?{END}",
        lambda m: _altitude(float(re.sub(r"\D", "", m[1]))),
    )
    s.take(rf"{BEGIN}at sea level{END}", lambda m: ("altitude_ft", 0.0, "sea level"))


def _room(s: Sentence, words: str, field: str, span: tuple[float, float], text: str) -> None:
    where = r"(?: (?:house|climate|day|weather|area|air|region|conditions?|building))?"
    s.take(rf"{BEGIN}(?:in )?(?:an? )?(?:{words}){where}{END}", lambda m: (f"weather.{field}", list(span), text))


def _day(s: Sentence, words: str, low: float, high: float) -> None:
    when = r"(?: (?:days?|weather|afternoon|morning|night|temps|temperatures|outside|outdoors|conditions|time|season))*"
    s.take(
        rf"{BEGIN}(?:(?:on|in|during|for) )?(?:an? |the )?(?:(?:really|pretty) )?(?:{words}){when}{END}",
        lambda m: _weather("outdoor_db_f", low, high, "outdoors"),
    )


def _some_degrees(value: float, unit: str) -> Found:
    """Degrees with no place named: what only outdoor air is met at."""
    degrees = _f(value, unit)
    return _weather("outdoor_db_f", degrees, degrees, "outdoors") if degrees > 80.0 else None


def _altitude(feet: float) -> Found:
    return ("altitude_ft", feet, f"{feet:g} ft up") if feet <= 10_000 else None


def instruments(s: Sentence) -> None:
    """Gauges, or none; units."""
    gauges = r"(?: (?:gauges?|manifolds?|probes?|instruments?|readings?|sets?))?"
    s.take(
        rf"{BEGIN}(?:(?:no|without|with no|minus) (?:gauges?|manifolds?)|gauge free|gaugeless|non ?invasive"
        rf"|(?:by |from )?(?:line|pipe) temp(?:erature)?s?(?: only)?|clamps? only|only clamps?|thermometers?"
        rf" only){END}",
        lambda m: ("instruments", "pipes", "line temperatures, no gauges"),
    )
    s.take(
        rf"{BEGIN}(?:with |on )?(?:(?:analog(?:ue)?|needle|mechanical){gauges}|dials? to be read|dial (?:gauges?"
        rf"|manifolds?)){END}",
        lambda m: ("instruments", "analogue", "analog gauges"),
    )
    s.take(
        rf"{BEGIN}(?:with |on )?(?:digital|smart|wireless|electronic gauges?){gauges}{END}",
        lambda m: ("instruments", "digital", "digital gauges"),
    )
    s.take(
        rf"{BEGIN}(?:in )?(?:metric|celsius|centigrade|kpa|bar|si)(?: units?)?{END}",
        lambda m: ("units", "si", "°C and kPa"),
    )
    s.take(
        rf"{BEGIN}(?:in )?(?:imperial|fahrenheit|psig?|(?:us|american|english) units?)(?: units?)?{END}",
        lambda m: ("units", "us", "°F and psi"),
    )
