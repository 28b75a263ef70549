"""The loop of a model: fitted, doubted, mended, compared, kept with a reason, and seen in the report."""

import re


def choose(page, slot, option):
    page.slot(slot).click()
    page.get_by_role("menuitem", name=option).first.click()
    page.get_by_role("dialog").wait_for(state="hidden")


def act(page, letter, label):
    kept = page.get_by_role("navigation", name="Kept models")
    kept.get_by_role("button", name=re.compile(f"^More for {letter}:")).click()
    page.get_by_role("menuitem", name=label).click()


def settled(page):
    page.locator("main[data-changing='false']").wait_for()


def test_a_model_is_fitted_doubted_mended_compared_kept_and_reported(page):
    page.open("Larkmoor corneal grafts", "model")
    page.locator(".category-figure").wait_for()
    page.get_by_role("button", name=re.compile("^Keep this model as A")).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Why is it kept?").fill("named in the protocol")
    dialog.get_by_role("button", name="Apply").click()
    act(page, "A", "Name as the planned model")
    page.get_by_role("navigation", name="Kept models").get_by_text("planned").wait_for()
    assert page.axe() == []

    page.stage("Check")
    line = page.get_by_role("navigation", name="Questions")
    line.get_by_role("button", name="Proportional hazards").wait_for()
    assert page.axe() == []
    for question in ("Functional form", "Outliers", "Influence", "Overall fit and discrimination"):
        line.get_by_role("button", name=question).click()
        line.locator(".chosen").get_by_text(question).wait_for()
        settled(page)
        assert page.axe() == []
    line.get_by_role("button", name="Proportional hazards").click()
    page.get_by_text("fails, fades").first.wait_for()
    page.get_by_text(re.compile("Let the ratio of vessels change at")).wait_for()
    page.get_by_role("button", name=re.compile(r"^Try a change at \d+ months")).click()

    # The mended model stands beside the planned one.
    page.get_by_role("heading", name="Beside model A").wait_for()
    page.locator(".category-figure").get_by_text(re.compile("until 12 months")).first.wait_for()
    page.get_by_role("table", name="Nested test").wait_for()
    kept = page.get_by_role("navigation", name="Kept models")
    assert kept.get_by_role("listitem").count() == 2
    act(page, "B", "Note why it is kept")
    dialog.get_by_label("Why is it kept?").fill("the effect of vessels fades")
    dialog.get_by_role("button", name="Apply").click()
    page.get_by_role("table", name="Kept models").wait_for()
    page.get_by_role("listitem").get_by_text(re.compile("the effect of vessels fades")).wait_for()
    assert page.axe() == []

    page.stage("Report")
    report = page.locator(".report-page")
    report.get_by_role("heading", name="Models compared").wait_for()
    report.get_by_text(re.compile("the effect of vessels fades")).first.wait_for()
    report.get_by_text(re.compile(r"planned \(named in the protocol\)")).first.wait_for()


def test_a_dot_names_its_row_and_opens_its_arithmetic(page):
    page.open("Larkmoor corneal grafts", "check")
    line = page.get_by_role("navigation", name="Questions")
    line.get_by_role("button", name="Outliers").click()
    page.get_by_role("table", name="Farthest rows").wait_for()
    settled(page)
    page.locator(".track-residuals path.points-dot").wait_for()
    page.get_by_role("table", name="Farthest rows").get_by_role("button").first.press("Enter")
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_role("heading", name=re.compile("^Row 223: deviance residual")).wait_for()
    drawer.get_by_text(re.compile("^linear predictor η")).wait_for()
    drawer.get_by_role("button", name="Close").click()
    box = page.locator(".layers").bounding_box()
    middle = page.evaluate(
        """() => {
            const path = document.querySelector('.track-residuals path.points-dot').getAttribute('d');
            const [x, y] = path.slice(1).split('h')[0].split(' ').map(Number);
            const track = document.querySelector('.track-residuals').getAttribute('transform');
            return [x, y + Number(/ ([\\d.]+)\\)/.exec(track)[1])];
        }"""
    )
    page.mouse.move(box["x"] + middle[0], box["y"] + middle[1])
    page.locator(".dot-name").get_by_text(re.compile("^row ")).wait_for()
    page.mouse.click(box["x"] + middle[0], box["y"] + middle[1])
    drawer.get_by_role("heading", name=re.compile("^Row ")).wait_for()


def test_the_likelihood_is_worked_out_at_coefficients_that_are_typed(page):
    page.open("Larkmoor corneal grafts", "model")
    page.locator(".category-figure .worked").first.click()
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_role("button", name="ln L by row").click()
    field = drawer.get_by_label(re.compile("^Coefficients of"))
    at_estimate = drawer.get_by_role("heading").inner_text()
    field.fill(", ".join("0" for _ in field.input_value().split(",")))
    field.press("Enter")
    drawer.get_by_role("heading", name=re.compile("^ln L by row")).wait_for()
    page.wait_for_function(
        "before => document.querySelector('.workings h2').innerText !== before", arg=at_estimate
    )
    drawer.get_by_role("button", name="Newton's steps").click()
    drawer.get_by_role("heading", name=re.compile("^Newton's steps")).wait_for()
    drawer.get_by_role("button", name="Back").click()
    drawer.get_by_role("heading", name=re.compile("^ln L by row")).wait_for()


def test_profiles_subgroups_and_curves_are_stated_in_the_sentence(page):
    page.open("Larkmoor corneal grafts", "model")
    page.locator(".category-figure").wait_for()
    choose(page, "add-profile", re.compile("^Each level of"))
    page.get_by_role("table", name="Predictions").wait_for()
    page.locator(".track-predicted").wait_for()
    choose(page, "subgroups", re.compile("^centre"))
    page.get_by_role("table", name="Within subgroups").wait_for()
    settled(page)
    number = page.locator("[data-slot^='term-']").filter(has_text="age per 10")
    number.click()
    page.get_by_role("menuitem", name=re.compile("^as a spline of 3 knots")).click()
    page.locator(".track-curve-age").wait_for()
    assert page.axe() == []
    page.locator("[data-slot^='term-']").filter(has_text="spline").click()
    page.get_by_role("img", name="Hazard ratio over age").wait_for()
