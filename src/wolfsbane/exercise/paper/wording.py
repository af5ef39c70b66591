"""The one English catalog of marking reasons: code -> sentence with parameters."""

from __future__ import annotations

REASONS = {
    "right": "Right.",
    "right_reading": "Right: {key} on the {side} PT scale.",
    "ring_not_own": "Right for what the rig read, though your own pressure gives {expected}: check how you got it.",
    "follows_own": "Right from your own {source}: {a} − {b} = {expected}.",
    "blank": "Left blank.",
    "unreadable": "“{raw}” could not be read as {allowed}.",
    "wrong_number": "{given} instead of {expected}.",
    "absolute_for_gauge": (
        "{given} comes from treating gauge pressure as absolute; the PT scale takes gauge: {expected}."
    ),
    "added_atmosphere": "{given} comes from adding atmospheric pressure first; the PT scale takes gauge: {expected}.",
    "wrong_ring": "{given} is on the {refrigerant} PT scale; this machine holds {own}: {expected}.",
    "same_slip_paid": "The same mistake as on the other gauge, which already cost the mark: {expected}.",
    "other_gauge": "{given} belongs to the other gauge; here it is {expected}.",
    "sign_turned": "Subtracted backward: {a} − {b} = {expected}.",
    "swapped": "Superheat and subcooling are swapped. One mistake, one mark.",
    "swapped_paid": "Swapped with superheat, which already cost the mark.",
    "other_saturation": "Used the other saturation temperature: {a} − {b} = {expected}.",
    "target_wrong_device": "{given} is the target for another metering device; here it is {expected}.",
    "verdict_follows": "Fits your {given_figure} against {band}.",
    "verdict_edge": "Within reading tolerance of the edge of {band}: both verdicts count.",
    "verdict_meant": "Fits {given_figure} against {band}, the figure that was meant.",
    "verdict_wrong": "Your {given_figure} against {band} is {expected}.",
    "fault_right": "Right: {fault}.",
    "fault_right_despite": "Right: {fault}; but your own figures point elsewhere, check them again.",
    "fault_follows": "Not this machine’s fault ({fault}), but it follows from your own figures.",
    "fault_wrong": "The figures say: {fault}.",
    "fault_wrong_path": "{mistake}. {feedback} The figures say: {fault}.",
    "faults_part": "{hits} of {of} right, {wrong} not there: {fault}.",
    "unknown_letter": "{given} is not among the choices {allowed}.",
    "evidence_right": "These figures carry the conclusion.",
    "evidence_right_despite": "Right on this machine; but your own verdicts say otherwise, check them again.",
    "evidence_not_off": "{item} is on target in your own figures, so it is no evidence.",
    "evidence_not_deciding": "True, but it does not decide; {deciding} does.",
    "right_not_own": "Right, though your own {source} gives {a} − {b} = {expected}: check how you got it.",
    "right_measured": "Right: the rig read {expected}.",
    "measured_off": "{given}; the rig read {expected}. Check the hose, the zero and the clamp.",
    "fault_open": "These readings leave it open, so this counts in full (hidden fault: {fault}).",
    "accepted": "Accepted by your instructor for this call.",
    "void": "Excluded from the score by your instructor, for everybody.",
    "to_confirm": "To be confirmed by your instructor; {found}.",
    "confirmed": "Confirmed by your instructor.",
    "overridden": "Marked by your instructor: {reason}",
    "not_measured": "Waiting for what the rig actually read.",
    "amount_right": "Right: {expected} {unit} by the scale.",
    "amount_by_slope": "Right by the slope printed on the call; the solved machine takes {expected} {unit}.",
    "amount_by_own": "Right from your own figures by the chart; the solved machine takes {expected} {unit}.",
    "amount_floods": "So much that it harms: {expected} {unit}. {consequence}",
    "amount_whole": "Right as the whole weigh-in; compared with what is in it now that is {expected} {unit}.",
    "amount_harms": "This machine is overfull or floods already. {consequence}",
    "foreign": "The saturations it comes from belong to no reading on this page; they look like another paper’s.",
    "no_work": "No figure of yours stands behind this, so it earns a small share at most.",
    "no_plan": "A plan for a fault that your own figures do not show earns nothing. The figures say: {fault}.",
    "no_outcome": "It depends on the fault you named, which your own figures do not show.",
    "no_conclusion": "No fault was named that this would follow from.",
    "call_failed": "An unsafe step fails this call under your practice: {harm}",
    "asked_back": "“{raw}” was understood as {understood}: write one answer.",
    "order_harms": "{harm} Correct sequence: {plan}.",
    "order_needless": "All of it in order, and one step that is not needed: {plan}.",
    "amount_follows": "Follows from the fault you named; correct here: {expected} {unit}.",
    "amount_none_wanted": "No refrigerant goes in or out here. {consequence}",
    "amount_sign": "The other direction: {expected} {unit}.",
    "amount_over": "Too much: {expected} {unit}. {consequence}",
    "amount_under": "Too little: {expected} {unit}.",
    "amount_short": "Too little: {expected} {unit}. {consequence}",
    "unknown_step": "{given} is not among the steps 1 to {allowed}.",
    "order_right": "Right: {plan}.",
    "order_follows": "The right sequence for the fault you named. Correct sequence: {plan}.",
    "order_not_in_order": "The right steps out of order: {plan}.",
    "order_not_complete": "In order, but a step is missing: {plan}.",
    "order_wrong": "Correct sequence: {plan}.",
    "change_right": "Right.",
    "change_edge": "It hardly moves: both answers count.",
    "change_follows": "Follows from what you found; on this machine: {expected}.",
    "change_wrong": "After the repair: {expected}.",
    "drill_right": "Right: {expected}.",
    "drill_wrong": "{given} instead of {expected}.",
    "drill_slip": "{given} comes from a known mistake ({mistake}); here it is {expected}.",
    "drill_line": "The wrong line is: {expected}.",
    "drill_pick": "Right is: {expected}.",
    "number_follows": "Right from your own numbers ({own}); here it is {expected}.",
    "number_slip": "{given} comes from a known mistake ({mistake}); here it is {expected}.",
    "letter_wrong": "{feedback} Right is: {expected}.",
    "letter_follows": "It follows from your own number; on this machine: {expected}.",
    "action_right": "Right.",
    "action_follows": "The right first step for the fault you named; naming it already cost or earned its mark.",
    "action_wrong": "Correct first step: {action}.",
    "action_led_to": "Correct first step: {action}. {consequence}",
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
    bulb, and a capillary tube stands where others have a piston.
    """
    if metering == "capillary":
        for piston, tube in (("Fixed orifice (piston)", "Capillary tube"), ("orifice", "capillary tube")):
            text = text.replace(piston, tube)
        return text
    if metering != "eev":
        return text
    for bulb, sensor in (("bulb's strap", "coil sensor's clip"), ("Bulb", "Coil sensor"), ("bulb", "coil sensor")):
        text = text.replace(bulb, sensor)
    return text
