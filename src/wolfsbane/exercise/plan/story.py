"""Drafts for complaint, history and visual inspection. Invented; the fault never follows from the words.

A complaint says what a customer notices, drawn by what the solved state makes likely and shared over every fault;
history and inspection hold red herrings and plain facts, as often with one fault as with another. What a look or a test
proves is given with the call as its result, and counts in the proof. What customers say is common practice, no source.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: what a customer notices -> ways to say it, for machines that cool rooms
COMPLAINTS = {
    "not_cooling": (
        "It is not cooling like it should.",
        "The house just won't get down to set point.",
        "Thermostat says 74, the living room says 80.",
        "It blows, but it isn't what I'd call cold.",
        "We set it lower and lower and nothing changes.",
        "My mother says it used to be a lot cooler in here.",
        "Not enough cooling, that's all I can tell you.",
        "It takes all day to bring the place down two degrees.",
        "Upstairs is never comfortable any more.",
    ),
    "runs_all_day": (
        "It never shuts off.",
        "It has been running since breakfast.",
        "It runs and runs, day and night.",
        "I hear it at two in the morning and it is still going.",
        "The outdoor unit has not stopped once since Monday.",
        "It used to cycle; now it just runs.",
        "Runs all afternoon without a break.",
        "The fan outside is always on when I walk by.",
    ),
    "afternoon": (
        "Fine in the morning, can't keep up after lunch.",
        "It was fine until the heat wave.",
        "Three in the afternoon is when we give up on it.",
        "Cools at night only.",
        "On mild days you would not know anything is wrong.",
        "By four o'clock everybody is in the basement.",
        "Works until the sun comes around to that side.",
        "Evenings are fine; afternoons are not.",
    ),
    "short_cycles": (
        "It comes on and goes off.",
        "It starts, quits, and starts again.",
        "Now and then it stops by itself and comes back later.",
        "I counted: on and off five times in an hour.",
        "It quits, sulks for a while, then runs again.",
        "Sometimes it is off when it should be on.",
        "It does not stay on as long as it used to.",
        "It went off twice during dinner and came back by itself.",
    ),
    "ice": (
        "There was ice on the big pipe last week.",
        "My neighbor says he saw frost on the copper line.",
        "It froze up once; I turned it off and it thawed.",
        "The pipe going into the house had white stuff on it.",
        "I think I saw ice out there one morning.",
        "Somebody told us it was freezing up.",
        "We switched it off overnight because of the ice.",
        "Once this summer the line was white; not today.",
    ),
    "noise": (
        "It hums louder than it did.",
        "There is a rattle I don't remember.",
        "It sounds different from next door's.",
        "A click, then a hum, then it goes.",
        "The unit outside got loud.",
        "It makes a noise when it stops.",
        "Something buzzes when it starts.",
        "My wife says it growls.",
    ),
    "bill": (
        "The electric bill went up.",
        "We paid a third more than last July.",
        "The power company sent us one of those letters.",
        "It costs too much to run for what it does.",
        "Same summer, bigger bill.",
        "The meter spins and the house is still warm.",
        "Our bill is higher than the neighbors', same house.",
        "I want to know why the bill doubled.",
    ),
    "water": (
        "Water where it should not be, by the furnace.",
        "There is a wet spot on the ceiling below the unit.",
        "The drain pan was full once.",
        "It dripped on the laundry last week.",
        "Carpet by the closet is damp.",
        "Somebody put a bucket under it; I don't know why.",
        "A puddle by the air handler, then it dried up.",
        "The float switch tripped once in June.",
    ),
    "check": (
        "Please check it over; it just does not seem right.",
        "A neighbor who does this work said the pressures look odd.",
        "We were told it needs a look before the warranty runs out.",
        "Last year's technician said to have it checked again.",
        "It smells hot sometimes, but I am not sure.",
        "One room is hot; the others are all right.",
        "We are selling the house and the inspector wrote it up.",
        "Nothing special, it is on the maintenance plan.",
    ),
}
#: the same for machines that cool a box
BOX_COMPLAINTS = {
    "not_cooling": (
        "The product is soft.",
        "The box won't get down to temperature.",
        "The thermometer inside says six degrees too much.",
        "It is cool in there, but not cold.",
        "The far shelf is warm.",
        "A new cook says the box is not cold enough.",
        "It takes until noon to come down after a delivery.",
        "The health inspector did not like the number on the dial.",
    ),
    "runs_all_day": (
        "It never shuts off.",
        "Runs nonstop since last week.",
        "We hear it all night.",
        "The compressor has not had a rest in days.",
        "It used to cycle; now it just runs.",
        "It runs and runs and the number hardly moves.",
        "I never see it off any more.",
        "Runs straight through the night shift.",
    ),
    "afternoon": (
        "Holds at night, creeps up in the afternoon.",
        "Warm product by two o'clock, fine in the morning.",
        "It was fine until the heat wave.",
        "Lunch rush kills it.",
        "Cold when we open, warm when we close.",
        "Weekends it holds, weekdays it does not.",
        "It cannot keep up once the kitchen is hot.",
        "From three o'clock on it is a losing battle.",
    ),
    "short_cycles": (
        "It comes on and goes off.",
        "It cuts out now and then.",
        "On for a minute, off for a minute.",
        "It stops by itself and comes back.",
        "I counted nine starts in an hour.",
        "It quits and then tries again.",
        "It does not stay on.",
        "Sometimes it is off when the box is warm.",
    ),
    "ice": (
        "There is ice where there was none before.",
        "The coil looked like a snowball last week.",
        "Frost on the pipe in the mornings.",
        "We chipped some ice off once.",
        "White stuff on the lines.",
        "It iced up over the weekend.",
        "Somebody said it was freezing up inside.",
        "Ice under the fan, gone the next day.",
    ),
    "noise": (
        "It got loud.",
        "A hum, a rattle, a click.",
        "It has been rumbling for a while.",
        "It sounds different from the other one.",
        "Something buzzes back there.",
        "It makes a noise when it stops.",
        "It knocks when it starts.",
        "The kitchen staff complain about the noise.",
    ),
    "water": (
        "The door sweats.",
        "Water on the floor in front of it.",
        "The drain backs up now and then.",
        "A puddle in the morning.",
        "Boxes on the bottom shelf are wet.",
        "It drips from the ceiling of the box.",
        "The gasket is wet all the time.",
        "We mop in front of it twice a day.",
    ),
    "check": (
        "Annual maintenance, no special complaint.",
        "Please check it over before the holidays.",
        "The last technician said to look at it again.",
        "The insurance wants a report.",
        "It smells hot sometimes.",
        "It was moved last month; nobody has looked at it since.",
        "We just took over the place.",
        "The manager wants it checked.",
    ),
}
#: the same for heat pumps in heating
HEAT_COMPLAINTS = {
    "not_cooling": (
        "It is not heating like it should.",
        "The house just won't get up to set point.",
        "Thermostat says 70, the living room says 65.",
        "It blows, but it isn't what I'd call warm.",
        "We turn it up and up and nothing changes.",
        "The air from the registers feels cool on the hand.",
        "Not enough heat, that's all I can tell you.",
        "It takes all morning to bring the place up two degrees.",
    ),
    "runs_all_day": (
        "It never shuts off.",
        "It has been running since before breakfast.",
        "It runs and runs, day and night.",
        "I hear it at two in the morning and it is still going.",
        "The outdoor unit has not stopped once since Monday.",
        "It used to cycle; now it just runs.",
        "The red light on the thermostat is on most of the time.",
        "The fan outside is always on when I walk by.",
    ),
    "afternoon": (
        "Fine in the afternoon, can't keep up at night.",
        "It was fine until the cold snap.",
        "Six in the morning is when we give up on it.",
        "On mild days you would not know anything is wrong.",
        "Works until the sun goes down.",
        "Mornings are bad; afternoons are all right.",
        "Upstairs is warm, downstairs never is.",
        "It cannot keep up once it is below freezing.",
    ),
    "short_cycles": COMPLAINTS["short_cycles"],
    "ice": (
        "There was ice on the outdoor unit last week.",
        "My neighbor says it was one block of frost.",
        "It steams now and then; is that smoke?",
        "I saw frost half-way up the coil this morning.",
        "We poured warm water over it once because of the ice.",
        "White stuff on the fins most mornings.",
        "Somebody told us it was freezing up.",
        "It froze over on Sunday; today it is clear.",
    ),
    "noise": COMPLAINTS["noise"],
    "bill": (
        "The electric bill went up.",
        "We paid a third more than last January.",
        "The power company sent us one of those letters.",
        "It costs too much to run for what it does.",
        "Same winter, bigger bill.",
        "The meter spins and the house is still cool.",
        "Our bill is higher than the neighbors', same house.",
        "I want to know why the bill doubled.",
    ),
    "check": (
        "Please check it over; it just does not seem right.",
        "We were told it needs a look before the warranty runs out.",
        "Last year's technician said to have it checked again.",
        "It smells hot sometimes, but I am not sure.",
        "One room is cold; the others are all right.",
        "We are selling the house and the inspector wrote it up.",
        "Nothing special, it is on the maintenance plan.",
        "A neighbor who does this work said the pressures look odd.",
    ),
}
#: what happened before; red herrings that stand beside any fault
HISTORY = (
    "Serviced every spring, last time in April.",
    "No record of the last visit.",
    "Eleven years old, first service call.",
    "The last technician left no readings.",
    "Installed five years ago, never opened since, as far as anybody knows.",
    "New owner since winter; no history.",
    "Somebody added gas last year.",
    "“I change the filter every month.”",
    "The outside wall was painted in spring.",
    "Roofers were here in May.",
    "A fan motor was replaced three years ago.",
    "It was washed down with the garden hose at Easter.",
    "The thermostat was replaced in March.",
    "A new deck was built next to it last year.",
    "The electrician worked on the panel last month.",
    "Nobody ever touched it, they say.",
    "It was moved a few feet when the patio was poured.",
    "The cousin of the owner “looked at it” in June.",
    "The coil was brazed once, years ago.",
    "Two companies were here before us; neither left any paperwork.",
)
BOX_HISTORY = (
    "Serviced twice a year, last time in April.",
    "No record of the last visit.",
    "Nine years old, third compressor, they say.",
    "The last technician left no readings.",
    "New owner since winter; no history.",
    "Somebody added gas last year.",
    "A fan motor was replaced three years ago.",
    "It was moved to this wall in spring.",
    "The door gasket was replaced in March.",
    "The defrost clock was set again last month.",
    "Nobody ever touched it, they say.",
    "The condenser was brushed “sometime last year”.",
    "The kitchen was painted in May.",
    "Two companies were here before us; neither left any paperwork.",
    "Warm deliveries on Tuesdays and Fridays.",
    "The electrician worked on the panel last month.",
)
#: plain facts and dirt that does not matter: one of each group is said, and none of them proves anything
LOOKS = (
    (
        "Filter rack taped shut, not opened yet.",
        "Filter changed yesterday; the old one is gone.",
        "A new filter lies beside the air handler, still wrapped.",
        "Filter not pulled yet.",
        "Date on the filter: five weeks ago.",
    ),
    (
        "Outdoor coil looks clean from the lawn; inner rows not checked.",
        "Grass clippings around the pad.",
        "Dust on the cabinet top; coil not opened.",
        "A few leaves on the guard.",
        "Cobwebs behind the service panel.",
        "Fins bent in one corner, the size of a hand.",
    ),
    (
        "Dust on the registers.",
        "Line insulation weathered where it enters the wall.",
        "Nameplate faded but readable.",
        "One cap on the service ports does not match.",
        "Disconnect cover loose.",
        "Old oil stain under the unit, dry and dusty.",
        "Paint on the line set.",
        "No sticker from the last visit.",
    ),
)
BOX_LOOKS = (
    (
        "Condenser checked from the front only.",
        "Condenser grille dusty; not opened yet.",
        "Condenser not reached yet: boxes in the way.",
        "Lint on the grille, coil not seen.",
    ),
    (
        "Door closes by itself.",
        "Gasket old but whole.",
        "Door closed, light off.",
        "A strip curtain hangs in the doorway.",
    ),
    (
        "Product stacked, not to the ceiling.",
        "Evaporator not opened yet.",
        "Old oil stain under the unit, dry and dusty.",
        "Nameplate greasy but readable.",
        "No sticker from the last visit.",
        "Line insulation patched with tape.",
    ),
)
#: what to say where the trouble is in somebody's instrument and the machine is normal
_SECOND_OPINION = (
    "The last technician's readings made no sense; please check it again.",
    "Two visits, two different sets of readings.",
)
#: how much likelier a solved state makes a complaint than it is anyway; small, so that nobody can read it backwards
_LIKELIER = 0.5
_FREEZING_K = 273.15
#: less of the capacity than this, more power than this and less superheat than this are noticed
_WEAK, _DEAR, _WET_DK = 0.93, 1.04, 4.0


def notices(state: CircuitState | None, fault_free: CircuitState | None) -> set[str]:
    """What a customer may notice of a solved state beside the machine with nothing wrong in the same weather: ids of
    :data:`COMPLAINTS`.
    """
    if state is None or fault_free is None:
        return set()
    if state.trip is not None:
        return {"short_cycles", "afternoon", "not_cooling"}
    found = set()
    if state.capacity_w < _WEAK * fault_free.capacity_w:
        found |= {"not_cooling", "runs_all_day"}
    if state.head_pa > 1.05 * fault_free.head_pa:
        found |= {"afternoon", "noise"}
    if state.suction_saturation_k < _FREEZING_K:
        found |= {"ice", "water"}
    if state.power_w > _DEAR * fault_free.power_w:
        found.add("bill")
    if state.superheat_dk < _WET_DK:
        found.add("noise")
    return found


def draft(
    faults: tuple[Fault, ...],
    given_tests: tuple[str, ...],
    rng: random.Random,
    machine: Machine | None = None,
    noticed: frozenset[str] | set[str] = frozenset(),
) -> tuple[str, str, tuple[str, ...]]:
    """(complaint, history, inspection lines) for hidden ``faults``; ``rng`` is a random.Random.

    ``machine`` (None: one that cools rooms) picks the words, ``noticed`` are ids of :data:`COMPLAINTS` that the solved
    state makes likelier (:func:`notices`). Results of looks and tests given with the call (``given_tests``) are printed
    beside these lines and are no part of them. Trouble of an instrument shows in nobody's complaint.
    """
    box = machine is not None and machine.refrigeration
    told, history, looks = (BOX_COMPLAINTS, BOX_HISTORY, BOX_LOOKS) if box else (COMPLAINTS, HISTORY, LOOKS)
    if machine is not None and machine.in_heating:
        told = HEAT_COMPLAINTS
    kinds = list(told)
    kind = rng.choices(kinds, [1.0 + (_LIKELIER if k in noticed else 0.0) for k in kinds])[0]
    only_instruments = bool(faults) and all(f.id in INSTRUMENT_FAULTS for f in faults)
    complaint = rng.choice(_SECOND_OPINION if only_instruments else told[kind])
    return complaint, rng.choice(history), tuple(rng.choice(group) for group in looks)
