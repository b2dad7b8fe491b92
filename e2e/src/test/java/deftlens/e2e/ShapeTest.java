package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.BoundingBox;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.List;
import java.util.Locale;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;

/** How records are shown: groups and sums, parts, marks, running totals, columns of another width and name. */
class ShapeTest extends Journey {

    private static void where(Page page, String register, String statement, String more) {
        open(page, asking(register, statement) + more);
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of [\\d,]+"));
        expectSettled(page);
    }

    private static Locator panel(Page page) {
        return page.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Shape"));
    }

    private static Locator group(Page page, String words) {
        return page.locator("tr.group").filter(new Locator.FilterOptions().setHasText(words));
    }

    private static String plain(long number) {
        return String.format(Locale.UK, "%,d", number);
    }

    private static String query(String sql) throws SQLException {
        return TestServer.query(sql);
    }

    @Test
    void figuresStandOnTheLastLineWithoutGroups() throws SQLException {
        Page tomas = signedIn("Tomas Rell");
        where(tomas, "dues", "amount > 0 and posted_at before 2026-11-01", "");
        tomas.keyboard().press("s");
        panel(tomas).getByLabel("Figure of").selectOption("Amount");
        panel(tomas).getByLabel("Figure of").selectOption("Posted at");
        panel(tomas).getByLabel("What of Posted at").selectOption("latest");
        tomas.keyboard().press("Escape");
        Locator whole = tomas.locator("tfoot tr.whole");
        String where = " from records.dues where amount > 0 and posted_at < '2026-11-01 00:00 Europe/London'";
        assertThat(whole).containsText("All together " + query("select to_char(count(*), 'FM999,999,990')" + where));
        assertThat(whole).containsText(query("select to_char(sum(amount), 'FM999,999,990.00')" + where));
        assertThat(whole).isInViewport();
        assertThat(statement(tomas)).containsText("with sum of Amount, latest Posted at");
        assertThat(whole)
                .containsText(
                        query("select to_char(max(posted_at) at time zone 'Europe/London', 'FMDD Mon YYYY, HH24:MI')"
                                + where));

        // By the head of the column: another figure of it, and one less.
        exactButton(tomas, "Narrow by Amount").click();
        Locator figures = tomas.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Figures of Amount"));
        figures.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("average"))
                .click();
        assertThat(whole)
                .containsText("average of Amount "
                        + query("select to_char(round(avg(amount), 2), 'FM999,999,990.00')" + where));
        figures.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("average"))
                .click();
        assertThat(whole).not().containsText("average");
        tomas.keyboard().press("Escape");

        expectAccessible(tomas, "figures without groups");

        // The balance is told before the first and after the last of them.
        tomas.keyboard().press("s");
        panel(tomas).getByLabel("Running Amount").selectOption("beginning");
        tomas.keyboard().press("Escape");
        assertThat(seen(tomas, "After the last of them:")).isVisible();
        assertThat(tomas.locator("td.running").first()).not().hasText("");
        assertThat(tomas.locator("tr.more").first())
                .containsText(tomas.locator("td.running").first().innerText());
    }

    @Test
    void theKeysGoFromMatchToMatch() {
        Page ines = signedIn("Ines Marlow");
        String statement = "severity = 5 and site is \"Outer Roads\"";
        where(ines, "defects", statement, "");
        assertThat(ines.locator("td.ident").nth(2)).isVisible();
        List<String> matches = ines.locator("td.ident").allInnerTexts().subList(0, 3);
        where(ines, "defects", statement, "&shape=" + URLEncoder.encode("{\"marked\":true}", StandardCharsets.UTF_8));
        Locator at = ines.locator("tbody tr:focus-within td.ident");
        button(ines, "next match").click();
        assertThat(at).hasText(matches.get(0));
        assertThat(ines.locator("tbody tr:focus-within")).isInViewport();
        ines.keyboard().press("Shift+ArrowDown");
        assertThat(at).hasText(matches.get(1));
        button(ines, "next match").click();
        assertThat(at).hasText(matches.get(2));
        ines.keyboard().press("Shift+ArrowUp");
        assertThat(at).hasText(matches.get(1));
        ines.keyboard().press("Shift+ArrowUp");
        assertThat(at).hasText(matches.get(0));
        ines.keyboard().press("Shift+ArrowUp");
        assertThat(seen(ines, "There is no match before this one.")).isVisible();
        assertThat(at).hasText(matches.get(0));
        expectAccessible(ines, "from match to match");
    }

    @Test
    void recordsStandInGroupsWithTheirSums() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4", "");
        ines.keyboard().press("s");
        panel(ines).getByLabel("Group by").selectOption("Site");
        assertThat(group(ines, "North Quay")).isVisible();
        panel(ines).getByLabel("Group by").selectOption("Due");
        panel(ines).getByLabel("Groups of Due by").selectOption("quarter");
        panel(ines).getByLabel("Figure of").selectOption("Cost");
        expectAccessible(ines, "groups");
        ines.keyboard().press("Escape");
        assertThat(statement(ines)).containsText("in groups by Site, then quarter of Due");
        // Which records match is as it was.
        assertThat(ines.locator(".matching")).hasText(plain(defects("severity >= 4")) + " of 24,000");
        String sum = query(
                "select to_char(sum(cost), 'FM999,999,990.00') from records.defects where severity >= 4 and site = 'North Quay'");
        assertThat(group(ines, "North Quay")).containsText(plain(defects("severity >= 4 and site = 'North Quay'")));
        assertThat(group(ines, "North Quay")).containsText(sum);
        assertThat(ines.locator("tr.whole")).containsText(plain(defects("severity >= 4")));

        // Opened by keys, down to the records.
        group(ines, "North Quay").focus();
        ines.keyboard().press("ArrowRight");
        Locator autumn = group(ines, "Oct to Dec 2026");
        long inAutumn = defects("severity >= 4 and site = 'North Quay' and due >= '2026-10-01' and due < '2027-01-01'");
        assertThat(autumn).containsText(plain(inAutumn));
        autumn.focus();
        ines.keyboard().press("Enter");
        assertThat(ines.locator("tr[aria-selected]")).not().hasCount(0);
        assertThat(ines.locator("tr.outside")).hasCount(0);
        ines.keyboard().press("ArrowDown");
        ines.keyboard().press("Enter");
        assertThat(ines.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Record")))
                .isVisible();
        ines.keyboard().press("Escape");
        group(ines, "North Quay").focus();
        ines.keyboard().press("ArrowLeft");
        assertThat(group(ines, "Oct to Dec 2026")).hasCount(0);

        // Kept with the view, and there again when it is opened.
        button(ines, "Save as a new view").click();
        ines.locator("#view-name").fill("Severe, by site and quarter");
        exactButton(ines, "Save").click();
        ines.waitForURL(Pattern.compile(".*/views/\\d+"));
        ines.reload();
        assertThat(statement(ines)).containsText("in groups by Site, then quarter of Due");
        assertThat(group(ines, "North Quay")).containsText(sum);
        button(ines, "open all").click();
        assertThat(group(ines, "Oct to Dec 2026").first()).isVisible();
    }

    @Test
    void aRunningTotalBeginsWithWhatCameBefore() throws SQLException {
        Page wren = signedIn("Wren Halloway");
        where(wren, "moves", "item is \"Shackle 12 mm\" and moved_at in this year", "");
        button(wren, "Shape").click();
        panel(wren)
                .getByLabel("Running Change")
                .selectOption("from the beginning: what came before the first record counts");
        assertThat(statement(wren)).containsText("running change from the beginning");
        // With the latest first, what came before stands under the last of them.
        String before = query(
                "select sum(change) from records.moves where item = 'Shackle 12 mm' and moved_at < '2026-01-01 00:00 Europe/London'");
        Locator opening =
                wren.locator("tr.more").filter(new Locator.FilterOptions().setHasText("Before the first of them"));
        wren.keyboard().press("Escape");
        wren.locator("td[data-field='number']").first().click();
        wren.keyboard().press("Control+End");
        assertThat(opening).containsText(plain(Long.parseLong(before)));
        Locator head = wren.locator("th")
                .filter(new Locator.FilterOptions().setHasText("Moved at"))
                .getByRole(AriaRole.BUTTON)
                .first();
        head.click();
        head.click();
        assertThat(statement(wren)).containsText("moved at, oldest first");
        button(wren, "Shape").click();
        panel(wren)
                .getByLabel("Running Change")
                .selectOption("from the beginning: what came before the first record counts");
        assertThat(opening).containsText(plain(Long.parseLong(before)));
        // It proves itself: what is on hand after each move is what has been added up.
        Locator first = wren.locator("tbody tr[aria-selected]").first();
        assertThat(first).isVisible();
        List<String> running = wren.locator("td.running").allInnerTexts();
        List<String> onHand = wren.locator("td[data-field='on_hand_after']").allInnerTexts();
        Assertions.assertThat(running).hasSizeGreaterThan(10).isEqualTo(onHand);
        panel(wren).getByLabel("Running Change").selectOption("from zero");
        assertThat(wren.locator("td.running").first())
                .hasText(wren.locator("td[data-field='change']").first().innerText());
        // Another order has no running total.
        wren.keyboard().press("Escape");
        wren.locator("th")
                .filter(new Locator.FilterOptions().setHasText("Item"))
                .getByRole(AriaRole.BUTTON)
                .first()
                .click();
        assertThat(statement(wren)).not().containsText("running change");
    }

    @Test
    void aPartIsShownOrAllWithTheMatchesMarked() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "site is \"North Quay\"", "&order=number");
        button(ines, "Shape").click();
        panel(ines).getByLabel("From row").fill("3");
        panel(ines).getByLabel("To row").fill("5");
        panel(ines).getByLabel("To row").blur();
        assertThat(statement(ines)).containsText("rows 3 to 5");
        Locator numbers = ines.locator("td[data-field='number']");
        assertThat(numbers).hasText(new String[] {
            query("select number from records.defects where site = 'North Quay' order by number offset 2 limit 1"),
            query("select number from records.defects where site = 'North Quay' order by number offset 3 limit 1"),
            query("select number from records.defects where site = 'North Quay' order by number offset 4 limit 1")
        });
        assertThat(ines.locator(".shown-of")).hasText("3 shown of");
        panel(ines).getByLabel("How many at random").fill("6");
        panel(ines).getByLabel("How many at random").blur();
        assertThat(numbers).hasCount(6);
        List<String> once = numbers.allInnerTexts();
        ines.reload();
        assertThat(numbers).hasText(once.toArray(String[]::new));
        button(ines, "Shape").click();
        button(ines, "pick others").click();
        assertThat(numbers).not().hasText(once.toArray(String[]::new));
        panel(ines).getByLabel("every record, matches marked").check();
        assertThat(statement(ines)).containsText("all records, matches marked");
        assertThat(ines.locator("tr.outside").first()).isVisible();
        assertThat(ines.locator("tr.outside td[data-field='site']").first())
                .not()
                .hasText("North Quay");
        assertThat(ines.locator("tr:not(.outside) td[data-field='site']").first())
                .hasText("North Quay");
        assertThat(ines.locator(".matching")).hasText(plain(defects("site = 'North Quay'")) + " of 24,000");
        expectAccessible(ines, "matches marked");
    }

    @Test
    void columnsAreResizedCalledSomethingElseAndHeld() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "", "");
        Locator head = ines.locator("th").filter(new Locator.FilterOptions().setHasText("Assignee"));
        BoundingBox before = head.boundingBox();
        BoundingBox edge = head.locator(".edge").boundingBox();
        ines.mouse().move(edge.x + edge.width / 2, edge.y + 10);
        ines.mouse().down();
        ines.mouse()
                .move(
                        edge.x + edge.width / 2 + 60,
                        edge.y + 10,
                        new com.microsoft.playwright.Mouse.MoveOptions().setSteps(4));
        ines.mouse().up();
        ines.waitForURL(Pattern.compile(".*shape=.*"));
        Assertions.assertThat(head.boundingBox().width).isBetween(before.width + 50, before.width + 70);
        head.getByRole(AriaRole.BUTTON).first().focus();
        ines.keyboard().press("Alt+ArrowLeft");
        ines.waitForCondition(() -> head.boundingBox().width < before.width + 50);
        Assertions.assertThat(ines.url()).contains("shape=");

        button(ines, "Columns").click();
        Locator line = ines.locator(".columns-panel li").filter(new Locator.FilterOptions().setHasText("Assignee"));
        line.hover();
        button(ines, "Rename Assignee here").click();
        ines.getByLabel("Name of Assignee here").fill("Who does it");
        ines.keyboard().press("Enter");
        assertThat(ines.locator("th").filter(new Locator.FilterOptions().setHasText("Who does it")))
                .isVisible();
        button(ines, "Freeze Assignee").click();
        ines.keyboard().press("Escape");
        assertThat(ines.locator("th").first()).containsText("Who does it");
        assertThat(ines.locator("th").first()).hasClass(Pattern.compile(".*held.*"));
        // One step back at a time.
        button(ines, "Step back").click();
        assertThat(ines.locator("th").first()).containsText("Number");
        button(ines, "Step back").click();
        assertThat(table(ines)).containsText("Assignee");
    }

    @Test
    void recordsWithoutAValueComeFirstWhereTheyAreWanted() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4", "&order=due");
        String earliest = query("select to_char(min(due), 'FMDD Mon YYYY') from records.defects where severity >= 4");
        assertThat(ines.locator("td[data-field='due']").first()).hasText(earliest);
        button(ines, "Change the order").click();
        button(ines, "empties last: where records without Due come").click();
        assertThat(statement(ines)).containsText("due, empties and then oldest first");
        assertThat(ines.locator("td[data-field='due']").first()).hasText("—");
        Assertions.assertThat(ines.url()).contains("empties-first");
    }
}
