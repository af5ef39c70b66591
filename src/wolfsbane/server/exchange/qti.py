"""A sheet as an IMS QTI 2.1 content package: one test for each paper, one item for each call or drill, no names.

The published schema was not at hand (docs/formats/exchange.md). Structure, content and scoring are tested against
another implementation of the standard, and the round trip; no more is claimed.
"""

from __future__ import annotations

import io
import zipfile
from typing import TYPE_CHECKING, Any
from xml.etree import ElementTree as Xml

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.instruments import in_order
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.drill_marks import lettered, title
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.situation import Situation
from wolfsbane.server.exchange.qti_scoring import NUMERIC, add, processing
from wolfsbane.server.printing.dial_svg import whole_svg
from wolfsbane.server.printing.trace_svg import trace_svg, trace_words

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.paper.questions import Question

NS = "http://www.imsglobal.org/xsd/imsqti_v2p1"
_CP = "http://www.imsglobal.org/xsd/imscp_v1p1"
_WORDS = {"verdict": (LOW, NORMAL, HIGH), "change": ("down", "same", "up")}
#: a fixed moment for every file, so that the same sheet gives the same package
_STAMP = (2020, 1, 1, 0, 0, 0)


def package(sheet: dict[str, Any], papers: list[dict[str, Any]]) -> bytes:
    """ZIP bytes. ``sheet`` has id and title; ``papers`` are {code, calls: [frozen body]}."""
    files: dict[Any, Any] = {}
    tests: list[Any] = []
    for paper in papers:
        refs = []
        for number, body in enumerate(paper["calls"], 1):
            name = f"item-{paper['code']}-{number}"
            pictures = _pictures(body, name)
            files |= {f"items/{file}": svg.encode() for file, svg in pictures.items()}
            files[f"items/{name}.xml"] = _text(_item(body, name, list(pictures)))
            refs.append((name, [f"items/{p}" for p in pictures]))
        test = f"test-{paper['code']}"
        files[f"{test}.xml"] = _text(_test(sheet, paper["code"], test, [n for n, _ in refs]))
        tests.append((test, refs))
    files["imsmanifest.xml"] = _text(_manifest(sheet, tests))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in sorted(files, key=lambda n: (n != "imsmanifest.xml", n)):
            archive.writestr(zipfile.ZipInfo(name, _STAMP), files[name], zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _text(element: Element) -> bytes:
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(element, encoding="utf-8")


def _manifest(sheet: dict[str, Any], tests: list[tuple[str, list[tuple[str, list[str]]]]]) -> Element:
    root = Xml.Element("manifest", {"xmlns": _CP, "identifier": f"sheet-{sheet['id']}"})
    meta = add(root, "metadata")
    add(meta, "schema", "QTIv2.1 Package")
    add(meta, "schemaversion", "1.0.0")
    add(root, "organizations")
    resources = add(root, "resources")
    for test, refs in tests:
        row = add(resources, "resource", identifier=test, type="imsqti_test_xmlv2p1", href=f"{test}.xml")
        add(row, "file", href=f"{test}.xml")
        for name, _ in refs:
            add(row, "dependency", identifierref=name)
        for name, pictures in refs:
            row = add(resources, "resource", identifier=name, type="imsqti_item_xmlv2p1", href=f"items/{name}.xml")
            for href in (f"items/{name}.xml", *pictures):
                add(row, "file", href=href)
    return root


def _test(sheet: dict[str, Any], code: str, identifier: str, names: list[str]) -> Element:
    root = Xml.Element("assessmentTest", {"xmlns": NS, "identifier": identifier, "title": f"{sheet['title']} ({code})"})
    part = add(root, "testPart", identifier="calls", navigationMode="nonlinear", submissionMode="simultaneous")
    section = add(part, "assessmentSection", identifier="sheet", title=sheet["title"], visible="true")
    for name in names:
        add(section, "assessmentItemRef", identifier=name, href=f"items/{name}.xml")
    outcome = add(root, "outcomeProcessing")
    total = add(add(outcome, "setOutcomeValue", identifier="SCORE"), "sum")
    add(total, "testVariables", variableIdentifier="SCORE")
    declared = Xml.Element("outcomeDeclaration", {"identifier": "SCORE", "cardinality": "single", "baseType": "float"})
    root.insert(0, declared)
    return root


def _pictures(body: Body, name: str) -> dict[str, str]:
    """Pictures of an item: file name -> SVG text."""
    if isinstance(body, DrillBody):
        dials = {i.get("number"): i["dial"] for i in body.drill["items"] if "dial" in i}
        return {f"{name}-dial-{number}.svg": whole_svg(drawn) for number, drawn in dials.items()}
    if isinstance(body, Situation):
        return {f"{name}-strip-{i}.svg": trace_svg(one) for i, one in enumerate(body.traces, 1)}
    if body.instruments != "analogue" or frozen_body.on_rig(body):
        return {}
    refrigerant, barometer_pa = body.machine.refrigerant, body.conditions.barometer_pa
    return {
        f"{name}-{side}.svg": whole_svg(dial(side, body.units, body.readings[key].value, refrigerant, barometer_pa))
        for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))
    }


