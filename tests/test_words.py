"""One vocabulary: what users read is American and in the words of a shop, and the code names one thing one way."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
SRC = ROOT / "src/wolfsbane"
#: what an American technician would stumble over -> what is said instead
FOREIGN = {
    r"vapours?": "vapor",
    r"litres?": "liter",
    r"colours?": "color",
    r"metres?": "meter",
    r"centres?": "center",
    r"neighbours?": "neighbor",
    r"grey": "gray",
    r"cut-outs?": "cutout",
    r"sound machines?": "nothing wrong, normal",
    r"schools? of practice": "practice",
    r"mend(s|ed|ing)?": "repair",
    r"economisers?": "economizer",
    r"licences?": "certification",
    r"dearest": "most expensive",
    r"unlawful": "against the law",
    r"anew": "again",
    r"the maker": "the manufacturer",
    r"makers?'": "manufacturer's",
}
#: corners of the loop, tests, plate lines and sliders, whose names happen to be those of readings
NAMES_OF_THEIR_OWN = ("loop.py", "running.py", "nameplate.py", "handles.py")
STUMBLES = re.compile(r"\b(" + "|".join(FOREIGN) + r")\b", re.IGNORECASE)


def sentences(path):
    """(line, text) of every string with a space in it: what is shown, and docstrings."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and " " in node.value.strip():
            yield node.lineno, node.value


def test_no_sentence_of_the_product_is_foreign():
    found = [
        f"{path.relative_to(ROOT)}:{line}: {match[0]}"
        for path in sorted(SRC.rglob("*.py"))
        for line, text in sentences(path)
        if (match := STUMBLES.search(re.sub(r"(?i)\bsound\|healthy.*", "", text)))
    ]
    assert not found, found


@pytest.mark.parametrize("where", ["src/wolfsbane/server/printing/templates", "web/src", "docs", "README.md"])
def test_no_page_screen_or_document_is_foreign(where):
    root = ROOT / where
    files = [root] if root.is_file() else [p for p in root.rglob("*") if p.suffix in (".typ", ".vue", ".md")]
    found = [
        f"{path.relative_to(ROOT)}: {match[0]}"
        for path in files
        for match in STUMBLES.finditer(re.sub(r"`[^`]*`|<style.*?</style>", "", path.read_text(), flags=re.DOTALL))
    ]
    assert files and not found, found


def test_a_reading_or_figure_is_named_in_one_place():
    """``cycle/quantities.py`` names them; whoever shows one asks it."""
    from wolfsbane.cycle.quantities import READINGS, WORKED_OUT, name_of

    several = {name for key in (*READINGS, *WORKED_OUT) if " " in (name := name_of(key))}
    typed = [
        f"{path.relative_to(ROOT)}:{line}: {text}"
        for path in sorted(SRC.rglob("*.py"))
        if path.name not in ("quantities.py", *NAMES_OF_THEIR_OWN)
        for line, text in sentences(path)
        if text in several
    ]
    assert several and not typed, typed


@pytest.mark.parametrize("name", ["school_called", "MOST_", "boxed", "sound_share", "CancelledError"])
def test_a_name_that_was_given_up_does_not_come_back(name):
    pattern = re.compile(rf"\b{name}" if name.endswith("_") else rf"\b{name}\b")
    users = {
        path.relative_to(SRC).as_posix()
        for path in SRC.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, (ast.Name, ast.Attribute, ast.FunctionDef, ast.ClassDef))
        and pattern.match(getattr(node, "id", None) or getattr(node, "attr", None) or getattr(node, "name", ""))
    }
    assert not users, users
