package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.sql.SQLException;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Views over years: found, shared, refined, changed by one and explained to another, and the people who do it. */
class YearsTest extends Journey {

    private static final String OPEN = "status is not in (\"Done\", \"Dropped\")";
    private static final String OPEN_SQL = "coalesce(status, '') not in ('Done', 'Dropped')";

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql(
                "delete from kept_view where id > 11; delete from view_reader; delete from view_attention;"
                        + " delete from view_opening; delete from team_view; delete from personal_token; delete from trail;"
                        + " delete from team_member where person_id in (select id from person where name like 'e2e.%');"
                        + " delete from person where name like 'e2e.%'; delete from team where name like 'E2E%';"
                        + " delete from viewer_attribute where key <> 'site'; delete from register_access where register_id <> (select id from register where key = 'dues');"
                        + " update person set active = true, left_at = null, subject = null where not active or subject is not null");
    }

    private static String address(String register, String statement) {
        return asking(register, statement);
    }

    /** Keeps what a page asks as a view and gives its address. */
    private static String keep(Page page, String name, String label) {
        button(page, "Save as a new view").click();
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill(name);
        if (!label.isEmpty()) {
            page.getByLabel("Labels", new Page.GetByLabelOptions().setExact(true))
                    .fill(label);
        }
        exactButton(page, "Save").click();
        page.waitForURL(Pattern.compile(".*/views/\\d+$"));
        return page.url().replaceFirst(".*(/views/\\d+)$", "$1");
    }

    private static void share(Page page, String with, String may) {
        exactButton(page, "Share").click();
        choose(page, "Add a person, a team or everyone", with);
        page.getByLabel("What " + with + " may do").selectOption(may);
        Locator dialog = page.getByRole(AriaRole.DIALOG);
        dialog.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Share").setExact(true))
                .click();
        assertThat(dialog).hasCount(0);
    }

    @Test
    void oneViewAnswersFiveReadersAndAChangeIsSeenExplainedAndTakenBack() throws SQLException {
        Page asta = signedIn("Asta Quill");
        open(asta, address("defects", OPEN + " and site is my site and severity >= 4"));
        String view = keep(asta, "Grave ones at my site", "round");
        share(asta, "Quay crews", "to look");
        share(asta, "Bram Oake", "to manage");
        assertThat(seen(asta, "shared with Quay crews, to look; Bram Oake, to manage"))
                .isVisible();
        expectCount(asta, defects(OPEN_SQL + " and site = 'North Quay' and severity >= 4"));

        Page bram = signedIn("Bram Oake");
        link(bram, "Grave ones at my site").click();
        expectCount(bram, defects(OPEN_SQL + " and site = 'Lantern Pier' and severity >= 4"));
        Page wren = signedIn("Wren Halloway");
        open(wren, view);
        assertThat(seen(wren, "This view is not there, or not shared with you."))
                .isVisible();
        Page tomas = signedIn("Tomas Rell");
        // What is missing is only told once the list is there.
        assertThat(tomas.getByRole(AriaRole.NAVIGATION)).containsText("Debtors this quarter");
        assertThat(tomas.getByRole(AriaRole.NAVIGATION)).not().containsText("Grave ones");
        Page petra = signedIn("Petra Lind");
        open(petra, view);
        expectCount(petra, 0);
        assertThat(exactButton(petra, "Share")).hasCount(0);
        more(petra, "Access");
        choose(petra, "Whose access to look at", "Bram Oake");
        assertThat(dialog(petra, "Access to “Grave ones at my site”"))
                .containsText(
                        "It is shared with the team Quay crews, to look. It is shared with Bram Oake, to manage.");

        // Bram changes it for everyone, having seen who reads it and what that means.
        assertThat(seen(bram, "has it open too").or(seen(bram, "have it open too")))
                .isVisible();
        open(
                bram,
                view + "?where="
                        + URLEncoder.encode(OPEN + " and site is my site and severity >= 3", StandardCharsets.UTF_8));
        button(bram, "Save changes").click();
        Locator review = dialog(bram, "Others rely on this view");
        assertThat(review).containsText("Asta Quill");
        long more = defects(OPEN_SQL + " and site = 'Lantern Pier' and severity = 3");
        assertThat(review).containsText(String.format(java.util.Locale.UK, "%,d come in", more));
        assertThat(review).containsText("none goes");
        button(bram, "Change it for everyone").click();
        assertThat(review).hasCount(0);

        // Asta is told, takes it, sees in the history what it was, and takes it back.
        assertThat(seen(asta, "Bram Oake changed this view")).isVisible();
        exactButton(asta, "Take theirs").click();
        expectCount(asta, defects(OPEN_SQL + " and site = 'North Quay' and severity >= 3"));
        more(asta, "History");
        Locator history = dialog(asta, "History of “Grave ones at my site”");
        assertThat(history.locator("li").first()).containsText("changed by Bram Oake");
        assertThat(history.locator("li").first().locator("ins")).hasText("severity is at least 3");
        history.getByText("Compare with now").first().click();
        assertThat(history.getByRole(AriaRole.REGION)).containsText("come in");
        expectAccessible(asta, "history");
        history.getByText("Put back").first().click();
        assertThat(history).hasCount(0);
        expectCount(asta, defects(OPEN_SQL + " and site = 'North Quay' and severity >= 4"));
        assertThat(seen(bram, "Asta Quill changed this view")).isVisible();

        // Bram manages it too: he deletes it, and whoever has it open is told.
        exactButton(bram, "Take theirs").click();
        expectCount(bram, defects(OPEN_SQL + " and site = 'Lantern Pier' and severity >= 4"));
        more(bram, "Delete");
        assertThat(dialog(bram, "Delete “Grave ones at my site”?")).containsText("Asta Quill");
        exactButton(bram, "Delete").click();
        bram.waitForURL(Pattern.compile(".*/views$"));
        assertThat(seen(asta, "This view was deleted just now")).isVisible();
        expectCount(asta, defects(OPEN_SQL + " and site = 'North Quay' and severity >= 4"));
    }

    @Test
    void aReaderRefinesForThemselvesAndItIsCarriedAlongAroundALock() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, address("defects", OPEN + " and severity >= 2"));
        String view = keep(ines, "To refine", "");
        exactButton(ines, "Share").click();
        choose(ines, "Add a person, a team or everyone", "Everyone");
        ines.getByRole(AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName("status is none of"))
                .check();
        assertThat(seen(ines, "It reaches 35 people beside its owner.")).isVisible();
        Locator sharing = ines.getByRole(AriaRole.DIALOG);
        sharing.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Share").setExact(true))
                .click();
        assertThat(sharing).hasCount(0);

        Page asta = signedIn("Asta Quill");
        open(asta, view);
        expectCount(asta, defects(OPEN_SQL + " and severity >= 2"));
        Locator locked = statement(asta)
                .getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("status is none of Done, Dropped, locked"));
        locked.dispatchEvent("click");
        assertThat(editor(asta)).hasCount(0);
        locked.press("Delete");
        expectCount(asta, defects(OPEN_SQL + " and severity >= 2"));
        button(asta, "and…").click();
        chooseField(asta, "Site");
        editor(asta).getByLabel("my site").check();
        apply(asta);
        expectCount(asta, defects(OPEN_SQL + " and severity >= 2 and site = 'North Quay'"));
        exactButton(asta, "Save for me").click();
        assertThat(seen(asta, "Shown with your own refinement, which only you see."))
                .isVisible();
        expectAccessible(asta, "a refinement");

        open(ines, view + "?where=" + URLEncoder.encode(OPEN + " and severity >= 4", StandardCharsets.UTF_8));
        button(ines, "Save changes").click();
        assertThat(dialog(ines, "Others rely on this view")).containsText("refined by 1 other");
        button(ines, "Change it for everyone").click();
        assertThat(button(ines, "Save changes")).hasCount(0);
        open(asta, view);
        expectCount(asta, defects(OPEN_SQL + " and severity >= 4 and site = 'North Quay'"));
        button(asta, "Show it as shared").click();
        expectCount(asta, defects(OPEN_SQL + " and severity >= 4"));
        button(asta, "Show mine").click();
        button(asta, "Discard mine").click();
        expectCount(asta, defects(OPEN_SQL + " and severity >= 4"));

        // Words that leave the locked part out are the reader's own question, and say so.
        open(asta, view + "?where=" + URLEncoder.encode("severity >= 4", StandardCharsets.UTF_8));
        assertThat(seen(asta, "leaves out a part that whoever manages the view has locked"))
                .isVisible();
        assertThat(exactButton(asta, "Save for me")).hasCount(0);
    }

    @Test
    void whatAReaderFillsInIsThereAgainAndStaysOutOfTheLinkUnlessWanted() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, address("defects", "severity >= {from severity = 1}"));
        String view = keep(ines, "From a severity", "");
        expectCount(ines, defects("severity >= 1"));
        ines.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("from severity"))
                .fill("4");
        ines.keyboard().press("Enter");
        expectCount(ines, defects("severity >= 4"));
        button(ines, "Step back").click();
        expectCount(ines, defects("severity >= 1"));
        button(ines, "Forward").click();
        expectCount(ines, defects("severity >= 4"));
        open(ines, view);
        expectCount(ines, defects("severity >= 4"));
        assertThat(link(ines, "From a severity").locator(".count"))
                .hasText(String.format(java.util.Locale.UK, "%,d", defects("severity >= 4")));
        more(ines, "Copy the link with what is filled in");
        assertThat(seen(ines, "The link is copied, with what you filled in.").first())
                .isAttached();
        String with = (String) ines.evaluate("navigator.clipboard.readText()");
        org.assertj.core.api.Assertions.assertThat(with).contains("ask.from");
        ines.locator("body").press("Escape");
        exactButton(ines, "More").click();
        ines.getByRole(
                        AriaRole.MENUITEM,
                        new Page.GetByRoleOptions().setName("Copy the link").setExact(true))
                .click();
        ines.waitForCondition(() -> !((String) ines.evaluate("navigator.clipboard.readText()")).contains("ask.from"));
    }

    @Test
    void viewsAreFoundByAnyWordAndCaredForTogether() throws SQLException {
        Page asta = signedIn("Asta Quill");
        open(asta, address("defects", "severity >= 5"));
        keep(asta, "First of two", "spring");
        open(asta, address("defects", "due in 2026-09"));
        keep(asta, "Second of two", "");

        Page ines = signedIn("Ines Marlow");
        // The labels of fields come in after the views; what is found must not change with them.
        ines.waitForResponse(r -> r.url().endsWith("/api/registers/defects"), () -> open(ines, "/views"));
        Locator list = ines.getByRole(AriaRole.MAIN).locator("li");
        for (String word : new String[] {"spring", "Severity quill", "first two"}) {
            ines.getByRole(AriaRole.SEARCHBOX, new Page.GetByRoleOptions().setName("Search views"))
                    .fill(word);
            assertThat(list.filter(new Locator.FilterOptions().setHasText("First of two")))
                    .hasCount(1);
            assertThat(list.filter(new Locator.FilterOptions().setHasText("Second of two")))
                    .hasCount(0);
        }
        ines.reload();
        assertThat(list).hasCount(1);
        button(ines, "Show all").click();
        ines.getByLabel("Whose").selectOption("Asta Quill");
        ines.getByLabel("select all that I manage").check();
        ines.getByRole(AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName("Select Here during a week"))
                .uncheck();
        ines.getByRole(AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName("Select To decide at my site"))
                .uncheck();
        Locator care = ines.getByRole(AriaRole.FORM, new Page.GetByRoleOptions().setName("Do the same to 2 views"));
        care.getByLabel("What to do").selectOption("add the label");
        care.getByRole(AriaRole.TEXTBOX, new Locator.GetByRoleOptions().setName("Label"))
                .fill("harvest");
        expectAccessible(ines, "care for many");
        care.getByText("Do it").click();
        assertThat(seen(ines, "2 views labelled.")).isVisible();
        ines.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Label"))
                .selectOption("harvest");
        assertThat(list).hasCount(2);

        // As a file, and back after they are deleted.
        ines.getByLabel("select all that I manage").check();
        button(ines, "Export or import…").click();
        var file =
                ines.waitForDownload(() -> link(ines, "Export the 2 selected").click());
        byte[] content = read(file.path());
        ines.keyboard().press("Escape");
        care.getByLabel("What to do").selectOption("delete");
        care.getByText("Do it").click();
        dialog(ines, "Delete 2 views?")
                .getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Delete").setExact(true))
                .click();
        assertThat(seen(ines, "2 views deleted; they can be restored for 30 days."))
                .isVisible();
        assertThat(ines.locator(".deleted li")).hasCount(2);
        button(ines, "Export or import…").click();
        ines.getByLabel("A file of views").setInputFiles(new FilePayload("views.json", "application/json", content));
        Locator report = ines.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("What becomes of the file"));
        assertThat(report.locator("li")).hasCount(2);
        assertThat(report).containsText("Second of two will be added");
        button(ines, "Import them").click();
        assertThat(seen(ines, "2 of 2 views imported.")).isAttached();
        ines.keyboard().press("Escape");
        assertThat(list.filter(new Locator.FilterOptions().setHasText("Second of two"))
                        .first())
                .containsText("Asta Quill");
    }

    private static byte[] read(java.nio.file.Path path) {
        try {
            return Files.readAllBytes(path);
        } catch (java.io.IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    @Test
    void whatNeedsAttentionIsToldToItsOwner() {
        Page asta = signedIn("Asta Quill");
        open(asta, address("defects", "due in 2026-09"));
        keep(asta, "Long past", "");
        exactButton(asta, "More").click();
        asta.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Name, purpose and labels"))
                .click();
        asta.getByLabel("What it is for").fill("For the autumn round.");
        exactButton(asta, "Save").click();
        assertThat(seen(asta, "For the autumn round.")).isVisible();
        link(asta, "Need attention").click();
        Locator found =
                asta.getByRole(AriaRole.MAIN).locator("li").filter(new Locator.FilterOptions().setHasText("Long past"));
        assertThat(found).containsText("ended on 30 Sep 2026");
        expectAccessible(asta, "views that need attention");
    }

    @Test
    void aTeamFindsItsListFromTheFirstDay() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/people/teams");
        button(ines, "Quay crews").click();
        choose(ines, "Views on its list", "Overdue at my site");
        ines.keyboard().press("Escape");
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Quay crews is kept.")).isVisible();
        Page bram = signedIn("Bram Oake");
        Locator nav = bram.getByRole(AriaRole.NAVIGATION);
        assertThat(nav.getByRole(AriaRole.HEADING, new Locator.GetByRoleOptions().setName("Quay crews")))
                .isVisible();
        assertThat(nav.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Overdue at my site")))
                .hasCount(1);
        Page tomas = signedIn("Tomas Rell");
        // What is missing is only told once the list is there.
        assertThat(tomas.getByRole(AriaRole.NAVIGATION)).containsText("Debtors this quarter");
        assertThat(tomas.getByRole(AriaRole.NAVIGATION)).not().containsText("Quay crews");
    }

    @Test
    void somebodyComesWorksAndLeaves() throws SQLException {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/people/known");
        button(ines, "Add a line").click();
        ines.getByLabel("Word of line 2").fill("quarter");
        ines.getByLabel("Name of line 2").fill("Quarter of the harbour");
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Saved. Statements can use it from now on.")).isVisible();
        open(ines, "/people");
        button(ines, "Add a person").click();
        ines.getByLabel("Signs in as").fill("e2e.nora");
        ines.getByLabel("First password").fill("kelp lantern 49 gravel");
        ines.getByLabel("Full name").fill("Nora Quay");
        Locator site = ines.getByRole(
                AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName("Site").setExact(true));
        site.fill("outer");
        assertThat(ines.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("Outer Roads")))
                .isVisible();
        site.press("Enter");
        ines.getByRole(AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName("Quay crews"))
                .check();
        exactButton(ines, "Add").click();
        assertThat(seen(ines, "Nora Quay is added.")).isVisible();

        Page nora = stranger();
        open(nora, "/sign-in?to=%2Fviews%2F1");
        nora.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("e2e.nora");
        nora.getByLabel("Password", new Page.GetByLabelOptions().setExact(true)).fill("kelp lantern 49 gravel");
        exactButton(nora, "Sign in").click();
        assertThat(seen(nora, "Somebody else chose your password.")).isVisible();
        nora.getByLabel("Old password").fill("kelp lantern 49 gravel");
        nora.getByLabel("New password").fill("otter mast 72 willow");
        exactButton(nora, "Change it").click();
        nora.waitForURL(Pattern.compile(".*/registers/defects"));
        open(nora, "/views/1");
        expectCount(nora, defects("due < '2026-11-23' and " + OPEN_SQL + " and site = 'Outer Roads'"));
        open(nora, address("defects", "site is my site"));
        keep(nora, "Nora's own", "");

        // Somebody who administers looks as her, and changes nothing.
        open(ines, "/people");
        ines.getByRole(AriaRole.SEARCHBOX, new Page.GetByRoleOptions().setName("Find people"))
                .fill("outer nora");
        button(ines, "Nora Quay").click();
        button(ines, "Look as them").click();
        assertThat(seen(ines, "you see what Nora Quay sees, and change nothing"))
                .isVisible();
        link(ines, "Nora's own").click();
        expectCount(ines, defects("site = 'Outer Roads'"));
        assertThat(button(ines, "Save as a new view")).hasCount(0);
        expectAccessible(ines, "looking as somebody else");
        button(ines, "Be yourself again").click();
        assertThat(button(ines, "Account menu")).hasText("Ines Marlow");

        // She leaves: out at once, her view handed over.
        open(ines, "/people");
        button(ines, "Nora Quay").click();
        choose(ines, "Who takes over their views", "Asta Quill");
        button(ines, "Hand it over").click();
        assertThat(seen(ines, "The views of Nora Quay are Asta Quill’s now.")).isVisible();
        button(ines, "Deactivate…").click();
        button(ines, "Deactivate now").click();
        assertThat(seen(ines, "Nora Quay can no longer sign in")).isVisible();
        // Her page may have noticed by itself before she does anything.
        open(nora, "/catalogue");
        nora.waitForURL(Pattern.compile(".*/sign-in.*"));
        Page asta = signedIn("Asta Quill");
        link(asta, "Nora's own").click();
        expectCount(asta, defects("site = 'North Quay'"));
        open(ines, "/people/trail");
        ines.getByLabel("What it is about").selectOption("people, teams and rights");
        assertThat(ines.getByRole(AriaRole.TABLE)).containsText("disabled");
        assertThat(ines.getByRole(AriaRole.TABLE)).containsText("looked as");
    }

    @Test
    void theIdentityProviderSignsSomebodyIn() {
        Page wren = stranger();
        open(wren, "/views/2");
        link(wren, "Sign in with the organisation's account").click();
        wren.getByLabel("Who are you?").fill("wren.halloway");
        button(wren, "Go on").click();
        wren.waitForURL(Pattern.compile(".*/views/2$"));
        assertThat(button(wren, "Account menu")).hasText("Wren Halloway");
        Page nobody = stranger();
        open(nobody, "/sign-in");
        link(nobody, "Sign in with the organisation's account").click();
        nobody.getByLabel("Who are you?").fill("who.ever");
        button(nobody, "Go on").click();
        assertThat(nobody.getByRole(AriaRole.ALERT)).containsText("Nobody here is “who.ever”");
    }

    @Test
    void sessionsAndTokensAreSeenAndEnded() throws SQLException {
        TestServer.sql("truncate spring_session cascade");
        Page tomas = signedIn("Tomas Rell");
        Page elsewhere = signedIn("Tomas Rell");
        open(tomas, "/account");
        assertThat(tomas.getByRole(AriaRole.TABLE).first().locator("tbody tr")).hasCount(2);
        tomas.getByPlaceholder("What it is for").fill("nightly sums");
        tomas.getByLabel("How long it works").selectOption("for 7 days");
        button(tomas, "Make a token").click();
        assertThat(seen(tomas, "Copy it now, it is not shown again")).isVisible();
        Locator tokens = tomas.getByRole(AriaRole.TABLE).last();
        assertThat(tokens).containsText("30 Nov 2026");
        assertThat(tokens).containsText("nightly sums");
        expectAccessible(tomas, "account");
        button(tomas, "Sign out everywhere else").click();
        assertThat(seen(tomas, "You are signed out everywhere else.")).isVisible();
        link(elsewhere, "Catalogue").click();
        elsewhere.waitForURL(Pattern.compile(".*/sign-in.*"));
    }

    @Test
    void limitsAreSaidWhereTheyHideSomething() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/catalogue/permits");
        button(ines, "Access").click();
        button(ines, "Add a line").click();
        ines.getByLabel("Who line 1 is about", new Page.GetByLabelOptions().setExact(true))
                .selectOption("Quay crews");
        Locator limit = ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Limit for Quay crews"));
        limit.getByLabel("Type what you look for").last().fill("my site");
        assertThat(limit.locator("label").filter(new Locator.FilterOptions().setHasText("site is my site")))
                .isVisible();
        limit.getByLabel("Type what you look for").last().press("Enter");
        assertThat(limit).containsText("Permits whose site is my site");
        ines.getByLabel("Applicant", new Page.GetByLabelOptions().setExact(true))
                .check();
        exactButton(ines, "Save").click();
        assertThat(seen(ines, "Saved. It holds from the next question on")).isVisible();
        open(ines, address("permits", "status is \"Submitted\""));
        keep(ines, "Submitted", "");
        exactButton(ines, "Share").click();
        choose(ines, "Add a person, a team or everyone", "Quay crews");
        assertThat(ines.getByRole(AriaRole.DIALOG))
                .containsText("only records for which site is my site; without Applicant");
        choose(ines, "Whose access to look at", "Asta Quill");
        assertThat(ines.getByRole(AriaRole.DIALOG)).containsText("It is not open to them.");
        expectAccessible(ines, "sharing");
        ines.getByRole(AriaRole.DIALOG)
                .getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Share").setExact(true))
                .click();
        Page asta = signedIn("Asta Quill");
        link(asta, "Submitted").click();
        assertThat(seen(
                        asta,
                        "You see only the records for which site is my site; 1 of its fields is not shown to you."))
                .isVisible();
    }

    @Test
    void aViewWithoutCriteriaAndANameThatIsTakenAreAskedAbout() {
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/closures");
        button(asta, "Save as a new view").click();
        asta.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("here during A week");
        assertThat(exactButton(asta, "Save")).isDisabled();
        asta.getByLabel("It has no criteria and will show every record.").check();
        exactButton(asta, "Save").click();
        assertThat(asta.getByRole(AriaRole.DIALOG).getByRole(AriaRole.ALERT))
                .containsText("There is a view “Here during a week” of the same owner already.");
    }

    @Test
    void thePagesAboutPeopleAreOpenToEverybody() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/people");
        button(ines, "Asta Quill").click();
        assertThat(button(ines, "Look as them")).isVisible();
        expectAccessible(ines, "people");
        open(ines, "/people/teams");
        button(ines, "Quay crews").click();
        expectAccessible(ines, "teams");
        open(ines, "/people/known");
        assertThat(ines.getByLabel("Word of line 1")).isVisible();
        expectAccessible(ines, "what is known");
        open(ines, "/people/file");
        ines.getByLabel("Or paste it").fill("name,site\nasta.quill,Outer Roads\nx y,\n");
        button(ines, "Check it").click();
        assertThat(seen(ines, "It does not fit yet")).isVisible();
        expectAccessible(ines, "people from a file");
        open(ines, "/people/trail");
        assertThat(ines.getByRole(AriaRole.TABLE)).containsText("signed in");
        expectAccessible(ines, "trail");
        Page asta = signedIn("Asta Quill");
        open(asta, "/people");
        assertThat(seen(asta, "36 of 36")).isVisible();
        assertThat(button(asta, "Ines Marlow")).hasCount(0);
    }
}
