package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.TimeoutError;
import org.assertj.core.api.Assertions;

/** A page that is used by its keys alone; it is counted, and printed, how many Tabs it is from one thing to the next. */
final class Keys {

    /** Nothing is further away than so many Tabs. */
    private static final int FAR = 10;

    /** How long what is waited for may take, in milliseconds. */
    private static final double PATIENCE = 20_000;

    /** What has the keys: its role or kind, and its name as it is read aloud. */
    private static final String FOCUSED = """
            () => { const e = document.activeElement
                    if (e === document.body) return 'nothing'
                    const label = [...(e.labels ?? [])].map((l) => l.innerText).join(' ')
                    const name = e.getAttribute('aria-label') || label || e.innerText || e.getAttribute('placeholder') || e.value || ''
                    return (e.getAttribute('role') || e.tagName.toLowerCase()) + ' ' + name.replace(/\\s+/g, ' ').trim() }""";

    private final Page page;

    Keys(Page page) {
        this.page = page;
    }

    /** What has the keys, as {@code "button Apply"}. */
    String at() {
        return (String) page.evaluate(FOCUSED);
    }

    /** Presses keys, one after the other. */
    Keys press(String... keys) {
        for (String key : keys) {
            page.keyboard().press(key);
        }
        return this;
    }

    Keys type(String text) {
        page.keyboard().type(text);
        return this;
    }

    /** Waits until what has the keys begins so. */
    Keys expectAt(String begins) {
        try {
            page.waitForCondition(
                    () -> at().startsWith(begins), new Page.WaitForConditionOptions().setTimeout(PATIENCE));
        } catch (TimeoutError e) {
            throw new AssertionError("the keys are at “" + at() + "”, not at “" + begins + "”", e);
        }
        return this;
    }

    /** Presses Tab until what is reached begins so, which must not be too often. */
    Keys tabTo(String begins) {
        return tab(begins, "Tab");
    }

    /** The same, backwards. */
    Keys tabBackTo(String begins) {
        return tab(begins, "Shift+Tab");
    }

    private Keys tab(String begins, String key) {
        String from = at();
        StringBuilder way = new StringBuilder();
        for (int tabs = 1; tabs <= FAR; tabs++) {
            press(key);
            String here = at();
            way.append(tabs).append(' ').append(here).append('\n');
            if (here.startsWith(begins)) {
                System.out.printf("%2d  %s → %s%n", tabs, cut(from), cut(here));
                return this;
            }
        }
        return Assertions.fail("“%s” is more than %d Tabs from “%s”:%n%s", begins, FAR, from, way);
    }

    private static String cut(String words) {
        return words.length() > 40 ? words.substring(0, 40) + "…" : words;
    }

    /** Goes to a place by its name, and waits for its heading. */
    Keys goTo(String name, String heading) {
        press("/").expectAt("combobox Go to").type(name);
        assertThat(page.locator("[role=option]:visible").first()).containsText(name);
        return press("Enter").expectAt("h1 " + heading);
    }

    Keys goTo(String name) {
        return goTo(name, name);
    }

    /** From the heading of a page of records, by the link that is before it, to a part of the page. */
    Keys skipTo(String part) {
        return tabBackTo("button Skip to the " + part).press("Enter");
    }
}
