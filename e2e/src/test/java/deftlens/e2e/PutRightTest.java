package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.Locale;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** An account that is off is put right from the desk, by a clerk, an administrator and an auditor. */
class PutRightTest extends Journey {

    private static final int WRONG = 214;
    private static final String ACCOUNT = "5300 Office";
    private static final String OF_ACCOUNT = "account = '5300 Office'";
    /** The latest entries by hand of open months that say no site in their memo. */
    private static final String WRONG_ONES = "select id from records.dues where source = 'By hand' and " + OF_ACCOUNT
            + " and site is not null and site <> 'Lantern Pier' order by posted_at desc, id desc limit " + WRONG;

    private String sites;

    /** Some clerk put the stamps of the office down to a site that keeps no books. */
    @BeforeEach
    void spoil() throws SQLException {
        sites = TestServer.query("select string_agg(id || '=' || site, ',' order by id) from records.dues where id in ("
                + WRONG_ONES + ")");
        TestServer.sql(
                "update records.dues set site = 'Lantern Pier', memo = 'Wrong site' where id in (" + WRONG_ONES + ")");
    }

    @AfterEach
    void reopen() throws SQLException {
        TestServer.sql("update register set closed_up_to = null where key = 'dues'; delete from closed_period");
        TestServer.sql(
                "select deft_guard_closed('records.dues'::regclass, (select id from register where key = 'dues'), false)");
        TestServer.sql(
                "update records.dues d set site = w.site, memo = 'Stamps' from (select split_part(p, '=', 1)::bigint as id,"
                        + " split_part(p, '=', 2) as site from unnest(string_to_array('" + sites.replace("'", "''")
                        + "', ',')) p) w where w.id = d.id");
        TestServer.sql("delete from transaction_template");
    }

    private static void expectMatching(Page page, long records) {
        assertThat(page.locator(".matching"))
                .hasText(Pattern.compile("^" + String.format(Locale.UK, "%,d", records) + " of .*"));
    }

    private static Locator in(Locator dialog, String button) {
        return dialog.getByRole(
                AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(button).setExact(true));
    }

