package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Many records are corrected at once, with a look before and a way back. */
class ManyChangesTest extends Journey {

    private static final String WRONG = "source = 'By hand' and site = 'Outer Roads'";

    private static void expectEntries(Page page, long matching) {
        assertThat(page.locator(".matching")).hasText(Pattern.compile("^" + String.format("%,d", matching) + " of .*"));
    }

    @Test
    void theSitesOfWrongEntriesAreCorrectedAndTheChangeIsTakenBack() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(
                ines,
                "/registers/dues?where="
                        + URLEncoder.encode(
                                "source is \"By hand\" and site is \"Outer Roads\"", StandardCharsets.UTF_8));
        long wrong = counted("dues", WRONG);
        expectEntries(ines, wrong);
        more(ines, "Change these ledger entries");
        Locator change = dialog(ines, "Change these ledger entries");
        assertThat(change).containsText("Outer Roads");
        change.getByLabel("Field 1").selectOption("Site");
        change.getByLabel("The new Site").selectOption("Lantern Pier");
        change.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Preview"))
                .click();
        String words = String.format("%,d ledger entries", wrong);
        assertThat(change).containsText(words);
        assertThat(change.locator("tbody tr")).hasCount(1);
        assertThat(change.locator("tbody tr")).containsText("Lantern Pier");
        expectAccessible(ines, "a change of many records");
        Locator act = change.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Change " + words));
        assertThat(act).isDisabled();
        change.getByLabel("Why").fill("The roads keep no books.");
        act.click();
        assertThat(change).not().isVisible();
        assertThat(ines.locator(".wait")).containsText(String.format("%,d records changed.", wrong));
        org.assertj.core.api.Assertions.assertThat(counted("dues", WRONG)).isZero();
        // Somebody corrects one of them meanwhile; it stays when the others go back.
        String one = TestServer.query("select max(r.id) from records.dues r join change_set s on s.id = r.\"@since\""
                + " where s.reason = 'The roads keep no books.'");
        TestServer.sql("update records.dues set memo = 'Seen' where id = " + one);
        exactButton(ines, "Take it back").click();
        Locator back = dialog(ines, "Changed at once in Dues ledger");
        assertThat(back).containsText(String.format("%,d ledger entries would be as before.", wrong - 1));
        assertThat(back).containsText("1 ledger entry was changed or deleted since and stays as it is.");
        expectAccessible(ines, "a change that is taken back");
        back.getByLabel("Why").fill("They do.");
        back.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Take it back"))
                .click();
        assertThat(back.locator("tbody tr").first()).containsText("Taken back: They do.");
        assertThat(back.locator("tbody tr").nth(1)).containsText("taken back");
        ines.keyboard().press("Escape");
        expectEntries(ines, wrong - 1);
        TestServer.sql("update records.dues set site = 'Outer Roads', memo = null where id = " + one);
    }

    @Test
    void whatEnteredLeftAndChangedSinceADayIsToldWithWhoAndWhy() {
        Page ines = signedIn("Ines Marlow");
        open(
                ines,
                "/registers/dues?where="
                        + URLEncoder.encode(
                                "source is \"Payment\" and site is \"Lantern Pier\"", StandardCharsets.UTF_8));
        more(ines, "What changed here since…");
        Locator since = dialog(ines, "What changed here since");
        assertThat(since).containsText("ledger entries now");
        since.getByLabel("Since the beginning of").fill("2026-11-02");
        since.getByLabel("Since the beginning of").press("Tab");
        assertThat(since).containsText("“The pier keeps these payments.”");
        Locator moved = since.locator("li", new Locator.LocatorOptions().setHasText("The pier keeps"));
        assertThat(moved).hasCount(4);
        assertThat(moved.first()).containsText("Tomas Rell changed, 3 Nov 2026, 16:40");
        assertThat(moved.first()).containsText("Site: North Quay → Lantern Pier");
        assertThat(since.getByRole(AriaRole.IMG).first()).isVisible();
        expectAccessible(ines, "what changed since a day");
        String entry = moved.first().getByRole(AriaRole.BUTTON).textContent().strip();
        moved.first().getByRole(AriaRole.BUTTON).click();
        assertThat(ines.locator(".record h2")).hasText(entry);
        // The same of what left: payments of North Quay.
        open(
                ines,
                "/registers/dues?where="
                        + URLEncoder.encode(
                                "source is \"Payment\" and site is \"North Quay\"", StandardCharsets.UTF_8));
        more(ines, "What changed here since…");
        since.getByLabel("Since the beginning of").fill("2026-11-02");
        since.getByLabel("Since the beginning of").press("Tab");
        assertThat(since.getByText("4 left", new Locator.GetByTextOptions().setExact(false)))
                .isVisible();
        assertThat(since).containsText("Left");
    }
}
