package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import deftlens.demo.DemoViews;
import java.nio.charset.StandardCharsets;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Spans, bands, hours, fields beside fields, blanks, findings and their mends, edges, zones, open filters, the calendar. */
class WholeLanguageTest extends Journey {

    private static String stays(String statement) {
        return asking("stays", statement);
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
        named(ines, AriaRole.COMBOBOX, "Compare it with another field").selectOption("berth_depth");
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
            open(ines, asking(view.register(), view.statement()));
            assertThat(ines.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of .*"));
            button(ines, "Save as a new view").click();
            // Its owner has one of that name already.
            ines.locator("#view-name").fill(view.name() + ", once more");
            ines.locator("#view-purpose").fill(view.purpose());
            ines.getByRole(AriaRole.DIALOG)
                    .getByRole(
                            AriaRole.BUTTON,
                            new Locator.GetByRoleOptions().setName("Save").setExact(true))
                    .click();
            ines.waitForURL(Pattern.compile(".*/views/\\d+"));
            assertThat(statement(ines).locator(".phrase").first()).isVisible();
            assertThat(statement(ines).locator(".finding.error, .finding.warning"))
                    .hasCount(0);
        }
    }

    @Test
    void theEdgesShowTheLastInAndTheFirstOut() {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("defects", "due before today and site is \"North Quay\""));
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
        button(ines, "fix these dates").click();
        assertThat(editor(ines)).containsText("fixed: these dates stay");
        assertThat(button(ines, "last month").last()).isVisible();
        apply(ines);
        assertThat(statement(ines)).containsText("October 2026");
    }

    @Test
    void anOpenFilterIsWrittenReadAndRefusedByName() {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("defects", "severity >= 4 and due before today"));
        expectCount(ines, defects("severity >= 4 and due < '2026-11-23'"));
        exactButton(ines, "More").click();
        seen(ines, "As an open filter").click();
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
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).containsText("is written like 08:00–12:00");
        sunday(ines).fill("09:00–12:00");
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Saved.");
        open(ines, stays("arrives on a day off and arrives in 2026-11-22"));
        expectStays(ines, "false");
        open(ines, "/organisation");
        sunday(ines).fill("");
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Saved.");
        open(ines, stays("arrives on a day off and arrives in 2026-11-22"));
        expectStays(ines, "arrives >= '2026-11-22 00:00 Europe/London' and arrives < '2026-11-23 00:00 Europe/London'");

        // A file of holidays comes into the list, and counts once it is saved.
        open(ines, "/organisation");
        ines.getByLabel("A file of holidays")
                .setInputFiles(new FilePayload(
                        "days.csv", "text/csv", "Harbour fair;19.11.2026\n".getBytes(StandardCharsets.UTF_8)));
        assertThat(seen(ines, "1 day of days.csv was added. Nothing is saved yet."))
                .isVisible();
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Saved.");
        String thursday = "arrives >= '2026-11-19 00:00 Europe/London' and arrives < '2026-11-20 00:00 Europe/London'";
        open(ines, stays("arrives on a day off and arrives in 2026-11-19"));
        expectStays(ines, thursday);
        open(ines, "/organisation");
        ines.getByLabel("A file of holidays")
                .setInputFiles(new FilePayload("notes.txt", "text/plain", "nothing".getBytes(StandardCharsets.UTF_8)));
        assertThat(ines.getByRole(AriaRole.ALERT)).containsText("No days could be read in this file.");
        button(ines, "Remove Harbour fair").click();
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.STATUS).first()).containsText("Saved.");
        open(ines, stays("arrives on a day off and arrives in 2026-11-19"));
        expectStays(ines, "false");

        Page asta = signedIn("Asta Quill");
        open(asta, "/organisation");
        assertThat(sunday(asta)).isDisabled();
    }

    @Test
    void whoReadsFillsInTextsAndBands() {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("defects", "title contains {what}"));
        Locator what = ines.getByLabel("what", new Page.GetByLabelOptions().setExact(true));
        what.fill("crane");
        what.press("Tab");
        expectCount(ines, defects("title ilike '%crane%'"));
        phrase(ines, "title contains").click();
        assertThat(editor(ines).getByLabel("Ask whoever reads")).hasValue("what");
        apply(ines);
        expectCount(ines, defects("title ilike '%crane%'"));

        open(ines, stays("length is in band {size}"));
        Locator size = ines.getByLabel("size", new Page.GetByLabelOptions().setExact(true));
        assertThat(ines.locator("datalist option[value=Coaster]")).hasCount(1);
        size.fill("coaster");
        size.press("Tab");
        expectStays(ines, "length >= 18 and length < 60");
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

    private static void where(Page page, String statement) {
        open(page, asking("defects", statement));
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of .*"));
        expectSettled(page);
    }

    @Test
    void windowsAreTypedAsPeopleWriteThemAndAskedAboutWhenTheyCouldBeSeveral() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "reported_at in this month");
        phrase(ines, "reported at is in this month").click();
        Locator box = editor(ines).getByLabel("Window");
        box.fill("mon last week");
        assertThat(editor(ines)).containsText("Read as Monday of last week: Mon 16 Nov 2026, the whole day");
        long monday = defects(
                "reported_at >= '2026-11-16 00:00 Europe/London' and reported_at < '2026-11-17 00:00 Europe/London'");
        assertThat(editor(ines)).containsText(String.format(java.util.Locale.UK, "%,d records by this alone", monday));
        // What could mean two days is asked about, also when Enter is pressed at once.
        box.fill("3/11");
        box.press("Enter");
        Locator ways = ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Which of these is meant"));
        assertThat(ways).containsText("Wed 11 Mar 2026");
        expectAccessible(ines, "two readings of a day");
        ways.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText("2026-11-03"))
                .click();
        assertThat(editor(ines)).containsText("fixed: these dates stay");
        // Another window by one keystroke, from anywhere in the editor.
        ines.keyboard().press("Alt+3");
        assertThat(box).hasValue("last week");
        assertThat(editor(ines)).containsText("rolling: it moves with the day");
        // Drawn in the calendar by keys: three days from the first one of last week on.
        Locator day = editor(ines).locator("td button[tabindex='0']");
        assertThat(day).hasAttribute("data-day", "2026-11-16");
        day.focus();
        ines.keyboard().press("Shift+ArrowRight");
        ines.keyboard().press("Shift+ArrowRight");
        assertThat(box).hasValue("2026-11-16 to 2026-11-18");
        box.focus();
        box.press("Enter");
        assertThat(editor(ines)).hasCount(0);
        expectCount(
                ines,
                defects(
                        "reported_at >= '2026-11-16 00:00 Europe/London' and reported_at < '2026-11-19 00:00 Europe/London'"));
    }

    @Test
    void anOrganisationSaysWhichWindowsAreOffered() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/organisation");
        Locator offered = ines.getByLabel("Windows shown first");
        offered.fill("last fiscal quarter\nno such window");
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).isVisible();
        offered.fill("last fiscal quarter\nlast 2 full weeks\nlast 12 hours");
        exactButton(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).hasCount(0);
        Page asta = signedIn("Asta Quill");
        where(asta, "due before today");
        phrase(asta, "due is before today").click();
        Locator often = editor(asta).getByRole(AriaRole.GROUP, new Locator.GetByRoleOptions().setName("Often used"));
        // Hours mean nothing for a day.
        assertThat(often.getByRole(AriaRole.BUTTON)).hasText(new String[] {"last fiscal quarter", "last 2 full weeks"});
        often.getByRole(AriaRole.BUTTON).first().click();
        apply(asta);
        expectCount(asta, defects("due < '2026-07-01'"));
        offered.fill("");
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Saved.")).isVisible();
    }
}
