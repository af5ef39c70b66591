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
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.drill_marks import lettered, title
from wolfsbane.server.exchange.qti_scoring import NUMERIC, add, processing
from wolfsbane.server.printing.dial_svg import whole_svg

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

NS = "http://www.imsglobal.org/xsd/imsqti_v2p1"
_CP = "http://www.imsglobal.org/xsd/imscp_v1p1"
_WORDS = {"verdict": ("low", "right", "high"), "change": ("down", "same", "up")}
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


def _pictures(body: dict[str, Any], name: str) -> dict[str, str]:
    """Pictures of an item: file name -> SVG text."""
    if frozen_body.is_drill(body):
        return {f"{name}-dial-{i['number']}.svg": whole_svg(i["dial"]) for i in body["drill"]["items"] if i.get("dial")}
    if body["instruments"] != "analogue" or body["key"].get("rig"):
        return {}
    return {
        f"{name}-{side}.svg": whole_svg(
            dial(
                side,
                body["units"],
                body["readings"][key]["value"],
                body["machine"]["refrigerant"],
                body["conditions"]["barometer_pa"],
            )
        )
        for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))
    }


def _item(body: dict[str, Any], name: str, pictures: list[str]) -> Element:
    drill = frozen_body.is_drill(body)
    shown = title(body["drill"]) if drill else body["machine"]["name"]
    root = Xml.Element(
        "assessmentItem",
        {"xmlns": NS, "identifier": name, "title": shown, "adaptive": "false", "timeDependent": "false"},
    )
    questions, key = frozen_body.questions_of(body), frozen_body.key_answers(body)
    asked = [q for q in questions if q["kind"] != "text"]
    for q in asked:
        _declare(root, q, key[q["id"]])
    for outcome, value in (("SCORE", 0), ("MAXSCORE", sum(q["points"] for q in asked))):
        declared = add(root, "outcomeDeclaration", identifier=outcome, cardinality="single", baseType="float")
        add(add(declared, "defaultValue"), "value", str(value))
    content = add(root, "itemBody")
    (_drill_story if drill else _story)(content, body, pictures)
    for number, q in enumerate(asked, 1):
        _interaction(content, body, q, number)
    processing(root, body, asked)
    return root


def _declare(root: Element, q: dict[str, Any], key: str) -> None:
    kind = (
        "float" if q["kind"] in NUMERIC else "identifier" if q["kind"] in (*_WORDS, "letter", "letters") else "string"
    )
    several = q["kind"] == "letters"
    declared = add(
        root, "responseDeclaration", identifier=q["id"], cardinality="multiple" if several else "single", baseType=kind
    )
    correct = add(declared, "correctResponse")
    for value in key.replace("/", " ").split() if several else [key.lstrip("+") if kind == "float" else key]:
        add(correct, "value", value)


def _story(content: Element, body: dict[str, Any], pictures: list[str]) -> None:
    for line in (body["complaint"], body.get("history", ""), *body["look_round"]):
        if line:
            add(content, "p", line)
    _table(content, [(row["label"], row["text"]) for row in body["machine"]["plate"]])
    if pictures:
        block = add(content, "p")
        for file in pictures:
            add(
                block,
                "img",
                src=file,
                alt="low side gauge" if "low" in file else "high side gauge",
                width="320",
                height="320",
            )
    _table(
        content,
        [
            (row["label"], row["text"])
            for key, row in in_order(body["readings"]).items()
            if not body["key"].get("rig") and not (pictures and key.endswith("_pressure"))
        ],
    )


def _table(content: Element, rows: list[tuple[str, ...]]) -> None:
    """Two columns; the standard wants at least one row in a body."""
    if not rows:
        return
    body = add(add(content, "table"), "tbody")
    for label, text in rows:
        line = add(body, "tr")
        add(line, "td", label)
        add(line, "td", text)


def _drill_story(content: Element, body: dict[str, Any], pictures: list[str]) -> None:
    add(content, "p", body["drill"]["instruction"])
    by_number = {p.rsplit("-", 1)[-1].removesuffix(".svg"): p for p in pictures}
    for item in body["drill"]["items"]:
        add(
            content, "p", f"{item['number']}. {item['prompt']}" + (f" ({item['worked']})" if item.get("worked") else "")
        )
        for line in [line for line in item.get("lines") or () if isinstance(line, str)] + [
            f"{row['letter']}: {row['text']}" for row in lettered(item)
        ]:
            add(content, "p", line)
        if str(item["number"]) in by_number:
            add(add(content, "p"), "img", src=by_number[str(item["number"])], alt="gauge", width="320", height="320")


def _interaction(content: Element, body: dict[str, Any], q: dict[str, Any], number: int) -> None:
    text = f"{number}. {q['text']}" + (f" ({q['unit']})" if q["unit"] else "")
    choices = [] if frozen_body.is_drill(body) else body["choices"].get(q["id"], [])
    if q["kind"] in ("letter", "letters") and choices:
        made = add(
            content,
            "choiceInteraction",
            responseIdentifier=q["id"],
            shuffle="false",
            maxChoices=1 if q["kind"] == "letter" else 0,
        )
        add(made, "prompt", text)
        for row in choices:
            add(made, "simpleChoice", row["text"], identifier=row["letter"])
        return
    if q["kind"] in _WORDS:
        made = add(content, "choiceInteraction", responseIdentifier=q["id"], shuffle="false", maxChoices=1)
        add(made, "prompt", text)
        for word in _WORDS[q["kind"]]:
            add(made, "simpleChoice", word, identifier=word)
        return
    if q["kind"] == "steps":
        for row in choices:
            add(content, "p", f"{row['number']}: {row['text']}")
    line = add(content, "p", text + " ")
    add(line, "textEntryInteraction", responseIdentifier=q["id"], expectedLength=12)
