package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import deftlens.server.testing.TestServer;
import deftlens.testing.TestCluster;
import java.nio.charset.StandardCharsets;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Records that come in, are described, limited, corrected, and change while somebody looks. */
class RegistersTest extends Journey {

    private static final String CSV = """
            Ticket,Opened,Amount,Site
            T-1,03/04/2026,"1,204.50",North Quay
            T-2,05/06/2026,7.25,Lantern Pier
            T-3,07/08/2026,,North Quay
            """;

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("update register set deleted_at = now() where key not in"
                + " ('defects', 'stays', 'dues', 'permits', 'moves', 'closures', 'water') and deleted_at is null");
        TestServer.sql(
                "delete from register_access where register_id <> (select id from register where key = 'dues'); drop schema if exists plant cascade");
    }

    private static void choose(Page page, String csv) {
        page.locator("input[type=file]")
                .setInputFiles(new FilePayload("old tickets.csv", "text/csv", csv.getBytes(StandardCharsets.UTF_8)));
    }

    @Test
    void aFileOfAnythingBecomesARegister() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        link(ines, "Catalogue").click();
        link(ines, "Import a file").click();
        choose(ines, CSV);
        assertThat(seen(ines, "3 of 3 read as dates; 3 could be either, and nothing in the file says which"))
                .isVisible();
        assertThat(button(ines, "Import 3 rows")).isDisabled();
        button(ines, "day first: 03/04/2026 is 3 Apr").click();
        button(ines, "Import 3 rows").click();
        assertThat(seen(ines, "3 added, 0 changed, 0 left as they were.")).isVisible();
        assertThat(seen(ines, "Only administrators and auditors see Old tickets so far."))
                .isVisible();
        link(ines, "Open Old tickets").click();
        assertThat(ines.locator(".matching")).hasText("3 of 3");
        assertThat(table(ines)).containsText("3 Apr 2026");
        assertThat(table(ines)).containsText("1,204.50");

        openPage(ines, "/catalogue/import?into=old_tickets", "Import a file");
        choose(ines, "Ticket,Opened,Amount,Site\nT-2,09/06/2026,8.00,Lantern Pier\nT-4,10/06/2026,1.00,North Quay\n");
        button(ines, "day first: 09/06/2026 is 9 Jun").click();
        button(ines, "Import 2 rows").click();
        assertThat(seen(ines, "1 added, 1 changed, 0 left as they were.")).isVisible();
        assertThat(TestServer.query(
                        "select string_agg(ticket || ' ' || opened, ', ' order by id) from records.old_tickets"))
                .isEqualTo("T-1 2026-04-03, T-2 2026-06-09, T-3 2026-08-07, T-4 2026-06-10");

        button(ines, "Take it back…").click();
        assertThat(seen(ines, "1 record that it added goes.")).isVisible();
        assertThat(seen(ines, "1 record that it changed gets its former values."))
                .isVisible();
        ines.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Take it back"))
                .click();
        assertThat(seen(ines, "imported, and taken back")).isVisible();
        assertThat(TestServer.query(
                        "select string_agg(ticket || ' ' || opened, ', ' order by id) from records.old_tickets"))
                .isEqualTo("T-1 2026-04-03, T-2 2026-06-05, T-3 2026-08-07");

        choose(ines, "Tickets of the yard\n\nTicket,Opened,Amount,Site\nT-9,13/06/2026,1.00,North Quay\n");
        assertThat(seen(ines, "Left out, before the names")).isVisible();
        assertThat(ines.getByLabel("The names of the columns are")).hasValue("3");
        labelled(ines, "What becomes of records that are there").selectOption("REPLACE");
        button(ines, "Import 1 row").click();
        assertThat(seen(ines, "3 records go, and the 1 row of old tickets.csv take"))
                .isVisible();
        button(ines, "Replace them").click();
        assertThat(seen(ines, "1 added, 0 changed, 0 left as they were.")).isVisible();
        assertThat(TestServer.query("select string_agg(ticket, ', ') from records.old_tickets"))
                .isEqualTo("T-9");
    }

    @Test
    void everyRowThatDoesNotFitIsShownWithItsLine() {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/import", "Import a file");
        choose(ines, CSV.replace("05/06/2026", "31/06/2026").replace("7.25", "much"));
        button(ines, "day first: 03/04/2026 is 3 Apr")
                .or(labelled(ines, "Type of Opened"))
                .first()
                .waitFor();
        labelled(ines, "Type of Opened").selectOption("date");
        labelled(ines, "Type of Amount").selectOption("money");
        button(ines, "Import 3 rows").click();
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Nothing was written")))
                .isVisible();
        assertThat(seen(ines, "1 of 3 rows does not fit.")).isVisible();
        assertThat(seen(ines, "Opened: “31/06/2026” does not read as a date.")).isVisible();
        button(ines, "Back to the columns").click();
        labelled(ines, "A value that does not fit Opened").selectOption("EMPTY");
        labelled(ines, "A value that does not fit Amount").selectOption("EMPTY");
        button(ines, "Import 3 rows").click();
        assertThat(seen(ines, "3 added, 0 changed, 0 left as they were.")).isVisible();
    }

    @Test
    void aTableIsAttachedAndItsChangesAreNoticed() throws SQLException {
        TestServer.sql("""
                create schema plant;
                create table plant.cranes (id serial primary key, name text not null, served timestamptz not null, load numeric);
                insert into plant.cranes (name, served, load)
                select 'Crane ' || i, timestamptz '2026-11-20Z' - interval '1 day' * i, i from generate_series(1, 40) i""");
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/attach", "Attach a table");
        button(ines, "Attach plant.cranes").click();
        button(ines, "Attach as Cranes").click();
        assertThat(ines.locator(".matching")).hasText("40 of 40");
        open(ines, asking("cranes", "load > 30"));
        assertThat(ines.locator(".matching")).hasText("10 of 40");
        TestServer.sql("alter table plant.cranes rename column load to weight");
        ines.reload();
        assertThat(seen(ines, "The table behind “Cranes” is not what it was.").first())
                .isVisible();
        openPage(ines, "/catalogue/cranes", "Cranes");
        button(ines, "Source").click();
        assertThat(seen(ines, "Columns that are gone: load.")).isVisible();
        // Only one column came that it could be; the field and what asks for it go on with that one.
        assertThat(labelled(ines, "What load is called now")).hasValue("weight");
        button(ines, "Take the table as it is now").click();
        assertThat(button(ines, "Load")).isVisible();
        open(ines, asking("cranes", "load > 30"));
        assertThat(ines.locator(".matching")).hasText("10 of 40");
    }

    @Test
    void aTableOfAnotherServerIsLinkedAndAttached() throws SQLException {
        String address = TestCluster.freshDatabase("deft_slipway");
        try (var connection = DriverManager.getConnection(address, TestCluster.user(), TestCluster.password());
                var statement = connection.createStatement()) {
            statement.execute("""
                    create table liftings (no integer primary key, vessel text not null, lifted_at timestamptz not null,
                        booked daterange);
                    insert into liftings select i, 'Vessel ' || i, timestamptz '2026-11-22 12:00Z' - interval '1 day' * i,
                        daterange(date '2026-11-23' - i, date '2026-11-26' - i) from generate_series(1, 30) i;
                    create table customers (id integer);""");
        }
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue", "Catalogue");
        link(ines, "Link another server").click();
        Locator server = ines.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("Server"));
        assertThat(server).isVisible();
        expectAccessible(ines, "a server to link");
        // An address as people mail it around fills the whole form.
        ines.evaluate(
                "text => navigator.clipboard.writeText(text)",
                address.substring("jdbc:".length()).replace("//", "//" + TestCluster.user() + ":wrong@"));
        server.focus();
        ines.keyboard().press("Control+V");
        assertThat(labelled(ines, "Database")).hasValue("deft_slipway");
        button(ines, "Connect").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).containsText("password is not right");
        labelled(ines, "Password").fill(TestCluster.password());
        button(ines, "Connect").click();
        labelled(ines, "Name").fill("Slipway");
        labelled(ines, "Link public.liftings").check();
        expectAccessible(ines, "the tables of another server");
        button(ines, "Link 1 table").click();
        assertThat(seen(ines, "Rows are told apart by no.")).isVisible();
        button(ines, "Attach as Liftings").click();
        assertThat(ines.locator(".matching")).hasText("30 of 30");
        open(ines, asking("liftings", "booked overlaps 2026-11-22"));
        assertThat(ines.locator(".matching")).hasText("3 of 30");
        openPage(ines, "/catalogue/liftings", "Liftings");
        button(ines, "Source").click();
        assertThat(seen(ines, "The table stands on Slipway")).isVisible();
        button(ines, "Read it anew").click();
        assertThat(seen(ines, "The table is as it was when it was attached.")).isVisible();
        link(ines, "Slipway").click();
        assertThat(labelled(ines, "Link public.liftings")).isDisabled();
        button(ines, "Unlink this server").click();
        assertThat(ines.getByRole(AriaRole.ALERT)).containsText("Registers are read from this server: liftings");
    }

    @Test
    void twoRegistersAreReadTogether() {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/combine", "Combine registers");
        labelled(ines, "Defects").check();
        labelled(ines, "Permits").check();
        labelled(ines, "Name").first().fill("Work on the quays");
        assertThat(labelled(ines, "At from Defects")).hasValue("reported_at");
        button(ines, "Combine them").click();
        assertThat(ines.locator(".matching")).hasText("33,000 of 33,000");
        open(ines, asking("work_on_the_quays", "source is \"Permit\" and at in this year"));
        assertThat(ines.locator(".matching"))
                .hasText(
                        String.format(
                                java.util.Locale.UK,
                                "%,d of 33,000",
                                counted(
                                        "permits",
                                        "submitted_at >= '2026-01-01 00:00 Europe/London' and submitted_at < '2027-01-01 00:00 Europe/London'")));
    }

    @Test
    void aBandIsDrawnOverTheFieldAndAskedFor() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/moves", "Stores moves");
        button(ines, "Quantity").click();
        assertThat(ines.getByLabel("Records by Quantity, with the bands below").locator("rect.bar"))
                .hasCount(48);
        button(ines, "Add a band").click();
        labelled(ines, "Name of band 1").fill("A few");
        labelled(ines, "A few from").fill("1");
        labelled(ines, "A few up to").fill("4");
        labelled(ines, "A few up to").blur();
        assertThat(seen(ines, "You have unsaved changes.")).isVisible();
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Saved. It holds for everybody from now on.")).isVisible();
        open(ines, asking("moves", "quantity is in band \"A few\""));
        assertThat(ines.locator(".matching"))
                .hasText(String.format(
                        java.util.Locale.UK, "%,d of 44,000", counted("moves", "quantity >= 1 and quantity < 4")));
        TestServer.sql("update register_field set bands = '[]' where key = 'quantity'");
    }

    @Test
    void aFieldIsRemovedAndRestored() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/permits", "Permits");
        ines.getByRole(
                        AriaRole.LIST,
                        new Page.GetByRoleOptions().setName("Fields").setExact(true))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("After dark"))
                .click();
        button(ines, "Remove…").click();
        Locator dialog = dialog(ines, "Remove After dark?");
        assertThat(dialog).containsText("is kept, and the field can be restored on this page.");
        expectAccessible(ines, "removing a field");
        exactButton(ines, "Remove the field").click();
        assertThat(seen(ines, "After dark is removed. It can be restored below."))
                .isVisible();
        expectAccessible(ines, "removed fields");
        open(ines, "/registers/permits");
        assertThat(ines.locator(".matching")).hasText("9,000 of 9,000");
        ines.keyboard().press("a");
        Locator field = editor(ines).getByRole(AriaRole.COMBOBOX, new Locator.GetByRoleOptions().setName("Field"));
        field.fill("After dark");
        assertThat(ines.locator("[role=option]:visible")).hasCount(0);
        ines.keyboard().press("Escape");

        openPage(ines, "/catalogue/permits", "Permits");
        exactButton(ines, "Restore After dark").click();
        assertThat(seen(ines, "After dark is restored, as the last field.")).isVisible();
        open(ines, asking("permits", "after_dark is yes"));
        assertThat(ines.locator(".matching"))
                .hasText(String.format(java.util.Locale.UK, "%,d", counted("permits", "after_dark")) + " of 9,000");
    }

    @Test
    void aTypeIsChangedOnceItIsSaidWhatBecomesOfTheValues() throws SQLException {
        long watched = counted("permits", "fire_watch");
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/permits", "Permits");
        Locator fields = ines.getByRole(
                AriaRole.LIST, new Page.GetByRoleOptions().setName("Fields").setExact(true));
        Locator fireWatch = fields.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Fire watch"));
        fireWatch.click();
        button(ines, "Change type…").click();
        Locator dialog = dialog(ines, "Type of Fire watch");
        labelled(ines, "New type").selectOption("number");
        assertThat(dialog).containsText("“yes” does not read as a number.");
        assertThat(dialog).containsText("None of its values reads as number.");
        expectAccessible(ines, "values that do not read as the new type");
        labelled(ines, "New type").selectOption("choice");
        assertThat(dialog).containsText("values fit the type choice.");
        expectAccessible(ines, "another type");
        exactButton(ines, "Change the type").click();
        assertThat(seen(ines, "Fire watch is now choice. Its former values are below, as “Fire watch (as yes/no)”."))
                .isVisible();
        open(ines, asking("permits", "fire_watch is \"yes\""));
        String matching = String.format(java.util.Locale.UK, "%,d of 9,000", watched);
        assertThat(ines.locator(".matching")).hasText(matching);

        openPage(ines, "/catalogue/permits", "Permits");
        fireWatch.click();
        button(ines, "Change type…").click();
        labelled(ines, "New type").selectOption("yes/no");
        exactButton(ines, "Change the type").click();
        assertThat(seen(ines, "Fire watch is now yes/no.")).isVisible();
        open(ines, asking("permits", "fire_watch is yes"));
        assertThat(ines.locator(".matching")).hasText(matching);
    }

    @Test
    void aTeamSeesItsOwnSiteAndNoHiddenField() {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/permits", "Permits");
        button(ines, "Access").click();
        button(ines, "Add a line").click();
        labelled(ines, "Who line 1 is about").selectOption("Quay crews");
        // The limit is built as a view's statement is.
        Locator limit = ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Limit for Quay crews"));
        assertThat(limit).containsText("Permits, every one of them");
        limit.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("whose…"))
                .click();
        chooseField(ines, "Site");
        editor(ines)
                .getByRole(AriaRole.CHECKBOX, new Locator.GetByRoleOptions().setName("my site"))
                .check();
        apply(ines);
        assertThat(limit).containsText("Permits whose site is my site");
        assertThat(limit).containsText("What is my is each reader’s own.");
        expectAccessible(ines, "a limit that is built");
        labelled(ines, "Applicant").check();
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Saved. It holds from the next question on")).isVisible();

        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/permits");
        String own = String.format(java.util.Locale.UK, "%,d", counted("permits", "site = 'North Quay'"));
        assertThat(asta.locator(".matching")).hasText(own + " of " + own);
        assertThat(table(asta)).not().containsText("Applicant");
        assertThat(table(asta)).not().containsText("Lantern Pier");
        open(ines, "/registers/permits");
        assertThat(ines.locator(".matching")).hasText("9,000 of 9,000");
    }

    @Test
    void aRecordIsCorrectedTakenBackAndMarkedAsSeen() throws SQLException {
        String id = TestServer.query("select max(id) from records.permits where decided_on is null");
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/permits?record=" + id);
        button(asta, "Correct Starts on").click();
        asta.locator(".record").getByLabel("Starts on").fill("2026-12-24");
        asta.keyboard().press("Enter");
        assertThat(seen(asta, "Starts on is corrected.")).isVisible();
        assertThat(TestServer.query("select starts_on from records.permits where id = " + id))
                .isEqualTo("2026-12-24");
        button(asta, "Who changed it").click();
        assertThat(asta.locator(".steps")).containsText("Asta Quill");
        button(asta, "Take it back").click();
        assertThat(seen(asta, "Starts on is as it was.")).isVisible();
        assertThat(TestServer.query("select starts_on from records.permits where id = " + id))
                .isNotEqualTo("2026-12-24");
        // Any step can be gone back to, from what was done to it.
        assertThat(asta.locator(".steps > li")).hasCount(3);
        button(asta, "Back to this").first().click();
        assertThat(asta.locator(".back")).containsText("→ 24 Dec 2026");
        expectAccessible(asta, "the way back of a record");
        exactButton(asta, "Put it back").click();
        assertThat(seen(asta, "It is as it was after")).isVisible();
        assertThat(TestServer.query("select starts_on from records.permits where id = " + id))
                .isEqualTo("2026-12-24");
        assertThat(asta.locator(".steps > li")).hasCount(4);
        assertThat(asta.locator(".steps > li").first()).containsText("“As it was after");
        button(asta, "Back to this").last().click();
        exactButton(asta, "Put it back").click();
        assertThat(asta.locator(".steps > li")).hasCount(5);
        assertThat(TestServer.query("select starts_on from records.permits where id = " + id))
                .isNotEqualTo("2026-12-24");
        assertThat(asta.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Correct Number")))
                .hasCount(0);
        button(asta, "Mark as seen").click();
        assertThat(button(asta, "Seen by you")).isVisible();
        open(asta, asking("permits", "seen is yes"));
        assertThat(asta.locator(".matching")).hasText("1 of 9,000");
        TestServer.sql("truncate record_seen");
    }

    /** Somebody closes a period while somebody else is correcting a record of it. */
    @Test
    void nothingOfAClosedPeriodChangesUntilItIsReopened() throws SQLException {
        String id = TestServer.query("select max(id) from records.permits where submitted_at < '2026-09-01'");
        String before = TestServer.query("select starts_on from records.permits where id = " + id);
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/permits?record=" + id);
        button(asta, "Correct Starts on").click();
        asta.locator(".record").getByLabel("Starts on").fill("2026-12-24");

        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/permits", "Permits");
        button(ines, "Closed period").click();
        assertThat(seen(ines, "All permits are open.")).isVisible();
        labelled(ines, "Last closed day").fill("2026-09-30");
        labelled(ines, "Reason").fill("The quarter is reported.");
        button(ines, "Close up to 30 Sep 2026").click();
        assertThat(seen(ines, "Nothing up to 30 Sep 2026 changes any more.")).isVisible();
        expectAccessible(ines, "a closed period");

        asta.locator(".record").getByLabel("Starts on").press("Enter");
        assertThat(asta.locator(".record").getByRole(AriaRole.ALERT))
                .containsText("in a closed period, which goes up to 30 Sep 2026. Nothing was written. Ines Marlow");
        // What was written is still there.
        assertThat(asta.locator(".record").getByLabel("Starts on")).hasValue("2026-12-24");
        assertThat(TestServer.query("select starts_on from records.permits where id = " + id))
                .isEqualTo(before);
        open(asta, "/registers/permits?record=" + id);
        assertThat(seen(asta, "Closed up to 30 Sep 2026: nothing of this permit changes"))
                .isVisible();
        assertThat(button(asta, "Correct Starts on")).hasCount(0);

        labelled(ines, "Reason").fill("A permit of August was dated wrongly.");
        button(ines, "Reopen everything").click();
        assertThat(seen(ines, "All of it is open again.")).isVisible();
        assertThat(ines.locator(".history"))
                .containsText(Pattern.compile("all reopened.*dated wrongly.*30 Sep 2026.*reported", Pattern.DOTALL));
        open(asta, "/registers/permits?record=" + id);
        assertThat(button(asta, "Correct Starts on")).isVisible();
    }

    @Test
    void aRecordLeadsToItsRelations() throws SQLException {
        String id = TestServer.query(
                "select id from records.dues where reference is not null order by posted_at desc limit 1");
        String reference = TestServer.query("select reference from records.dues where id = " + id);
        Page tomas = signedIn("Tomas Rell");
        open(tomas, "/registers/dues?record=" + id);
        link(tomas, "Dues ledger with transaction").click();
        assertThat(tomas.locator(".matching")).hasText(Pattern.compile("[23] of 65,848"));
        open(tomas, "/registers/dues?record=" + id);
        link(tomas, "Berth stays with reference " + reference).click();
        assertThat(tomas.locator(".matching")).hasText("1 of 12,000");
        assertThat(table(tomas)).containsText(reference);
    }

    @Test
    void whatOthersChangeIsToldAndShownOnRequest() throws SQLException {
        Page wren = signedIn("Wren Halloway");
        open(wren, "/registers/closures");
        assertThat(wren.locator(".matching")).hasText("1,000 of 1,000");
        wren.locator(".sheet").evaluate("sheet => sheet.scrollTop = 300");
        String first = table(wren).locator("tbody tr[data-index]").first().innerText();
        TestServer.sql("""
                insert into records.closures (number, place, site, closed_from, reason)
                select 'C-9' || i, 'Sea lock', 'North Quay', timestamptz '2027-03-01Z' + interval '1 day' * i, 'Diving'
                from generate_series(1, 3) i;
                delete from records.closures where id = (
                    select id from records.closures where number not like 'C-9_' order by closed_from desc, id desc offset 5 limit 1)""");
        assertThat(seen(wren, "Since you opened it: 3 new, 1 gone.")).isVisible();
        assertThat(table(wren).locator("tbody tr[data-index]").first().innerText())
                .isEqualTo(first);
        assertThat(link(wren, "Closures")).containsText("1,002");
        button(wren, "Show it now").click();
        assertThat(seen(wren, "Since you opened it")).hasCount(0);
        wren.locator(".sheet").evaluate("sheet => sheet.scrollTop = 0");
        assertThat(table(wren)).containsText("C-93");
        TestServer.sql("delete from records.closures where number like 'C-9_'");
    }

    @Test
    void pinnedViewsStandFirstAndKeepTheirCountsFresh() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/views/2");
        exactButton(ines, "More").click();
        ines.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Pin to my list"))
                .click();
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Pinned")))
                .isVisible();
        Locator pin = ines.locator(".list a[href='/views/2']");
        assertThat(pin.locator(".count")).hasText(Pattern.compile("\\d+"));
        int before = Integer.parseInt(pin.locator(".count").innerText());
        TestServer.sql("""
                insert into records.defects (number, title, severity, status, reported_at, blocks_berth, tags)
                values ('D-99999', 'Pinned', 1, 'Waiting for parts', '2026-10-01Z', false, '{}')""");
        assertThat(pin.locator(".count")).hasText(String.valueOf(before + 1));
        TestServer.sql("delete from records.defects where number = 'D-99999'");
        assertThat(pin.locator(".count")).hasText(String.valueOf(before));
        TestServer.sql("truncate pin");
    }

    @Test
    void workThatIsNotKeptIsAskedAboutBeforeThePageIsLeft() {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/closures", "Closures");
        Locator about = ines.getByLabel("What people should know of it");
        String before = about.inputValue();
        about.fill("When nobody may moor");
        link(ines, "All views").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Leave without saving?"));
        assertThat(dialog).containsText("Your changes of Closures would be lost.");
        expectAccessible(ines, "asking before a page is left");
        exactButton(ines, "Stay here").click();
        assertThat(about).hasValue("When nobody may moor");
        link(ines, "All views").click();
        exactButton(ines, "Leave without saving").click();
        assertThat(ines.getByRole(
                        AriaRole.HEADING,
                        new Page.GetByRoleOptions().setName("All views").setLevel(1)))
                .isVisible();
        openPage(ines, "/catalogue/closures", "Closures");
        assertThat(about).hasValue(before);
        // Nothing was changed, so nothing is asked.
        link(ines, "All views").click();
        ines.waitForURL(Pattern.compile(".*/views"));
    }

    @Test
    void slowViewsAreTimed() {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/defects", "Defects");
        button(ines, "Performance").click();
        assertThat(seen(ines, "(reported_at, id)")).isVisible();
        button(ines, "Time the shared views").click();
        assertThat(link(ines, "Overdue at my site").last()).isVisible();
        assertThat(seen(ines, "Nothing: each shared view is quick as it is")).isVisible();
    }

    @Test
    void sumsAreKeptWhileRecordsAreWritten() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        openPage(ines, "/catalogue/permits", "Permits");
        button(ines, "Performance").click();
        Locator sums = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Kept sums"));
        Locator keep = sums.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Keep these sums"));
        sums.getByLabel("Form", new Locator.GetByLabelOptions().setExact(true)).check();
        sums.getByLabel("Number", new Locator.GetByLabelOptions().setExact(true))
                .check();
        keep.click();
        assertThat(sums).containsText("The sums are kept from now on.");
        // Numbers are as many as permits: what that means is said, and mended at once.
        assertThat(sums).containsText("That is much to add up");
        sums.getByLabel("Number", new Locator.GetByLabelOptions().setExact(true))
                .uncheck();
        sums.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save"))
                .click();
        expectAccessible(ines, "kept sums");
        assertThat(sums.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save")))
                .isDisabled();
        String days = "from kept.permits where \"@day\" is not null";
        assertThat(TestServer.query("select cast(sum(\"@n\") as text) " + days))
                .isEqualTo(TestServer.query(
                        "select cast(count(*) as text) from records.permits where submitted_at is not null"));

        sums.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Keep none"))
                .click();
        assertThat(sums).containsText("No sums are kept.");
        assertThat(keep).isVisible();
        assertThat(TestServer.query(
                        "select count(*) from pg_tables where schemaname = 'kept' and tablename like 'permits%'"))
                .isEqualTo("0");
    }

    @Test
    void everyScreenIsAccessible() throws SQLException {
        TestServer.sql(
                "create schema if not exists plant; create table if not exists plant.cranes (id int primary key, name text)");
        Page ines = signedIn("Ines Marlow");
        for (List<String> screen : List.of(
                List.of("/catalogue", "Catalogue"),
                List.of("/jobs", "Jobs"),
                List.of("/catalogue/combine", "Combine registers"),
                List.of("/catalogue/stays", "Berth stays"),
                List.of("/catalogue/import", "Import a file"),
                List.of("/catalogue/attach", "Attach a table"))) {
            openPage(ines, screen.get(0), screen.get(1));
            expectAccessible(ines, screen.get(0));
        }
        button(ines, "Attach plant.cranes").click();
        assertThat(button(ines, "Attach as Cranes")).isVisible();
        expectAccessible(ines, "a table to attach");
        openPage(ines, "/catalogue/import", "Import a file");
        choose(ines, CSV);
        assertThat(button(ines, "Import 3 rows")).isVisible();
        expectAccessible(ines, "the columns of a file");
        openPage(ines, "/catalogue/stays", "Berth stays");
        button(ines, "Length").click();
        assertThat(ines.locator("rect.bar")).hasCount(48);
        expectAccessible(ines, "bands");
        for (String section : List.of(
                "Names and order", "Access", "First view of a team", "Source", "Closed period", "Performance")) {
            button(ines, section).click();
            expectAccessible(ines, section);
        }
        open(ines, "/registers/permits?record=9000");
        assertThat(button(ines, "Mark as seen")).isVisible();
        expectAccessible(ines, "a record with what may be corrected");
    }
}
