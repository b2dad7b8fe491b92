package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.demo.DemoViews;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Spans, bands, hours, fields beside fields, blanks, findings and their mends, edges, zones, open filters, the calendar. */
class WholeLanguageTest extends Journey {

    private static String stays(String statement) {
        return "/registers/stays?where=" + URLEncoder.encode(statement, StandardCharsets.UTF_8);
    }

    private static Locator named(Page page, AriaRole role, String name) {
        return editor(page)
                .getByRole(role, new Locator.GetByRoleOptions().setName(name).setExact(true));
    }

    @Test
    void aSpanABandAndHoursOfTheDayAreBuiltInPlace() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/stays");
        expectStays(ines, "true");
        ines.keyboard().press("a");
        chooseField(ines, "Stay");
        chooseTest(ines, "overlaps it");
        named(ines, AriaRole.TEXTBOX, "Window").fill("2026-11-10");
        apply(ines);
        String overlap =
                "arrives < '2026-11-11 00:00 Europe/London' and (leaves is null or leaves > '2026-11-10 00:00 Europe/London'"
                        + " or leaves = arrives and arrives >= '2026-11-10 00:00 Europe/London')";
        expectStays(ines, overlap);
        assertThat(statement(ines)).containsText("on Tue 10 Nov 2026, the whole day");

        ines.keyboard().press("a");
        chooseField(ines, "Length");
        chooseTest(ines, "is in a band");
        editor(ines).getByLabel("Small craft").check();
        apply(ines);
        expectStays(ines, overlap + " and length >= 0 and length < 18");

