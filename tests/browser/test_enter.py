"""Enter, pressed through every step and form: it goes on to another field or takes, with folds shut and open."""

import pytest

from waldhorn.core.base.history import Motor
from waldhorn.pit.bench import checks, stepper
from waldhorn.store import motors
from waldhorn.web.common.pages import now

KINDS = {"inrunner": "VS-02", "outrunner": "VS-28"}
MOST = 120  # fields of a form
TEXT = "input:not([type=hidden], [type=radio], [type=checkbox], [type=file])"
FORMS = {
    "take in": "/motors/new",
    "an event": "/motors/VS-02",
    "limits": "/limits",
    "identify": "/identify",
    "sheet": "/motors/VS-02/sheet",
    "machine": "/machines/camera%20drone",
    "facts": "/motors/VS-02/facts",
    "a rig": "/rigs/pier%20bench",
}
# Where one stands: the form and the field, or nothing where a form was sent and the field is gone.
AT = """() => {
  const field = document.activeElement;
  return field?.form && !field.matches("button") ? `${field.form.getAttribute("action")} ${field.name}` : "";
}"""


@pytest.fixture
def sent(page):
    """The addresses of the forms that were sent: noted and not carried out, so that the page stays where it is."""
    addresses = []

    def note(route):
        if route.request.method != "POST" or route.request.url.endswith("/draft"):
            return route.continue_()
        addresses.append(route.request.url)
        return route.fulfill(status=204)

    page.route("**/*", note)
    return addresses


def enter_through(page, first, sent):
    """Press Enter from a field on until a form is sent."""
    sent.clear()
    first.focus()
    seen = []
    for _ in range(MOST):
        at = page.evaluate(AT)
        assert at, f"Enter lost the field after {seen}"
        assert at not in seen, f"Enter came back to {at}: {seen}"
        seen.append(at)
        page.keyboard.press("Enter")
        page.wait_for_timeout(30)
        if sent:
            return
    raise AssertionError(f"nothing was sent: {seen}")


def open_folds(page):
    page.evaluate("document.querySelectorAll('main details').forEach((fold) => (fold.open = true))")


@pytest.fixture
def check_of(demo_store):
    """A check that lies open, by the kind of motor."""

    def opened(kind):
        at = now()
        with demo_store.writing() as session:
            return checks.open_check(session, motors.find(session, KINDS[kind]), at, "full").id

    return opened


@pytest.mark.long
@pytest.mark.parametrize("folds", ["shut", "open"])
@pytest.mark.parametrize("kind", KINDS)
def test_enter_goes_through_every_step(page, sent, check_of, kind, folds):
    check = check_of(kind)
    motor = Motor("", kind=kind, sensored=True)
    for name in (s.name for s in stepper.TESTS.values() if s.applies(motor)):
        page.goto(f"/checks/{check}?step={name}")
        if folds == "open":
            open_folds(page)
        texts = page.locator("#work").locator(TEXT).locator("visible=true")
        if not texts.count():
            continue
        enter_through(page, texts.first, sent)


@pytest.mark.long
@pytest.mark.parametrize("folds", ["shut", "open"])
@pytest.mark.parametrize("form", FORMS)
def test_enter_goes_through_every_form(page, sent, form, folds):
    page.goto(FORMS[form])
    if folds == "open":
        open_folds(page)
    forms = page.locator("main form[method=post]")
    for place in range(forms.count()):
        page.goto(FORMS[form])
        if folds == "open":
            open_folds(page)
        one = page.locator("main form[method=post]").nth(place)
        texts = one.locator(TEXT).locator("visible=true")
        if texts.count():
            enter_through(page, texts.first, sent)
