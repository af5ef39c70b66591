"""Refrigerants and tables at their edges."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest

import wolfsbane
from wolfsbane import tables
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.properties import refrigerant


@pytest.mark.parametrize("name", tables.NAMES)
def test_saturation_goes_there_and_back(name):
    fluid = refrigerant(name)
    for pressure in np.geomspace(fluid.min_pa * 1.01, fluid.max_pa * 0.99, 40):
        for point in ("dew", "bubble"):
            assert fluid.saturation_pa(fluid.saturation_k(pressure, point), point) == pytest.approx(pressure, rel=1e-6)


def test_r410a_has_a_little_glide_and_r22_has_none():
    for pressure in (700e3, 2500e3):
        glide = refrigerant("R-410A").saturation_k(pressure, "dew") - refrigerant("R-410A").saturation_k(
            pressure, "bubble"
        )
        assert 0.02 < glide < 0.2
        r22 = refrigerant("R-22")
        assert r22.saturation_k(pressure, "dew") == pytest.approx(r22.saturation_k(pressure, "bubble"), abs=1e-4)


#: ASHRAE 34 safety classes, from memory, unverified
SAFETY = {
    "R-410A": "A1",
    "R-22": "A1",
    "R-32": "A2L",
    "R-454B": "A2L",
    "R-134a": "A1",
    "R-404A": "A1",
    "R-407C": "A1",
    "R-448A": "A1",
    "R-449A": "A1",
    "R-290": "A3",
    "R-600a": "A3",
}


@pytest.mark.parametrize("name", tables.NAMES)
def test_safety_class_and_how_it_is_charged(name):
    fluid = refrigerant(name)
    assert fluid.safety_class == SAFETY[name]
    assert fluid.charged_as_liquid == (name not in ("R-22", "R-32", "R-134a", "R-290", "R-600a")), (
        "blends are charged as liquid"
    )
    glide = fluid.glide_dk(800e3)
    assert glide == pytest.approx(0, abs=1e-3) if not fluid.charged_as_liquid else 0.02 < glide < 7


@pytest.mark.parametrize("name", tables.NAMES)
def test_every_table_rises_with_pressure_and_never_jumps(name):
    data = tables.load(name)[0]["saturation"]
    for row in (0, 1, 6):
        steps = np.diff(data[row])
        assert np.all(steps > 0) and np.max(steps[1:] / steps[:-1]) < 1.6
    assert np.all(data[1] >= data[0] - 1e-6), "dew lies above bubble"
    assert np.all(np.diff(data[5]) < 0), "liquid gets lighter"


@pytest.mark.parametrize(
    ("call", "field"),
    [
        (lambda f: f.saturation_k(1e7, "dew"), "pressure_pa"),
        (lambda f: f.saturation_k(1e3, "dew"), "pressure_pa"),
        (lambda f: f.saturation_pa(500, "bubble"), "temperature_k"),
        (lambda f: refrigerant("R-0"), "refrigerant"),
    ],
)
def test_outside_the_table_is_an_error_with_the_range(call, field):
    with pytest.raises(BadInputError) as error:
        call(refrigerant("R-410A"))
    assert error.value.field == field and error.value.allowed


def test_provenance_names_library_equation_and_class():
    for name in tables.NAMES:
        record = tables.load(name)[1]
        assert (
            record["library"].startswith("CoolProp")
            and record["equation"]
            and record["safety_class"] in ("A1", "A2L", "A3")
        )
        assert json.dumps(record)


def test_a_damaged_file_is_refused_at_load(monkeypatch):
    tables.load.cache_clear()
    monkeypatch.setattr(tables, "content_hash", lambda arrays: "0" * 64)
    with pytest.raises(ValueError, match="does not match its recorded hash"):
        tables.load("R-22")
    monkeypatch.undo()
    tables.load.cache_clear()
    assert tables.load("R-22")


def test_compiled_code_is_kept_apart_by_the_source_it_came_from(tmp_path):
    """A change in one part must not leave the circuit that calls it as it was."""
    import shutil
    from pathlib import Path

    package = tmp_path / "wolfsbane"
    shutil.copytree(Path(wolfsbane.__file__).parent, package, ignore=shutil.ignore_patterns("__pycache__", "server"))
    ask = "import os, wolfsbane; print(os.environ['NUMBA_CACHE_DIR'])"
    environment = {k: v for k, v in os.environ.items() if k != "NUMBA_CACHE_DIR"} | {"PYTHONPATH": str(tmp_path)}

    def run():
        return subprocess.run(
            [sys.executable, "-c", ask], env=environment, capture_output=True, text=True, check=True
        ).stdout

    seen = [run()]
    for name, apart in (("cycle/parts/condenser", True), ("diagnosis/compared", True), ("diagnosis/proof", False)):
        part = package / f"{name}.py"
        part.write_text(part.read_text() + "\n# changed\n")
        seen.append(run())
        assert (seen[-1] not in seen[:-1]) == apart, "what is not compiled changes nothing"
