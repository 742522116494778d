"""Kept files: told by their content, drawn anew, whole under their hash; hostile ones are refused in words."""

import hashlib
import io
import os
import signal
import struct
import subprocess
import sys
import threading
import time
import zipfile
import zlib

import pytest
from PIL import Image

from iron_gulp.storage import pictures
from iron_gulp.storage.attachments import LARGEST_BYTES, MOST_PIXELS, Attachments, Refused, clean_name, folder_beside
from iron_gulp.storage.backup import keep_backup
from iron_gulp.storage.restoring import restore
from iron_gulp.storage.whole import sweep
from tests.draws import LONG
from tests.storage.test_backup import fill, names

PDF = b"%PDF-1.4\n1 0 obj\n<<>>\nendobj\ntrailer\n<<>>\n%%EOF\n"


def picture(kind="JPEG", size=(640, 480), mode="RGB", **told):
    out = io.BytesIO()
    Image.new(mode, size, (90, 120, 150) if mode == "RGB" else (90, 120, 150, 128)).save(out, kind, **told)
    return out.getvalue()


def located():
    one = Image.new("RGB", (400, 200), (90, 120, 150))
    exif = one.getexif()
    exif[0x010F], exif[0x0112] = "A camera", 6  # upright only when turned
    exif.get_ifd(0x8825)[1] = "N"
    out = io.BytesIO()
    one.save(out, "JPEG", exif=exif, comment=b"a secret")
    return out.getvalue()


def png_that_says(width, height):
    """A PNG head of any size with hardly any data."""

    def chunk(name, body):
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")


def zipped():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.txt", b"0" * 5_000_000)
    return out.getvalue()


@pytest.fixture
def store(tmp_path):
    return Attachments(tmp_path / "files")


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_picture_is_kept_as_its_pixels_with_a_small_one_beside_it(store, kind):
    kept = store.keep(picture(kind), "gauge.png")
    found, small = store.find(kept.sha256), store.thumbnail(kept.sha256)
    body = found.path.read_bytes()
    assert (kept.kind, found.media_type, small.media_type) == ("picture", "image/jpeg", "image/jpeg")
    assert hashlib.sha256(body).hexdigest() == kept.sha256
    assert kept.size_bytes == len(body)
    with Image.open(found.path) as one, Image.open(small.path) as other:
        assert one.size == (640, 480)
        assert one.getpixel((20, 20)) == pytest.approx((90, 120, 150), abs=4)
        assert max(other.size) == 360


def test_place_owner_and_comments_are_gone_and_the_picture_stands_upright(store):
    data = located()
    assert b"A camera" in data
    kept = store.keep(data, "a.jpg")
    for stored in (store.find(kept.sha256), store.thumbnail(kept.sha256)):
        body = stored.path.read_bytes()
        assert b"A camera" not in body
        assert b"a secret" not in body
        assert b"Exif" not in body
        with Image.open(stored.path) as one:
            assert one.size[0] < one.size[1]
            assert not dict(one.getexif())


def test_transparent_pictures_stand_on_white_and_large_ones_shrink(store):
    clear = store.keep(picture("PNG", mode="RGBA"), "a.png")
    with Image.open(store.find(clear.sha256).path) as one:
        assert one.getpixel((5, 5)) == pytest.approx((172, 187, 202), abs=5)
    wide = store.keep(picture("JPEG", (6000, 500)), "wide.jpg")
    with Image.open(store.find(wide.sha256).path) as one:
        assert one.size[0] == 4000


def test_documents_and_tables_are_kept_as_they_are(store):
    for data, kind, media_type in (
        (PDF, "document", "application/pdf"),
        ("λ;kPa\n0,85;300\n".encode(), "table", "text/plain"),
    ):
        kept = store.keep(data, "x")
        assert (kept.kind, store.find(kept.sha256).media_type) == (kind, media_type)
        assert store.find(kept.sha256).path.read_bytes() == data
        assert store.thumbnail(kept.sha256) is None
    again = store.keep(PDF, "another name.pdf")
    assert again.sha256 == hashlib.sha256(PDF).hexdigest()


