package deftlens.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.deque.html.axecore.playwright.AxeBuilder;
import com.deque.html.axecore.results.Rule;
import com.microsoft.playwright.Browser;
import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.ColorScheme;
import deftlens.server.testing.TestServer;
import deftlens.testing.TestCluster;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.extension.AfterTestExecutionCallback;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.extension.ExtensionContext;

/** What every journey needs: one Chromium for all, a fresh browser context for each person, and names for the screen. */
@ExtendWith({DemoServer.class, Journey.Pictures.class})
abstract class Journey {

    private static Browser chromium;

    private final List<BrowserContext> contexts = new ArrayList<>();
    private final List<String> mishaps = new ArrayList<>();

    private static synchronized Browser chromium() {
        if (chromium == null) {
            // Two busy cores can stall for some seconds; a wait that is satisfied costs nothing.
            PlaywrightAssertions.setDefaultAssertionTimeout(20_000);
            chromium = Playwright.create(new Playwright.CreateOptions()
                            .setEnv(java.util.Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")))
                    .chromium()
                    .launch(new BrowserType.LaunchOptions()
                            .setExecutablePath(Path.of("/usr/bin/chromium-headless-shell"))
                            .setArgs(List.of(
                                    "--no-sandbox",
                                    "--disable-gpu",
                                    "--disable-quic",
                                    "--no-first-run",
                                    "--disable-background-networking",
                                    "--disable-component-update",
                                    "--disable-sync")));
        }
        return chromium;
    }

    /** A page of somebody who is not signed in. */
    Page stranger() {
        return stranger(ColorScheme.LIGHT);
    }

    Page stranger(ColorScheme scheme) {
        BrowserContext context = chromium()
                .newContext(new Browser.NewContextOptions()
                        .setViewportSize(1280, 800)
                        .setLocale("en-GB")
                        .setColorScheme(scheme)
                        .setReducedMotion(com.microsoft.playwright.options.ReducedMotion.REDUCE)
                        .setPermissions(List.of("clipboard-read", "clipboard-write")));
        contexts.add(context);
        Page page = context.newPage();
        page.onPageError(mishaps::add);
        return page;
    }

    /** A page of one of the six, signed in by the sign-in page's own offer. */
    Page signedIn(String fullName) {
        return signedIn(fullName, ColorScheme.LIGHT);
    }

    Page signedIn(String fullName, ColorScheme scheme) {
        Page page = stranger(scheme);
        open(page, "/sign-in");
        button(page, fullName).click();
        page.waitForURL(Pattern.compile(".*/registers/defects"));
        return page;
    }

    static void open(Page page, String path) {
        page.navigate(TestServer.address() + path);
    }

    /** The path of a register's page that a statement is put to. */
    static String asking(String register, String statement) {
        return "/registers/" + register + "?where=" + URLEncoder.encode(statement, StandardCharsets.UTF_8);
    }

    /** Opens a page and waits for its heading. */
    static void openPage(Page page, String path, String heading) {
        open(page, path);
        assertThat(page.getByRole(
                        AriaRole.HEADING,
                        new Page.GetByRoleOptions().setName(heading).setLevel(1)))
                .isVisible();
    }

    static Locator button(Page page, String name) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name));
    }

    static Locator exactButton(Page page, String name) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    static Locator labelled(Page page, String label) {
        return page.getByLabel(label, new Page.GetByLabelOptions().setExact(true));
    }

    /** Words on the page where they are seen; what is announced besides has them, too. */
    static Locator seen(Page page, String words) {
        return page.getByText(words).and(page.locator(":not([role=status])"));
    }

    static Locator link(Page page, String name) {
        return page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(name));
    }

    /** The phrase of a criterion, by the words it begins with. */
    static Locator phrase(Page page, String words) {
        return page.getByRole(
                AriaRole.BUTTON,
                new Page.GetByRoleOptions()
                        .setName(Pattern.compile(
                                "^" + words.replaceAll("[.*+?^${}()|\\[\\]\\\\]", "\\\\$0")
                                        + ".*: change the criterion$",
                                Pattern.CASE_INSENSITIVE)));
    }

    static Locator statement(Page page) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Statement"));
    }

    static Locator editor(Page page) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Criterion"));
    }

    /** The records of the question as it stands; those of the one before may be seen for a moment, and are not meant. */
    static Locator table(Page page) {
        return page.locator(".table:not(.waiting) table[aria-label='Records']");
    }

    /** Waits until the statement on the page is the one that was asked for last, so that its phrases stay where they are. */
    static void expectSettled(Page page) {
        assertThat(statement(page)).hasAttribute("aria-busy", "false");
    }

    /** Waits until the margin says so many of all. */
    static void expectCount(Page page, long matching) {
        assertThat(page.locator(".matching")).hasText(String.format(java.util.Locale.UK, "%,d of 24,000", matching));
    }

    /** Waits for the count to be any number and gives it. */
    static long count(Page page) {
        assertThat(page.locator(".matching")).hasText(Pattern.compile("[\\d,]+ of 24,000"));
        return Long.parseLong(
                page.locator(".matching").innerText().split(" ")[0].replace(",", ""));
    }

    /** Keeps the changes of a view that others have too, having seen what that means for them. */
    static void keepForEveryone(Page page) {
        button(page, "Save changes").click();
        button(page, "Change it for everyone").click();
    }

    /** Chooses from one of the lists that are typed into. */
    static void choose(Page page, String list, String option) {
        page.getByRole(AriaRole.COMBOBOX, new Page.GetByRoleOptions().setName(list))
                .fill(option);
        page.locator("[role=option]:visible")
                .filter(new Locator.FilterOptions().setHasText(option))
                .first()
                .click();
    }

    /** Opens something from the menu of a page. */
    static void more(Page page, String what) {
        exactButton(page, "More").click();
        page.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName(what))
                .click();
    }

    /** The dialog of a title that begins like this. */
    static Locator dialog(Page page, String title) {
        return page.getByRole(AriaRole.DIALOG, new Page.GetByRoleOptions().setName(title));
    }

    /** Chooses the field of a new criterion by typing its name. */
    static void chooseField(Page page, String label) {
        Locator field = editor(page).getByRole(AriaRole.COMBOBOX, new Locator.GetByRoleOptions().setName("Field"));
        field.fill(label);
        // The options of the list that is open, not those of selects elsewhere on the page.
        page.locator("[role=option]:visible")
                .filter(new Locator.FilterOptions().setHasText(label))
                .first()
                .click();
    }

    static void chooseTest(Page page, String words) {
        editor(page)
                .getByRole(
                        AriaRole.RADIO,
                        new Locator.GetByRoleOptions().setName(words).setExact(true))
                .click();
    }

    static void apply(Page page) {
        editor(page)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Apply"))
                .click();
        assertThat(editor(page)).hasCount(0);
    }

    /** What can be pressed and is called otherwise than it reads: who says what they see must be understood. */
    private static final String MISNAMED = """
            () => [...document.querySelectorAll('button[aria-label], a[aria-label], [role=button][aria-label]')]
              .filter((e) => e.checkVisibility())
              .map((e) => [e.innerText.replace(/\\s+/g, ' ').replace(/…\\s*$/, '').trim(), e.getAttribute('aria-label').replace(/\\s+/g, ' ')])
              .filter(([seen, name]) => /[\\p{L}\\p{N}]/u.test(seen) && !name.toLowerCase().startsWith(seen.toLowerCase()))
              .map((both) => both.join(' is called '))""";

    /** The widths at which every screen is looked at, in CSS pixels; 640 and 320 are 1280 at 200 and 400 %. */
    static final int[] WIDTHS = {1280, 1024, 900, 768, 640, 480, 390, 320};

    /** Those of them at which a state is looked at that only one journey comes to. */
    private static final int[] SOME_WIDTHS = {1280, 640, 320};

    private static final String LAYOUT = resource("/layout.js");

    /**
     * No violation of WCAG 2.2 AA or of its best practices that axe can find, in both themes, names that begin with what is seen, and
     * nothing cut off, covered or out of the frame at some widths.
     */
    static void expectAccessible(Page page, String screen) {
        assertThat(page.locator(".table.waiting")).hasCount(0);
        Assertions.assertThat((List<?>) page.evaluate(MISNAMED))
                .as("names on " + screen)
                .isEmpty();
        expectLaidOut(page, screen, SOME_WIDTHS);
        boolean dark = (boolean) page.evaluate(IS_DARK);
        expectNoViolation(page, screen);
        page.evaluate(SET_DARK, !dark);
        expectNoViolation(page, screen + (dark ? ", light" : ", dark"));
        page.evaluate(SET_DARK, dark);
    }

    private static final String IS_DARK = "() => document.documentElement.classList.contains('dark')";
    private static final String SET_DARK = "dark => document.documentElement.classList.toggle('dark', dark)";

    private static void expectNoViolation(Page page, String screen) {
        List<Rule> violations = new AxeBuilder(page)
                .withTags(List.of("wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"))
                .analyze()
                .getViolations();
        Assertions.assertThat(violations.stream()
                        .map(v -> v.getId() + ": " + v.getHelp() + " "
                                + v.getNodes().stream()
                                        .map(n -> n.getHtml() + " " + n.getFailureSummary())
                                        .limit(3)
                                        .toList())
                        .toList())
                .as(screen)
                .isEmpty();
    }

    /** Nothing is cut off without a title, covered, out of the frame, or over other words, at any of these widths. */
    static void expectLaidOut(Page page, String screen, int... widths) {
        var size = page.viewportSize();
        for (int width : widths) {
            page.setViewportSize(width, size.height);
            // What moves to its place takes some frames; what is still wrong after two seconds is wrong.
            try {
                page.waitForCondition(
                        () -> ((List<?>) page.evaluate(LAYOUT)).isEmpty(),
                        new Page.WaitForConditionOptions().setTimeout(2_000));
            } catch (com.microsoft.playwright.TimeoutError e) {
                Assertions.assertThat((List<?>) page.evaluate(LAYOUT))
                        .as("%s at %d pixels", screen, width)
                        .isEmpty();
            }
        }
        page.setViewportSize(size.width, size.height);
    }

    private static String resource(String name) {
        try (var in = Journey.class.getResourceAsStream(name)) {
            String text = new String(in.readAllBytes(), java.nio.charset.StandardCharsets.UTF_8);
            return text.substring(text.indexOf("() =>"));
        } catch (java.io.IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    /** Of every page of a journey that failed, a picture is left in {@code e2e/target}. */
    static final class Pictures implements AfterTestExecutionCallback {
        @Override
        public void afterTestExecution(ExtensionContext context) {
            Journey journey = (Journey) context.getRequiredTestInstance();
            if (context.getExecutionException().isEmpty() && journey.mishaps.isEmpty()) {
                return;
            }
            int number = 0;
            for (BrowserContext one : journey.contexts) {
                for (Page page : one.pages()) {
                    picture(page, context.getRequiredTestMethod().getName() + "-" + ++number);
                }
            }
        }
    }

    @AfterEach
    void closeAndLookBack() {
        contexts.forEach(BrowserContext::close);
        Assertions.assertThat(mishaps).as("errors in the page's scripts").isEmpty();
    }

    private static void picture(Page page, String name) {
        try {
            page.screenshot(
                    new Page.ScreenshotOptions().setPath(TestCluster.root().resolve("e2e/target/" + name + ".png")));
        } catch (com.microsoft.playwright.PlaywrightException e) {
            // A page that cannot be pictured any more must not hide why its journey failed.
            System.err.println("no picture of " + name + ": " + e.getMessage());
        }
    }

    /** Waits until the margin says so many of all the berth stays. */
    static void expectStays(Page page, String where) {
        assertThat(page.locator(".matching"))
                .hasText(String.format(java.util.Locale.UK, "%,d of 12,000", counted("stays", where)));
    }

    /** The number that hand-written SQL finds in a register. */
    static long counted(String register, String where) {
        try {
            return Long.parseLong(TestServer.query("select count(*) from records." + register + " where " + where));
        } catch (java.sql.SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The number that hand-written SQL finds among the defects. */
    static long defects(String where) {
        return counted("defects", where);
    }
}
