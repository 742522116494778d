"""The page of evidence: readings, pulls and files typed, refused and kept as a specialist would."""

import io
import re

from PIL import Image

from iron_gulp.core.study import in_use
from tests.draws import LONG
from tests.web.parsing import parsed


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


def photo():
    out = io.BytesIO()
    Image.new("RGB", (900, 600), (80, 90, 100)).save(out, "PNG")
    return out.getvalue()


class Bench:
    """A build's evidence page, as a browser works on it."""

    def __init__(self, client, workshop, build):
        self.client, self.workshop, self.build = client, workshop, build

    @property
    def now(self):
        return self.workshop.judging.bench(self.build)

    def post(self, address, status=200, files=None, **data):
        form = {"page": "evidence", "option": self.now.option.id, "target": self.now.verdict.target.id}
        form |= {"base": self.now.stored.number, **data}
        return soup(self.client.post(f"/builds/{self.build}/{address}", data=form, files=files), status)


def test_a_reading_is_added_typed_used_and_undone(client, workshop, curlew):
    bench = Bench(client, workshop, curlew)
    page = bench.post("add", what="readings/base pressure/")
    assert "in use" in page.select_one(".reading").text
    path = f"readings/{bench.now.build.readings[-1].id}"
    page = bench.post("edit", path=f"{path}/read_kpa", value="288 kPa")
    assert "−12" in page.select_one("svg.known-assumed").text
    assert re.search(r"1 of \d+ uncertain inputs", page.select_one(".answer").text)
    assert page.select("#findings .finding") is not None
    refused = bench.post("edit", 422, path=f"{path}/day", value="31.5.2026")
    assert refused.select_one("[data-path$='/day'] input")["value"] == "31.5.2026"
    bench.post("edit", 422, path=f"{path}/read_kpa", value="NaN")
    bench.post("edit", path=f"{path}/day", value="")
    bench.post("edit", path=f"{path}/counts", value="set aside")
    assert not in_use(bench.now.build, bench.now.option)
    for _ in range(4):
        bench.post("undo")
    assert not bench.now.build.readings
    bench.post("add", 422, what="readings/engine mood/")
    bench.post("add", 422, what="readings/pump flow/g99")


def test_every_thing_that_can_be_read_can_be_added_on_every_demo(client, workshop):
    rows = workshop.garage.page().rows
    for row in rows if LONG else rows[:1]:
        bench = Bench(client, workshop, row.id)
        page = soup(client.get(f"/builds/{row.id}/evidence"))
        for option in page.select("#add-reading option")[1:]:
            bench.post("add", what=option["value"])
        assert len(bench.now.build.readings) >= len(page.select("#add-reading option")) - 1


def test_a_pull_starts_like_the_last_one_and_impossible_ones_are_refused_at_the_field(client, workshop, curlew):
    bench = Bench(client, workshop, curlew)
    bench.post("add", what="pulls")
    first = bench.now.build.pulls[-1]
    refused = bench.post("edit", 422, path=f"pulls/{first.id}/crank_kw", value=str(first.power_kw * 0.9))
    assert "driveline takes something" in refused.text
    page = bench.post("edit", path=f"pulls/{first.id}/crank_kw", value=f"{first.power_kw / 0.82} kW")
    assert "Driveline loss is 18.0" in page.text
    demand = soup(client.get(f"/builds/{curlew}/ask"))
    assert demand.select_one("[data-path='car/loss_pct'] input")["placeholder"] == "18"
    bench.post("add", what="pulls")
    assert bench.now.build.pulls[-1].crank_kw == bench.now.build.pulls[0].crank_kw


def test_files_are_kept_shown_small_and_whole_and_taken_off_again(client, workshop, curlew):
    bench = Bench(client, workshop, curlew)
    bench.post("add", what="readings/voltage/")
    owner = bench.now.build.readings[-1].id
    page = bench.post("evidence/files", files={"file": ("../../gauge.png", photo(), "text/html")}, of=owner)
    card = page.select_one(".kept-file")
    assert "gauge.png" in card.text
    assert "Voltage" in card.text
    whole, small = client.get(card.a["href"]), client.get(card.img["src"])
    assert (whole.headers["content-type"], small.headers["content-type"]) == ("image/jpeg", "image/jpeg")
    assert len(small.content) < len(whole.content)
    assert whole.headers["x-content-type-options"] == "nosniff"
    again = bench.post("evidence/files", 422, files={"file": ("gauge.png", photo(), "image/png")}, of=owner)
    assert "kept here already" in again.text
    table = {"file": ("log.csv", b"rpm;kpa\n1;2\n", "text/csv")}
    handed = client.get(bench.post("evidence/files", files=table).select(".kept-file a")[-1]["href"])
    assert "attachment" in handed.headers["content-disposition"]
    refused = bench.post("evidence/files", 422, files={"file": ("photo.jpg", b"<svg onload='x()'/>", "image/jpeg")})
    assert "something else" in refused.select_one(".field-error").text
    sha256 = bench.now.build.files[0].sha256
    bench.post("remove", path=f"files/{bench.now.build.files[0].id}")
    assert client.get(f"/builds/{curlew}/evidence/files/{sha256}").status_code == 404
    bench.post("undo")
    assert client.get(f"/builds/{curlew}/evidence/files/{sha256}").status_code == 200
    other = next(row.id for row in workshop.garage.page().rows if row.id != curlew)
    assert client.get(f"/builds/{other}/evidence/files/{sha256}").status_code == 404
    assert client.get(f"/builds/{curlew}/evidence/files/{'0' * 64}").status_code == 404
    assert client.get(f"/builds/{curlew}/evidence/files/..%2f..%2fx").status_code == 404
