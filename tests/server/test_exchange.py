"""Open files: gradebook as screen, CSV and XLSX; QTI packages there and back;
a whole school out and into an empty one.
"""

import csv
import io
import json
import zipfile
from xml.etree import ElementTree as Xml

import openpyxl
import pytest

from tests.server.conftest import as_key, bodies, codes
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.server.core.current import database_of
from wolfsbane.server.exchange import school as exchanged
from wolfsbane.server.exchange.qti import NS
from wolfsbane.server.exchange.qti_scoring import tolerance_of
from wolfsbane.server.exchange.school import TABLES
from wolfsbane.server.services import results

Q = f"{{{NS}}}"


def mark_all(app, teacher, sheet):
    for index, code in enumerate(codes(teacher, sheet)):
        for position in (1, 2):
            teacher.put(
                f"/papers/{code}/answers",
                {
                    "call": position,
                    "answers": as_key(app, code, position, **({"fault": ""} if index == position else {})),
                },
            )


# gradebook
# ---------------------------------------------------------------------------


@pytest.mark.parametrize(
    "text", ["=1", "@x", "-2+3+cmd|' /C calc'!A0", "+1 555", "-", "\t=1", "\r1", "--1", "-1e", "+"]
)
def test_what_a_spreadsheet_would_run_is_quoted(text):
    assert results.plain(text) == "'" + text


@pytest.mark.parametrize("text", ["-3", "+7", "-0.5", "-1e3", "12", "", "Ada", "low, -3", "-,5"])
def test_a_number_and_plain_words_are_not(text):
    assert results.plain(text) == text


def test_screen_csv_and_xlsx_hold_the_same_numbers(app, teacher, sheet):
    mark_all(app, teacher, sheet)
    class_id = sheet["class_id"]
    teacher.post(f"/classes/{class_id}/apprentices", {"people": [{"name": "=1+1", "number": "+7", "group": "@x"}]})
    screen = teacher.get(f"/classes/{class_id}/gradebook").json
    rows = list(csv.reader(io.StringIO(teacher.get(f"/classes/{class_id}/gradebook.csv").text)))
    book = openpyxl.load_workbook(io.BytesIO(teacher.get(f"/classes/{class_id}/gradebook.xlsx").data))
    sheet_rows = [["" if v is None else v for v in row] for row in book.active.iter_rows(values_only=True)]
    assert sheet_rows[0] == screen["header"] == rows[0]
    assert sheet_rows[1:] == screen["rows"]

    def number(v):
        return float(v) if str(v).replace(".", "", 1).isdigit() else v

    assert [[number(v) for v in row] for row in rows[1:4]] == [[number(v) for v in row] for row in screen["rows"][:3]]
    assert (
        [r[3] for r in screen["rows"][:3]]
        == [r["earned"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]]
        == [66, 60, 60]
    )
    # What looks like a formula is text in both.
    assert (
        rows[4][:3] == ["+7", "'=1+1", "'@x"] and sheet_rows[4][1] == "=1+1" and book.active.cell(5, 2).data_type == "s"
    )


# QTI
# ---------------------------------------------------------------------------


def opened(teacher, sheet):
    return zipfile.ZipFile(io.BytesIO(teacher.get(f"/sheets/{sheet['id']}/qti.zip").data))


def test_a_qti_package_names_every_file_once_and_every_test_every_item(teacher, mixed):
    archive = opened(teacher, mixed)
    root = Xml.fromstring(archive.read("imsmanifest.xml"))
    cp = root.tag.split("}")[0] + "}"
    resources = root.findall(f"{cp}resources/{cp}resource")
    hrefs = [f.get("href") for r in resources for f in r.findall(f"{cp}file")]
    assert sorted(hrefs) == sorted(n for n in archive.namelist() if n != "imsmanifest.xml") and len(hrefs) == len(
        set(hrefs)
    )
    kinds = [r.get("type") for r in resources]
    assert kinds.count("imsqti_test_xmlv2p1") == 3 and kinds.count("imsqti_item_xmlv2p1") == 9
    names = {r.get("identifier") for r in resources}
    for resource in resources:
        assert all(d.get("identifierref") in names for d in resource.findall(f"{cp}dependency"))
        if resource.get("type") == "imsqti_test_xmlv2p1":
            test = Xml.fromstring(archive.read(resource.get("href")))
            refs = [r.get("identifier") for r in test.iter(f"{Q}assessmentItemRef")]
            assert refs == [d.get("identifierref") for d in resource.findall(f"{cp}dependency")] and len(refs) == 3
    assert not any(
        name in archive.read(n).decode()
        for n in archive.namelist()
        if n.endswith(".xml")
        for name in ("Ada Quill", "Bo Fenn")
    )


