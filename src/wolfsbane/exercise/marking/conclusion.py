"""Marking what an apprentice concludes: the fault, the evidence for it and the first step."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.diagnosis.targets import FIGURES, RIGHT
from wolfsbane.exercise.paper.correction import WRONG_PLANS, consequence
from wolfsbane.exercise.paper.questions import ACTIONS, EVIDENCE
from wolfsbane.exercise.paper.wrong_paths import of_conclusion

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault


class Conclusion:
    """The part of a marker that judges conclusions; the marker has call, key, rules, answers, ``give``, ``readable``
    and ``own_pattern``.
    """

    def choice(self, question: str) -> str | None:
        """Id behind the letter, or None after giving the mark."""
        rows = self.call.choices[question]
        if not self.readable(question):
            return None
        letter = self.answers[question].value
        for row in rows:
            if row["letter"] == letter:
                return row["id"]
        self.give(question, False, "unknown_letter", given=letter, allowed=", ".join(r["letter"] for r in rows))
        return None

    def fitting_faults(self, pattern: list[str]) -> set[str]:
        """Faults whose solved patterns come nearest to ``pattern`` (at most one verdict away)."""
        away = {
            fault: min((sum(a != b for a, b in zip(row, pattern, strict=True)) for row in rows), default=9)
            for fault, rows in self.key["patterns"].items()
        }
        best = min(away.values())
        return {fault for fault, distance in away.items() if distance == best and best <= 1}

    def faults(self) -> str | None:
        """Several faults at once: a mark for each that is named, one less for each that is not there."""
        if not self.readable("fault"):
            return None
        rows = {row["letter"]: row["id"] for row in self.call.choices["fault"]}
        letters = self.answers["fault"].value
        unknown = [letter for letter in letters if letter not in rows]
        if unknown:
            self.give("fault", False, "unknown_letter", given=unknown[0], allowed=", ".join(sorted(rows)))
            return None
        named, planted = [rows[letter] for letter in letters], self.key["faults"]
        hits = [fault for fault in planted if fault in named]
        earned = max(len(hits) - (len(named) - len(hits)), 0)
        code = "fault_right" if earned == len(planted) else "faults_part" if hits else "fault_wrong"
        points = earned * self.questions["fault"]["points"] // len(planted)
        self.give(
            "fault",
            points,
            code,
            fault=self.key["fault_name"],
            hits=len(hits),
            wrong=len(named) - len(hits),
            of=len(planted),
        )
        return (hits or named)[0]

    def fault(self) -> str | None:
        if len(self.key["faults"]) > 1:
            return self.faults()
        chosen = self.choice("fault")
        if chosen is None:
            return None
        true, pattern = self.key["fault"], self.own_pattern()
        left_open = chosen in self.key.get("also_open", ())
        if chosen != true and (left_open or chosen in self.rules.accepted("fault")):
            self.give("fault", True, "fault_open" if left_open else "accepted", fault=self.key["fault_name"])
            return chosen
        own_differs = pattern[:-1] != [self.key["verdicts"][name] for name in FIGURES]
        fitting = self.fitting_faults(pattern) if own_differs else {true}
        if chosen == true:
            self.give(
                "fault", True, "fault_right" if true in fitting else "fault_right_despite", fault=self.key["fault_name"]
            )
        elif chosen in fitting:
            self.give("fault", True, "fault_follows", fault=self.key["fault_name"])
        elif path := of_conclusion(self.key, chosen):
            self.give(
                "fault",
                False,
                "fault_wrong_path",
                fault=self.key["fault_name"],
                mistake=path["text"],
                feedback=path["feedback"],
            )
        else:
            self.give("fault", False, "fault_wrong", fault=self.key["fault_name"])
        return chosen

    def evidence(self, chosen: str | None) -> None:
        if not self.readable("evidence"):
            return
        rows = {row["letter"]: row["id"] for row in self.call.choices["evidence"]}
        letters = self.answers["evidence"].value
        unknown = [letter for letter in letters if letter not in rows]
        if unknown:
            self.give("evidence", False, "unknown_letter", given=unknown[0], allowed=", ".join(sorted(rows)))
            return
        named = [rows[letter] for letter in letters]
        pattern = dict(zip((*FIGURES, "drier_drop"), self.own_pattern(), strict=True))
        off = {name for name, verdict in pattern.items() if verdict != RIGHT} or {"all_on_target"}
        idle = [name for name in named if name not in off]
        true = self.key["faults"] or [self.key["fault"]]
        deciding = self._deciding((chosen, *true), off)
        if not idle and set(named) & set(deciding):
            self.give("evidence", True, "evidence_right")
        elif set(named) <= set(self.key["evidence"]) and set(named) & set(
            self._deciding(true, set(self.key["evidence"]))
        ):
            self.give("evidence", True, "evidence_right_despite")
        elif idle:
            self.give("evidence", False, "evidence_not_off", item=EVIDENCE[idle[0]])
        else:
            self.give("evidence", None, "evidence_not_deciding", deciding=EVIDENCE[deciding[0]])

    def _deciding(self, faults: tuple[Fault, ...], off: set[str]) -> list[str]:
        """Figures among ``off`` that decide for one of ``faults``; all of them where none does."""
        return [name for fault in faults if fault for name in self.key["deciders"][fault] if name in off] or sorted(off)

    def action(self, chosen: str | None) -> None:
        action = self.choice("action")
        if action is None:
            return
        if action == self.key["action"] or action in self.rules.accepted("action"):
            self.give("action", True, "action_right" if action == self.key["action"] else "accepted")
        elif action in self.key["faults"][1:]:
            then = consequence(self.key.get("correction"), "second_first")
            self.give(
                "action",
                None,
                "action_second_led_to" if then else "action_second_first",
                action=self.key["mend"][0],
                **({"consequence": then} if then else {}),
            )
        elif action == chosen:
            self.give("action", True, "action_follows")
        else:
            then = consequence(self.key.get("correction"), WRONG_PLANS.get(action))
            self.give(
                "action",
                False,
                "action_led_to" if then else "action_wrong",
                action=ACTIONS[self.key["action"]],
                **({"consequence": then} if then else {}),
            )
