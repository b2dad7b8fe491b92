package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.sql.SQLException;
import java.util.Locale;
import org.junit.jupiter.api.Test;

/** From records to what shares a value with them, and questions that look into other registers. */
class RelatedTest extends Journey {

    private static final String STAYS = "select number from records.stays where site = 'Lantern Pier' and length > 30";

    private static void expectMatching(Page page, long records) {
        assertThat(page.locator(".matching")).containsText(String.format(Locale.UK, "%,d of", records));
    }

    @Test
    void theEntriesOfSomeStaysAreFoundAndWhatSharesTheirTransactions() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("dues", "source is \"Stay\""));
        button(ines, "and…").click();
        chooseField(ines, "Reference");
        chooseTest(ines, "is that of");
        Locator editor = editor(ines);
        assertThat(editor.getByLabel("Register")).hasValue("stays");
        expectAccessible(ines, "a criterion on other records");
        editor.getByLabel("What is asked of them").click();
        ines.keyboard().type("site is \"Lantern Pier\" and lenght > 30");
        assertThat(editor).containsText("“lenght” is no field of Berth stays");
        button(ines, "Apply").click();
        assertThat(editor).containsText("cannot be read yet");
        editor.getByLabel("What is asked of them").click();
        ines.keyboard().press("Control+a");
        ines.keyboard().type("site is \"Lantern Pier\" and length > 30");
        assertThat(editor).not().containsText("is no field");
        button(ines, "Apply").click();
        expectMatching(ines, counted("dues", "source = 'Stay' and reference in (" + STAYS + ")"));
        assertThat(seen(ines, "berth stays whose (site is Lantern Pier and length is more than 30)"))
                .isVisible();
        expectSettled(ines);

        more(ines, "Related records");
        Locator related = dialog(ines, "Related records");
        assertThat(related.locator("li")).hasCount(2);
        assertThat(related.locator("li").first())
                .containsText(String.format(
                        Locale.UK,
                        "%,d",
                        counted(
                                "stays",
                                "number in (select reference from records.dues where source = 'Stay' and reference in ("
                                        + STAYS + "))")));
        expectAccessible(ines, "related records");
        related.getByText("Everything with the same transaction").click();
        long everything = counted(
                "dues",
                "transaction in (select transaction from records.dues where source = 'Stay' and reference in (" + STAYS
                        + "))");
        expectMatching(ines, everything);
        assertThat(seen(ines, "is that of dues ledger whose")).isVisible();
        assertThat(table(ines).locator("td.mark").first()).isVisible();
    }

    @Test
    void whyAnEntryIsNotThereIsToldByItsStay() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("dues", "reference in (stays where site is \"Lantern Pier\")"));
        expectMatching(
                ines, counted("dues", "reference in (select number from records.stays where site = 'Lantern Pier')"));
        String other = deftlens.server.testing.TestServer.query(
                "select min(d.entry) from records.dues d join records.stays s on s.number = d.reference"
                        + " where s.site = 'North Quay'");
        more(ines, "Why is one not here?");
        ines.getByLabel("Looking for one that is not here?").fill(other);
        ines.keyboard().press("Enter");
        Locator why = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Why"));
        assertThat(why).containsText("of Berth stays, which has it");
        assertThat(why).containsText("it has North Quay");
        expectAccessible(ines, "why an entry is not there");
    }

    @Test
    void aRecordLeadsToWhatIsRelated() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        String transaction = deftlens.server.testing.TestServer.query(
                "select transaction from records.dues where source = 'Stay' group by 1 having count(*) > 1 order by 1 limit 1");
        open(ines, asking("dues", "transaction is \"" + transaction + "\""));
        long sides = counted("dues", "transaction = '" + transaction + "'");
        expectMatching(ines, sides);
        table(ines).locator("tbody td[data-field]").first().click();
        Locator related = ines.locator("ul.related");
        assertThat(related).containsText("Dues ledger with transaction " + transaction);
        assertThat(related).containsText("Berth stays with reference");
        related.getByText("Berth stays with reference").click();
        expectMatching(ines, 1);
    }
}
