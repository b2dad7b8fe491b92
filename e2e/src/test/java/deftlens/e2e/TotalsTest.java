package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.BoundingBox;
import deftlens.server.testing.TestServer;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.sql.SQLException;
import java.util.List;
import java.util.Locale;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;

/** From many records to figures, and from a figure back to its records. */
class TotalsTest extends Journey {

    private static final String FISCAL = "value_date >= '2026-04-01' and value_date < '2027-04-01'";
    /** Ledger entries of this fiscal year that no stay made. */
    private static final String ENTRIES =
            " from records.dues where " + FISCAL + " and (source is null or source <> 'Stay')";

    private static void where(Page page, String register, String statement) {
        open(page, asking(register, statement));
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of [\\d,]+"));
        expectSettled(page);
    }

    private static Locator panel(Page page) {
        return page.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Shape"));
    }

    private static Locator totals(Page page) {
        return page.locator(".totals:not(.waiting) table");
    }

    /** The line of a row by its words, or under all. */
    private static Locator line(Page page, String words) {
        return totals(page)
                .locator("tr")
                .filter(new Locator.FilterOptions()
                        .setHas(page.getByRole(
                                AriaRole.ROWHEADER,
                                new Page.GetByRoleOptions().setName(words).setExact(true))));
    }

    private static void readAsTotals(Page page) {
        page.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Read as"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Totals"))
                .click();
    }

    private static void readAsRecordsAndBack(Page page) {
        page.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Read as"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Records"))
                .click();
        assertThat(page.locator("tr.group").first()).isVisible();
        readAsTotals(page);
    }

    private static String query(String sql) throws SQLException {
        return TestServer.query(sql);
    }

    @Test
    void sumsOfAccountsByMonthOpenTheEntriesBehindThem() throws SQLException, IOException {
        Page tomas = signedIn("Tomas Rell");
        where(tomas, "dues", "value_date in this fiscal year and source is not \"stay\"");
        readAsTotals(tomas);
        // What the rows are is asked at once.
        panel(tomas).getByLabel("Rows by").selectOption("Account");
        panel(tomas).getByLabel("Columns by").selectOption("Value date");
        panel(tomas).getByLabel("Figure of").selectOption("Amount");
        tomas.keyboard().press("Escape");
        assertThat(statement(tomas)).containsText("as totals by Account; month of Value date across; sum of Amount");

        // Each account is there, each month up to now, and the figures are those of plain SQL.
        List<String> accounts =
                List.of(query("select string_agg(account, '|' order by account) from (select distinct account" + ENTRIES
                                + ") a")
                        .split("\\|"));
        assertThat(totals(tomas).locator("tbody tr:not(.spacer)")).hasCount(accounts.size());
        for (String account : accounts) {
            String figures = query("select string_agg(to_char(s, 'FM999,999,990.00'), '|' order by m) from (select"
                    + " date_trunc('month', value_date) as m, sum(amount) as s" + ENTRIES + " and account = '"
                    + account.replace("'", "''") + "' group by 1) x");
            Assertions.assertThat(line(tomas, account).locator("td").allInnerTexts().stream()
                            .filter(t -> !t.isBlank())
                            .toList())
                    .as(account)
                    .startsWith(figures.split("\\|"));
        }
        expectAccessible(tomas, "totals");

        // Only accounts above ten thousand: rows are left out after adding up, and the words say so.
        exactButton(tomas, "only rows where…").click();
        assertThat(tomas.locator(".keep .cm-content")).isFocused();
        tomas.keyboard().type("sum_of_amount > 10000");
        tomas.keyboard().press("Control+Enter");
        assertThat(exactButton(tomas, "sum of Amount > 10000")).isVisible();
        long large = Long.parseLong(
                query("select count(*) from (select account" + ENTRIES + " group by 1 having sum(amount) > 10000) a"));
        Assertions.assertThat(large).isBetween(1L, accounts.size() - 1L);
        assertThat(totals(tomas).locator("tbody tr:not(.spacer)")).hasCount((int) large);
        assertThat(line(tomas, "Rows shown"))
                .containsText(query("select to_char(sum(s), 'FM999,999,990.00') from (select sum(amount) as s" + ENTRIES
                        + " group by account having sum(amount) > 10000) a"));
        assertThat(line(tomas, "All records"))
                .containsText(query("select to_char(sum(amount), 'FM999,999,990.00')" + ENTRIES));
        expectAccessible(tomas, "totals with criteria on figures");

        // The oddest figure opens exactly its entries, with the same sum; one step back the totals are there again.
        String account =
                query("select account" + ENTRIES + " group by 1 having sum(amount) > 10000 order by 1 limit 1");
        String behind = ENTRIES + " and account = '" + account
                + "' and value_date >= '2026-06-01' and value_date < '2026-07-01'";
        String sum = query("select to_char(sum(amount), 'FM999,999,990.00')" + behind);
        line(tomas, account)
                .getByText(sum, new Locator.GetByTextOptions().setExact(true))
                .click();
        assertThat(tomas.locator(".matching"))
                .hasText(Pattern.compile("^"
                        + String.format(Locale.UK, "%,d", Long.parseLong(query("select count(*)" + behind))) + " of "));
        assertThat(tomas.locator("tfoot tr.whole")).containsText(sum);
        assertThat(statement(tomas)).containsText("value date is in June 2026");
        exactButton(tomas, "Step back").click();
        assertThat(line(tomas, "All records")).isVisible();

        // The figure of all records and that of the rows shown open theirs too.
        line(tomas, "Rows shown").locator("td").last().click();
        assertThat(tomas.locator(".matching"))
                .hasText(Pattern.compile("^"
                        + String.format(
                                Locale.UK,
                                "%,d",
                                Long.parseLong(query("select sum(n) from (select count(*) as n" + ENTRIES
                                        + " group by account having sum(amount) > 10000) a")))
                        + " of "));
        exactButton(tomas, "Step back").click();

        // The file has what the screen has.
        exactButton(tomas, "CSV").click();
        Download file = tomas.waitForDownload(() -> link(tomas, "Download CSV").click());
        List<String> lines = Files.readAllLines(file.path());
        Assertions.assertThat(lines.getFirst().replace("\uFEFF", "")).startsWith("Account,\"2026-04, sum of Amount\",");
        Assertions.assertThat(lines).hasSize(1 + (int) large + 2);
        Assertions.assertThat(lines.getLast())
                .startsWith("total,")
                .endsWith("," + query("select sum(amount)" + ENTRIES));
    }

    @Test
    void theItemsThatAreIssuedMostStandAloneAndOpenTheirMoves() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "moves", "kind is \"issued\"");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("Item");
        panel(ines).getByLabel("Figure of").selectOption("Quantity");
        panel(ines).getByLabel("How many of the first rows").fill("5");
        ines.keyboard().press("Enter");
        ines.keyboard().press("Escape");
        assertThat(statement(ines)).containsText("as totals by Item; sum of Quantity; the first 5 rows");
        exactButton(ines, "sum of Quantity").click();
        String issued = " from records.moves where kind = 'Issued'";
        List<String> most =
                List.of(query("select string_agg(item, '|' order by s desc, item) from (select item, sum(quantity) as s"
                                + issued + " group by 1 order by 2 desc, 1 limit 5) i")
                        .split("\\|"));
        assertThat(totals(ines).locator("tbody tr:not(.spacer) th")).hasText(most.toArray(String[]::new));
        assertThat(ines.locator(".first-rows"))
                .containsText("The first 5 of " + query("select to_char(count(distinct item), 'FM9,999')" + issued)
                        + " rows by Item.");
        expectAccessible(ines, "the first rows of totals");
        String five = issued + " and item in ('"
                + String.join(
                        "', '", most.stream().map(i -> i.replace("'", "''")).toList()) + "')";
        assertThat(line(ines, "Rows shown"))
                .containsText(query("select to_char(sum(quantity), 'FM999,999,990')" + five));
        assertThat(line(ines, "All records"))
                .containsText(query("select to_char(sum(quantity), 'FM999,999,990')" + issued));
        line(ines, "Rows shown").locator("td").last().click();
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile("^"
                        + String.format(Locale.UK, "%,d", Long.parseLong(query("select count(*)" + five))) + " of "));
        exactButton(ines, "Step back").click();
        ines.locator(".first-rows button").click();
        assertThat(line(ines, "Total")).isVisible();
        assertThat(ines.locator(".first-rows")).hasCount(0);
    }

    @Test
    void aQuarterStandsBesideThatOfTheYearBefore() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "reported_at in this quarter and severity >= 4");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("Site");
        panel(ines).getByLabel("Compare with").selectOption("the same window a year before");
        ines.keyboard().press("Escape");
        assertThat(statement(ines)).containsText("as totals by Site; beside the same window a year before");
        assertThat(ines.locator(".compared"))
                .hasText("Reported at 1 Oct 2026 to 31 Dec 2026, beside 1 Oct 2025 to 31 Dec 2025."
                        + " This window is not over: it ends on 31 Dec 2026.");
        String beside =
                " from (select site, reported_at >= '2026-10-01 00:00 Europe/London' as now from records.defects"
                        + " where severity >= 4 and (reported_at >= '2026-10-01 00:00 Europe/London' and reported_at <"
                        + " '2027-01-01 00:00 Europe/London' or reported_at >= '2025-10-01 00:00 Europe/London' and"
                        + " reported_at < '2026-01-01 00:00 Europe/London')) d";
        String figures = "count(*) filter (where now) as n, count(*) filter (where not now) as e";
        String words = "concat(n, '|', e, '|', case when n > e then '+' end, n - e, '|', case when n > e then '+' end,"
                + " to_char(round((n - e) * 100.0 / e, 1), 'FM990.0'), '%')";
        String site =
                query("select site" + beside + " where site is not null group by 1 order by count(*) desc limit 1");
        for (String[] row : new String[][] {{site, " where site = '" + site + "'"}, {"Total", ""}}) {
            Assertions.assertThat(
                            String.join("|", line(ines, row[0]).locator("td").allInnerTexts()))
                    .as(row[0])
                    .isEqualTo(query("select " + words + " from (select " + figures + beside + row[1] + ") f"));
        }
        expectAccessible(ines, "totals beside an earlier time");

        // What changed most comes first.
        exactButton(ines, "difference").click();
        assertThat(ines.locator("th[aria-sort=descending]")).containsText("difference");
        // The figure of the year before opens the defects of then.
        line(ines, site).locator("td").nth(1).click();
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile(
                        "^" + query("select count(*)" + beside + " where not now and site = '" + site + "'") + " of "));
        assertThat(statement(ines)).containsText("reported at is in Q4 2025");
        exactButton(ines, "Step back").click();
        assertThat(line(ines, "Total")).isVisible();

        // Without its window nothing is compared, and the page says why; the totals stand.
        where(ines, "defects", "severity >= 4");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("Site");
        panel(ines).getByLabel("Compare with").selectOption("the window before");
        assertThat(ines.locator(".compared")).containsText("Nothing is compared");
        assertThat(line(ines, "Total").locator("td")).hasCount(1);
    }

    @Test
    void theBalanceOfAnAccountAtTheEndOfEachMonthAndWhatIsOnHand() throws SQLException {
        Page tomas = signedIn("Tomas Rell");
        where(tomas, "dues", "account is \"1200 Bank\" and posted_at in this fiscal year");
        readAsTotals(tomas);
        panel(tomas).getByLabel("Rows by").selectOption("Posted at");
        panel(tomas).getByLabel("Balances of Amount").selectOption("opening with everything before the window");
        tomas.keyboard().press("Escape");
        assertThat(statement(tomas))
                .containsText("as totals by month of Posted at; balances of Amount from the beginning");
        assertThat(tomas.locator(".balance"))
                .hasText(
                        "Amount by Posted at. Opening: everything before 1 Apr 2026. Closing: at the end of 31 Mar 2027,"
                                + " which has not come yet.");
        String entries = " from records.dues where account = '1200 Bank'";
        String sum = "select to_char(sum(amount), 'FM999,999,990.00')" + entries;
        String[] months = {"April", "May", "June", "July", "August", "September", "October", "November"};
        for (int i = 0; i < months.length; i++) {
            String from = " and posted_at < '2026-" + (i + 4) + "-01 00:00 Europe/London'";
            String to = " and posted_at < '2026-" + (i + 5) + "-01 00:00 Europe/London'";
            Locator figures = line(tomas, months[i] + " 2026").locator("td");
            assertThat(figures.nth(0)).hasText(query(sum + from));
            assertThat(figures.nth(4)).hasText(query(sum + to));
        }
        assertThat(line(tomas, "Total").locator("td").nth(4)).hasText(query(sum));
        expectAccessible(tomas, "balances");

        // A balance opens the entries that make it up, with the same sum.
        String august = query(sum + " and posted_at < '2026-09-01 00:00 Europe/London'");
        line(tomas, "August 2026").locator("td").nth(4).click();
        assertThat(statement(tomas)).containsText("posted at is before 1 Sep 2026");
        assertThat(tomas.locator("tfoot tr.whole")).containsText(august);

        // What was on hand at the end of last quarter, the most first.
        where(tomas, "moves", "moved_at up to last quarter");
        readAsTotals(tomas);
        panel(tomas).getByLabel("Rows by").selectOption("Item");
        panel(tomas).getByLabel("Balances of Change").selectOption("opening with everything before the window");
        tomas.keyboard().press("Escape");
        assertThat(tomas.locator(".balance")).containsText("Closing: at the end of 30 Sep 2026.");
        exactButton(tomas, "closing").click();
        assertThat(tomas.locator("th[aria-sort=descending]")).containsText("closing");
        String onHand =
                query("select item || '|' || to_char(sum(change), 'FM999,999,990') from records.moves where moved_at"
                        + " < '2026-10-01 00:00 Europe/London' group by item order by sum(change) desc, item limit 1");
        Locator first = totals(tomas).locator("tbody tr:not(.spacer)").first();
        assertThat(first.locator("td").nth(4)).hasText(onHand.split("\\|")[1]);
        assertThat(first.locator("td").nth(0)).hasText("0");

        // Only what there was too little of: rows are left out by their closing.
        exactButton(tomas, "only rows where…").click();
        assertThat(tomas.locator(".keep .cm-content")).isFocused();
        tomas.keyboard().type("closing < 3");
        tomas.keyboard().press("Control+Enter");
        assertThat(exactButton(tomas, "closing of Change < 3")).isVisible();
        String few =
                "(select item, sum(change) as s from records.moves where moved_at < '2026-10-01 00:00 Europe/London'"
                        + " group by item having sum(change) < 3) i";
        assertThat(line(tomas, "Rows shown").locator("td").nth(4))
                .hasText(query("select to_char(coalesce(sum(s), 0), 'FM999,999,990') from " + few));
        assertThat(totals(tomas).locator("tbody tr:not(.spacer)"))
                .hasCount(Integer.parseInt(query("select count(*) from " + few)));
    }

    @Test
    void totalsAreKeptWithAViewAndReadByEachReader() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "tags has any of (\"Safety\")");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("Site");
        panel(ines).getByLabel("Figure of").selectOption("the number of records");
        panel(ines).getByLabel("Figure of").selectOption("Severity");
        panel(ines).getByLabel("What of Severity").selectOption("median of");
        ines.keyboard().press("Escape");
        exactButton(ines, "number of records").click();
        assertThat(ines.locator("th[aria-sort=descending]")).containsText("number of records");
        button(ines, "Save as a new view").click();
        dialog(ines, "Save").getByLabel("Name").fill("Safety by site, in figures");
        dialog(ines, "Save")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save"))
                .click();
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Safety by site, in figures")))
                .isVisible();
        ines.waitForURL(Pattern.compile(".*/views/\\d+$"));
        String view = ines.url();
        ines.reload();
        String first = query("select count(*) || ' ' || percentile_disc(0.5) within group (order by severity)"
                + " from records.defects where 'Safety' = any(tags) group by site order by count(*) desc limit 1");
        assertThat(totals(ines).locator("tbody tr:not(.spacer)").first())
                .containsText(Pattern.compile(
                        first.split(" ")[0].replaceAll("(\\d)(?=(\\d{3})+$)", "$1,") + "\\s*" + first.split(" ")[1]));
        // Shown as records and as totals again, everything is as it was.
        readAsRecordsAndBack(ines);
        assertThat(ines.locator("th[aria-sort=descending]")).containsText("number of records");
        // As records, the figures stand with the groups.
        ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Read as"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Records"))
                .click();
        assertThat(ines.locator("tr.group").first()).containsText("median");
        exactButton(ines, "Step back").click();
        assertThat(line(ines, "Total")).isVisible();
        ines.waitForURL(view);
    }

    @Test
    void aPinnedViewHasAFigureBesideIt() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "moves", "kind is \"issued\"");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("To");
        panel(ines).getByLabel("Figure of").selectOption("Quantity");
        ines.keyboard().press("Escape");
        button(ines, "Save as a new view").click();
        dialog(ines, "Save").getByLabel("Name").fill("Issued, by where it went");
        dialog(ines, "Save")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save"))
                .click();
        ines.waitForURL(Pattern.compile(".*/views/\\d+$"));
        Locator number = ines.locator(".list a.here .count");
        // More than ten thousand are not counted to the end beside a name.
        String records = "10,000+";
        assertThat(number).hasText(records);
        more(ines, "Pin to my list");
        more(ines, "What stands beside it on my list");
        Locator beside = dialog(ines, "Beside");
        assertThat(beside.getByLabel("the number of records")).isChecked();
        expectAccessible(ines, "what stands beside a view");
        beside.getByLabel("sum of Quantity").check();
        beside.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save"))
                .click();
        String sum = query("select to_char(sum(quantity), 'FM999,999,990') from records.moves where kind = 'Issued'");
        assertThat(number).hasText(sum);
        ines.reload();
        assertThat(number).hasText(sum);
        assertThat(ines.locator(".list a.here")).hasAttribute("title", Pattern.compile(".*: sum of Quantity\\..*"));
        // The number of records again, and off the list.
        more(ines, "What stands beside it on my list");
        dialog(ines, "Beside").getByLabel("the number of records").check();
        dialog(ines, "Beside")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save"))
                .click();
        assertThat(number).hasText(records);
        more(ines, "Unpin from my list");
        more(ines, "Delete");
        dialog(ines, "Delete")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Delete"))
                .click();
        ines.waitForURL(Pattern.compile(".*/views"));
    }

    @Test
    void theKeysReadTotalsAndOpenAFigure() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "moves", "moved_at in 2026-10");
        ines.keyboard().press("t");
        // The keys are at what the rows are.
        assertThat(panel(ines).getByLabel("Rows by")).isFocused();
        ines.keyboard().press("K");
        assertThat(statement(ines)).containsText("as totals by Kind");
        ines.keyboard().press("Escape");
        Locator first = totals(ines).locator("[data-line='0'] [data-column='0']");
        button(ines, "Skip to the totals").focus();
        ines.keyboard().press("Enter");
        assertThat(first).isFocused();
        ines.keyboard().press("ArrowDown");
        Locator second = totals(ines).locator("[data-line='1'] [data-column='0']");
        assertThat(second).isFocused();
        String number = second.innerText();
        ines.keyboard().press("Enter");
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + number + " of "));
        assertThat(table(ines).locator("tbody tr[data-index='0']")).isVisible();
    }

    @Test
    void aChartOpensItsRecordsAndMakesWindows() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "reported_at in last 12 full months");
        readAsTotals(ines);
        panel(ines).getByLabel("Rows by").selectOption("Reported at");
        panel(ines).getByLabel("Groups of Reported at by").selectOption("month");
        panel(ines).getByLabel("Chart above the table").selectOption("bars");
        ines.keyboard().press("Escape");
        Locator chart = ines.getByRole(AriaRole.IMG, new Page.GetByRoleOptions().setName("Chart of number of records"));
        Locator bars = chart.locator("path[fill='#0b6b5c']");
        assertThat(bars).hasCount(12);
        expectAccessible(ines, "totals with a chart");

        // A mark opens its records, and a step back brings the chart back.
        bars.nth(2).click();
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile("^" + reported("2026-01-01", "2026-02-01") + " of "));
        exactButton(ines, "Step back").click();
        assertThat(bars).hasCount(12);

        // Drawn over, marks make a window in the place of the one there was.
        BoundingBox from = bars.nth(1).boundingBox();
        BoundingBox to = bars.nth(4).boundingBox();
        ines.mouse().move(from.x + from.width / 2, from.y + from.height / 2);
        ines.mouse().down();
        ines.mouse().move((from.x + to.x) / 2, from.y + from.height / 2);
        ines.mouse().move(to.x + to.width / 2, from.y + from.height / 2);
        assertThat(ines.locator(".chart .hint")).hasText("2025-12-01 to 2026-03-31");
        ines.mouse().up();
        assertThat(statement(ines)).containsText("reported at is in 1 Dec 2025 to 31 Mar 2026");
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile("^" + reported("2025-12-01", "2026-04-01") + " of "));
        assertThat(bars).hasCount(4);

        // Other charts of the same answer; a line goes along dates, and the table alone is one click away.
        ines.getByLabel("Chart", new Page.GetByLabelOptions().setExact(true))
                .and(ines.locator("select"))
                .selectOption("lines");
        assertThat(chart.locator("path[stroke='#0b6b5c']").first()).isVisible();
        exactButton(ines, "Table alone").click();
        assertThat(chart).hasCount(0);
        assertThat(line(ines, "Total")).isVisible();
    }

    private static String reported(String from, String to) throws SQLException {
        return String.format(
                Locale.UK,
                "%,d",
                Long.parseLong(query("select count(*) from records.defects where reported_at >= '" + from
                        + " 00:00 Europe/London' and reported_at < '" + to + " 00:00 Europe/London'")));
    }

    @Test
    void aCriterionOnTheWrongSideIsNoticedAndPutRight() throws SQLException {
        Page tomas = signedIn("Tomas Rell");
        String shape =
                "{\"groups\":[{\"field\":\"account\"}],\"measures\":[{\"function\":\"sum\",\"field\":\"amount\"}],"
                        + "\"totals\":{}}";
        open(tomas, asking("dues", "amount > 1000") + "&shape=" + URLEncoder.encode(shape, StandardCharsets.UTF_8));
        assertThat(seen(tomas, "“amount is more than 1000” leaves records out before they are added up"))
                .isVisible();
        expectSettled(tomas);
        exactButton(tomas, "Hold it after adding up").click();
        assertThat(exactButton(tomas, "sum of Amount > 1000")).isVisible();
        assertThat(statement(tomas)).containsText("every one of them");
        assertThat(seen(tomas, "leaves records out before they are added up")).hasCount(0);
        assertThat(totals(tomas).locator("tbody tr:not(.spacer)"))
                .hasCount(Integer.parseInt(query("select count(*) from (select account from records.dues group by 1"
                        + " having sum(amount) > 1000) a")));
        exactButton(tomas, "Step back").click();
        assertThat(phrase(tomas, "amount is more than")).isVisible();
    }
}
