"""Makes docs/screenshots/ from the demo data: `make screenshots`."""

import sys
import tempfile
from pathlib import Path
from typing import Literal

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser.running import ARGUMENTS, CHROMIUM, Server  # noqa: E402

OUT = ROOT / "docs/screenshots"
CURLEW, DUNLIN, FIELDFARE, SALTERN = 3, 4, 2, 1


def shoot(
    page: Page,
    name: str,
    url: str,
    click: str | None = None,
    theme: Literal["light", "dark"] = "light",
    wait: str | None = None,
) -> None:
    """One picture of a page after an optional click, and after what is waited for."""
    page.emulate_media(color_scheme=theme)
    page.goto(url)
    page.wait_for_load_state("networkidle")
    if click:
        page.locator(click).click()
        page.wait_for_load_state("networkidle")
    if wait:
        page.wait_for_selector(wait, timeout=120_000)
        page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(900)  # charts and remedies come when they are in view
    page.screenshot(path=OUT / f"{name}.png")
    print(f"· docs/screenshots/{name}.png")


def main() -> None:
    """All pictures, each 1280 × 800."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        server = Server(data).start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=server.url, locale="ja-JP")
        try:
            shoot(page, "garage", "/")
            shoot(page, "ceilings", f"/builds/{CURLEW}/ceilings?option=two-sets&target=hill")
            shoot(page, "chance", f"/builds/{DUNLIN}/chance?option=port&target=blend")
            shoot(page, "ask", f"/builds/{CURLEW}/ask?target=hill")
            shoot(page, "fuel", f"/builds/{CURLEW}/fuel?target=hill")
            shoot(page, "pump", f"/builds/{CURLEW}/pump?target=later")
            shoot(page, "injectors", f"/builds/{CURLEW}/injectors?target=hill")
            shoot(page, "regulator-dark", f"/builds/{SALTERN}/regulator", theme="dark")
            shoot(page, "figure-opened", f"/builds/{CURLEW}/injectors?target=hill", "#fig-injector-duty_pct")
            shoot(page, "stage", f"/builds/{SALTERN}/stage?option=staged&target=record")
            shoot(page, "wire", f"/builds/{CURLEW}/wire?target=hill")
            shoot(page, "diagram", f"/builds/{CURLEW}/draw?target=hill")
            shoot(page, "high-side", f"/builds/{DUNLIN}/high?option=as-found&target=blend")
            shoot(page, "high-side-diagram", f"/builds/{DUNLIN}/draw?option=port&target=blend")
            shoot(page, "road", f"/builds/{DUNLIN}/road?option=as-found&target=blend")
            shoot(page, "shelf", "/shelf/pumps?compare=pump-250&compare=pump-315&compare=pump-gerotor-250")
            shoot(page, "evidence", f"/builds/{SALTERN}/evidence")
            shoot(page, "compare", f"/builds/{CURLEW}/compare?target=hill")
            shoot(page, "design", f"/builds/{CURLEW}/design?target=hill", wait=".designs tbody")
        finally:
            browser.close()
            server.kill()


if __name__ == "__main__":
    main()
