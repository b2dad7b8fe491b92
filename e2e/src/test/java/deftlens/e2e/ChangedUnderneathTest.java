package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.Locale;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What answers rest on is changed by somebody while others look: bands, the organisation's days, what registers are read from. */
class ChangedUnderneathTest extends Journey {

    private static final String LARGER = "Long stays of larger vessels";

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql(
                "update organisation set zone = 'Europe/London', version = version + 1 where zone <> 'Europe/London'");
    }

    private static void openLength(Page page) {
        open(page, "/catalogue/stays");
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Berth stays")))
                .isVisible();
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Length number"))
                .click();
    }

    private static void renameShips(Page page, String from, String to, String low) {
        openLength(page);
        labelled(page, "Name of band 5").fill(to);
        labelled(page, to + " from").fill(low);
        labelled(page, to + " from").blur();
        exactButton(page, "Save").click();
        Locator review = dialog(page, "Others rest on what you change");
        assertThat(review).containsText(LARGER);
        assertThat(review).containsText("of Bram Oake");
        assertThat(review).containsText("length is in the bands “Coaster” or “" + from + "”");
    }

    private static void changeBack(Page page) {
        renameShips(page, "Big ship", "Ship", "60");
        button(page, "Change it for everyone").click();
        assertThat(seen(page, "Saved. It holds for everybody from now on.")).isVisible();
    }

    @Test
    void bandsAreReviewedAndCarriedAlongAndOpenPagesTell() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        openLength(ines);
        if (labelled(ines, "Name of band 5").inputValue().equals("Big ship")) {
            // A try before this one ended in the middle.
            changeBack(ines);
        }
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/stays");
        link(asta, LARGER).click();
        assertThat(statement(asta)).containsText("“Coaster” or “Ship”");
        String larger = asta.url().split("\\?")[0];
        renameShips(ines, "Ship", "Big ship", "70");
        assertThat(dialog(ines, "Others rest on what you change")).containsText("Asta Quill");
        expectAccessible(ines, "the review of bands");
        button(ines, "Change it for everyone").click();
        assertThat(seen(ines, "Saved. It holds for everybody from now on.")).isVisible();
        assertThat(seen(asta, "the bands of Length changed")).isVisible();
        assertThat(statement(asta)).containsText("“Coaster” or “Big ship”");
        assertThat(asta.locator(".matching"))
                .hasText(counted(
                                "stays",
                                "(length >= 18 and length < 60 or length >= 70) and leaves is null and arrives < timestamptz '2026-11-09 00:00 Europe/London'")
                        + " of 12,000");
        // The view's history tells both, and its first state can still be put back.
        more(asta, "History");
        Locator history = dialog(asta, "History of “" + LARGER + "”");
        assertThat(history).containsText("bands renamed by Ines Marlow");
        assertThat(history).containsText("Ship: from 60");
        // A link from before the change says what it cannot read.
        Page wren = signedIn("Wren Halloway");
        open(wren, asking("stays", "length is in band \"Ship\""));
        assertThat(seen(wren, "“Ship” is no band of Length")).isVisible();
        changeBack(ines);
        open(asta, larger.replaceFirst("https?://[^/]+", ""));
        assertThat(statement(asta)).containsText("“Coaster” or “Ship”");
    }

    @Test
    void anOpenPageIsOfOneZone() throws SQLException {
        Page asta = signedIn("Asta Quill");
        String where = URLEncoder.encode("reported_at in 2026-11-20", StandardCharsets.UTF_8);
        open(asta, "/registers/defects?where=" + where);
        expectCount(
                asta,
                counted(
                        "defects",
                        "reported_at >= '2026-11-20 00:00 Europe/London' and reported_at < '2026-11-21 00:00 Europe/London'"));
        Page ines = signedIn("Ines Marlow");
        open(ines, "/organisation");
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Organisation"))
                        .first())
                .isVisible();
        ines.getByLabel("Time zone").first().selectOption("Asia/Tokyo");
        exactButton(ines, "Save").click();
        assertThat(seen(asta, "days are those of Asia/Tokyo now")).isVisible();
        expectCount(
                asta,
                counted(
                        "defects",
                        "reported_at >= '2026-11-20 00:00 Asia/Tokyo' and reported_at < '2026-11-21 00:00 Asia/Tokyo'"));
    }

    @Test
    void sumsOfGroupsThatOthersChangeAreToldAndBroughtIn() throws SQLException {
        Page asta = signedIn("Asta Quill");
        String shape =
                URLEncoder.encode("{\"groups\":[{\"field\":\"site\"}],\"totals\":[\"cost\"]}", StandardCharsets.UTF_8);
        open(asta, "/registers/defects?shape=" + shape);
        Locator whole = table(asta).locator("tr", new Locator.LocatorOptions().setHasText("All together"));
        assertThat(whole).containsText(cost());
        String id = TestServer.query("select min(id) from records.defects where site is not null and cost is not null");
        TestServer.sql("update records.defects set cost = cost + 1000 where id = " + id);
        try {
            assertThat(seen(asta, "Since you opened it: 1 group changed.")).isVisible();
            assertThat(whole).not().containsText(cost());
            button(asta, "Show it now").click();
            assertThat(whole).containsText(cost());
            assertThat(seen(asta, "Since you opened it")).hasCount(0);
        } finally {
            TestServer.sql("update records.defects set cost = cost - 1000 where id = " + id);
        }
    }

    private static String cost() throws SQLException {
        return String.format(
                Locale.UK,
                "%,.2f",
                new java.math.BigDecimal(TestServer.query("select sum(cost) from records.defects")));
    }

    @Test
    void whatACombinedRegisterLacksIsSaidAndMended() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        TestServer.sql("update register_field set key = 'reason_was' where key = 'reason'"
                + " and register_id = (select id from register where key = 'closures')");
        try {
            open(ines, "/registers/water");
            assertThat(seen(ines, "“What” is empty in the records of Closures")).isVisible();
            open(ines, "/views?only=attention");
            button(ines, "Look now").click();
            assertThat(seen(ines, "just now: ")).isVisible();
            link(ines, "On the water").last().click();
            button(ines, "Source").click();
            link(ines, "Change what its fields are read from").click();
            ines.getByLabel("What from Closures").selectOption("reason_was");
            exactButton(ines, "Save").click();
            assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("On the water")))
                    .isVisible();
            open(ines, asking("water", "what is not empty and record is \"Closure\""));
            assertThat(ines.locator(".matching"))
                    .hasText(String.format(Locale.UK, "%,d of 13,000", counted("closures", "reason is not null")));
            assertThat(TestServer.query("select count(*) from register_field where key = 'taken'"))
                    .isEqualTo("1");
        } finally {
            TestServer.sql("update register_field set key = 'reason' where key = 'reason_was'");
            TestServer.sql("update register_member set mapping = jsonb_set(mapping, '{what}', '\"reason\"')"
                    + " where member_key = 'closures'");
            TestServer.sql("update register set version = version + 1 where key in ('closures', 'water')");
        }
    }
}
