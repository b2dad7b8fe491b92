package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.ColorScheme;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The desk by keys alone, and at every width. */
class EveryHandTest extends Journey {

    /** Nothing is further away than so many Tabs. */
    private static final int FAR = 10;

    private static final String FOCUSED = """
            () => { const e = document.activeElement
                    return e === document.body ? '' : e.tagName + ' ' + (e.getAttribute('aria-label') || e.innerText || e.className) }""";

    private static final String HAS_KEYS = "panel => panel.contains(document.activeElement)";

    private static String focused(Page page) {
        return (String) page.evaluate(FOCUSED);
    }

    private static void where(Page page, String register, String statement) {
        open(page, asking(register, statement));
        expectSettled(page);
        assertThat(table(page).locator("tbody td[data-field]").first()).isVisible();
    }

    private static Locator told(Page page) {
        return page.locator("p.hidden-text[role=status]").first();
    }

    @Test
    void thePageIsAsDarkAsTheSystem() {
        Page bram = signedIn("Bram Oake", ColorScheme.DARK);
        assertThat(bram.locator("html.dark")).hasCount(1);
        assertThat(signedIn("Bram Oake").locator("html.dark")).hasCount(0);
    }

    @Test
    void nothingRunsOutOfItsFrame() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "due before today and severity >= 4 and title contains \"crane\"");
        expectAllOf(ines, "a question");
        for (String act : List.of("Columns", "Shape", "CSV", "As of now", "arrange")) {
            exactButton(ines, act).click();
            assertThat(ines.getByRole(AriaRole.DIALOG)).isVisible();
            expectAllOf(ines, act);
            ines.keyboard().press("Escape");
        }
        for (String open : List.of("More", "Ines Marlow, account menu")) {
            exactButton(ines, open).click();
            assertThat(ines.getByRole(AriaRole.MENU).filter(new Locator.FilterOptions().setVisible(true)))
                    .hasCount(1);
            expectAllOf(ines, "the menu " + open);
            ines.keyboard().press("Escape");
        }
        phrase(ines, "due").click();
        assertThat(editor(ines).getByText("fix these dates")).isVisible();
        expectAllOf(ines, "the editor of a date");
        ines.keyboard().press("Escape");
        ines.keyboard().press("a");
        assertThat(ines.locator("[role=option]:visible").first()).isVisible();
        expectAllOf(ines, "the fields to choose from");
        ines.keyboard().press("Escape");
        ines.keyboard().press("Escape");
        table(ines).locator("tbody td[data-field='number']").first().click();
        assertThat(ines.getByRole(AriaRole.TABPANEL)).isVisible();
        expectAllOf(ines, "a record beside the others");
        for (String path : List.of(
                "/views", "/catalogue", "/catalogue/permits", "/people", "/organisation", "/account", "/nowhere")) {
            open(ines, path);
            assertThat(ines.locator("h1").first()).isVisible();
            expectAllOf(ines, path);
        }
    }

    private static void expectAllOf(Page page, String screen) {
        expectLaidOut(page, screen, WIDTHS);
        expectAccessible(page, screen);
    }

    /** Presses Tab until what is reached begins so, and gives how often. */
    private static int tabsTo(Page page, String begins) {
        for (int tabs = 1; tabs <= 60; tabs++) {
            page.keyboard().press("Tab");
            if (focused(page).startsWith(begins)) {
                return tabs;
            }
        }
        throw new AssertionError("not reached in 60 Tabs: " + begins + "; at " + focused(page));
    }

    private static void requireNear(String what, int tabs) {
        System.out.println(what + ": " + tabs + (tabs == 1 ? " Tab" : " Tabs"));
        Assertions.assertThat(tabs).as(what).isLessThanOrEqualTo(FAR);
    }

    @Test
    void nothingIsFarAway() {
        Page ines = signedIn("Ines Marlow");
        String many = String.join(
                " and ",
                java.util.stream.IntStream.range(0, 30)
                        .mapToObj(i -> "title does not contain \"no such thing " + i + "\"")
                        .toList());
        where(ines, "defects", many);
        requireNear("from the address to the page", tabsTo(ines, "A Skip to the page"));
        ines.keyboard().press("Enter");
        requireNear("to the link to the statement", tabsTo(ines, "BUTTON Skip to the statement"));
        ines.keyboard().press("Enter");
        Assertions.assertThat(focused(ines)).startsWith("BUTTON title does not contain “no such thing 0”");
        ines.keyboard().press("ArrowDown");
        Assertions.assertThat(focused(ines)).startsWith("BUTTON title does not contain “no such thing 1”");
        ines.keyboard().press("ArrowRight");
        Assertions.assertThat(focused(ines)).startsWith("BUTTON off: title does not contain “no such thing 1”");
        ines.keyboard().press("Escape");

        open(ines, "/registers/defects");
        assertThat(table(ines).locator("tbody td[data-field]").first()).isVisible();
        int tabs = tabsTo(ines, "A Skip to the page");
        ines.keyboard().press("Enter");
        tabs += tabsTo(ines, "BUTTON Skip to the records");
        ines.keyboard().press("Enter");
        requireNear("from the address to the first record", tabs);
        Assertions.assertThat(focused(ines)).startsWith("TD D-");
        ines.keyboard().press("ArrowUp");
        Assertions.assertThat(focused(ines)).startsWith("BUTTON Number");
        ines.keyboard().press("ArrowDown");
        ines.keyboard().press("Enter");
        assertThat(told(ines)).hasText(Pattern.compile("Defect .* is open\\."));
        requireNear("from a record to its panel", tabsTo(ines, "BUTTON Record"));
        ines.keyboard().press("ArrowRight");
        assertThat(ines.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Why")))
                .hasAttribute("aria-selected", "true");
        ines.keyboard().press("Escape");
        ines.waitForCondition(() -> focused(ines).startsWith("TD D-"));
    }

    @Test
    void panelsTakeTheKeysAndGiveThemBack() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4");
        for (String act : List.of("Columns", "Shape", "CSV", "As of now")) {
            Locator button = exactButton(ines, act);
            button.focus();
            ines.keyboard().press("Enter");
            Locator panel = ines.getByRole(AriaRole.DIALOG);
            assertThat(panel).hasCount(1);
            // Parts of a date have the keys inside its field, which :focus does not say.
            ines.waitForCondition(() -> (Boolean) panel.evaluate(HAS_KEYS));
            assertThat(button).hasAttribute("aria-expanded", "true");
            for (int i = 0; i < 40; i++) {
                ines.keyboard().press("Tab");
                Assertions.assertThat((Boolean) panel.evaluate(HAS_KEYS))
                        .as("the keys in " + act)
                        .isTrue();
            }
            expectAccessible(ines, "the panel " + act);
            ines.keyboard().press("Escape");
            assertThat(button).isFocused();
            assertThat(button).hasAttribute("aria-expanded", "false");
        }
    }

    @Test
    void theKeysAreNeverDropped() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4 and site is \"North Quay\" and status is \"Done\"");
        for (String tool : List.of("off", "on", "duplicate", "merge with next", "not", "remove")) {
            phrase(ines, "severity").first().focus();
            Locator one = ines.locator(".tool:visible")
                    .filter(new Locator.FilterOptions().setHasText(Pattern.compile("^\\s*" + tool + "\\s*$")))
                    .first();
            one.focus();
            String before = ines.url();
            ines.keyboard().press("Enter");
            ines.waitForCondition(() -> !ines.url().equals(before));
            expectSettled(ines);
            ines.waitForCondition(() -> !focused(ines).isEmpty());
            Assertions.assertThat(focused(ines)).as("after “%s”", tool).startsWith("BUTTON");
            if (phrase(ines, "severity").count() == 0) {
                where(ines, "defects", "severity >= 4 and site is \"North Quay\" and status is \"Done\"");
            }
        }
        where(ines, "defects", "severity >= 4");
        exactButton(ines, "Columns").click();
        ines.getByRole(AriaRole.DIALOG).getByLabel("Assignee").first().press("Space");
        assertThat(table(ines).locator("th").filter(new Locator.FilterOptions().setHasText("Assignee")))
                .hasCount(0);
        ines.waitForCondition(() -> focused(ines).startsWith("INPUT"));
        ines.keyboard().press("Escape");
        assertThat(exactButton(ines, "Columns")).isFocused();

        // A correction that is left gives the keys back to the value.
        table(ines).locator("tbody td[data-field='number']").first().click();
        Locator value = button(ines, "correct Severity");
        value.focus();
        ines.keyboard().press("Enter");
        ines.keyboard().press("Escape");
        assertThat(value).isFocused();
        // Far away from where the keys are, by the wheel: they are still there.
        ines.keyboard().press("Escape");
        ines.waitForCondition(() -> focused(ines).startsWith("TD"));
        String at = focused(ines);
        ines.locator(".sheet").evaluate("sheet => sheet.scrollTop = sheet.scrollHeight");
        assertThat(table(ines).locator("tbody tr[data-index='0']")).not().isInViewport();
        Assertions.assertThat(focused(ines)).isEqualTo(at);
        ines.keyboard().press("ArrowDown");
        assertThat(table(ines).locator("tbody tr[data-index='1'] td:focus")).isInViewport();
    }

    /** What can be pressed on the page, or in the dialog over it, by its name; the elements themselves are kept for {@link #PRESS}. */
    private static final String TO_PRESS = """
            () => { const modal = [...document.querySelectorAll('[aria-modal=true]')].filter((e) => e.checkVisibility()).at(-1)
                    window.toPress = [...(modal ?? document.querySelector('#page') ?? document.body)
                        .querySelectorAll('button:not(:disabled), a[href^="/catalogue"]')]
                      .filter((e) => e.checkVisibility({ visibilityProperty: true }) && !e.closest('[inert], tbody tr ~ tr'))
                    return window.toPress.map((e) =>
                      (e.getAttribute('aria-label') || e.innerText || e.className).replace(/\\s+/g, ' ').trim().slice(0, 60)) }""";

    /** What is given away, deleted, built, or ended by one press. */
    private static final Pattern NOT_PRESSED = Pattern.compile(
            "(?i).*(sign out|end it|build|drop|do it|^save|delete|take it back|import them|look at it as|time the shared|pin to).*");

    /** Whether the keys come to something that is seen, and stay there for a fifth of a second; they have three seconds for it. */
    private static final String KEYS_STAY_SOMEWHERE = """
            () => new Promise((done) => {
              const begun = performance.now()
              let since = begun
              const look = () => {
                const now = performance.now(), at = document.activeElement
                if (at === document.body || !at.isConnected || !at.checkVisibility()) since = now
                if (now - since > 200) done(true)
                else if (now - begun > 3000) done(false)
                else requestAnimationFrame(look)
              }
              look()
            })""";

    /** Waits until nothing has been drawn for a third of a second, so that what can be pressed stays. */
    private static final String IS_DRAWN = """
            () => new Promise((done) => {
              let timer = setTimeout(done, 330)
              new MutationObserver(() => { clearTimeout(timer); timer = setTimeout(done, 330) })
                .observe(document.body, { childList: true, subtree: true })
            })""";

    @ParameterizedTest
    @ValueSource(
            strings = {
                "/registers/defects?where=due+before+today+and+severity+%3E%3D+4+and+(title+contains+%22crane%22+or+site+is+%22North+Quay%22)",
                "/registers/defects?where=severity+%3E+9",
                "/views",
                "/catalogue",
                "/catalogue/permits",
                "/catalogue/stays?section=access",
                "/catalogue/stays?section=order",
                "/catalogue/attach",
                "/people",
                "/people/teams",
                "/organisation",
                "/account"
            })
    void everyButtonLeavesTheKeysSomewhere(String path) {
        Page ines = signedIn("Ines Marlow");
        List<String> names = toPress(ines, path);
        Set<String> kinds = new HashSet<>();
        List<String> dropped = new ArrayList<>();
        boolean asItWas = true;
        for (String name : names) {
            // Of many alike, such as the people of a list, one stands for all.
            if (NOT_PRESSED.matcher(name).matches() || !kinds.add(name.replaceAll("\\d+", "#")) || kinds.size() > 40) {
                continue;
            }
            if (!asItWas && toPress(ines, path).indexOf(name) < 0) {
                continue;
            }
            ines.evaluate("i => window.toPress[i].focus()", toPressNow(ines).indexOf(name));
            ines.keyboard().press("Enter");
            if (!keysStaySomewhere(ines)) {
                dropped.add("after " + name);
            }
            ines.keyboard().press("Escape");
            if (!keysStaySomewhere(ines)) {
                dropped.add("after " + name + ", and Escape");
            }
            asItWas = ines.url().endsWith(path) && toPressNow(ines).equals(names);
        }
        Assertions.assertThat(kinds).isNotEmpty();
        Assertions.assertThat(dropped).as("where the keys are dropped").isEmpty();
    }

    private static boolean keysStaySomewhere(Page page) {
        return (boolean) page.evaluate(KEYS_STAY_SOMEWHERE);
    }

    private static List<String> toPress(Page page, String path) {
        open(page, path);
        assertThat(page.locator("#page h1").first()).isVisible();
        page.evaluate(IS_DRAWN);
        return toPressNow(page);
    }

    @SuppressWarnings("unchecked")
    private static List<String> toPressNow(Page page) {
        return (List<String>) page.evaluate(TO_PRESS);
    }

    @Test
    void whatWasDoneIsToldOnce() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4");
        assertThat(told(ines)).hasText("");
        phrase(ines, "severity").focus();
        ines.keyboard().press("o");
        assertThat(told(ines)).hasText("severity is at least 4 (off): 24,000 of 24,000");
        assertThat(ines.locator("[role=status], [aria-live]")
                        .filter(new Locator.FilterOptions().setHasText("24,000 of 24,000")))
                .hasCount(1);
    }

    @Test
    void aKeyThatDoesNothingSaysWhy() {
        Page ines = signedIn("Ines Marlow");
        where(ines, "defects", "severity >= 4");
        ines.keyboard().press("p");
        assertThat(ines.locator(".wait")).containsText("There is no window with two ends to step from.");
        assertThat(told(ines)).hasText("There is no window with two ends to step from.");
        ines.keyboard().press("u");
        assertThat(ines.locator(".wait")).containsText("There is no step to go back to.");
        assertThat(told(ines)).hasText("There is no step to go back to.");
    }

    @Test
    void theFieldsOfARegisterAreGoneThroughByArrows() {
        Page ines = signedIn("Ines Marlow");
        open(ines, "/catalogue/permits");
        Locator fields = ines.locator(".names button");
        fields.first().focus();
        ines.keyboard().press("ArrowDown");
        assertThat(fields.nth(1)).isFocused();
        assertThat(fields.nth(1)).hasAttribute("aria-current", "true");
        ines.keyboard().press("End");
        assertThat(fields.last()).isFocused();
        requireNear("from a field to its name", tabsTo(ines, "INPUT field"));
    }

    @Test
    void keysOfOneLetterAreSwitchedOff() {
        Page bram = signedIn("Bram Oake");
        bram.keyboard().press("?");
        Locator keys = dialog(bram, "Keys");
        keys.getByRole(AriaRole.CHECKBOX).uncheck();
        expectAccessible(bram, "the keys");
        bram.keyboard().press("Escape");
        assertThat(keys).isHidden();
        bram.keyboard().press("a");
        bram.keyboard().press("?");
        assertThat(editor(bram)).hasCount(0);
        assertThat(keys).isHidden();
        open(bram, "/account");
        Locator box = bram.getByRole(AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName("keys of one letter"));
        assertThat(box).not().isChecked();
        box.check();
        open(bram, "/registers/defects");
        assertThat(table(bram).locator("tbody td[data-field]").first()).isVisible();
        bram.keyboard().press("a");
        assertThat(editor(bram)).isVisible();
    }
}
