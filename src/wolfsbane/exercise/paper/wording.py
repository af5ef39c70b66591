"""The one English catalog of marking reasons: code -> sentence with parameters."""

from __future__ import annotations

REASONS = {
    "right": "Right.",
    "right_reading": "Right: {key} on the {side} PT scale.",
    "ring_not_own": "Right for what the rig read, though your own pressure gives {expected}: look how you came to it.",
    "follows_own": "Right from your own {source}: {a} − {b} = {expected}.",
    "blank": "Left blank.",
    "unreadable": "“{raw}” could not be read as {allowed}.",
    "wrong_number": "{given} instead of {expected}.",
    "absolute_for_gauge": (
        "{given} comes from taking the gauge pressure for absolute; the PT scale wants gauge: {expected}."
    ),
    "added_atmosphere": "{given} comes from adding the atmosphere first; the PT scale is gauge pressure: {expected}.",
    "wrong_ring": "{given} is the {refrigerant} ring; this machine holds {own}: {expected}.",
    "same_slip_paid": "The same slip as on the other gauge, which already cost the mark: {expected}.",
    "other_gauge": "{given} belongs to the other gauge; here it is {expected}.",
    "sign_turned": "Subtracted the wrong way round: {a} − {b} = {expected}.",
    "swapped": "Superheat and subcooling are swapped. One slip, one mark.",
    "swapped_paid": "Swapped with superheat, which already cost the mark.",
    "other_saturation": "Used the other saturation temperature: {a} − {b} = {expected}.",
    "target_wrong_device": "{given} is the target of another metering device; here it is {expected}.",
    "verdict_follows": "Fits your {given_figure} against {band}.",
    "verdict_edge": "Within reading tolerance of the edge of {band}: both verdicts count.",
    "verdict_meant": "Fits {given_figure} against {band}, the figure that was meant.",
    "verdict_wrong": "Your {given_figure} against {band} is {expected}.",
    "fault_right": "Right: {fault}.",
    "fault_right_despite": "Right: {fault}; your own figures point elsewhere, look at them again.",
    "fault_follows": "Not this machine’s fault ({fault}), but it follows from your own figures.",
    "fault_wrong": "The figures say: {fault}.",
    "fault_wrong_path": "{mistake}. {feedback} The figures say: {fault}.",
    "faults_part": "{hits} of {of} right, {wrong} not there: {fault}.",
    "unknown_letter": "{given} is not among the choices {allowed}.",
    "evidence_right": "These figures carry the conclusion.",
    "evidence_right_despite": "Right on this machine; your own verdicts say otherwise, look at them again.",
    "evidence_not_off": "{item} is on target in your own figures, so it is no evidence.",
    "evidence_not_deciding": "True, but it does not decide; {deciding} does.",
    "right_not_own": "Right, though your own {source} gives {a} − {b} = {expected}: look how you came to it.",
    "right_measured": "Right: the rig read {expected}.",
    "measured_off": "{given}; the rig read {expected}. Look at the hose, the zero and the clamp.",
    "fault_open": "These readings leave it open, so this counts in full (planted: {fault}).",
    "accepted": "Accepted by your instructor for this call.",
    "void": "Taken out by your instructor; it counts for nobody.",
    "to_confirm": "To be confirmed by your instructor; {found}.",
    "confirmed": "Confirmed by your instructor.",
    "overridden": "Marked by your instructor: {reason}",
    "not_measured": "Waits for what the rig really read.",
    "amount_right": "Right: {expected} {unit} by the scale (± {tolerance}).",
    "amount_by_slope": "Right by the slope printed on the call; the solved machine wants {expected} {unit}.",
    "amount_follows": "Follows from the fault you named; this machine wants {expected} {unit}.",
    "amount_none_wanted": "No refrigerant is to be moved here. {consequence}",
    "amount_sign": "The other way round: {expected} {unit}.",
    "amount_over": "Too much: {expected} {unit} (± {tolerance}). {consequence}",
    "amount_under": "Too little: {expected} {unit} (± {tolerance}).",
    "unknown_step": "{given} is not among the steps 1 to {allowed}.",
    "order_right": "Right: {plan}.",
    "order_follows": "The right plan for the fault you named. This machine wants: {plan}.",
    "order_not_in_order": "The right steps in another order: {plan}.",
    "order_not_complete": "In order, but a step is missing: {plan}.",
    "order_wrong": "This machine wants: {plan}.",
    "change_right": "Right.",
    "change_edge": "It hardly moves: both answers count.",
    "change_follows": "Follows from what you found; on this machine: {expected}.",
    "change_wrong": "Solved again after the repair: {expected}.",
    "drill_right": "Right: {expected}.",
    "drill_wrong": "{given} instead of {expected}.",
    "drill_slip": "{given} comes from a known slip ({mistake}); here it is {expected}.",
    "drill_line": "The wrong line is: {expected}.",
    "action_right": "Right.",
    "action_follows": "The right first step for the fault you named; naming it already cost or earned its mark.",
    "action_wrong": "This machine wants: {action}.",
    "action_led_to": "This machine wants: {action}. {consequence}",
    "action_second_led_to": (
        "Right, but not first: until the first is repaired the readings mislead. First: {action}. {consequence}"
    ),
    "action_second_first": "Right, but not first: until the first is repaired the readings mislead. First: {action}.",
}


def reason_text(code: str, params: dict[str, str]) -> str:
    """The sentence for a reason code with its parameters; raises KeyError for an unknown code."""
    return REASONS[code].format(**params)


def fitted(text: str, metering: str) -> str:
    """``text`` in the words of the device: an electronic valve has a coil sensor where a thermostatic one has a
    bulb.
    """
    if metering != "eev":
        return text
    for bulb, sensor in (("bulb's strap", "coil sensor's clip"), ("Bulb", "Coil sensor"), ("bulb", "coil sensor")):
        text = text.replace(bulb, sensor)
    return text
