package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.MouseButton;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Random;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;

/** The questions that administrators are asked most, put by pointing and typing alone, each with its proof. */
class JourneysTest extends Journey {

    private static void register(Page page, String label) {
        page.getByRole(AriaRole.NAVIGATION)
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^" + label)))
                .click();
        assertThat(page.getByRole(
                        AriaRole.HEADING,
                        new Page.GetByRoleOptions().setName(label).setExact(true)))
                .isVisible();
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of [\\d,]+"));
        expectSettled(page);
    }

    private static void expect(Page page, String register, String sql) {
        assertThat(page.locator(".matching"))
                .hasText(Pattern.compile("^" + String.format(Locale.UK, "%,d", counted(register, sql)) + " of .*"));
        expectSettled(page);
    }

    /** A new criterion, by the name of its field and the words of its test. */
    private static void add(Page page, String field, String test) {
        page.keyboard().press("a");
        chooseField(page, field);
        chooseTest(page, test);
    }

    private static Locator edges(Page page) {
        page.keyboard().press("e");
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Edges"));
    }

    private static void keepOnly(Page page, String cell) {
        table(page)
                .getByRole(
                        AriaRole.GRIDCELL,
                        new Locator.GetByRoleOptions().setName(cell).setExact(true))
                .first()
                .click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        page.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Keep only " + cell))
                .click();
    }

    @Test
    void whatWasIssuedToOneSiteSinceAYearAndNotReturned() {
        Page wren = signedIn("Wren Halloway");
        register(wren, "Stores moves");
        keepOnly(wren, "Issued");
        expect(wren, "moves", "kind = 'Issued'");
        wren.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("Narrow by To").setExact(true))
                .click();
        wren.locator(".head-panel label")
                .filter(new Locator.FilterOptions().setHasText("Lantern Pier"))
                .click();
        button(wren, "Keep only these").click();
        expect(wren, "moves", "kind = 'Issued' and to_site = 'Lantern Pier'");
        add(wren, "Moved at", "from it on");
        editor(wren).getByLabel("Window").fill("2024");
        apply(wren);
        String since = "kind = 'Issued' and to_site = 'Lantern Pier' and moved_at >= '2024-01-01 00:00 Europe/London'";
        expect(wren, "moves", since);
        add(wren, "Returned at", "is empty");
        apply(wren);
        expect(wren, "moves", since + " and returned_at is null");
        assertThat(edges(wren)).containsText("Mon 1 Jan 2024, 00:00: begins here");
    }

    @Test
    void everythingThatHitOneAccountLastFiscalQuarterExceptWhatCameFromStays() {
        Page tomas = signedIn("Tomas Rell");
        register(tomas, "Dues ledger");
        keepOnly(tomas, "1100 Berth holders");
        expect(tomas, "dues", "account = '1100 Berth holders'");
        table(tomas)
                .getByRole(
                        AriaRole.GRIDCELL,
                        new Locator.GetByRoleOptions().setName("Stay").setExact(true))
                .first()
                .click(new Locator.ClickOptions().setButton(MouseButton.RIGHT));
        tomas.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Leave out Stay"))
                .click();
        expect(tomas, "dues", "account = '1100 Berth holders' and source <> 'Stay'");
        add(tomas, "Posted at", "in the window");
        editor(tomas).getByLabel("Window").fill("last fiscal quarter");
        assertThat(editor(tomas)).containsText("from Wed 1 Jul 2026 up to and including Wed 30 Sep 2026");
        apply(tomas);
        expect(
                tomas,
                "dues",
                "account = '1100 Berth holders' and source <> 'Stay' and posted_at >= '2026-07-01 00:00 Europe/London'"
                        + " and posted_at < '2026-10-01 00:00 Europe/London'");
        Locator edges = edges(tomas);
        assertThat(edges).containsText("Wed 1 Jul 2026, 00:00: begins here");
        assertThat(edges).containsText("Thu 1 Oct 2026, 00:00: ends here");
    }

    @Test
    void whoIsBerthedAtAnyTimeDuringAChosenWeek() {
        Page asta = signedIn("Asta Quill");
        register(asta, "Berth stays");
        add(asta, "Stay", "overlaps it");
        editor(asta).getByLabel("Window").fill("week 46");
        assertThat(editor(asta)).containsText("Which one is meant?");
        button(asta, "2026-W46").click();
        assertThat(editor(asta)).containsText("from Mon 9 Nov 2026 up to and including Sun 15 Nov 2026");
        apply(asta);
        expect(
                asta,
                "stays",
                "arrives < '2026-11-16 00:00 Europe/London' and (leaves is null or leaves > '2026-11-09 00:00 Europe/London')");
        // The week after by one key.
        asta.keyboard().press("n");
        expect(
                asta,
                "stays",
                "arrives < '2026-11-23 00:00 Europe/London' and (leaves is null or leaves > '2026-11-16 00:00 Europe/London')");
        assertThat(edges(asta)).containsText("Mon 16 Nov 2026, 00:00");
    }

    @Test
    void whatHappenedOutsideWorkingHoursLastMonth() {
        Page ines = signedIn("Ines Marlow");
        register(ines, "Stores moves");
        add(ines, "Moved at", "in the window");
        editor(ines).getByLabel("Window").fill("last month");
        apply(ines);
        String october = "moved_at >= '2026-10-01 00:00 Europe/London' and moved_at < '2026-11-01 00:00 Europe/London'";
        expect(ines, "moves", october);
        add(ines, "Moved at", "outside working hours");
        apply(ines);
        assertThat(phrase(ines, "moved at is outside working hours")).isVisible();
        expectSettled(ines);
        long all = counted("moves", october);
        long outside = Long.parseLong(
                ines.locator(".matching").innerText().split(" ")[0].replace(",", ""));
        Assertions.assertThat(outside).isPositive().isLessThan(all);
        // What is inside and what is outside make up the whole.
        phrase(ines, "moved at is outside working hours").click();
        chooseTest(ines, "in working hours");
        apply(ines);
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile("^" + String.format(Locale.UK, "%,d", all - outside) + " of .*"));
        assertThat(edges(ines)).containsText("Sun 1 Nov 2026, 00:00: ends here");
    }

    @Test
    void theNumbersThatAColleagueMailedInTheirOrder() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        List<String> numbers = new ArrayList<>(List.of(TestServer.query(
                        "select string_agg(number, ' ') from (select number from records.moves order by number offset 500 limit 58) n")
                .split(" ")));
        Collections.shuffle(numbers, new Random(60));
        List<String> mailed = new ArrayList<>(numbers);
        mailed.add(7, "M-999998");
        mailed.add(31, "M-999999");
        register(ines, "Stores moves");
        add(ines, "Number", "is one of");
        editor(ines).getByLabel("Values").fill(String.join("\n", mailed));
        assertThat(editor(ines)).containsText("60 values");
        apply(ines);
        assertThat(ines.locator(".matching")).hasText("58 of 44,000");
        // Those that nobody has are named, and taken out by one click.
        assertThat(statement(ines)).containsText("M-999998");
        button(ines, "Change the order").click();
        seen(ines, "As listed: in the order of the list of Number").click();
        assertThat(statement(ines)).containsText("Number, as listed");
        ines.keyboard().press("Escape");
        Locator first = ines.locator("td[data-field='number']");
        assertThat(first.first()).hasText(numbers.get(0));
        Assertions.assertThat(first.allInnerTexts().subList(0, 10)).isEqualTo(numbers.subList(0, 10));
    }
}
