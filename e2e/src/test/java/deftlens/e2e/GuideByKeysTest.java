package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The journeys of the user guide, by keys alone, each in the order of its sections. */
class GuideByKeysTest extends Journey {

    private static final String FOUR_AND_NEW =
            "severity >= 4 and reported_at >= timestamptz '2026-11-17 00:00 Europe/London'"
                    + " and reported_at < timestamptz '2026-11-24 00:00 Europe/London'";

    /** Somebody at a register or a view, whose records are there. */
    private Keys at(Page page, String name) {
        Keys keys = new Keys(page).goTo(name);
        expectRecords(page);
        return keys;
    }

    private static void expectRecords(Page page) {
        expectSettled(page);
        assertThat(table(page).locator("tbody td[data-field]").first()).isVisible();
    }

    private static Locator panel(Page page, String tab) {
        return page.getByRole(
                AriaRole.TABPANEL, new Page.GetByRoleOptions().setName(tab).setExact(true));
    }

    @Test
    void signIn() {
        Page bram = stranger();
        open(bram, "/sign-in");
        Keys keys = new Keys(bram).expectAt("input Name").type("bram.oake");
        keys.tabTo("input Password").type("demo-only").press("Enter");
        keys.expectAt("h1 Defects");
    }

    @Test
    void openARegister() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").skipTo("records").expectAt("td D-");
        // Along a line, up into the heads, and ordered by one of them.
        keys.press("End", "Home", "ArrowRight", "ArrowRight", "ArrowUp")
                .expectAt("button Site")
                .press("Enter");
        assertThat(seen(ines, "site, A to Z")).isVisible();
        expectRecords(ines);
        keys.press("ArrowDown").expectAt("td ").press("Home", "Enter");
        assertThat(panel(ines, "Record")).isVisible();
        keys.press("ArrowDown")
                .tabTo("tab Record")
                .tabTo("button Close the panel")
                .press("Enter");
        assertThat(panel(ines, "Record")).hasCount(0);
        keys.expectAt("td ");
        keys.goTo("Defects").tabTo("button Columns").press("Enter");
        assertThat(ines.getByRole(AriaRole.DIALOG)).isVisible();
        keys.press("Escape").expectAt("button Columns");
    }

    @Test
    void putAQuestion() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").press("a").expectAt("combobox Field");
        keys.type("Sever").press("Enter").expectAt("input Number").type("4").press("Enter");
        keys.expectAt("button severity is at least 4");
        expectCount(ines, defects("severity >= 4"));
        // Another test, by the arrows.
        keys.press("Enter").expectAt("input Number").tabBackTo("radio is at least");
        keys.press("ArrowDown", "Enter").expectAt("input Number").press("Enter");
        keys.expectAt("button severity is more than 4");
        expectCount(ines, defects("severity > 4"));
        // What can be done with it, along from its phrase; and back.
        keys.press("ArrowRight").expectAt("button off: severity").press("Enter");
        expectCount(ines, 24_000);
        keys.press("u");
        expectCount(ines, defects("severity > 4"));
        expectSettled(ines);
        keys.tabTo("button and…").tabTo("input Type what you look for").type("north quay");
        assertThat(ines.getByRole(AriaRole.RADIO).first()).isVisible();
        keys.press("Enter");
        expectCount(ines, defects("severity > 4 and site = 'North Quay'"));
    }

    @Test
    void aListOfValuesIsOneStop() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").press("a").expectAt("combobox Field");
        keys.type("Status").press("Enter").expectAt("input ");
        assertThat(editor(ines).getByRole(AriaRole.CHECKBOX).first()).isVisible();
        keys.press("Space", "ArrowDown", "Space").tabTo("button Apply").press("Enter");
        assertThat(editor(ines)).hasCount(0);
        assertThat(phrase(ines, "status is")).isVisible();
        expectRecords(ines);
    }

    @Test
    void aWindowOfDates() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").press("a").expectAt("combobox Field");
        keys.type("Reported").press("Enter").expectAt("input Window");
        Locator window = editor(ines).getByLabel("Window", new Locator.GetByLabelOptions().setExact(true));
        assertThat(editor(ines).getByText("fix these dates")).isVisible();
        keys.tabTo("button last 7 days").press("ArrowDown").expectAt("button last 30 days");
        keys.tabTo("button Later months").tabTo("button ");
        keys.press("ArrowUp", "Shift+ArrowRight", "Shift+ArrowRight");
        assertThat(window).hasValue(Pattern.compile("\\d{4}-\\d\\d-\\d\\d to \\d{4}-\\d\\d-\\d\\d"));
        String[] days = window.inputValue().split(" to ");
        keys.press("Enter");
        assertThat(editor(ines)).hasCount(0);
        expectCount(
                ines,
                defects("reported_at >= '" + days[0] + " 00:00 Europe/London' and reported_at < timestamptz '" + days[1]
                        + " 00:00 Europe/London' + interval '1 day'"));
        // The window after, and back, by a letter; the rail by its link, and its own keys.
        keys.expectAt("button reported at").press("n");
        expectSettled(ines);
        keys.press("p");
        expectSettled(ines);
        keys.goTo("Defects");
        expectCount(ines, 24_000);
        expectRecords(ines);
        keys.skipTo("time rail").expectAt("img Reported at by month").press("+", "0");
        keys.tabBackTo("button Zoom in").press("Enter");
    }

    @Test
    void narrowByPointing() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").skipTo("records").expectAt("td D-");
        keys.press("ArrowRight", "ArrowRight")
                .expectAt("td North Quay")
                .press("m")
                .expectAt("menuitem Keep only");
        keys.press("Enter");
        expectCount(ines, defects("site = 'North Quay'"));
        assertThat(phrase(ines, "site is North Quay")).isVisible();
        expectRecords(ines);
        // The values of a head, and one of them left out.
        keys.goTo("Defects");
        expectCount(ines, 24_000);
        expectRecords(ines);
        keys.skipTo("records").expectAt("td ").press("Home", "ArrowRight", "ArrowRight", "ArrowUp");
        keys.expectAt("button Site")
                .press("ArrowRight")
                .expectAt("button Narrow by Site")
                .press("Enter");
        Locator head = ines.getByRole(AriaRole.DIALOG);
        assertThat(head.getByText("North Quay")).isVisible();
        keys.tabTo("button none").press("Enter").tabTo("input ").press("Space").tabTo("button Keep only these");
        keys.press("Enter").expectAt("button Narrow by Site");
        assertThat(phrase(ines, "site is")).isVisible();
    }

    @Test
    void shape() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").press("s").expectAt("input ");
        keys.tabTo("select Group by").type("Sit").press("Escape").expectAt("button Shape");
        expectSettled(ines);
        assertThat(ines.getByRole(AriaRole.TREEGRID)).isVisible();
        keys.goTo("Defects", "Defects");
        expectSettled(ines);
    }

    @Test
    void whyAndEdges() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/defects?where=severity+%3E%3D+4+and+reported_at+in+last+7+days");
        Keys keys = new Keys(ines);
        expectCount(ines, defects(FOUR_AND_NEW));
        expectRecords(ines);
        keys.press("y")
                .expectAt("input Looking for one that is not here?")
                .type("D-10001")
                .press("Enter");
        assertThat(panel(ines, "Why").getByText("It is not in this answer")).isVisible();
        keys.press("Escape");
        assertThat(panel(ines, "Why")).hasCount(0);
        keys.expectAt("td D-").press("Enter");
        assertThat(panel(ines, "Record")).isVisible();
        keys.press("y");
        assertThat(panel(ines, "Why").getByText("It is in this answer")).isVisible();
        // The panel follows whoever walks along the records, and is the next thing after them.
        keys.press("ArrowDown").expectAt("td D-").press("e").tabTo("tab Edges");
        keys.press("ArrowLeft").expectAt("tab Why").press("Escape").expectAt("td D-");
    }

    @Test
    void inWords() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").press("w").expectAt("textbox Statement over Defects");
        keys.type("severity >= ");
        keys.type("4").press("Control+Enter");
        expectCount(ines, defects("severity >= 4"));
        // What cannot be read is said, and belongs to the text.
        keys.press("w").expectAt("textbox Statement over Defects").press("End").type(" and sevrity > 2");
        Locator trouble = ines.getByRole(AriaRole.ALERT);
        assertThat(trouble).containsText("severity");
        assertThat(ines.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("Statement over Defects")))
                .hasAttribute("aria-invalid", "true");
        keys.tabTo("button severity").press("Enter").expectAt("textbox Statement over Defects");
        keys.press("Control+Enter");
        expectCount(ines, defects("severity >= 4 and severity > 2"));
    }

    @Test
    void asOfAnotherDay() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects");
        open(ines, "/registers/defects?where=reported_at+in+last+7+days");
        expectRecords(ines);
        keys.tabTo("button As of now")
                .press("Enter")
                .tabTo("input ")
                .press("Escape")
                .expectAt("button As of now");
    }

    @Test
    void saveShareAndFind() {
        Page bram = signedIn("Bram Oake");
        Keys keys = at(bram, "Permits").press("w").expectAt("textbox Statement over Permits");
        keys.type("number is not empty").press("Control+Enter");
        assertThat(phrase(bram, "number is not empty")).isVisible();
        expectSettled(bram);
        keys.press("k").expectAt("input Name").type("Written by keys");
        keys.tabTo("textarea What it is for")
                .type("To see that it can be")
                .tabTo("button Save")
                .press("Enter");
        bram.waitForURL(Pattern.compile(".*/views/\\d+"));
        keys.goTo("Written by keys").tabTo("button Share").press("Enter");
        assertThat(dialog(bram, "Share")).isVisible();
        keys.tabTo("combobox Add a person").type("Everyone");
        assertThat(bram.locator("[role=option]:visible").first()).containsText("Everyone");
        keys.press("Enter");
        assertThat(dialog(bram, "Share")
                        .getByText("What Everyone may do")
                        .or(dialog(bram, "Share").getByLabel("What Everyone may do")))
                .isVisible();
        keys.tabTo("button Share").press("Enter");
        assertThat(dialog(bram, "Share")).isHidden();
        keys.goTo("All views").tabTo("input Search views").type("written by keys");
        assertThat(bram.locator("main").getByRole(AriaRole.LINK)).hasCount(1);
        keys.tabTo("button Skip to the views")
                .press("Enter")
                .tabTo("a Written by keys")
                .press("Enter");
        keys.expectAt("h1 Written by keys");
    }

    @Test
    void peopleAndTheCalendar() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = new Keys(ines).goTo("People");
        assertThat(button(ines, "Asta Quill")).isVisible();
        keys.tabTo("input Find people")
                .type("Asta")
                .tabTo("button Add a person")
                .press("Enter");
        keys.expectAt("input Signs in as")
                .type("not a name")
                .tabTo("input First password")
                .type("four unlike words");
        keys.tabTo("input Full name")
                .type("By Keys")
                .tabTo("select Role")
                .tabTo("button Add")
                .press("Enter");
        // What was refused belongs to its field.
        Locator name = ines.getByLabel("Signs in as");
        assertThat(name).hasAttribute("aria-invalid", "true");
        keys.tabTo("button Close").press("Enter");
        assertThat(name).hasCount(0);
        keys.goTo("Organisation");
        assertThat(ines.getByLabel("Time zone")).isVisible();
        keys.tabTo("input Name").tabTo("select Time zone").tabTo("textarea Windows shown first");
        keys.tabTo("input Sunday")
                .tabTo("button Skip past the days")
                .press("Enter")
                .expectAt("button Add a day");
        keys.tabTo("button Save");
    }

    @Test
    void aFileOfManyColumns(@TempDir Path dir) throws Exception {
        Path file = dir.resolve("keys.csv");
        String names = IntStream.rangeClosed(1, 40).mapToObj(n -> "Column " + n).collect(Collectors.joining(","));
        String values = IntStream.rangeClosed(1, 40).mapToObj(n -> "value " + n).collect(Collectors.joining(","));
        Files.writeString(file, names + "\n" + values + "\n" + values + "\n");
        Page ines = signedIn("Ines Marlow");
        Keys keys = new Keys(ines).goTo("Catalogue");
        keys.tabTo("a Import a file")
                .press("Enter")
                .expectAt("h1 Import a file")
                .tabTo("input Drop a file here");
        // The choosing itself is the system's own window.
        ines.locator("input[type=file]").setInputFiles(file);
        keys.expectAt("h2 keys.csv: 2 rows").tabTo("select Encoding").tabTo("select Into");
        keys.tabTo("button Skip past the columns")
                .press("Enter")
                .expectAt("input Name")
                .press("ControlOrMeta+A");
        keys.type("\u200b")
                .tabTo("input One record")
                .tabTo("button Import 2 rows")
                .press("Enter");
        assertThat(ines.locator("[name=label]")).hasAttribute("aria-invalid", "true");
        keys.tabBackTo("input Name").press("ControlOrMeta+A").type("Written by keys, columns");
        keys.tabTo("button Import 2 rows").press("Enter");
        keys.expectAt("h2 keys.csv is in")
                .tabTo("a Open ")
                .tabTo("button Take it back")
                .press("Enter");
        assertThat(dialog(ines, "Take keys.csv back?")).isVisible();
        keys.tabTo("button Take it back").press("Enter");
        assertThat(seen(ines, "keys.csv is in")).hasCount(0);
    }

    @Test
    void tablesAndCombinedRegisters() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = new Keys(ines).goTo("Catalogue");
        keys.tabTo("a Attach a table").press("Enter").expectAt("h1 Attach a table");
        keys.goTo("Catalogue").tabTo("a Combine registers").press("Enter").expectAt("h1 Combine registers");
        keys.tabTo("input ").press("Space").tabTo("input ").press("Space");
    }

    @Test
    void aFieldIsDescribed() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = new Keys(ines)
                .goTo("Catalogue")
                .tabTo("a Permits")
                .press("Enter")
                .expectAt("h1 Permits");
        keys.tabTo("button Fields")
                .press("ArrowRight", "ArrowRight")
                .expectAt("button Access")
                .press("Enter");
        assertThat(exactButton(ines, "Access")).hasAttribute("aria-pressed", "true");
        keys.press("Home")
                .expectAt("button Fields")
                .press("Enter")
                .tabTo("button Number")
                .press("ArrowDown");
        keys.tabTo("input Name").tabTo("textarea What people should know").type("As it stands on the paper.");
        keys.tabTo("button Move up").tabTo("button Skip to Save").press("Enter").expectAt("button Save");
    }

    @Test
    void aRecordIsCorrected() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Closures").skipTo("records").expectAt("td ").press("Enter");
        assertThat(panel(ines, "Record")).isVisible();
        keys.tabTo("tab Record").tabTo("button North Quay: correct").press("Enter");
        ines.waitForCondition(() -> keys.at().matches("(?s)(input|select|textarea|combobox).*"));
        keys.press("Escape").expectAt("button North Quay: correct");
        keys.press("Escape").expectAt("td ");
    }

    @Test
    void bandsAndAPastedList() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Berth stays")
                .press("a")
                .expectAt("combobox Field")
                .type("Length")
                .press("Enter");
        keys.expectAt("input Number").tabBackTo("radio is at least");
        // From the end of the list of tests: is not empty, is empty, is in no such band, is in a band.
        keys.press("End", "ArrowUp", "ArrowUp", "ArrowUp").expectAt("radio is in a band");
        keys.press("Enter")
                .expectAt("input ")
                .press("Space")
                .tabTo("button Apply")
                .press("Enter");
        assertThat(editor(ines)).hasCount(0);
        assertThat(statement(ines)).containsText("length");
        at(ines, "Defects")
                .press("a")
                .expectAt("combobox Field")
                .type("Number")
                .press("Enter")
                .expectAt("input ");
        ines.evaluate("text => navigator.clipboard.writeText(text)", "D-10001 D-10002 D-10001");
        keys.press("ControlOrMeta+v").tabTo("button is one of these 2").press("Enter");
        keys.tabTo("button Apply").press("Enter");
        expectCount(ines, defects("number in ('D-10001', 'D-10002')"));
    }

    @Test
    void whoeverReadsIsAsked() {
        Page asta = signedIn("Asta Quill");
        Keys keys = new Keys(asta).goTo("Here during a week");
        Locator blank = asta.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("which week"));
        assertThat(blank).isVisible();
        keys.tabTo("input which week").type("2026-11-10").press("Enter");
        assertThat(statement(asta)).containsText("on Tue 10 Nov 2026, the whole day");
    }

    @Test
    void whatIsNoticedIsMended() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/stays?where=site+is+%22North+Quay%22+and+site+is+%22Lantern+Pier%22");
        assertThat(statement(ines)).containsText("can never both be true");
        expectSettled(ines);
        Keys keys = new Keys(ines).tabTo("a Skip to the page").press("Enter");
        keys.tabTo("button Skip to the statement").press("Enter").expectAt("button site is North Quay");
        keys.tabTo("button Ask for either of the two").press("Enter");
        assertThat(seen(ines, "can never both be true")).hasCount(0);
    }

    @Test
    void anOpenFilterIsRead() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = at(ines, "Defects").tabTo("button More").press("Enter").expectAt("menuitem Edges");
        keys.press(
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown",
                        "ArrowDown")
                .expectAt("menuitem As an open filter")
                .press("Enter");
        assertThat(dialog(ines, "As an open filter")).isVisible();
        keys.tabTo("textarea Read one").type("severity = 5").tabTo("button Use it as the statement");
        keys.press("Enter");
        expectCount(ines, defects("severity = 5"));
    }

    @Test
    void accessIsLimitedAndViewsAreTimed() {
        Page ines = signedIn("Ines Marlow");
        Keys keys = new Keys(ines).goTo("Catalogue").tabTo("a Permits").press("Enter");
        keys.expectAt("h1 Permits").tabTo("button Fields").press("ArrowRight", "ArrowRight");
        keys.expectAt("button Access").press("Enter");
        assertThat(button(ines, "Add a line")).isVisible();
        keys.tabTo("button Save").tabTo("button Add a line").press("Enter").expectAt("select Who");
        keys.tabTo("select reads").tabTo("input ").tabTo("button Remove the line");
        keys.press("Enter");
        assertThat(button(ines, "Remove the line")).hasCount(0);
        keys.tabBackTo("button Access")
                .press("End")
                .expectAt("button Performance")
                .press("Enter");
        keys.tabTo("button Time the shared views");
    }

    @Test
    void anotherServerIsLinked() {
        Page ines = signedIn("Ines Marlow");
        Keys keys =
                new Keys(ines).goTo("Catalogue").tabTo("a Link another server").press("Enter");
        keys.expectAt("h1 Link another server").tabTo("input ");
    }
}
