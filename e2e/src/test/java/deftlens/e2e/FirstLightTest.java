package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** One view, from question to colleague. */
class FirstLightTest extends Journey {

    private static final String OVERDUE =
            "due < date '2026-11-23' and status not in ('Done') and (severity >= 3 or 'Safety' = any(tags)) and site = ";

    @Test
    void aQuestionIsPutKeptSharedAndAnsweredForAColleague() {
        Page asta = signedIn("Asta Quill");
        expectCount(asta, 24_000);
        assertThat(statement(asta)).containsText("Defects, every one of them");

        button(asta, "whose…").click();
        chooseField(asta, "Site");
        editor(asta).getByLabel("my site").check();
        apply(asta);
        expectCount(asta, defects("site = 'North Quay'"));

        button(asta, "and…").click();
        chooseField(asta, "Due");
        chooseTest(asta, "before it");
        editor(asta).getByLabel("Window").fill("today");
        assertThat(editor(asta)).containsText("everything before Mon 23 Nov 2026");
        apply(asta);
        assertThat(statement(asta)).containsText("before Mon 23 Nov 2026 · rolling");

        button(asta, "and…").click();
        chooseField(asta, "Status");
        chooseTest(asta, "is none of");
        editor(asta).getByLabel("Done").check();
        apply(asta);

        button(asta, "and…").click();
        chooseField(asta, "Severity");
        chooseTest(asta, "is at least");
        editor(asta)
                .getByRole(AriaRole.TEXTBOX, new Locator.GetByRoleOptions().setName("Number"))
                .fill("3");
        apply(asta);
        phrase(asta, "severity").hover();
        asta.locator("[data-path='/all/3']")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("or…"))
                .click();
        chooseField(asta, "Tags");
        editor(asta).getByLabel("Safety").check();
        apply(asta);
        assertThat(statement(asta)).containsText("any of");
        expectCount(asta, defects(OVERDUE + "'North Quay'"));

        button(asta, "Save as a new view").click();
        asta.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Morning round");
        asta.getByLabel("What it is for").fill("What should have been mended by now.");
        exactButton(asta, "Save").click();
        asta.waitForURL(Pattern.compile(".*/views/\\d+$"));
        assertThat(asta.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Morning round")))
                .isVisible();

        exactButton(asta, "Share").click();
        Locator dialog = asta.getByRole(AriaRole.DIALOG);
        dialog.getByRole(AriaRole.COMBOBOX, new Locator.GetByRoleOptions().setName("Add a person, a team or everyone"))
                .fill("Quay crews");
        asta.getByRole(AriaRole.OPTION, new Page.GetByRoleOptions().setName("Quay crews"))
                .click();
        dialog.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Share").setExact(true))
                .click();
        assertThat(asta.locator("header .about")).containsText("shared with Quay crews, to look");

        Page bram = signedIn("Bram Oake");
        Locator fromColleagues = link(bram, "Morning round");
        assertThat(fromColleagues).isVisible();
        fromColleagues.click();
        expectCount(bram, defects(OVERDUE + "'Lantern Pier'"));
        assertThat(bram.locator("header .about")).containsText("from Asta Quill");
        assertThat(table(bram).locator("tbody tr[data-index='0']")).containsText("Lantern Pier");
        assertThat(exactButton(bram, "Share")).hasCount(0);

        Page wren = signedIn("Wren Halloway");
        assertThat(link(wren, "Waiting for parts")).isVisible();
        assertThat(link(wren, "Morning round")).hasCount(0);
    }

    @Test
    void theAddressHoldsTheWholeQuestion() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=severity+%3E%3D+4&order=-severity,due&columns=number,severity,due");
        expectCount(ines, defects("severity >= 4"));
        assertThat(table(ines).getByRole(AriaRole.COLUMNHEADER)).hasCount(3);
        assertThat(table(ines).getByRole(AriaRole.COLUMNHEADER).nth(1)).hasAttribute("aria-sort", "descending");

        phrase(ines, "severity").click();
        editor(ines)
                .getByRole(AriaRole.TEXTBOX, new Locator.GetByRoleOptions().setName("Number"))
                .fill("5");
        ines.keyboard().press("Enter");
        expectCount(ines, defects("severity >= 5"));
        assertThat(ines.url()).contains("where=severity");

