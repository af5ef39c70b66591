"""The pages can be installed on a phone and started without a line: a manifest whose icons are there."""

import struct

import pytest

from wolfsbane.server.app import WEB

pytestmark = pytest.mark.skipif(not (WEB / "index.html").exists(), reason="the front end was not built")


def test_the_manifest_names_icons_that_are_what_it_says(app):
    client = app.test_client()
    page = client.get("/").text
    assert 'rel="manifest" href="/app.webmanifest"' in page
    reply = client.get("/app.webmanifest")
    assert reply.mimetype == "application/manifest+json"
    made = reply.get_json(force=True)
    assert (made["start_url"], made["display"]) == ("/", "standalone")
    for icon in made["icons"]:
        data = client.get(icon["src"]).data
        if icon["type"] == "image/png":
            width, height = struct.unpack(">II", data[16:24])
            assert icon["sizes"] == f"{width}x{height}" and width in (192, 512)
        else:
            assert data.startswith(b"<svg")
