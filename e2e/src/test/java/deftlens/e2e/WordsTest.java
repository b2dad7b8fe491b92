package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Reads what every page says: plain words, labels instead of keys, one form of dates, and no number that is cut off. */
class WordsTest extends Journey {

    /** Words that had a plainer one of the trade. Keeping is what the pointing does with records, and nothing else. */
    private static final Pattern OLD = Pattern.compile(
            "(?i)\\b(letters|parted by|moments?|they leave|has left|who sees what|how quick|what is known|at rest|offered first"
                    + "|names one record|join next|double(?! click)|dissolve|against a value|brings? in|brought (in|back)|hold against"
                    + "|held against|drop mine|unkept|not kept|kept as|keep (as|changes|for me|a copy|mine|this way)|closer"
                    + "|one record is a|mend)\\b");

    private static final Pattern ISO_DAY = Pattern.compile("\\b\\d{4}-\\d{2}-\\d{2}\\b");

    /** What is read on a page: its text and the names of its parts, without records, lists to choose from and what is typed. */
    private static final String SAID = """
            () => {
              const skipped = 'td, option, textarea, code, svg, .el-select-dropdown, .key, time-zone'
              const said = []
              const walk = (node) => {
                if (node.nodeType === Node.TEXT_NODE) { said.push(node.textContent.trim()); return }
                if (node.nodeType !== Node.ELEMENT_NODE || node.matches(skipped) || ['SCRIPT', 'STYLE'].includes(node.tagName)) return
                const box = node.getBoundingClientRect()
                if (getComputedStyle(node).display === 'none') return
                for (const name of ['aria-label', 'title', 'placeholder']) {
                  if (node.getAttribute(name)) said.push(node.getAttribute(name))
                }
                node.childNodes.forEach(walk)
              }
              walk(document.body)
              return said.filter(Boolean).join(' | ')
            }""";

    /** Numbers that do not fit into what they stand in, and are cut there. */
    private static final String CUT = """
            () => [...document.querySelectorAll('body *')]
              .filter((e) => e.children.length === 0 && /^[-−£$]?[\\d,.]+\\+?$/.test(e.textContent.trim()))
              .filter((e) => {
                for (let at = e; at && at !== document.body; at = at.parentElement) {
                  const style = getComputedStyle(at)
                  if (style.display === 'none' || style.visibility === 'hidden') return false
                  if (at !== e && ['auto', 'scroll'].includes(style.overflowX)) return false
                  if (style.overflowX !== 'visible' && at.scrollWidth > at.clientWidth + 1 && at.clientWidth > 1) return true
                  if (at.tagName === 'TD' || at.tagName === 'LI') return false
                }
                return false
              })
              .map((e) => e.textContent.trim())""";

    private static final List<String> SECTIONS =
            List.of("Names and order", "Access", "First view of a team", "Source", "Performance");

    private static Pattern keys;

    @BeforeAll
    static void fields() throws SQLException {
        keys = Pattern.compile("\\b("
                + TestServer.query("select string_agg(distinct key, '|') from register_field where key like '%\\_%'")
                + ")\\b");
    }

    private static void read(Page page, String where) {
        read(page, where, true);
    }

    private static void read(Page page, String where, boolean labels) {
        String said = (String) page.evaluate(SAID);
        assertThat(around(OLD, said)).as("old words in %s", where).isEmpty();
        if (labels) {
            assertThat(around(keys, said)).as("keys of fields in %s", where).isEmpty();
            assertThat(around(ISO_DAY, said))
                    .as("dates as in statements in %s", where)
                    .isEmpty();
        }
        assertThat((List<?>) page.evaluate(CUT))
                .as("numbers cut off in %s", where)
                .isEmpty();
    }

    private static List<String> around(Pattern pattern, String text) {
        Matcher matcher = pattern.matcher(text);
        return matcher.results()
                .map(r -> text.substring(Math.max(0, r.start() - 40), Math.min(text.length(), r.end() + 40)))
                .toList();
    }

    @Test
    void everyRegisterAndViewSpeaksPlainly() {
        Page ines = signedIn("Ines Marlow");
        for (String register : List.of("defects", "stays", "dues", "permits", "moves", "closures", "water")) {
            open(ines, "/registers/" + register);
            assertThat(table(ines).locator("tbody tr").first()).isVisible();
            read(ines, register);
        }
        open(ines, "/views");
        assertThat(seen(ines, "Berth stays whose")).not().hasCount(0);
        read(ines, "all views");
        Locator views = ines.getByRole(AriaRole.MAIN).locator(".name a");
        List<String> addresses =
                views.all().stream().map(v -> v.getAttribute("href")).toList();
        assertThat(addresses).hasSizeGreaterThan(8);
        for (String address : addresses) {
            open(ines, address);
            expectSettled(ines);
            assertThat(seen(ines, "counting…")).hasCount(0);
            read(ines, ines.title());
        }
    }

    @Test
    void whatOpensOnTheDeskSpeaksPlainly() {
        Page ines = signedIn("Ines Marlow");
        open(
                ines,
                "/registers/defects?where=due before today and reported_at in 2026 and severity >= 4 and title contains \"crane\"");
        expectSettled(ines);
        read(ines, "a question");
        for (String act : List.of("Columns", "Shape", "CSV", "More")) {
            button(ines, act).first().click();
            read(ines, act);
            ines.keyboard().press("Escape");
        }
        phrase(ines, "due").first().click();
        assertThat(editor(ines).getByText("fix these dates")).isVisible();
        read(ines, "the editor of a date");
        ines.keyboard().press("Escape");
        open(ines, "/registers/defects?record=24000");
        assertThat(seen(ines, "Who changed it")).isVisible();
        read(ines, "a record");
        button(ines, "Save as a new view").click();
        read(ines, "saving");
        ines.keyboard().press("Escape");
        ines.keyboard().press("?");
        read(ines, "the keys");
    }

    @Test
    void everyOtherPageSpeaksPlainly() {
        Page ines = signedIn("Ines Marlow");
        for (String path : List.of(
                "/account",
                "/organisation",
                "/jobs",
                "/people",
                "/people/teams",
                "/people/known",
                "/people/file",
                "/people/trail",
                "/catalogue",
                "/catalogue/import",
                "/catalogue/attach",
                "/catalogue/link",
                "/catalogue/combine")) {
            open(ines, path);
            assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                    .isVisible();
            read(ines, path);
        }
        for (String register : List.of("defects", "stays", "dues", "permits", "moves", "closures", "water")) {
            open(ines, "/catalogue/" + register);
            assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                    .isVisible();
            // What a field is called in statements is said here, to those who describe it.
            read(ines, "the catalogue's " + register, false);
            // A combined register has no indexes of its own, and so no tab for them.
            for (String section : register.equals("water") ? SECTIONS.subList(0, 4) : SECTIONS) {
                exactButton(ines, section).click();
                read(ines, register + ", " + section, false);
            }
        }
    }

    @Test
    void aSentenceNamesWhatItsRecordsAre() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/registers/dues?where=account is \"1200 Bank\"");
        assertThat(statement(ines)).containsText("Ledger entries whose account is 1200 Bank");
    }
}