        ines.keyboard().press("a");
        chooseField(ines, "Lock at");
        named(ines, AriaRole.TEXTBOX, "From").fill("22:00");
        named(ines, AriaRole.TEXTBOX, "To").fill("06:00");
        assertThat(editor(ines)).containsText("over midnight");
        apply(ines);
        expectStays(ines, overlap + " and length >= 0 and length < 18 and (lock_at >= '22:00' or lock_at < '06:00')");
        expectAccessible(ines, "a statement of spans, bands and hours");
    }

    @Test
    void aWeekdayAndAnotherFieldAreChosenWithoutWriting() {
        Page ines = signedIn("Ines Marlow");
        open(ines, stays("status is \"Here\""));
        expectStays(ines, "status = 'Here'");
        ines.keyboard().press("a");
        chooseField(ines, "Arrives");
        chooseTest(ines, "on weekdays");
        button(ines, "Sat").click();
        button(ines, "Sun").click();
        apply(ines);
        String weekend = "status = 'Here' and extract(isodow from arrives at time zone 'Europe/London') > 5";
        expectStays(ines, weekend);
        ines.keyboard().press("a");
        chooseField(ines, "Draught");
        chooseTest(ines, "is more than");
        named(ines, AriaRole.COMBOBOX, "Hold it against another field").selectOption("berth_depth");
        named(ines, AriaRole.TEXTBOX, "Plus how much").fill("0.5");
        apply(ines);
        expectStays(ines, weekend + " and draught > berth_depth + 0.5");
        assertThat(statement(ines)).containsText("more than berth depth + 0.5");
    }

    @Test
    void oneViewAsksEachReader() {
        Page asta = signedIn("Asta Quill");
        open(asta, stays("stay overlaps {which week = this week} and site is my site"));
        Locator blank = asta.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("which week"));
        assertThat(blank).hasAttribute("placeholder", "this week");
        assertThat(asta.locator(".matching")).hasText(Pattern.compile("\\d+ of 12,000"));
        blank.fill("2026-11-10");
        blank.press("Enter");
        expectStays(
                asta,
                "site = 'North Quay' and arrives < '2026-11-11 00:00 Europe/London' and (leaves is null or leaves > '2026-11-10 00:00 Europe/London' or leaves = arrives and arrives >= '2026-11-10 00:00 Europe/London')");
        assertThat(statement(asta)).containsText("on Tue 10 Nov 2026, the whole day");
        asta.waitForURL(Pattern.compile(".*ask\\.which.*"));
        blank.fill("some time");
        blank.press("Enter");
        assertThat(asta.getByRole(AriaRole.ALERT).first()).containsText("which week");
        expectAccessible(asta, "a view with a blank");
    }

    @Test
    void aContradictionIsSaidAndMendedInOneStep() {
        Page ines = signedIn("Ines Marlow");
        open(ines, stays("site is \"North Quay\" and site is \"Lantern Pier\""));
        assertThat(statement(ines)).containsText("can never both be true");
        expectAccessible(ines, "a statement with a finding");
        button(ines, "Ask for either of the two").click();
        expectStays(ines, "site in ('North Quay', 'Lantern Pier')");
        assertThat(statement(ines).getByText("Cannot be right")).hasCount(0);

        open(ines, stays("berth_depth >= 5"));
        long empty = counted("stays", "berth_depth is null");
        assertThat(statement(ines)).containsText(empty + " records without berth depth are left out");
        button(ines, "Let them in").click();
        expectStays(ines, "berth_depth >= 5 or berth_depth is null");
        ines.keyboard().press("u");
        expectStays(ines, "berth_depth >= 5");
    }

    /** The demo world's own views are good questions, and nobody is alarmed about them; hints may be given. */
    @Test
    void nothingIsSaidAgainstTheViewsOfTheDemoWorld() {
        Page ines = signedIn("Ines Marlow");
        for (DemoViews.DemoView view : DemoViews.all()) {
            open(
                    ines,
                    "/registers/" + view.register() + "?where="
                            + URLEncoder.encode(view.statement(), StandardCharsets.UTF_8));
            assertThat(ines.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of .*"));
            button(ines, "Keep as a view").click();
            ines.locator("#view-name").fill(view.name());
            ines.locator("#view-purpose").fill(view.purpose());
            ines.getByRole(AriaRole.DIALOG)
                    .getByRole(
                            AriaRole.BUTTON,
                            new Locator.GetByRoleOptions().setName("Keep").setExact(true))
                    .click();
            ines.waitForURL(Pattern.compile(".*/views/\\d+"));
            assertThat(statement(ines)).isVisible();
            assertThat(statement(ines).locator(".finding.error, .finding.warning"))
                    .hasCount(0);
        }
    }

    @Test
    void theEdgesShowTheLastInAndTheFirstOut() {
        Page ines = signedIn("Ines Marlow");
        open(
                ines,
                "/registers/defects?where="
                        + URLEncoder.encode("due before today and site is \"North Quay\"", StandardCharsets.UTF_8));
        assertThat(ines.locator(".matching")).hasText(Pattern.compile(".* of 24,000"));
        ines.keyboard().press("e");
        Locator edges = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Edges"));
        assertThat(edges).containsText("Mon 23 Nov 2026, 00:00: ends here");
        assertThat(edges).containsText("22 Nov 2026 · last one in");
        assertThat(edges).containsText("23 Nov 2026 · first one out");
        assertThat(edges).containsText("without due");
        expectAccessible(ines, "the edges of a view");
        edges.locator("li.in").first().getByRole(AriaRole.BUTTON).click();
        ines.waitForURL(Pattern.compile(".*record=\\d+.*"));
    }

    @Test
    void aWindowIsFixedAndLetLooseByOneClick() {
        Page ines = signedIn("Ines Marlow");
        open(ines, stays("arrives in last month"));
        phrase(ines, "arrives").click();
        button(ines, "fix it at 2026-10").click();
        assertThat(editor(ines)).containsText("fixed: these dates stay");
        assertThat(button(ines, "last month").last()).isVisible();
        apply(ines);
        assertThat(statement(ines)).containsText("October 2026");
    }

    @Test
    void anOpenFilterIsWrittenReadAndRefusedByName() {
        Page ines = signedIn("Ines Marlow");
        open(
                ines,
                "/registers/defects?where="
                        + URLEncoder.encode("severity >= 4 and due before today", StandardCharsets.UTF_8));
        expectCount(ines, defects("severity >= 4 and due < '2026-11-23'"));
        button(ines, "More").click();
        ines.getByText("As an open filter").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        assertThat(dialog).containsText("severity >= 4 AND due < DATE('2026-11-23')");
        assertThat(dialog).containsText("is written as it stands now");
        expectAccessible(ines, "the open filter");
        dialog.getByLabel("Read one").fill("severity = 5 AND S_WITHIN(title, 3)");
        button(ines, "Use it as the statement").click();
        assertThat(dialog.getByRole(AriaRole.ALERT)).containsText("S_WITHIN");
        dialog.getByLabel("Read one").fill("severity = 5 AND status <> 'Done'");
        button(ines, "Use it as the statement").click();
        expectCount(ines, defects("severity = 5 and status <> 'Done'"));
    }

    @Test
    void theOrganisationsHolidaysCount() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/organisation");
        sunday(ines).waitFor();
        expectAccessible(ines, "the organisation's calendar");
        sunday(ines).fill("soon");
        exactButton(ines, "Keep").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).containsText("is written like 08:00–12:00");
        sunday(ines).fill("09:00–12:00");
        exactButton(ines, "Keep").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Kept");
        open(ines, stays("arrives on a day off and arrives in 2026-11-22"));
        expectStays(ines, "false");
        open(ines, "/organisation");
        sunday(ines).fill("");
        exactButton(ines, "Keep").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Kept");
        open(ines, stays("arrives on a day off and arrives in 2026-11-22"));
        expectStays(ines, "arrives >= '2026-11-22 00:00 Europe/London' and arrives < '2026-11-23 00:00 Europe/London'");

        Page asta = signedIn("Asta Quill");
        open(asta, "/organisation");
        assertThat(sunday(asta)).isDisabled();
    }

    private static Locator sunday(Page page) {
        return page.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("Sunday"));
    }

    @Test
    void theDaysAreThoseOfTheZoneThatIsChosen() {
        Page ines = signedIn("Ines Marlow");
        open(ines, stays("arrives in 2026-11-10"));
        expectStays(ines, "arrives >= '2026-11-10 00:00 Europe/London' and arrives < '2026-11-11 00:00 Europe/London'");
        button(ines, "As of now").click();
        ines.getByLabel("Days are those of").selectOption("Pacific/Auckland");
        expectStays(
                ines,
                "arrives >= '2026-11-10 00:00 Pacific/Auckland' and arrives < '2026-11-11 00:00 Pacific/Auckland'");
        assertThat(statement(ines)).containsText("the whole day");
    }
}
