package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.KeyboardModifier;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
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
        open(ines, asking("dues", "source is \"By hand\" and site is \"Outer Roads\""));
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
        open(ines, asking("dues", "source is \"Payment\" and site is \"Lantern Pier\""));
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
        open(ines, asking("dues", "source is \"Payment\" and site is \"North Quay\""));
        more(ines, "What changed here since…");
        since.getByLabel("Since the beginning of").fill("2026-11-02");
        since.getByLabel("Since the beginning of").press("Tab");
        assertThat(since.getByText("4 left", new Locator.GetByTextOptions().setExact(false)))
                .isVisible();
        assertThat(since).containsText("Left");
    }

    @Test
    void recordsAreChosenByMouseAndKeysAndChanged() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("dues", "source is \"Stores\" and site is \"Outer Roads\""));
        long matching = counted("dues", "source = 'Stores' and site = 'Outer Roads'");
        more(ines, "Choose records");
        Locator boxes = table(ines).locator("tbody input[type=checkbox]");
        boxes.nth(1).click();
        boxes.nth(3).click(new Locator.ClickOptions().setModifiers(List.of(KeyboardModifier.SHIFT)));
        Locator bar = ines.getByRole(AriaRole.TOOLBAR, new Page.GetByRoleOptions().setName("Chosen records"));
        assertThat(bar.getByRole(AriaRole.STATUS)).hasText("3 ledger entries chosen");
        expectAccessible(ines, "records that are chosen");
        button(ines, "Where they differ").click();
        Locator compared = dialog(ines, "Where they differ");
        assertThat(compared.locator("thead th")).hasCount(4);
        assertThat(compared.locator("tbody tr").first()).isVisible();
        expectAccessible(ines, "records beside each other");
        ines.keyboard().press("Escape");
        exactButton(ines, "In common").click();
        Locator common = dialog(ines, "What they have in common");
        assertThat(common.locator("li").filter(new Locator.FilterOptions().setHasText("Site is Outer Roads")))
                .containsText("of all ledger entries");
        expectAccessible(ines, "what records have in common");
        ines.keyboard().press("Escape");
        // On with the keys: one less, and the others.
        boxes.nth(1)
                .locator("xpath=ancestor::tr")
                .locator("td[data-field]")
                .first()
                .click(new Locator.ClickOptions().setModifiers(List.of(KeyboardModifier.CONTROL)));
        assertThat(bar.getByRole(AriaRole.STATUS)).hasText("2 ledger entries chosen");
        ines.keyboard().press("Shift+ArrowUp");
        assertThat(bar.getByRole(AriaRole.STATUS)).hasText("4 ledger entries chosen");
        ines.keyboard().press("Control+a");
        assertThat(bar.getByRole(AriaRole.STATUS))
                .hasText(String.format("%,d ledger entries chosen, all that match", matching));
        ines.keyboard().press("Shift+Space");
        assertThat(bar.getByRole(AriaRole.STATUS))
                .hasText(String.format("%,d ledger entries chosen, all that match but 1", matching - 1));
        button(ines, "The others").click();
        assertThat(bar.getByRole(AriaRole.STATUS)).hasText("1 ledger entry chosen");
        button(ines, "Change these…").click();
        Locator change = dialog(ines, "Change these ledger entries");
        assertThat(change).containsText("1 ledger entry that is chosen");
        change.getByLabel("Field 1").selectOption("Memo");
        change.getByLabel("The new Memo").fill("Chosen by hand");
        change.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Preview"))
                .click();
        change.getByLabel("Why").fill("To see one.");
        change.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Change 1 ledger entry"))
                .click();
        assertThat(change).not().isVisible();
        assertThat(bar).hasCount(0);
        org.assertj.core.api.Assertions.assertThat(counted("dues", "memo = 'Chosen by hand'"))
                .isEqualTo(1);
        exactButton(ines, "Take it back").click();
        Locator back = dialog(ines, "Changed at once in Dues ledger");
        back.getByLabel("Why").fill("Seen.");
        back.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Take it back"))
                .click();
        assertThat(back.locator("tbody tr").first()).containsText("Taken back: Seen.");
    }
}
