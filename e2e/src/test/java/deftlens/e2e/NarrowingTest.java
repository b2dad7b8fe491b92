package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.BoundingBox;
import com.microsoft.playwright.options.MouseButton;
import java.util.Locale;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Narrowing by pointing: at cells, at heads, at the time rail; and going back through what was done. */
class NarrowingTest extends Journey {

    private static void where(Page page, String register, String statement) {
        open(page, asking(register, statement));
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of [\\d,]+"));
        expectSettled(page);
    }

    private static void expect(Page page, String register, String sql) {
        assertThat(page.locator(".matching"))
                .hasText(Pattern.compile("^" + String.format(Locale.UK, "%,d", counted(register, sql)) + " of .*"));
        expectSettled(page);
    }

    private static Locator item(Page page, String words) {
        return page.getByRole(
                AriaRole.MENUITEM, new Page.GetByRoleOptions().setName(words).setExact(true));
    }

    private static Locator cell(Page page, String words) {
        return table(page)
                .getByRole(
                        AriaRole.GRIDCELL,
                        new Locator.GetByRoleOptions().setName(words).setExact(true))
                .first();
    }

    private static Locator head(Page page, String field) {
        return page.getByRole(
                AriaRole.BUTTON,
                new Page.GetByRoleOptions().setName("Narrow by " + field).setExact(true));
    }

    @Test
    void aCellNarrowsByItsValue() {
        Page ines = signedIn("Ines Marlow");
        cell(ines, "Lantern Pier").click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        assertThat(item(ines, "Keep only Lantern Pier")).isFocused();
        expectAccessible(ines, "the menu of a cell");
        item(ines, "Leave out Lantern Pier").click();
        expect(ines, "defects", "site is distinct from 'Lantern Pier'");
        cell(ines, "North Quay").click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        item(ines, "Leave out North Quay").click();
        assertThat(phrase(ines, "site is none of Lantern Pier, North Quay")).isVisible();
        expect(ines, "defects", "(site in ('Lantern Pier', 'North Quay')) is not true");
        // From the keyboard: to the first record, from the column that was pointed at to its first cell, its menu.
        table(ines).locator("tbody td[tabindex='0']").focus();
        ines.keyboard().press("ArrowLeft");
        ines.keyboard().press("ArrowLeft");
        ines.keyboard().press("m");
        assertThat(ines.getByRole(AriaRole.MENU)).isVisible();
        ines.keyboard().press("Enter");
        assertThat(ines.locator(".matching")).hasText("1 of 24,000");
        // Every one of these is a step to go back from, and forward to again.
        button(ines, "Step back").click();
        expect(ines, "defects", "(site in ('Lantern Pier', 'North Quay')) is not true");
        button(ines, "what was done, 3 steps").click();
        button(ines, "as it was opened").click();
        expectCount(ines, 24_000);
        ines.keyboard().press("r");
        expect(ines, "defects", "site is distinct from 'Lantern Pier'");
        // Another way from here: what lay ahead is gone, and a page opened anew has no steps.
        cell(ines, "Outer Roads").click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        item(ines, "Keep only Outer Roads").click();
        assertThat(button(ines, "what was done, 2 steps")).isVisible();
        assertThat(exactButton(ines, "Forward")).hasCount(0);
        link(ines, "Defects 24,000").click();
        expectCount(ines, 24_000);
        assertThat(button(ines, "What was done")).hasCount(0);
    }