def _item(body: Body, name: str, pictures: list[str]) -> Element:
    shown = title(body.drill["kind"]) if isinstance(body, DrillBody) else body.machine.name
    shown = body.title if isinstance(body, Situation) else shown
    root = Xml.Element(
        "assessmentItem",
        {"xmlns": NS, "identifier": name, "title": shown, "adaptive": "false", "timeDependent": "false"},
    )
    questions, key = frozen_body.questions_of(body), frozen_body.key_answers(body)
    asked = [q for q in questions if q.kind != "text"]
    for q in asked:
        _declare(root, q, key[q.id])
    for outcome, value in (("SCORE", 0), ("MAXSCORE", sum(q.points for q in asked))):
        declared = add(root, "outcomeDeclaration", identifier=outcome, cardinality="single", baseType="float")
        add(add(declared, "defaultValue"), "value", str(value))
    content = add(root, "itemBody")
    if isinstance(body, DrillBody):
        _drill_story(content, body, pictures)
    elif isinstance(body, Situation):
        _situation_story(content, body, pictures)
    else:
        _story(content, body, pictures)
    for number, q in enumerate(asked, 1):
        _interaction(content, body, q, number)
    processing(root, body, asked)
    return root


def _declare(root: Element, q: Question, key: str) -> None:
    kind = "float" if q.kind in NUMERIC else "identifier" if q.kind in (*_WORDS, "letter", "letters") else "string"
    several = q.kind == "letters"
    declared = add(
        root, "responseDeclaration", identifier=q.id, cardinality="multiple" if several else "single", baseType=kind
    )
    correct = add(declared, "correctResponse")
    for value in key.replace("/", " ").split() if several else [key.lstrip("+") if kind == "float" else key]:
        add(correct, "value", value)


def _story(content: Element, body: Call, pictures: list[str]) -> None:
    for line in (body.complaint, body.history, body.done, *body.look_round):
        if line:
            add(content, "p", line)
    _table(content, [(row.label, row.text) for row in body.machine.plate])
    if pictures:
        block = add(content, "p")
        for file in pictures:
            alt = "low side gauge" if "low" in file else "high side gauge"
            add(block, "img", src=file, alt=alt, width="320", height="320")
    given = {} if frozen_body.on_rig(body) else in_order(body.readings)
    _table(content, [(r.label, r.text) for key, r in given.items() if not (pictures and key.endswith("_pressure"))])
    for name, beside in (("Circuit 2", body.twin), ("First visit", body.before)):
        if given and beside:
            add(content, "p", name)
            _table(content, [(r.label, r.text) for r in in_order(beside).values()])


def _table(content: Element, rows: list[tuple[str, ...]]) -> None:
    """As many columns as the rows have; the standard wants at least one row in a body."""
    if not rows:
        return
    body = add(add(content, "table"), "tbody")
    for row in rows:
        line = add(body, "tr")
        for cell in row:
            add(line, "td", cell)


def _drill_story(content: Element, body: DrillBody, pictures: list[str]) -> None:
    add(content, "p", body.drill["instruction"])
    by_number = {p.rsplit("-", 1)[-1].removesuffix(".svg"): p for p in pictures}
    for item in body.drill["items"]:
        number, worked = str(item.get("number")), item.get("worked")
        add(content, "p", f"{number}. {item['prompt']}" + (f" ({worked})" if worked else ""))
        lines = [line for line in item.get("lines") or () if isinstance(line, str)]
        for line in lines + [f"{row['letter']}: {row['text']}" for row in lettered(item)]:
            add(content, "p", line)
        if number in by_number:
            add(add(content, "p"), "img", src=by_number[number], alt="gauge", width="320", height="320")


def _situation_story(content: Element, body: Situation, pictures: list[str]) -> None:
    for line in (body.complaint, *body.looks):
        if line:
            add(content, "p", line)
    _table(content, [(row.label, row.text) for row in body.machine.plate])
    for table in body.tables:
        add(content, "p", table.title)
        _table(content, [table.columns, *table.rows])
    for one, file in zip(body.traces, pictures, strict=True):
        add(content, "p", one.title)
        add(add(content, "p"), "img", src=file, alt=trace_words(one), width="620", height="116")


def _interaction(content: Element, body: Body, q: Question, number: int) -> None:
    text = f"{number}. {q.text}" + (f" ({q.unit})" if q.unit else "")
    choices = frozen_body.choices_of(body, q.id)
    if choices or q.kind in _WORDS:
        several = 0 if q.kind == "letters" else 1
        made = add(content, "choiceInteraction", responseIdentifier=q.id, shuffle="false", maxChoices=several)
        add(made, "prompt", text)
        offered = [(letter, said) for letter, _, said in choices] or [(word, word) for word in _WORDS[q.kind]]
        for identifier, said in offered:
            add(made, "simpleChoice", said, identifier=identifier)
        return
    if q.kind == "steps" and isinstance(body, Call):
        for row in body.choices.order:
            add(content, "p", f"{row.number}: {row.text}")
    line = add(content, "p", text + " ")
    add(line, "textEntryInteraction", responseIdentifier=q.id, expectedLength=12)
