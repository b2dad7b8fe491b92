package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** What somebody meets in the first hour: typing what they look for, pasting a list, leaving in the middle of a change. */
class FirstUseTest extends Journey {

    @Test
    void aFewTypedWordsBecomeCriteria() throws SQLException {
        Page asta = signedIn("Asta Quill");
        Locator box = asta.getByLabel("Type what you look for").last();
        box.fill("lantern severity over 3 safety");
        Locator found = asta.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("What it may mean"));
        assertThat(found.locator("legend")).hasText(new String[] {"lantern", "severity over 3", "safety"});
        // Each meaning says how many records it finds by itself.
        String quay = String.format(java.util.Locale.UK, "%,d", defects("site = 'Lantern Pier'"));
        assertThat(found.locator("label")
                        .filter(new Locator.FilterOptions().setHasText("site is Lantern Pier"))
                        .locator(".count"))
                .hasText(quay);
        expectAccessible(asta, "typed words");
        box.press("Enter");
        assertThat(statement(asta)).containsText("Defects whose site is Lantern Pier");
        expectCount(asta, defects("site = 'Lantern Pier' and severity > 3 and 'Safety' = any(tags)"));
        assertThat(box).hasValue("");
        // It was one step.
        button(asta, "Step back").click();
        expectCount(asta, 24_000);
    }

    @Test
    void aListPastedIntoABoxForOneIsOfferedAsAList() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        ines.keyboard().press("a");
        chooseField(ines, "Number");
        chooseTest(ines, "is");
        Locator box = editor(ines).getByLabel("Text");
        assertThat(box).isFocused();
        String first = TestServer.query("select min(number) from records.defects");
        String last = TestServer.query("select max(number) from records.defects");
        ines.evaluate(
                "text => navigator.clipboard.writeText(text)", first + " " + last + " " + first + " D-000000-none");
        box.press("Control+v");
        Locator offer =
                ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Several values were pasted"));
        assertThat(offer).containsText("3 values, 1 repetition left out; in no record: D-000000-none.");
        offer.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Leave it out"))
                .click();
        offer.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("is one of these 2"))
                .click();
        apply(ines);
        expectCount(ines, 2);
    }

    @Test
    void changesThatWereNotSavedAreOfferedToWhoComesBack() {
        Page bram = signedIn("Bram Oake");
        link(bram, "Overdue at my site").first().click();
        expectSettled(bram);
        String asShared = bram.locator(".matching").innerText();
        bram.getByLabel("Type what you look for").last().fill("severity over 4");
        assertThat(seen(bram, "severity is more than 4").first()).isVisible();
        bram.keyboard().press("Enter");
        assertThat(statement(bram)).containsText("severity is more than 4");
        assertThat(button(bram, "Save for me")).isVisible();
        String changed = bram.url();
        bram.waitForResponse(
                r -> r.url().endsWith("/own/unsaved") && r.ok(),
                () -> link(bram, "All views").first().click());
        assertThat(bram.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("All views")))
                .isVisible();
        bram.getByRole(AriaRole.NAVIGATION)
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Overdue at my site"))
                .first()
                .click();
        Locator note = bram.getByText(Pattern.compile("You have unsaved changes from \\d\\d:\\d\\d"));
        assertThat(note).isVisible();
        assertThat(bram.locator(".matching")).hasText(asShared);
        expectAccessible(bram, "unsaved changes");
        button(bram, "Show them").click();
        assertThat(statement(bram)).containsText("severity is more than 4");
        org.assertj.core.api.Assertions.assertThat(bram.url()).isEqualTo(changed);
        bram.waitForResponse(
                r -> r.url().endsWith("/own/unsaved")
                        && "DELETE".equals(r.request().method()),
                () -> button(bram, "Step back").click());
        assertThat(bram.locator(".matching")).hasText(asShared);
        // Taken back to the last, they are forgotten.
        bram.reload();
        expectSettled(bram);
        assertThat(note).hasCount(0);
    }

    @Test
    void anEmptyInstallationLeads() throws SQLException {
        // Another journey may have saved the calendar, which would be a step that is done.
        TestServer.sql("delete from trail where subject = 'organisation';"
                + " insert into setup_step (step) values ('ORGANISATION'), ('RECORDS'), ('PEOPLE')");
        try {
            Page ines = signedIn("Ines Marlow");
            link(ines, "Set up").click();
            // Records and people are there in this world already; nobody has saved the calendar yet.
            Locator steps = ines.getByRole(AriaRole.LISTITEM)
                    .filter(new Locator.FilterOptions().setHas(ines.getByRole(AriaRole.HEADING)));
            assertThat(steps).hasCount(4);
            assertThat(steps.nth(0)).containsText("Done: you chose your own.");
            assertThat(steps.nth(2)).containsText("Done: there is a register.");
            expectAccessible(ines, "setting up");
            button(ines, "Later: Organisation").click();
            assertThat(steps.nth(1)).containsText("Left for later.");
            assertThat(seen(ines, "Nothing is left to do.")).isVisible();
            assertThat(ines.getByRole(AriaRole.NAVIGATION)
                            .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Set up")))
                    .hasCount(0);

            link(ines, "Try the sample").click();
            assertThat(seen(ines, "Sample tickets.csv: 160 rows")).isVisible();
            button(ines, "Import 160 rows").click();
            link(ines, "Open Sample tickets").click();
            assertThat(ines.locator(".matching")).hasText("160 of 160");
        } finally {
            TestServer.sql("truncate setup_step; delete from register where key = 'sample_tickets';"
                    + " drop table if exists records.sample_tickets");
        }
    }
}
