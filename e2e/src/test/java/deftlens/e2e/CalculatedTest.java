package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.core.time.DurationText;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.List;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Calculated fields: declared, tried, asked for, added up. */
class CalculatedTest extends Journey {

    private static String count(String sql) throws SQLException {
        return String.format(java.util.Locale.UK, "%,d", Long.parseLong(TestServer.query(sql)));
    }

    private static void where(Page page, String register, String statement) {
        open(page, asking(register, statement));
        expectSettled(page);
    }

    /** A journey that is made again begins as the first time. */
    @BeforeEach
    void withoutTheField() throws SQLException {
        TestServer.sql("delete from kept_view where name like 'Dear hours%';"
                + "delete from register_field where key = 'cost_of_an_hour';"
                + " delete from register_field_removed where key = 'cost_of_an_hour'");
    }

    @Test
    void anAdministratorSaysOnceWhatIsMeantAndEveryStatementFollows() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/defects", "Defects");
        button(ines, "Add a field").click();
        ines.locator(".adding").getByLabel("Kind").selectOption("calculated from other fields");
        ines.getByRole(AriaRole.FORM, new Page.GetByRoleOptions().setName("New calculated field"))
                .getByLabel("Name")
                .fill("Cost of an hour");
        Locator calculation = ines.locator(".calculation .cm-content");
        calculation.click();
        ines.keyboard().type("cost / (work_tim / 1 h)");
        ines.keyboard().press("Control+Enter");
        // A slip is told with what was probably meant, and one click mends it.
        assertThat(ines.locator(".calculation").getByRole(AriaRole.ALERT)).containsText("Did you mean “work_time”?");
        exactButton(ines, "work_time").click();
        ines.keyboard().press("Control+Enter");
        assertThat(seen(ines, "Gives: money.")).isVisible();
        assertThat(ines.locator(".calculation tbody tr")).hasCount(5);
        expectAccessible(ines, "a calculated field that is being added");
        exactButton(ines, "Add the field").click();
        assertThat(seen(ines, "The field is there, calculated for every record whenever it is read."))
                .isVisible();
        assertThat(ines.locator(".calculation code")).hasText("cost / (work_time / 1 h)");
        expectAccessible(ines, "a calculated field");

        where(ines, "defects", "cost_of_an_hour is more than 60");
        assertThat(ines.locator(".matching"))
                .hasText(Pattern.compile("^"
                        + count("select count(*) from records.defects where cost / nullif(work_time / 3600, 0) > 60")
                        + " of "));

        button(ines, "Save as a new view").click();
        labelled(ines, "Name").fill("Dear hours of the year");
        exactButton(ines, "Save").click();
        ines.waitForURL(Pattern.compile(".*/views/\\d+$"));

        // What comes out keeps its type, since statements and totals rest on it.
        openPage(ines, "/catalogue/defects", "Defects");
        button(ines, "Cost of an hour").click();
        button(ines, "Change the calculation").click();
        calculation.click();
        ines.keyboard().press("Control+a");
        ines.keyboard().type("cost > 30");
        ines.keyboard().press("Control+Enter");
        assertThat(seen(ines, "What comes out of this is yes/no")).isVisible();
        button(ines, "Change the calculation").click();
        calculation.click();
        ines.keyboard().press("Control+a");
        ines.keyboard().type("round(cost / (work_time / 1 h), 2)");
        ines.keyboard().press("Control+Enter");
        assertThat(ines.locator(".calculation code")).hasText("round(cost / (work_time / 1 h), 2)");
        exactButton(ines, "Save").click();
        // Others rest on it: what that means for them is said first.
        Locator review = dialog(ines, "Others rest on what you change");
        assertThat(review).containsText("Dear hours of the year");
        assertThat(review).containsText("cost of an hour is more than 60");
        assertThat(review).containsText(Pattern.compile("The same [\\d,]+ records as before|become"));
        expectAccessible(ines, "what a calculation does to views");
        button(ines, "Change it for everyone").click();
        assertThat(seen(ines, "Saved. It holds for everybody from now on.")).isVisible();