    @Test
    void aDateInACellGivesItsDayWeekAndMonth() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "due in last month");
        String shown = table(ines).locator("tbody tr[data-index='0'] td").last().innerText();
        String day = counted(shown);
        cell(ines, shown).click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        item(ines, "That week").click();
        expect(
                ines,
                "defects",
                "due >= '2026-10-01' and due < '2026-11-01' and date_trunc('week', due) = date_trunc('week', date '"
                        + day + "')");
        where(ines, "defects", "due in last month");
        cell(ines, shown).click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        item(ines, "Keep only " + shown).click();
        expect(ines, "defects", "due = '" + day + "'");
        assertThat(statement(ines).locator(".criterion")).hasCount(1);
    }

    /** {@code 5 Oct 2026} as the database writes it. */
    private static String counted(String shown) {
        return java.time.LocalDate.parse(shown, java.time.format.DateTimeFormatter.ofPattern("d MMM yyyy", Locale.UK))
                .toString();
    }

    @Test
    void aPartOfATextIsLookedFor() {
        Page ines = signedIn("Ines Marlow");
        expectCount(ines, 24_000);
        expectSettled(ines);
        Locator title = table(ines).locator("tbody tr[data-index='0'] td").nth(1);
        BoundingBox box = title.boundingBox();
        ines.mouse().move(box.x + 7, box.y + 15);
        ines.mouse().down();
        ines.mouse().move(box.x + 70, box.y + 15);
        ines.mouse().up();
        Locator starts = ines.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Starts with"));
        assertThat(starts).isVisible();
        String words = starts.innerText();
        starts.click();
        expect(
                ines,
                "defects",
                "lower(title) like '"
                        + words.substring(words.indexOf('“') + 1, words.indexOf('”'))
                                .toLowerCase(Locale.ROOT) + "%'");
    }

    @Test
    void aHeadOffersItsValuesUnderTheOtherCriteria() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "site is \"North Quay\" and severity >= 4");
        head(ines, "Site").focus();
        ines.keyboard().press("Enter");
        Locator pier = ines.locator(".head-panel label").filter(new Locator.FilterOptions().setHasText("Lantern Pier"));
        assertThat(pier.locator(".count"))
                .hasText(String.format(Locale.UK, "%,d", defects("site = 'Lantern Pier' and severity >= 4")));
        expectAccessible(ines, "the panel of a head");
        pier.click();
        ines.locator(".head-panel label")
                .filter(new Locator.FilterOptions().setHasText("without a value"))
                .click();
        button(ines, "Keep only these").click();
        expect(ines, "defects", "(site in ('North Quay', 'Lantern Pier') or site is null) and severity >= 4");
        button(ines, "Step back").click();
        head(ines, "Site").click();
        button(ines, "invert").click();
        button(ines, "Leave these out").click();
        expect(
                ines,
                "defects",
                "(site in ('Cooper''s Basin', 'Lantern Pier', 'Mirefleet Moorings', 'Outer Roads')) is not true and severity >= 4");
    }

    @Test
    void aRangeIsDrawnOverTheNumbersOfAColumn() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "stays", "arrives in this year");
        head(ines, "Length").click();
        Locator bars = ines.locator(".head-panel svg");
        assertThat(bars).isVisible();
        BoundingBox box = bars.boundingBox();
        ines.mouse().move(box.x + box.width * 0.3, box.y + 30);
        ines.mouse().down();
        ines.mouse().move(box.x + box.width * 0.6, box.y + 30);
        ines.mouse().up();
        String low = ines.getByLabel("Length from").inputValue();
        String high = ines.getByLabel("Length to").inputValue();
        assertThat(Double.parseDouble(low)).isLessThan(Double.parseDouble(high));
        exactButton(ines, "Keep only this range").click();
        expect(
                ines,
                "stays",
                "arrives >= '2026-01-01 00:00 Europe/London' and arrives < '2027-01-01 00:00 Europe/London' and length between "
                        + low + " and " + high);
    }

    @Test
    void aWindowIsDrawnOnTheTimeRailAndSteppedFrom() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "moves", "moved_at in last month");
        Locator rail = ines.getByRole(AriaRole.FIGURE, new Page.GetByRoleOptions().setName("Time rail"));
        assertThat(rail.locator(".bounds").first()).containsText("from 1 Oct 2026, 00:00");
        assertThat(rail.locator(".bounds").first()).containsText("up to, not including, 1 Nov 2026, 00:00");
        expectAccessible(ines, "the time rail");
        ines.keyboard().press("p");
        expect(
                ines,
                "moves",
                "moved_at >= '2026-09-01 00:00 Europe/London' and moved_at < '2026-10-01 00:00 Europe/London'");
        // Across the end of summer time a month is still a month.
        ines.keyboard().press("n");
        ines.keyboard().press("n");
        expect(
                ines,
                "moves",
                "moved_at >= '2026-11-01 00:00 Europe/London' and moved_at < '2026-12-01 00:00 Europe/London'");
        where(ines, "moves", "");
        assertThat(rail.locator(".bounds")).containsText("draw over the bars");
        BoundingBox box = rail.locator(".drawing svg").boundingBox();
        ines.mouse().move(box.x + box.width * 0.4, box.y + 20);
        ines.mouse().down();
        ines.mouse().move(box.x + box.width * 0.55, box.y + 20);
        assertThat(rail.locator(".bounds")).containsText(" to ");
        String drawn = rail.locator(".bounds").innerText();
        ines.mouse().up();
        String[] days = drawn.split(" to ");
        expect(
                ines,
                "moves",
                "moved_at >= '" + days[0] + " 00:00 Europe/London' and moved_at < timestamp '" + days[1]
                        + " 00:00' at time zone 'Europe/London' + interval '1 day'");
        assertThat(statement(ines).locator(".criterion")).hasCount(1);
        // Drawing again changes the window that is there.
        assertThat(rail.locator(".line.begins.ends")).isVisible();
        box = rail.locator(".drawing svg").boundingBox();
        ines.mouse().move(box.x + 30, box.y + 20);
        ines.mouse().down();
        ines.mouse().move(box.x + 200, box.y + 20);
        ines.mouse().up();
        assertThat(button(ines, "what was done, 2 steps")).isVisible();
        assertThat(statement(ines).locator(".criterion")).hasCount(1);
    }

    @Test
    void theRailDrawsWhatIsBerthedAtAnyTime() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "stays", "stay overlaps last week");
        Locator rail = ines.getByRole(AriaRole.FIGURE, new Page.GetByRoleOptions().setName("Time rail"));
        assertThat(rail.locator("title").first()).isAttached();
        String bar = rail.locator("title")
                .filter(new Locator.FilterOptions().setHasText(Pattern.compile("^17 Nov 2026")))
                .textContent();
        assertThat(bar)
                .isEqualTo(
                        "17 Nov 2026: "
                                + String.format(
                                        Locale.UK,
                                        "%,d",
                                        counted(
                                                "stays",
                                                "arrives < '2026-11-18 00:00 Europe/London' and (leaves is null or leaves > '2026-11-17 00:00 Europe/London')")));
    }

    @Test
    void thePaletteGoesToFieldsAndActions() {
        Page ines = signedIn("Ines Marlow");
        ines.keyboard().press("/");
        Locator palette = ines.getByRole(
                AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Go to a view, register or action"));
        assertThat(palette).isFocused();
        palette.fill("Cost: ask");
        ines.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("Cost: ask about it"))
                .click();
        assertThat(editor(ines)).isVisible();
        ines.keyboard().press("Escape");
        ines.keyboard().press("/");
        palette.fill("why is one");
        ines.keyboard().press("Enter");
        assertThat(ines.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Why")))
                .hasAttribute("aria-selected", "true");
    }

    @Test
    void thousandsOfPastedNumbersStayInTheLink() {
        Page ines = signedIn("Ines Marlow");
        StringBuilder numbers = new StringBuilder();
        for (int i = 0; i < 3_000; i++) {
            numbers.append(i == 0 ? "" : ", ").append("\"D-").append(20_000 + i).append('"');
        }
        expectSettled(ines);
        ines.keyboard().press("w");
        Locator words = ines.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("Statement over Defects"));
        words.fill("number is in (" + numbers + ")");
        ines.keyboard().press("Control+Enter");
        long there = defects("number between 'D-20000' and 'D-22999'");
        var patience = new com.microsoft.playwright.assertions.LocatorAssertions.HasTextOptions().setTimeout(20_000);
        String shown = String.format(Locale.UK, "%,d of 24,000", there);
        assertThat(ines.locator(".matching")).hasText(shown, patience);
        ines.reload();
        assertThat(ines.locator(".matching")).hasText(shown, patience);
        assertThat(ines.url()).contains("#where=");
    }

    @Test
    void phrasesAreMovedBetweenGroups() {
        Page ines = signedIn("Ines Marlow");
        where(
                ines,
                "defects",
                "severity >= 4 and site is \"North Quay\" and (status is \"New\" or status is \"Triaged\")");
        // Into the group after it, by keys.
        phrase(ines, "site is North Quay").focus();
        ines.keyboard().press("Alt+ArrowRight");
        expect(ines, "defects", "severity >= 4 and (status in ('New', 'Triaged') or site = 'North Quay')");
        phrase(ines, "site is North Quay").focus();
        ines.keyboard().press("Alt+ArrowLeft");
        expect(ines, "defects", "severity >= 4 and status in ('New', 'Triaged') and site = 'North Quay'");
        // The opposite of one phrase.
        phrase(ines, "site is North Quay").focus();
        ines.keyboard().press("x");
        expect(
                ines,
                "defects",
                "severity >= 4 and status in ('New', 'Triaged') and site is distinct from 'North Quay'");
        button(ines, "Step back").click();
        expect(ines, "defects", "severity >= 4 and status in ('New', 'Triaged') and site = 'North Quay'");
        // By dragging: behind an alternative.
        ines.locator(".line[draggable='true']")
                .filter(new Locator.FilterOptions().setHasText("severity"))
                .first()
                .dragTo(
                        ines.locator(".line[draggable='true']")
                                .filter(new Locator.FilterOptions().setHasText("status is Triaged"))
                                .first(),
                        new Locator.DragToOptions().setSourcePosition(20, 12).setTargetPosition(20, 26));
        expect(ines, "defects", "(status in ('New', 'Triaged') or severity >= 4) and site = 'North Quay'");
        phrase(ines, "severity is at least 4").focus();
        ines.keyboard().press("d");
        assertThat(phrase(ines, "severity is at least 4")).hasCount(2);
    }
}