HOSTILE = {
    "nothing": b"",
    "a program": b"\x7fELF" + bytes(200),
    "a program for another system": b"MZ" + bytes(300),
    "a script": b"#!/bin/sh\nrm -rf /\n",
    "a page": b"  <html><script>alert(1)</script></html>",
    "a drawing with a script": b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>',
    "a script further down": b"a;b\n1;2\n<script>alert(1)</script>\n",
    "an archive": zipped(),
    "a picture of half a gigapixel": png_that_says(25_000, 20_000),
    "a picture of the largest size there is": png_that_says(2**31 - 1, 2**31 - 1),
    "a picture without its data": png_that_says(4000, 4000),
    "half a picture": picture("JPEG", (2000, 2000))[:900],
    "a picture's head before a page": b"\xff\xd8\xff\xe0<html><script>alert(1)</script>",
    "a PDF cut off": PDF[:-6] + bytes(3000),
    "binary": bytes(range(256)) * 20,
    "text with a zero": b"a;b\n1;\x002\n",
    "an animation": b"GIF89a" + bytes(100),
    "rich text": b"{\\rtf1\\object}",
    "too much": b"1;2\n" * (LARGEST_BYTES // 4 + 1),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused_in_words_and_leave_nothing(store, tmp_path, name):
    with pytest.raises(Refused) as refused:
        store.keep(HOSTILE[name], "photo.jpg")
    assert 10 < len(str(refused.value)) < 160
    assert not [one for one in tmp_path.rglob("*") if one.is_file()]


def test_a_picture_at_the_limit_of_pixels_is_taken_and_one_past_it_is_not(store):
    side = int(MOST_PIXELS**0.5)
    with pytest.raises(Refused, match="million"):
        store.keep(picture("PNG", (side + 10, side + 10)), "a.png")
    assert store.keep(picture("PNG", (side, side // 8)), "a.png").kind == "picture"


@pytest.mark.parametrize(
    ("given", "shown"),
    [
        ("../../etc/passwd", "passwd"),
        ("C:\\pictures\\gauge.jpg", "gauge.jpg"),
        ("", "file"),
        ("...", "file"),
        ("a\x00b\r\nSet-Cookie: x.jpg", "abSet-Cookie: x.jpg"),
        ("\u202egpj.exe", "gpj.exe"),
        ("x" * 300 + ".jpeg", "x" * 115 + ".jpeg"),
    ],
)
def test_names_are_only_names(given, shown):
    assert clean_name(given) == shown
    assert len(clean_name(given)) <= 120


def test_only_hashes_are_looked_for(store, tmp_path):
    (tmp_path / "secret.txt").write_text("x")
    for asked in ("../secret", "..", "", "a" * 64, "A" * 64, "../" + "a" * 61, "0" * 63 + "/"):
        assert store.find(asked) is None
        assert store.thumbnail(asked) is None


def test_files_are_in_the_backup_and_come_back_with_it(tmp_path):
    path = tmp_path / "iron_gulp.sqlite3"
    database, _ = fill(path)
    kept = Attachments(folder_beside(path)).keep(picture(), "a.jpg")
    copy = keep_backup(path, "by-hand")
    database.close()
    for one in folder_beside(path).rglob("*.jpg"):
        one.unlink()
    assert Attachments(folder_beside(path)).find(kept.sha256) is None
    restore(path, copy)
    assert names(path) == ["b0", "b1", "b2"]
    found = Attachments(folder_beside(path)).find(kept.sha256)
    assert hashlib.sha256(found.path.read_bytes()).hexdigest() == kept.sha256


def refused_edit(store, data):
    with store.keeping(data, "a") as kept:
        assert store.find(kept.sha256)
        raise ZeroDivisionError("the edit was refused")


def test_a_file_whose_edit_is_refused_is_not_kept_and_one_kept_before_stays(store, tmp_path):
    def files():
        return sorted(one.name for one in tmp_path.rglob("*") if one.is_file())

    for data in (picture(), PDF, b"a;b\n1;2\n"):
        with pytest.raises(ZeroDivisionError):
            refused_edit(store, data)
    assert files() == []
    with store.keeping(PDF, "a") as kept:
        pass
    with pytest.raises(ZeroDivisionError):
        refused_edit(store, PDF)
    assert files() == [f"{kept.sha256}.pdf"]


def test_pictures_are_drawn_one_at_a_time_and_more_than_can_wait_are_sent_away(store, monkeypatch):
    at_once, most, gate = [], [], threading.Event()

    def slow(*_given):
        at_once.append(1)
        most.append(len(at_once))
        gate.wait(10)
        at_once.pop()

    monkeypatch.setattr(pictures, "_draw", slow)
    threads = [threading.Thread(target=pictures.draw, args=(None, None, None)) for _ in range(pictures.MOST_WAITING)]
    for one in threads:
        one.start()
    while not at_once or pictures._waiting.acquire(blocking=False):
        if at_once:
            pictures._waiting.release()
    with pytest.raises(pictures.NoTime, match="in a moment"):
        store.keep(picture(), "one too many.jpg")
    gate.set()
    for one in threads:
        one.join()
    assert set(most) == {1}


@pytest.mark.parametrize("trouble", ["memory", "time"])
def test_a_picture_that_takes_too_much_is_refused_and_the_server_is_none_the_worse(store, tmp_path, monkeypatch, trouble):
    if trouble == "time":
        monkeypatch.setattr(pictures, "TIME_S", 0.001)
    else:
        script = tmp_path / "greedy.py"
        script.write_text("raise MemoryError")
        monkeypatch.setattr(pictures, "SCRIPT", script)
    with pytest.raises(Refused, match="too much memory or time"):
        store.keep(picture(), "a.jpg")
    assert not [one for one in (tmp_path / "files").rglob("*") if one.is_file()]


def test_the_process_that_draws_bounds_its_own_memory(tmp_path):
    (tmp_path / "a.png").write_bytes(png_that_says(4800, 4800))
    code = f"import runpy, resource; d = runpy.run_path({str(pictures.SCRIPT)!r}); d['limit'](); bytearray(600_000_000)"
    done = subprocess.run([sys.executable, "-I", "-c", code], capture_output=True, text=True)
    assert "MemoryError" in done.stderr


def test_halves_of_those_who_died_are_swept_and_of_those_who_live_are_not(tmp_path):
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    (tmp_path / "ab").mkdir()
    for pid in (dead.pid, os.getppid()):
        (tmp_path / "ab" / f".x-1.{pid}.part").write_text("half")
    (tmp_path / "a report.part").write_text("somebody's own")
    assert sweep(tmp_path) == 1
    assert sorted(one.name for one in tmp_path.rglob("*.part")) == [f".x-1.{os.getppid()}.part", "a report.part"]


KEEPING = """
import sys
from pathlib import Path
from iron_gulp.storage.attachments import Attachments
store = Attachments(Path(sys.argv[1]))
for number in range(100000):
    kept = store.keep(f"row;{number}\\n".encode() * 4000, "log.csv")
    print(kept.sha256, flush=True)
"""


def test_killed_at_any_moment_what_was_acknowledged_is_whole(tmp_path):
    folder, told = tmp_path / "files", []
    for attempt in range(8 if LONG else 2):
        process = subprocess.Popen([sys.executable, "-c", KEEPING, str(folder)], stdout=subprocess.PIPE, text=True)
        told.append(process.stdout.readline().strip())
        time.sleep(0.05 + 0.03 * attempt)
        os.kill(process.pid, signal.SIGKILL)
        told += [line.strip() for line in process.stdout if len(line.strip()) == 64]
        process.wait()
    assert len(told) >= 2
    for sha256 in told:
        body = Attachments(folder).find(sha256).path.read_bytes()
        assert hashlib.sha256(body).hexdigest() == sha256


def test_more_files_than_can_wait_are_sent_away_and_hold_nobody(store):
    gate, inside, sent_away = threading.Event(), threading.Event(), []

    def bring(number):
        try:
            with store.keeping(f"{number};1\n".encode(), "a.csv"):
                inside.set()
                gate.wait(10)
        except pictures.NoTime as refused:
            sent_away.append(str(refused))

    threads = [threading.Thread(target=bring, args=(number,)) for number in range(pictures.MOST_WAITING + 3)]
    for one in threads:
        one.start()
    assert inside.wait(5)
    while len(sent_away) < 3:
        pass
    gate.set()
    for one in threads:
        one.join()
    assert len(sent_away) == 3
    assert "in a moment" in sent_away[0]