def read_item(archive, name):
    """An item read back: question id -> (kind, correct answer, choices, tolerance, points)."""
    root = Xml.fromstring(archive.read(f"items/{name}.xml"))
    found = {}
    for declared in root.findall(f"{Q}responseDeclaration"):
        values = [v.text for v in declared.iter(f"{Q}value")]
        found[declared.get("identifier")] = {
            "base": declared.get("baseType"),
            "correct": " ".join(values),
            "choices": [],
            "tolerance": None,
        }
    for made in root.iter(f"{Q}choiceInteraction"):
        found[made.get("responseIdentifier")]["choices"] = [
            (c.get("identifier"), c.text) for c in made.findall(f"{Q}simpleChoice")
        ]
    entries = {e.get("responseIdentifier") for e in root.iter(f"{Q}textEntryInteraction")}
    for condition in root.iter(f"{Q}responseIf"):
        test = next(e for e in condition.iter() if e.tag in (f"{Q}equal", f"{Q}match", f"{Q}member"))
        row = found[test.find(f"{Q}variable").get("identifier")]
        row["tolerance"] = test.get("tolerance") and float(test.get("tolerance").split()[0])
        row["points"] = int(condition.find(f"{Q}setOutcomeValue/{Q}sum/{Q}baseValue").text)
    assert all((q in entries) != bool(row["choices"]) for q, row in found.items())
    return found


def test_items_come_back_with_the_same_questions_key_tolerance_and_points(app, teacher, mixed):
    archive = opened(teacher, mixed)
    for code in codes(teacher, mixed):
        for number, body in enumerate(bodies(app, code), 1):
            found, key = read_item(archive, f"item-{code}-{number}"), frozen_body.key_answers(body)
            asked = [q for q in frozen_body.questions_of(body) if q.kind != "text"]
            assert list(found) == [q.id for q in asked]
            for q in asked:
                row = found[q.id]
                assert row["correct"] == key[q.id].lstrip("+") or float(row["correct"]) == float(key[q.id]), q.id
                assert row["points"] == q.points and (row["base"] == "float") == (row["tolerance"] is not None)
                if row["tolerance"] is not None:
                    assert row["tolerance"] == pytest.approx(tolerance_of(body, q), rel=1e-4)
                if q.kind == "letter" and not isinstance(body, DrillBody):
                    assert row["choices"] == [(c.letter, c.text) for c in body.choices.lettered(q.id)]


def test_an_analogue_item_carries_its_dials_and_not_the_pressures(app, teacher, sheet):
    archive, code = opened(teacher, sheet), codes(teacher, sheet)[0]
    body = bodies(app, code)[0]
    text = archive.read(f"items/item-{code}-1.xml").decode()
    assert body.readings["suction_pressure"].text not in text and body.readings["suction_line"].text in text
    svg = archive.read(f"items/item-{code}-1-low.svg").decode()
    assert Xml.fromstring(svg).tag.endswith("svg") and "rotate(" in svg
    angle = float(svg.split("rotate(")[1].split()[0])
    assert angle == pytest.approx(-135 + 270 * body.readings["suction_pressure"].value / 250, abs=0.01)


def test_the_same_sheet_gives_the_same_package(teacher, sheet):
    assert teacher.get(f"/sheets/{sheet['id']}/qti.zip").data == teacher.get(f"/sheets/{sheet['id']}/qti.zip").data


# a whole school
# ---------------------------------------------------------------------------


def send(client, data):
    return client._client.post(
        "/api/v1/school/import", data=data, content_type="application/zip", headers={"X-CSRF-Token": client.csrf}
    )


