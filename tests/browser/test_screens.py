"""Every screen at both sizes, by day and by night: what is there to do is in sight, and nothing stands in the way."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

from screens import DESK, HAND
from waldhorn.pit.bench.steps import STEPS
from waldhorn.store.seats import Role

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
# Each screen and what is done there; what is coloured is looked at by night too.
COLOURED = {
    "/": "[data-hook]",
    "/motors/VS-11": "[data-key=c]",
    "/motors/VS-11#why": "[data-key=c]",
    "{bench}": ".button-main",
    "{bench}?step=look": "[data-look]",
    "{bench}/live": "[data-do=stop]",
    "/machines/Marten": "main .field",
    "/compare?tags=VS-20,VS-22,VS-32": "h1",
}
PLAIN = {
    "/compare": "[name=tag]",
    "/motors/VS-11#over-time": "h1",
    "/motors/VS-11#happened": "[data-key=c]",
    "/motors/VS-11#facts": "[data-key=c]",
    "/motors/new": "#tag",
    "{bench}?step=setup": ".button-main",
    "{bench}?step=detent": ".button-main",
    "{bench}?step=answer": ".button-main",
    "/limits": "main table input",
    "/help": "main a",
    "/find": "main a",
    "/find?do=Set+the+timing": "[data-hook]",
    "/nowhere": "main",
    "/machines": "main a",
    "/rigs": "main a",
    "/rigs/green%20bench": "h1",
    "/models/Skerry%2036": "h1",
    "/bring-in": "main button",
    "/settings": "main input:not([type=hidden])",
    "/join": "main .button",
    "/scan": "#code",
    "/motors/VS-11/paper/passport": ".paper",
    "/identify": "main .button",
    "/instruments": "main input:not([type=hidden])",
    "/motors/VS-01/predict": "h1",
    "/motors/VS-11/loads": "h1",
    "/motors/VS-11/sheet": "#at",
    "/motors/VS-07/book": "main a",
    "/motors/VS-01/book?step=load": "main a",
    "/motors/VS-11/paper/report": ".paper",
    "/paper/rack": "main",
}
SMALL_TARGETS = """
    [...document.querySelectorAll('a, button, input, select, summary')]
    .filter(e => e.offsetParent && !e.matches('[type=hidden], [type=radio], [type=checkbox]')
                 && !e.closest('.skip, p, td, dd') && e.getBoundingClientRect().height < 43.5)
    .map(e => e.outerHTML.slice(0, 90))
"""
SMALL_TEXT = """
    [...document.querySelectorAll('main *, header *')]
    .filter(e => [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()))
    .filter(e => e.checkVisibility() && !e.closest('svg, .sr-only, .paper, .uplot, .skip')
                 && parseFloat(getComputedStyle(e).fontSize) < 14)
    .map(e => e.outerHTML.slice(0, 90))
"""


IN_VIEW = """
    (names) => Object.fromEntries(names.map(name => {
        const found = [...document.querySelectorAll(name)].find(e => e.checkVisibility())
        return [name, found ? found.getBoundingClientRect().bottom : 0]
    }))
"""


@pytest.mark.long
@pytest.mark.parametrize("size", [DESK, HAND], ids=["desk", "hand"])
def test_field_caution_button_and_answer_are_in_view_in_every_step(browser, address, size):
    context = browser.new_context(base_url=address, viewport=size)
    page = context.new_page()
    page.goto("/motors/VS-07")
    page.get_by_role("button", name="Back to the bench").click()
    bench = page.url.partition("?")[0]
    work = ".bench-work :is(input:not([type=hidden]), select, textarea)"
    for step in STEPS:
        page.goto(f"{bench}?step={step}")
        page.evaluate("scrollTo(0, 0)")
        at = page.evaluate(IN_VIEW, [work, ".bench-work .caution", ".bench-work .button-main"])
        answer = page.locator("#answer").bounding_box()
        assert answer["y"] + answer["height"] <= size["height"] - (56 if size is HAND else 0) + 1, step
        assert {name: y for name, y in at.items() if y > answer["y"] + 1} == {}, step
        assert page.locator(".bead.now").count() == 0 or page.evaluate(
            "(() => { const b = document.querySelector('.bead.now').getBoundingClientRect();"
            " return b.left >= 0 && b.right <= innerWidth })()"
        ), step
    context.close()


def in_nobodys_way(page, path, to_do, size, scheme):
    """Assert that what is to be done on a page is in sight, and that nothing on it stands in anybody's way."""
    assert page.locator("h1:visible").count() == 1, path
    box = page.locator(to_do).first.bounding_box()
    room = size["height"] - (56 if size is HAND else 0)
    assert box, path
    assert box["y"] + min(box["height"], 44) <= room, (path, box)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
    page.evaluate("document.querySelectorAll('details').forEach(e => e.open = true)")
    page.evaluate(AXE.read_text(encoding="utf-8"))
    # At night only the colours are others.
    only = ", runOnly: ['color-contrast']" if scheme == "dark" else ""
    found = page.evaluate(f"axe.run(document, {{resultTypes: ['violations']{only}}})")
    serious = [
        (v["id"], v["nodes"][0]["target"], v["nodes"][0]["failureSummary"])
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
    ]
    assert serious == [], path
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
    assert page.evaluate(SMALL_TARGETS) == [], path
    assert page.evaluate(SMALL_TEXT) == [], path


@pytest.mark.long
@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("size", [DESK, HAND], ids=["desk", "hand"])
def test_nothing_stands_in_anybodys_way(browser, address, size, scheme):
    context = browser.new_context(base_url=address, viewport=size, color_scheme=scheme)
    page = context.new_page()
    page.goto("/motors/VS-07")
    page.get_by_role("button", name="Back to the bench").click()
    bench = page.url.partition("?")[0]
    for path, to_do in (COLOURED if scheme == "dark" else COLOURED | PLAIN).items():
        page.goto("about:blank")  # an address that differs only after the # would not be loaded anew
        page.goto(path.format(bench=bench))
        in_nobodys_way(page, path, to_do, size, scheme)
    context.close()


@pytest.mark.long
@pytest.mark.parametrize("size", [DESK, HAND], ids=["desk", "hand"])
def test_nor_where_several_are_at_one_pit(browser, page, others, opened, size):
    stranger = browser.new_context(base_url=opened, viewport=size)
    asked = stranger.new_page()
    asked.goto("/motors/VS-07")
    in_nobodys_way(asked, "/join", ".button-main", size, "light")
    stranger.close()
    owner = others("R. Winter", Role.LOOK, size)
    others("JK", Role.TECHNICIAN).goto("/motors/VS-07")
    for path, to_do in {"/": "[data-hook]", "/motors/VS-07": "h1", "/join": "[role=img]", "/scan": "#code"}.items():
        owner.goto(path)
        in_nobodys_way(owner, path, to_do, size, "light")
    page.set_viewport_size(size)
    for path, to_do in {"/settings": "main input:not([type=hidden])", "/motors/VS-07": ".hand-to button"}.items():
        page.goto(path)
        expect(page.locator(to_do).first).to_be_visible()
        in_nobodys_way(page, path, to_do, size, "light")
    page.set_viewport_size(DESK)
