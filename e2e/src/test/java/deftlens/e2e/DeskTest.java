package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** The desk itself: the records, the keys, the undo, the empty and the broken states, and access for everybody. */
class DeskTest extends Journey {

    @Test
    void recordsFollowAsOneScrollsInTheOrderOfAHead() {
        Page ines = signedIn("Ines Marlow");
        expectCount(ines, 24_000);
        Locator due = table(ines).getByRole(AriaRole.COLUMNHEADER, new Locator.GetByRoleOptions().setName("Due"));
        due.getByRole(AriaRole.BUTTON).first().click();
        assertThat(due).hasAttribute("aria-sort", "ascending");
        assertThat(statement(ines)).containsText("by due, oldest first");
        due.getByRole(AriaRole.BUTTON).first().click();
        assertThat(due).hasAttribute("aria-sort", "descending");
        due.getByRole(AriaRole.BUTTON).first().press("Enter");
        assertThat(due).hasAttribute("aria-sort", "none");
        due.getByRole(AriaRole.BUTTON).first().press("Enter");
        assertThat(due).hasAttribute("aria-sort", "ascending");

        Locator first = table(ines).locator("tbody tr[data-index='0']");
        assertThat(first).isVisible();
        for (int reached = 0; reached < 450; reached = lastIndex(ines)) {
            ines.locator(".sheet").evaluate("sheet => sheet.scrollTop = sheet.scrollHeight");
            int before = reached;
            ines.waitForCondition(() -> lastIndex(ines) > before);
        }
        assertThat(first).hasCount(0);
        assertThat(due).isInViewport();
        List<String> numbers =
                table(ines).locator("tbody tr[data-index] td:first-child").allInnerTexts();
        assertThat(numbers).doesNotHaveDuplicates().hasSizeLessThan(120);
    }

    private static int lastIndex(Page page) {
        Locator rows = table(page).locator("tbody tr[data-index]");
        return rows.count() == 0 ? 0 : Integer.parseInt(rows.last().getAttribute("data-index"));
    }