    @Test
    void anAccountThatIsOffIsPutRightAndShownAsItStood() throws SQLException {
        Page tomas = signedIn("Tomas Rell");

        // From the total of the account to its entries, and to those by hand.
        open(tomas, asking("dues", "source is \"By hand\""));
        expectMatching(tomas, counted("dues", "source = 'By hand'"));
        tomas.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Read as"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Totals"))
                .click();
        Locator shape = dialog(tomas, "Shape");
        shape.getByLabel("Rows by").selectOption("Account");
        shape.getByLabel("Figure of").selectOption("Amount");
        tomas.keyboard().press("Escape");
        Locator account = tomas.locator(".totals:not(.waiting) table tr")
                .filter(new Locator.FilterOptions().setHasText(ACCOUNT))
                .locator("td");
        assertThat(account)
                .hasText(TestServer.query("select to_char(sum(amount), 'FM999,999,990.00') from records.dues where "
                        + OF_ACCOUNT + " and source = 'By hand'"));
        account.click();
        expectMatching(tomas, counted("dues", "source = 'By hand' and " + OF_ACCOUNT));
        open(
                tomas,
                asking("dues", "account is \"" + ACCOUNT + "\" and source is \"By hand\" and memo is \"Wrong site\""));
        expectMatching(tomas, WRONG);

        // 214 wrong ones, with a preview and a reason.
        more(tomas, "Change these ledger entries");
        Locator change = dialog(tomas, "Change these ledger entries");
        change.getByLabel("Field 1").selectOption("Site");
        change.getByLabel("The new Site").selectOption("North Quay");
        in(change, "Preview").click();
        assertThat(change).containsText("214 ledger entries");
        change.getByLabel("Why").fill("The pier keeps no office.");
        change.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Change 214 ledger entries"))
                .click();
        assertThat(change).not().isVisible();
        assertThat(tomas.locator(".wait")).containsText("214 records changed.");
        org.assertj.core.api.Assertions.assertThat(counted("dues", "memo = 'Wrong site' and site = 'North Quay'"))
                .isEqualTo(WRONG);

        // The one made by hand leads to all of its transaction, which is taken back as a whole.
        table(tomas).locator("tbody td[data-field]").first().click();
        Locator of = tomas.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(Pattern.compile("^Transaction T-")));
        assertThat(of.locator("tr")).hasCount(2);
        expectAccessible(tomas, "the transaction of an entry");
        String number = of.locator("h3 a").textContent().strip();
        of.getByText("Take it all back").click();
        Locator back = dialog(tomas, "Take back " + number);
        assertThat(back.locator("tbody tr")).hasCount(2);
        expectAccessible(tomas, "a transaction that is taken back");
        back.getByLabel("Why").fill("Posted twice.");
        in(back, "Post the opposite").click();
        assertThat(back).not().isVisible();
        assertThat(of).containsText("It was taken back by T-");
        org.assertj.core.api.Assertions.assertThat(TestServer.query(
                        "select sum(d.amount) || ' ' || count(*) from records.dues d where d.transaction in ('" + number
                                + "', (select number from posted_transaction where reverses = '" + number + "'))"))
                .isEqualTo("0.00 4");

        // A month that an administrator closes meanwhile stays as it is, by every way.
        Page ines = signedIn("Ines Marlow");
        open(ines, "/catalogue/dues");
        exactButton(ines, "Transactions").click();
        assertThat(labelled(ines, "What becomes of Class")).hasValue("along");
        expectAccessible(ines, "how transactions are posted");
        exactButton(ines, "Closed period").click();
        labelled(ines, "Last closed day").fill("2026-10-31");
        ines.getByLabel("Reason").fill("October is reported.");
        button(ines, "Close up to 31 Oct 2026").click();
        assertThat(ines.locator("main")).containsText("Nothing up to 31 Oct 2026 changes any more.");
        more(tomas, "Post a transaction");
        Locator post = dialog(tomas, "Post a transaction");
        post.getByLabel("Posted at").fill("2026-10-20 10:00");
        for (int line = 1; line <= 2; line++) {
            post.getByLabel("Account of line " + line).selectOption(line == 1 ? ACCOUNT : "1200 Bank");
            post.getByLabel("Cost centre of line " + line).selectOption("Office");
        }
        post.getByLabel("Amount of line 1").fill("17.30");
        assertThat(post).containsText("17.30 £ is left over.");
        assertThat(in(post, "Post")).isDisabled();
        expectAccessible(tomas, "a transaction that is written");
        in(post, "Put it on line 2").click();
        in(post, "Post").click();
        assertThat(post.getByRole(AriaRole.ALERT)).containsText("in a closed period, which goes up to 31 Oct 2026");
        assertThat(post.getByRole(AriaRole.ALERT)).containsText("Ines Marlow");
        // What was written is there still, and goes into the open month.
        post.getByLabel("Posted at").fill("2026-11-23 09:10");
        in(post, "Post").click();
        assertThat(post).not().isVisible();
        assertThat(tomas.locator(".wait")).containsText("is posted, with 2 lines.");

        // One change is taken back: a single entry, by its story.
        // The first one is the opposite that was posted just now.
        table(tomas)
                .locator("tbody tr:has(td[data-field])")
                .nth(1)
                .locator("td[data-field]")
                .first()
                .click();
        assertThat(of).containsText("It was taken back by");
        button(tomas, "Who changed it").click();
        Locator story = tomas.locator(".record");
        assertThat(story).containsText("The pier keeps no office.");
        story.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(Pattern.compile("^Back to")))
                .first()
                .click();
        in(story, "Put it back").click();
        assertThat(story).containsText("It is as it was");
        org.assertj.core.api.Assertions.assertThat(counted("dues", "memo = 'Wrong site' and site = 'Lantern Pier'"))
                .isEqualTo(1);

        // How the account stood on 30 September, sent to the auditor as a link.
        open(tomas, asking("dues", "account is \"" + ACCOUNT + "\"") + "&recordsAt=2026-09-30");
        assertThat(tomas.locator(".sheet")).containsText("30 Sep 2026");
        assertThat(tomas.locator(".matching")).hasText(Pattern.compile("^[\\d,]+ of .*"));
        String then = tomas.locator(".matching").innerText();
        Page petra = signedIn("Petra Lind");
        petra.navigate(tomas.url());
        assertThat(petra.locator(".matching")).hasText(then);
        assertThat(petra.locator(".sheet")).containsText("30 Sep 2026");
        expectAccessible(petra, "an account as it stood");
        assertThat(table(petra).locator("tbody tr").first()).isVisible();
        table(petra).locator("tbody td[data-field]").first().click();
        assertThat(petra.locator(".record")).containsText("As it was kept at");
        assertThat(petra.getByText("Take it all back")).hasCount(0);
    }
}