def test_a_school_goes_out_and_into_an_empty_one_with_every_mark(app, teacher, stranger, sheet):
    mark_all(app, teacher, sheet)
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/override", {"call": 1, "question": "ctoa", "earned": 0, "reason": "seen copying"})
    data = teacher.get("/school/export.zip").data
    text = "".join(
        zipfile.ZipFile(io.BytesIO(data)).read(n).decode() for n in zipfile.ZipFile(io.BytesIO(data)).namelist()
    )
    assert "argon2" not in text and "password_hash" not in text
    rows = send(stranger, data).json["rows"]
    assert rows["papers"] == 3 and rows["scenarios"] == 2 and rows["users"] == 3
    theirs = stranger.get("/sheets").json["sheets"][0]
    assert [
        (r["name"], r["code"], r["earned"]) for r in stranger.get(f"/sheets/{theirs['id']}/results").json["rows"]
    ] == [(r["name"], r["code"], r["earned"]) for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]]
    assert (
        stranger.get(f"/papers/{code}").json["calls"][0]["marks"]
        == teacher.get(f"/papers/{code}").json["calls"][0]["marks"]
    )
    assert "seen copying" in str(stranger.get(f"/sheets/{theirs['id']}/audit").json)
    assert stranger.get(f"/sheets/{theirs['id']}/documents/packet").data[:5] == b"%PDF-"
    logins = {a["login"] for a in stranger.get("/accounts").json["accounts"]}
    assert logins == {"stranger", "teacher", "pupil", "helper"}
    # Going on works: the imported sheet is marked by the importer, and the rest of its first school is untouched.
    assert stranger.put(f"/papers/{code}/answers", {"call": 1, "answers": {"superheat": "99"}}).status_code == 200
    assert send(stranger, data).status_code == 409
    # Out again, and the files say the same.
    again = zipfile.ZipFile(io.BytesIO(stranger.get("/school/export.zip").data))

    def kept(archive):
        return [json.loads(line)["body"] for line in archive.read("paper_calls.jsonl").decode().splitlines()]

    assert kept(again) == kept(zipfile.ZipFile(io.BytesIO(data)))


def test_a_sheet_that_was_being_made_or_printed_when_the_school_went_out_can_be_issued_again(
    app, teacher, stranger, sheet
):
    with database_of(app).transaction() as connection:
        connection.execute("update sheets set printing = 'on'")
        connection.execute(
            "insert into sheets (school_id, class_id, title, units, seed, total, status, solver_version, table_hash,"
            " rubric_version, created_by) select school_id, class_id, 'Half made', units, seed, total, 'building',"
            " solver_version, table_hash, rubric_version, created_by from sheets"
        )
    assert send(stranger, teacher.get("/school/export.zip").data).status_code == 200
    rows = {s["title"]: s for s in stranger.get("/sheets").json["sheets"]}
    assert rows["Half made"]["status"] == "cancelled" and rows["Friday"]["status"] == "ready"
    assert stranger.get(f"/sheets/{rows['Friday']['id']}").json["printing"] is None


def test_rigs_cylinders_and_closed_days_go_with_the_school(app, teacher, stranger):
    rig = teacher.post("/rigs", {"rig": {"schema": 1, "name": "Rig A", "machine": "split-3t-r410a-txv"}}).json["row"]
    bottle = {"name": "N1", "kind": "new", "refrigerant": "R-410A", "tare": "8.6", "water": "29.4", "gross": "25"}
    made = teacher.post("/cylinders", bottle | {"retest_on": "2031-05-01"}).json["cylinders"][0]
    move = {"kind": "charge", "cylinder_id": made["id"], "rig_id": rig["id"], "log": "1", "before": "25"}
    moved = teacher.post("/refrigerant/moves", move | {"after": "24"})
    assert moved.status_code == 201, moved.json
    with database_of(app).transaction() as connection:
        connection.execute(
            "insert into refrigerant_days (school_id, day, totals) select school_id, '2026-01-05', '[]' from cylinders"
        )
    data = teacher.get("/school/export.zip").data
    rows = send(stranger, data).json["rows"]
    assert (rows["rigs"], rows["cylinders"], rows["refrigerant_moves"], rows["refrigerant_days"]) == (1, 1, 1, 1)
    theirs, ours = (c.get("/refrigerant").json["cylinders"][0] for c in (stranger, teacher))
    assert theirs | {"id": 0} == ours | {"id": 0} and "2031-05-01" in str(theirs)