        // What is needed is not removed; the calculated field itself is, and can be restored.
        button(ines, "Cost of an hour").click();
        button(ines, "Remove…").click();
        exactButton(ines, "Remove the field").click();
        assertThat(seen(ines, "Cost of an hour is removed.")).isVisible();
        where(ines, "defects", "cost_of_an_hour is more than 60");
        assertThat(ines.getByRole(AriaRole.ALERT).first()).containsText("cost_of_an_hour");
    }

    @Test
    void numberAndMedianTimeToCloseOfSafetyDefectsBySiteBesideTheYearBefore() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "tags has any of (\"Safety\") and reported_at in last 6 full months");
        asTotals(ines).click();
        Locator panel = ines.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Shape"));
        panel.getByLabel("Rows by").selectOption("Site");
        panel.getByLabel("Compare with").selectOption("the same window a year before");
        panel.getByLabel("Figure of").selectOption("the number of records");
        panel.getByLabel("Figure of").selectOption("Time to close");
        panel.getByLabel("What of Time to close").selectOption("median");
        ines.keyboard().press("Escape");
        assertThat(statement(ines)).containsText("as totals by Site");
        assertThat(statement(ines)).containsText("median of Time to close");
        assertThat(ines.locator(".totals:not(.waiting) thead")).containsText("median of Time to close");

        String from =
                " from records.defects where tags @> '{Safety}' and reported_at >= '2026-05-01 00:00 Europe/London'"
                        + " and reported_at < '2026-11-01 00:00 Europe/London'";
        for (String site :
                List.of(TestServer.query("select string_agg(site, '|' order by site) from (select distinct site" + from
                                + " and site is not null) s")
                        .split("\\|"))) {
            Locator line = ines.locator(".totals:not(.waiting) table tr")
                    .filter(new Locator.FilterOptions()
                            .setHas(ines.getByRole(
                                    AriaRole.ROWHEADER,
                                    new Page.GetByRoleOptions().setName(site).setExact(true))));
            assertThat(line).isVisible();
            List<String> cells = line.locator("td").allInnerTexts();
            String of = from + " and site = '" + site.replace("'", "''") + "'";
            Assertions.assertThat(cells.get(0)).as(site).isEqualTo(count("select count(*)" + of));
            Assertions.assertThat(cells.get(1))
                    .as(site)
                    .isEqualTo(count("select count(*)" + of.replace("2026-", "2025-")));
            String median = TestServer.query(
                    "select (percentile_disc(0.5) within group (order by t) + percentile_disc(0.5) within group (order by t desc)) / 2"
                            + " from (select extract(epoch from closed_at - reported_at) as t" + of
                            + " and closed_at is not null) d");
            Assertions.assertThat(cells)
                    .as(site)
                    .contains(median.isEmpty() ? "—" : DurationText.words(new BigDecimal(median)));
        }

        // How long three in four took, at most; a number that is none leaves it as it was.
        button(ines, "Shape").click();
        panel.getByLabel("What of Time to close").selectOption("percentile of");
        Locator which = panel.getByLabel("Which percentile of Time to close, from 1 to 99");
        assertThat(which).hasValue("90");
        which.fill("175");
        which.blur();
        assertThat(which).hasValue("90");
        which.fill("75");
        ines.keyboard().press("Enter");
        assertThat(statement(ines)).containsText("75th percentile of Time to close");
        expectAccessible(ines, "a percentile among the figures");
        ines.keyboard().press("Escape");
        assertThat(ines.locator(".totals:not(.waiting) thead")).containsText("75th percentile of Time to close");
        Assertions.assertThat(ines.locator(".totals:not(.waiting) tfoot tr td").allInnerTexts())
                .contains(DurationText.words(new BigDecimal(TestServer.query(
                        "select t from (select t, row_number() over (order by t) as at, count(*) over () as n from"
                                + " (select extract(epoch from closed_at - reported_at) as t" + from
                                + " and closed_at is not null) d) r where at = (75 * n + 99) / 100"))));
    }

    private static final String RATE = "round(cost / nullif(work_time / 3600, 0), 2)";

    /** Types a calculation into the dialog that is open, in the place of the one that is there. */
    private static void calculate(Page page, Locator dialog, String calculation) {
        dialog.locator(".cm-content").click();
        page.keyboard().press("Control+a");
        page.keyboard().type(calculation);
        assertThat(dialog.locator("button.act")).isEnabled();
    }

    private static Locator heads(Page page) {
        return table(page).getByRole(AriaRole.COLUMNHEADER);
    }

    @Test
    void aQuestionAndAViewHaveACalculatedFieldOfTheirOwn() throws SQLException {
        String open = "select count(*) from records.defects where status <> 'Closed'";
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "status is not \"Closed\"");
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + count(open) + " of "));
        more(ines, "Calculate a field here");
        Locator dialog = dialog(ines, "Calculate a field here");
        Locator name = dialog.getByLabel("Name", new Locator.GetByLabelOptions().setExact(true));
        name.fill("Cost");
        calculate(ines, dialog, "round(cost / (work_time / 1 h), 2)");
        assertThat(dialog.getByText("Gives: money.")).isVisible();
        expectAccessible(ines, "a field that is calculated here");
        exactButton(ines, "Add the field").click();
        assertThat(dialog.getByRole(AriaRole.ALERT)).containsText("There is a field “Cost” already");
        name.fill("Hour rate");
        exactButton(ines, "Add the field").click();
        assertThat(heads(ines).nth(1)).containsText("Hour rate");

        // It is asked of like any other; a step back comes before it, with the same records as then.
        button(ines, "and…").click();
        chooseField(ines, "Hour rate");
        chooseTest(ines, "is more than");
        editor(ines)
                .getByRole(AriaRole.TEXTBOX, new Locator.GetByRoleOptions().setName("Number"))
                .fill("60");
        apply(ines);
        String dear = count(open + " and " + RATE + " > 60");
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + dear + " of "));
        ines.goBack();
        ines.goBack();
        assertThat(heads(ines).filter(new Locator.FilterOptions().setHasText("Hour rate")))
                .hasCount(0);
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + count(open) + " of "));
        ines.goForward();
        ines.goForward();
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + dear + " of "));

        // Whoever has the link has the field; the register has not.
        Page asta = signedIn("Asta Quill");
        asta.navigate(ines.url());
        expectSettled(asta);
        assertThat(asta.locator(".matching")).hasText(Pattern.compile("^" + dear + " of "));
        assertThat(heads(asta).nth(1)).containsText("Hour rate");
        where(asta, "defects", "_hour_rate > 60");
        assertThat(asta.getByRole(AriaRole.ALERT).first()).containsText("_hour_rate");

        // A view keeps it. What is calculated otherwise is a change of the view, told in its history.
        button(ines, "Save as a new view").click();
        labelled(ines, "Name").fill("Dear hours");
        exactButton(ines, "Save").click();
        ines.waitForURL(Pattern.compile(".*/views/\\d+$"));
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + dear + " of "));
        button(ines, "Narrow by Hour rate").click();
        assertThat(ines.locator(".calculated code")).hasText("round(cost / (work_time / 1 h), 2)");
        expectAccessible(ines, "the head of a field that is calculated here");
        button(ines, "Change the calculation").click();
        Locator change = dialog(ines, "Hour rate, calculated here");
        assertThat(change).containsText("1 criterion is on it: remove it first.");
        assertThat(exactButton(ines, "Remove the field")).isDisabled();
        calculate(ines, change, "round(cost / (work_time / 1 h) * 2, 2)");
        exactButton(ines, "Save the field").click();
        String dearer = count(open + " and " + RATE.replace("0), 2)", "0) * 2, 2)") + " > 60");
        Assertions.assertThat(dearer).isNotEqualTo(dear);
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + dearer + " of "));
        exactButton(ines, "Save changes").click();
        assertThat(seen(ines, "Changes saved.")).isVisible();
        more(ines, "History");
        Locator history = dialog(ines, "History of “Dear hours”");
        assertThat(
                        history.getByText(
                                "calculated here: + Hour rate = round(cost / (work_time / 1 h) * 2, 2), − Hour rate = round(cost / (work_time / 1 h), 2)"))
                .isVisible();
        button(ines, "Compare with now").click();
        assertThat(history.locator(".difference")).containsText(dear + " records become " + dearer + ": ");
        button(ines, "Put back").click();
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + dear + " of "));

        // Without its criterion it can be taken away, and nothing of it is left.
        ines.keyboard().press("Escape");
        phrase(ines, "hour rate").hover();
        ines.locator(".tool:visible")
                .filter(new Locator.FilterOptions().setHasText(Pattern.compile("^\\s*remove\\s*$")))
                .last()
                .click();
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + count(open) + " of "));
        exactButton(ines, "Columns").click();
        button(ines, "calculated here: change Hour rate").click();
        exactButton(ines, "Remove the field").click();
        assertThat(heads(ines).filter(new Locator.FilterOptions().setHasText("Hour rate")))
                .hasCount(0);
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("^" + count(open) + " of "));
    }

    private static Locator asTotals(Page page) {
        return page.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Read as"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Totals"));
    }
}