    @Test
    void everythingIsDoneByKeyboard() {
        Page ines = signedIn("Ines Marlow");
        expectCount(ines, 24_000);
        ines.keyboard().press("?");
        assertThat(ines.getByRole(AriaRole.DIALOG)).containsText("add a criterion");
        ines.keyboard().press("Escape");
        assertThat(ines.getByRole(AriaRole.DIALOG)).isHidden();

        ines.keyboard().press("a");
        ines.keyboard().type("sever");
        ines.keyboard().press("Enter");
        assertThat(editor(ines).getByRole(AriaRole.TEXTBOX, new Locator.GetByRoleOptions().setName("Number")))
                .isFocused();
        ines.keyboard().type("4");
        ines.keyboard().press("Enter");
        expectCount(ines, defects("severity >= 4"));

        // From the editor the keys go to the phrase, and stay with it whatever becomes of it.
        assertThat(phrase(ines, "severity")).isFocused();
        ines.keyboard().press("o");
        expectCount(ines, 24_000);
        assertThat(phrase(ines, "severity is at least 4, off")).isFocused();
        ines.keyboard().press("o");
        expectCount(ines, defects("severity >= 4"));
        assertThat(phrase(ines, "severity is at least 4")).isFocused();
        ines.keyboard().press("Delete");
        expectCount(ines, 24_000);
        ines.keyboard().press("u");
        expectCount(ines, defects("severity >= 4"));

        phrase(ines, "severity").focus();
        ines.keyboard().press("Enter");
        assertThat(editor(ines)).isVisible();
        ines.keyboard().press("Escape");
        assertThat(editor(ines)).hasCount(0);

        table(ines).locator("tbody td[tabindex='0']").focus();
        ines.keyboard().press("ArrowDown");
        ines.keyboard().press("Enter");
        Locator panel = ines.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("One defect"));
        assertThat(panel)
                .containsText(table(ines)
                        .locator("tbody tr[data-index='1'] td")
                        .first()
                        .innerText());
        ines.keyboard().press("Escape");
        assertThat(panel).hasCount(0);
    }

    @Test
    void groupsAreDrawnTogetherTurnedAndTakenApart() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=severity+%3D+5+and+status+is+%22New%22+and+site+is+%22Outer+Roads%22");
        expectCount(ines, defects("severity = 5 and status = 'New' and site = 'Outer Roads'"));
        ines.locator("[data-path='/all/0']").hover();
        ines.locator("[data-path='/all/0']").getByText("merge with next").click();
        expectCount(ines, defects("(severity = 5 or status = 'New') and site = 'Outer Roads'"));
        button(ines, "any of, a group").click();
        expectCount(ines, defects("not (severity = 5 or status = 'New') and site = 'Outer Roads'"));
        button(ines, "none of, a group").focus();
        ines.keyboard().press("Delete");
        expectCount(ines, defects("site = 'Outer Roads'"));
    }

    @Test
    void anEmptyAnswerSaysSoAndAWrongPhraseIsRefusedInPlace() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=severity+%3E+9");
        expectCount(ines, 0);
        assertThat(ines.locator(".empty")).containsText("No defect fits this statement");

        button(ines, "and…").click();
        chooseField(ines, "Due");
        editor(ines).getByLabel("Window").fill("4/5/26");
        Locator ways = editor(ines)
                .getByRole(AriaRole.GROUP, new Locator.GetByRoleOptions().setName("Which of these is meant"));
        assertThat(ways).containsText("can be read in 2 ways");
        ways.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText("2026-05-04"))
                .click();
        assertThat(editor(ines)).containsText("everything before Mon 4 May 2026");
        apply(ines);
        assertThat(statement(ines)).containsText("before Mon 4 May 2026 · fixed");
    }

    @Test
    void theMarginSaysWhatEachPartDoesAndTheAnswerWhatShutsEverythingOut() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=severity+%3E+4+and+due+before+2020+and+off(status+is+%22New%22)");
        expectCount(ines, 0);
        Locator margin = ines.locator(".margin-note");
        assertThat(margin).hasText(new String[] {String.format("%,d left", defects("severity > 4")), "0 left", "off"});
        assertThat(margin.nth(1))
                .hasAttribute(
                        "title", Pattern.compile(String.format(".*: it leaves out %,d", defects("severity > 4"))));
        assertThat(ines.locator(".empty")).containsText("Without due is before 2020 there would be some.");
        button(ines, "due is before 2020").last().click();
        expectCount(ines, defects("severity > 4"));
    }

    @Test
    void aRecordThatIsNotHereSaysWhy() {
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/defects?where=severity+%3E%3D+1+and+status+is+%22Nowhere%22");
        expectCount(asta, 0);
        asta.keyboard().press("y");
        Locator panel = asta.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("One defect"));
        Locator named = panel.getByLabel("Looking for one that is not here?");
        named.fill("d-10001");
        named.press("Enter");
        assertThat(panel).containsText("It is not in this answer.");
        assertThat(panel.getByRole(AriaRole.LISTITEM)).hasText(new Pattern[] {
            Pattern.compile("yes\\s*severity is at least 1\\s*it has \\d"),
            Pattern.compile("no\\s*status is Nowhere\\s*it has \\w+")
        });
        expectAccessible(asta, "why");
        panel.getByRole(AriaRole.TAB, new Locator.GetByRoleOptions().setName("Record"))
                .click();
        assertThat(panel).containsText("D-10001");
        panel.getByRole(AriaRole.TAB, new Locator.GetByRoleOptions().setName("Why"))
                .click();
        named.fill("D-1");
        named.press("Enter");
        assertThat(panel.getByRole(AriaRole.ALERT)).containsText("D-1");
    }

    @Test
    void theViewIsReadAsOfAnotherDay() {
        Page asta = signedIn("Asta Quill");
        open(asta, "/views/1?asOf=2026-11-02");
        expectCount(asta, defects("due < '2026-11-02' and status not in ('Done', 'Dropped') and site = 'North Quay'"));
        assertThat(statement(asta)).containsText("before Mon 2 Nov 2026");
        assertThat(button(asta, "As of 2 Nov 2026")).isVisible();
        button(asta, "Back to now").first().click();
        expectCount(asta, defects("due < '2026-11-23' and status not in ('Done', 'Dropped') and site = 'North Quay'"));
    }

    @Test
    void whatEntersAndLeavesBetweenThenAndNowIsShown() {
        Page ines = signedIn("Ines Marlow");
        open(ines, asking("defects", "reported_at in last 48 hours"));
        assertThat(ines.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of .*"));
        button(ines, "As of now").click();
        ines.getByLabel("Read it as of another day").fill("2026-11-22");
        ines.getByLabel("at a time of that day").fill("09:30");
        ines.getByLabel("at a time of that day").blur();
        ines.keyboard().press("Escape");
        assertThat(button(ines, "As of 22 Nov 2026, 09:30")).isVisible();
        String then =
                "reported_at >= '2026-11-20 09:30 Europe/London' and reported_at < '2026-11-22 09:30 Europe/London'";
        expectCount(ines, defects(then));
        Locator sides = ines.getByRole(AriaRole.GROUP, new Page.GetByRoleOptions().setName("Compared with now"));
        assertThat(sides).containsText("in both");
        expectAccessible(ines, "held against now");
        String gone = sides.getByRole(AriaRole.BUTTON).first().innerText();
        assertThat(gone).endsWith("gone since");
        sides.getByRole(AriaRole.BUTTON).first().click();
        assertThat(sides).containsText("only these are shown");
        int records = Integer.parseInt(gone.split(" ")[0].replace(",", ""));
        assertThat(records).isPositive();
        assertThat(table(ines)).hasAttribute("aria-rowcount", Pattern.compile("\\d+"));
        assertThat(ines.locator("td[data-field='number']")).hasCount(records);
        button(ines, "Back to now").first().click();
        assertThat(button(ines, "As of now")).isVisible();
        assertThat(sides).hasCount(0);
    }

    private static void expectEntries(Page page, long matching) {
        assertThat(page.locator(".matching")).hasText(Pattern.compile("^" + String.format("%,d", matching) + " of .*"));
    }

    /** In the demo four payments were moved from one site to another twenty days before. */
    @Test
    void recordsAreReadAsTheyWereKept() {
        Page tomas = signedIn("Tomas Rell");
        open(tomas, asking("dues", "source is \"Payment\" and site is \"North Quay\""));
        long now = counted("dues", "source = 'Payment' and site = 'North Quay'");
        long then = 4
                + counted(
                        "dues",
                        "source = 'Payment' and site = 'North Quay' and posted_at < '2026-11-03 00:00 Europe/London'");
        expectEntries(tomas, now);
        button(tomas, "As of now").click();
        tomas.getByLabel("Records as they were kept on").fill("2026-11-02");
        tomas.keyboard().press("Escape");
        assertThat(button(tomas, "Records of 2 Nov 2026")).isVisible();
        expectEntries(tomas, then);
        Locator note = tomas.locator(".as-of-note");
        assertThat(note).containsText("Records are as they were kept at the end of 2 Nov 2026, not as they are now");
        expectAccessible(tomas, "records as they were kept");
        // The whole of the page is of then, what is opened from it too; and a link says so.
        tomas.reload();
        expectEntries(tomas, then);
        button(tomas, "Records as they are now").click();
        expectEntries(tomas, now);
        assertThat(note).hasCount(0);
    }

    @Test
    void aViewIsDeletedAndBroughtBack() {
        Page asta = signedIn("Asta Quill");
        open(asta, "/registers/defects?where=severity+%3D+2");
        expectCount(asta, defects("severity = 2"));
        asta.keyboard().press("k");
        asta.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Short-lived");
        exactButton(asta, "Save").click();
        asta.waitForURL(Pattern.compile(".*/views/\\d+$"));
        exactButton(asta, "More").click();
        asta.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName("Delete"))
                .click();
        exactButton(asta, "Delete").click();
        asta.waitForURL(Pattern.compile(".*/views$"));
        assertThat(link(asta, "Short-lived")).hasCount(0);
        asta.getByRole(AriaRole.LISTITEM)
                .filter(new Locator.FilterOptions().setHasText("Short-lived"))
                .getByText("Restore")
                .click();
        assertThat(link(asta, "Short-lived").first()).isVisible();
    }

    @Test
    void whatIsNotThereIsSaidPlainly() {
        Page asta = signedIn("Asta Quill");
        open(asta, "/views/99999");
        assertThat(seen(asta, "This view is not there, or not shared with you."))
                .isVisible();
        open(asta, "/registers/nothing");
        assertThat(seen(asta, "is not there, or not shared with you.")).isVisible();
        open(asta, "/views/abc");
        assertThat(seen(asta, "Nothing is at this address")).isVisible();
    }

    @Test
    void everyScreenIsOpenToEverybody() {
        Page stranger = stranger();
        open(stranger, "/sign-in");
        assertThat(button(stranger, "Asta Quill")).isVisible();
        expectAccessible(stranger, "sign-in");

        Page asta = signedIn("Asta Quill");
        expectCount(asta, 24_000);
        expectAccessible(asta, "register");
        open(
                asta,
                "/registers/defects?where=due+before+today+and+site+is+my+site+and+(severity+%3E%3D+4+or+off(tags+has+any+of+(%22Safety%22)))");
        count(asta);
        expectAccessible(asta, "statement");
        phrase(asta, "due").click();
        assertThat(editor(asta)).containsText("rolling");
        expectAccessible(asta, "window editor");
        asta.keyboard().press("Escape");
        phrase(asta, "site").click();
        expectAccessible(asta, "value editor");
        asta.keyboard().press("Escape");
        asta.keyboard().press("w");
        assertThat(asta.locator(".cm-content")).isFocused();
        expectAccessible(asta, "words");
        asta.keyboard().press("Escape");
        table(asta).locator("tbody tr[data-index='0']").click();
        assertThat(asta.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("One defect")))
                .containsText("North Quay");
        expectAccessible(asta, "record");
        button(asta, "Save as a new view").click();
        assertThat(asta.getByLabel("What it is for")).isVisible();
        expectAccessible(asta, "keeping");
        open(asta, "/views");
        assertThat(asta.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("All views")))
                .isVisible();
        expectAccessible(asta, "all views");
        open(asta, "/account");
        assertThat(seen(asta, "Tokens for programs")).isVisible();
        expectAccessible(asta, "account");

        Page ines = signedIn("Ines Marlow");
        open(ines, "/views/1");
        exactButton(ines, "Share").click();
        assertThat(ines.getByRole(AriaRole.DIALOG)).containsText("Quay crews");
        expectAccessible(ines, "sharing");
    }

    @Test
    void columnsAreFoundAndPutInOrder() {
        Page ines = signedIn("Ines Marlow");
        exactButton(ines, "Columns").click();
        Locator panel = ines.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName("Columns"));
        expectAccessible(ines, "the columns");
        panel.getByRole(AriaRole.SEARCHBOX).fill("cost");
        panel.getByText("Cost", new Locator.GetByTextOptions().setExact(true)).click();
        assertThat(table(ines).getByRole(AriaRole.COLUMNHEADER).last()).containsText("Cost");
        Locator cost = panel.getByRole(AriaRole.CHECKBOX, new Locator.GetByRoleOptions().setName("Cost"));
        panel.getByRole(AriaRole.SEARCHBOX).fill("");
        cost.focus();
        ines.keyboard().press("Alt+ArrowUp");
        ines.waitForURL(Pattern.compile(".*columns=.*cost,due$"));
        panel.locator("li[data-key='cost']").dragTo(panel.locator("li[data-key='number']"));
        assertThat(table(ines).getByRole(AriaRole.COLUMNHEADER).first()).containsText("Cost");
        cost.uncheck();
        assertThat(table(ines).getByRole(AriaRole.COLUMNHEADER).first()).containsText("Number");
    }
}