def test_a_school_exported_before_there_were_rigs_comes_in(teacher, stranger, sheet):
    later = ("rigs", "rig_events", "rig_baselines", "rig_settings", "cylinders", "refrigerant_moves", "own_practices")
    source, out = zipfile.ZipFile(io.BytesIO(teacher.get("/school/export.zip").data)), io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name in source.namelist():
            if name.split(".")[0] in later:
                continue
            raw = source.read(name)
            if name == "school.json":
                told = json.loads(raw)
                told["files"] = {n: h for n, h in told["files"].items() if n.split(".")[0] not in later}
                raw = json.dumps(told).encode()
            archive.writestr(name, raw)
    rows = send(stranger, out.getvalue()).json["rows"]
    assert rows["rigs"] == 0 and rows["papers"] == 3


def test_every_table_of_a_school_goes_with_it_or_is_known_to_stay(app):
    stays = {
        "sessions",  # log-ins of this server
        "login_devices",
        "account_codes",
        "user_identities",
        "lti_platforms",  # joined with this server's address
        "lti_courses",
        "lti_people",
        "lti_staff",
        "lti_launches",
        "lti_points",
        "drawn_calls",  # sheets that are being made
        "documents",  # printed again from the frozen calls
        "lab_rotations",  # a lesson that runs
        "projections",
        "rig_photos",  # pictures and samples: exported rig by rig
        "rig_samples",
        "rig_minutes",
        "rig_watch",
    }
    with database_of(app).transaction() as connection:
        found = connection.execute(
            "select table_name from information_schema.columns where column_name = 'school_id'"
            " and table_schema = current_schema()"
        ).fetchall()
    assert {row["table_name"] for row in found} - stays == set(TABLES)


def changed(data, name, change):
    source = zipfile.ZipFile(io.BytesIO(data))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for n in source.namelist():
            raw = source.read(n)
            archive.writestr(n, change(raw) if n == name else raw)
    return out.getvalue()


def rehashed(data, name, change):
    """The same with the manifest's hash repaired, as somebody would who edits by hand."""
    import hashlib

    data = changed(data, name, change)
    digest = hashlib.sha256(zipfile.ZipFile(io.BytesIO(data)).read(name)).hexdigest()

    def manifest(raw):
        found = json.loads(raw)
        found["files"][name] = digest
        return json.dumps(found).encode()

    return changed(data, "school.json", manifest)