        ines.reload();
        expectCount(ines, defects("severity >= 5"));
        ines.goBack();
        expectCount(ines, defects("severity >= 4"));
        ines.goForward();
        expectCount(ines, defects("severity >= 5"));
        ines.keyboard().press("u");
        expectCount(ines, defects("severity >= 4"));

        Page tomas = signedIn("Tomas Rell");
        tomas.navigate(ines.url());
        expectCount(tomas, defects("severity >= 4"));
        assertThat(table(tomas).getByRole(AriaRole.COLUMNHEADER)).hasCount(3);
    }

    @Test
    void aLinkSurvivesTheSignIn() {
        Page stranger = stranger();
        open(stranger, "/registers/defects?where=severity+%3D+1");
        button(stranger, "Petra Lind").click();
        expectCount(stranger, defects("severity = 1"));
    }

    @Test
    void wordsAreTypedWithCompletionAndAnErrorThatPoints() {
        Page ines = signedIn("Ines Marlow");
        button(ines, "write it as words").click();
        Locator words = ines.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("Statement over Defects"));
        words.pressSequentially("staus is \"Done\"");
        Locator alert = statement(ines).getByRole(AriaRole.ALERT);
        assertThat(alert).containsText("“staus” is no field of Defects. Did you mean “status”?");
        assertThat(ines.locator(".cm-lintRange-error")).hasText("staus");
        alert.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("status"))
                .click();
        assertThat(alert).hasCount(0);

        words.press("End");
        words.pressSequentially(" and sev");
        Locator proposals = ines.locator(".cm-tooltip-autocomplete");
        assertThat(proposals).containsText("severity");
        words.press("Enter");
        words.pressSequentially(">= 4");
        words.press("Escape");
        assertThat(words).containsText("severity >= 4");
        words.press("Control+Enter");
        expectCount(ines, defects("status = 'Done' and severity >= 4"));
        assertThat(phrase(ines, "status is Done")).isVisible();
    }

    @Test
    void anAddressThatCannotBeReadOpensForWritingWithNothingLost() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=due+befor+today");
        assertThat(statement(ines).getByRole(AriaRole.ALERT)).containsText("Did you mean “before”?");
        assertThat(ines.locator(".cm-content")).hasText("due befor today");
        assertThat(table(ines)).hasCount(0);
    }

    @Test
    void twoPeopleChangeAtOnceAndChoose() {
        Page wren = signedIn("Wren Halloway");
        Page bram = signedIn("Bram Oake");
        for (Page page : new Page[] {wren, bram}) {
            open(
                    page,
                    "/views/2?where=status+is+%22Waiting+for+parts%22"
                            + (page == wren ? "" : "+and+severity+%3E%3D+2"));
            assertThat(button(page, "Save changes")).isVisible();
        }
        keepForEveryone(wren);
        assertThat(button(wren, "Save changes")).hasCount(0);
        keepForEveryone(bram);
        Locator dialog = bram.getByRole(
                AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Somebody changed this view meanwhile"));
        assertThat(dialog).containsText("Wren Halloway changed it");
        assertThat(dialog).containsText("severity is at least 2");
        dialog.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Save mine as a new view"))
                .click();
        exactButton(bram, "Save").click();
        bram.waitForURL(Pattern.compile(".*/views/\\d{2,}$|.*/views/[4-9]$"));
        expectCount(bram, defects("status = 'Waiting for parts' and severity >= 2"));
        open(bram, "/views/2");
        expectCount(bram, defects("status = 'Waiting for parts'"));
    }

    @Test
    void theFileHoldsWhatThePageShows() throws Exception {
        Page asta = signedIn("Asta Quill");
        open(asta, "/views/1");
        long shown = count(asta);
        button(asta, "CSV").click();
        var download = asta.waitForDownload(() -> link(asta, "Download CSV").click());
        assertThat(download.suggestedFilename()).isEqualTo("Overdue at my site.csv");
        try (var lines = java.nio.file.Files.lines(download.path())) {
            assertThat(lines.count()).isEqualTo(shown + 1);
        }
    }

    @Test
    void anAuditorIsOfferedNoKeeping() {
        Page petra = signedIn("Petra Lind");
        expectCount(petra, 24_000);
        assertThat(button(petra, "Save as a new view")).hasCount(0);
        open(petra, "/views/1");
        assertThat(petra.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Overdue at my site")))
                .isVisible();
        assertThat(exactButton(petra, "Share")).hasCount(0);
    }
}
