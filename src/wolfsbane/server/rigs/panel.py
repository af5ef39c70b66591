"""The front of simulated rigs: the gauges, thermometers and scale somebody at the rig would look at, the valves they
would turn. A page of its own beside Modbus, for whoever has no rig: the application never asks it.
"""

from __future__ import annotations

import json
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.units import M_PER_FT, PA_PER_PSI, barometer_at_altitude_pa, k_to_f
from wolfsbane.rig.points import kind_of, label_of
from wolfsbane.rig.weights import weight
from wolfsbane.server.printing.dial_svg import face_svg, needle_svg

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wolfsbane.rig.simulated import SimulatedRig

_PAGE = Path(__file__).with_name("panel.html")
_GAUGES = {"low": "suction_pressure", "high": "head_pressure"}
#: what somebody has in their hands beside the gauges, as far as the rig has it
_CLAMPS = (
    "suction_line",
    "liquid_line",
    "discharge_line",
    "return_db",
    "return_wb",
    "supply_db",
    "outdoor_db",
    "weight",
)
#: ounces at one turn of the cylinder's valve
_OUNCES = (4.0, 1.0)
_MOST_BODY = 1000


class Panel:
    """The front of one rig. ``held`` keeps it still while it is read or set."""

    def __init__(self, running: SimulatedRig, held: threading.Lock) -> None:
        self.running, self.held = running, held

    def now(self) -> dict[str, Any]:
        """What stands on the instruments now, and what hands can do."""
        with self.held:
            truth = self.running.truth()
        lines = [{"id": p, "name": label_of(p), "text": _text(p, truth[p])} for p in _CLAMPS if p in truth]
        return {
            "name": self.running.rig.name,
            **{side: self._dial(side, truth[point])["needle_deg"] for side, point in _GAUGES.items()},
            **{point: round(truth[point] / PA_PER_PSI, 1) for point in _GAUGES.values()},
            "lines": lines,
            "hands": [{"doing": doing, "text": text} for doing, text in self._hands()],
        }

    def _dial(self, side: str, pascal: float) -> dict[str, Any]:
        rig, machine = self.running.rig, self.running.profile
        barometer = barometer_at_altitude_pa(rig.altitude_ft * M_PER_FT)
        psig = pascal / PA_PER_PSI
        return dial(side, "us", psig, machine.refrigerant, barometer, refrigeration=machine.refrigeration)

    def face(self, side: str) -> str:
        """A gauge without its needle."""
        return face_svg(self._dial(side, 7e5))

    def _hands(self) -> list[tuple[dict[str, Any], str]]:
        rows: list[tuple[dict[str, Any], str]] = []
        if any(d.kind == "charge" for d in self.running.rig.devices):
            rows += [({"ounces": oz}, f"Let {oz:g} oz of liquid in") for oz in _OUNCES]
            rows += [({"ounces": -oz}, f"Take {oz:g} oz out") for oz in _OUNCES]
        return rows + [
            ({"undo": d.id}, f"{d.name}: {d.of.undo}") for d in self.running.rig.devices if d.kind != "charge"
        ]

    def hand(self, doing: dict[str, Any]) -> None:
        """Somebody turns the cylinder's valve, or puts something on the rig back."""
        ounces, undo = doing.get("ounces"), doing.get("undo")
        with self.held:
            if isinstance(ounces, (int, float)) and abs(ounces) <= 64.0:
                self.running.by_hand(float(ounces))
            elif isinstance(undo, str):
                self.running.set(undo, 0.0)


def _text(point: str, value: float) -> str:
    if kind_of(point) == "mass":
        return weight(value, "us")
    return f"{k_to_f(value):.1f} °F"


def served(panels: Sequence[Panel], port: int, host: str = "127.0.0.1") -> ThreadingHTTPServer:
    """A server of these fronts at /1/, /2/ and so on, on a thread of its own."""

    class Front(BaseHTTPRequestHandler):
        def _panel(self) -> tuple[Panel, str] | None:
            number, _, name = self.path.strip("/").partition("/")
            if self.path == "/":
                number = "1"
            if not number.isdigit() or not 1 <= int(number) <= len(panels):
                return None
            return panels[int(number) - 1], name

        def _send(self, text: str, kind: str, status: int = 200) -> None:
            data = text.encode()
            self.send_response(status)
            self.send_header("Content-Type", kind)
            self.send_header("Content-Length", str(len(data)))
            self.send_header("Cache-Control", "no-store")
            self.end_headers()
            self.wfile.write(data)

        def do_GET(self) -> None:
            found = self._panel()
            if found is None:
                return self._send("No rig here.", "text/plain", 404)
            panel, name = found
            if name == "now.json":
                return self._send(json.dumps(panel.now()), "application/json")
            if name in ("low.svg", "high.svg"):
                return self._send(panel.face(name.removesuffix(".svg")), "image/svg+xml")
            if name == "needle.svg":
                return self._send(needle_svg(), "image/svg+xml")
            if not self.path.endswith("/"):
                self.send_response(302)
                self.send_header("Location", f"{self.path}/")
                return self.end_headers()
            return self._send(_PAGE.read_text(), "text/html; charset=utf-8")

        def do_POST(self) -> None:
            found = self._panel()
            size = int(self.headers.get("Content-Length") or 0)
            try:
                doing = json.loads(self.rfile.read(size)) if 0 < size <= _MOST_BODY else None
            except ValueError:
                doing = None
            if found is None or found[1] != "hand" or not isinstance(doing, dict):
                return self._send("Not understood.", "text/plain", 400)
            found[0].hand(doing)
            return self._send("{}", "application/json")

        def log_message(self, *_: Any) -> None:
            """Nothing to tell: the page asks every second."""

    server = ThreadingHTTPServer((host, port), Front)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server