@pytest.mark.parametrize(
    ("damage", "word"),
    [
        (lambda d: b"not a zip", "unreadable"),
        (lambda d: d[: len(d) // 2], "unreadable"),
        (lambda d: changed(d, "marks.jsonl", lambda raw: raw + b"{}\n"), "hash does not match"),
        (
            lambda d: rehashed(d, "papers.jsonl", lambda raw: raw.replace(b'"sheet_id": ', b'"sheet_id": 9')),
            "a row of sheets",
        ),
        (lambda d: rehashed(d, "classes.jsonl", lambda raw: raw.replace(b'"term"', b'"mood"')), "columns of classes"),
        (
            lambda d: rehashed(d, "paper_calls.jsonl", lambda raw: raw.replace(b'"solver_version"', b'"feelings"')),
            "frozen calls",
        ),
        (
            lambda d: rehashed(d, "sheets.jsonl", lambda raw: raw.replace(b'"ready"', b'"dancing"')),
            "rows a school can hold",
        ),
        (
            lambda d: rehashed(
                d, "users.jsonl", lambda raw: raw.replace(b'"name": ', b'"password_hash": "x", "name": ', 1)
            ),
            "columns of users",
        ),
    ],
)
def test_a_damaged_or_foreign_file_is_refused_whole(teacher, stranger, sheet, damage, word):
    reply = send(stranger, damage(teacher.get("/school/export.zip").data))
    assert reply.status_code == 422 and word in reply.json["error"]["message"], reply.json
    assert stranger.get("/classes").json["classes"] == [] and stranger.get("/sheets").json["sheets"] == []


def test_only_that_route_takes_a_file(teacher):
    reply = teacher._client.post(
        "/api/v1/classes", data=b"x", content_type="application/zip", headers={"X-CSRF-Token": teacher.csrf}
    )
    assert reply.status_code == 415


def lined(table, line):
    """A damage: one more line in a file, with its hash repaired."""
    return lambda d: rehashed(d, f"{table}.jsonl", lambda raw: raw + line + b"\n")


MACHINE_ROW = {"id": 1, "machine_id": "own-x", "name": "x", "tuned": {}, "created_by": 1, "created_at": "2026-01-05"}


@pytest.mark.parametrize(
    ("damage", "word"),
    [
        (lined("own_machines", json.dumps(MACHINE_ROW).encode()), "own_machines.jsonl line 1"),
        (lined("own_machines", json.dumps(MACHINE_ROW | {"tuned": None}).encode()), "machines of a school's own"),
        (lined("own_practices", b'{"id": 1, "practice_id": "own-x", "name": "x", "body": []}'), "practices"),
        (lined("rigs", b'{"id": 1, "body": {"schema": 1}, "columns": {}}'), "rigs ("),
        (lined("rigs", b'{"id": 1, "body": {}, "columns": []}'), "an object as columns"),
        (lined("lab_events", b'{"id": 1, "data": "x"}'), "an object as data"),
        (lined("classes", b"[" * 50_000), "unreadable"),
        (lined("classes", b"[1]"), "one JSON object a line"),
        (lined("classes", b'{"name": "' + b"x" * 9_000_000 + b'"}'), "lines of at most 8 MB"),
        (lambda d: rehashed(d, "sheet_calls.jsonl", lambda raw: raw.replace(b'"kind"', b'"mood"')), "items of a sheet"),
    ],
)
def test_no_row_comes_in_that_a_page_could_not_read(teacher, stranger, sheet, damage, word):
    reply = send(stranger, damage(teacher.get("/school/export.zip").data))
    assert reply.status_code == 422 and word in reply.json["error"]["message"], reply.json
    assert stranger.get("/classes").json["classes"] == [] and stranger.get("/machines").status_code == 200


def test_a_small_file_that_unpacks_to_much_is_refused_before_it_does(stranger, monkeypatch):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("school.json", "{}")
        archive.writestr("users.jsonl", b"x" * 3_000_000)
    assert len(out.getvalue()) < 5_000
    monkeypatch.setattr(exchanged, "_MAX_UNPACKED", 2_000_000)
    reply = send(stranger, out.getvalue())
    assert reply.status_code == 422 and "unpacked" in reply.json["error"]["message"]


def test_a_file_is_read_and_written_some_rows_at_a_time(teacher, stranger, sheet, monkeypatch):
    most, insert = [], exchanged.insert
    monkeypatch.setattr(exchanged, "_AT_ONCE", 2)
    monkeypatch.setattr(
        exchanged,
        "insert",
        lambda c, table, rows, numbered: most.append(len(rows)) or insert(c, table, rows, numbered=numbered),
    )
    assert send(stranger, teacher.get("/school/export.zip").data).status_code == 200
    assert max(most) == 2 and len(most) > 10


def test_a_dry_run_says_what_would_come_in_and_keeps_nothing(teacher, stranger, sheet):
    data = teacher.get("/school/export.zip").data
    headers = {"X-CSRF-Token": stranger.csrf}
    dry, real = (
        stranger._client.post(
            f"/api/v1/school/import{query}", data=data, content_type="application/zip", headers=headers
        )
        for query in ("?dry=true", "")
    )
    assert dry.status_code == 200 and dry.json["kept"] is False and dry.json["rows"]["papers"] == 3
    assert real.json == dry.json | {"kept": True}, "it found the school empty"
    assert any("imported a school" in row["did"] for row in stranger.get("/school/trail").json["rows"])
