package deftlens.bench;

import com.microsoft.playwright.Browser;
import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.Request;
import com.microsoft.playwright.options.WaitUntilState;
import java.net.URI;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Collectors;

/**
 * What a reader waits for in Debian's Chromium, with the calls that are made meanwhile: opening a view until its first row stands there,
 * and a click that changes the question until the new rows do. Warm, one page at a time; medians of {@value #RUNS} runs.
 */
public final class Pages {

    private static final int RUNS = 9;
    private static final int WARM_RUNS = 3;
    /** After this, in milliseconds, a page that nobody touches has asked all that it asks. */
    private static final int SETTLED = 1_500;

    private static final String FIRST_ROW = "table tbody tr td";

    private final URI server;
    private final List<String> calls = new CopyOnWriteArrayList<>();

    private Pages(URI server) {
        this.server = server;
    }

    /**
     * Measures and prints a table.
     *
     * @param arguments the server's address
     */
    public static void main(String[] arguments) {
        Pages pages = new Pages(URI.create(arguments[0]));
        try (Playwright playwright = Playwright.create(
                        new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
                Browser browser = playwright
                        .chromium()
                        .launch(new BrowserType.LaunchOptions()
                                .setExecutablePath(Path.of("/usr/bin/chromium"))
                                .setArgs(List.of(
                                        "--no-sandbox",
                                        "--disable-gpu",
                                        "--disable-quic",
                                        "--no-first-run",
                                        "--disable-background-networking",
                                        "--disable-component-update",
                                        "--disable-sync")))) {
            pages.measure(browser);
        }
    }

    private void measure(Browser browser) {
        BrowserContext context = browser.newContext(
                new Browser.NewContextOptions().setViewportSize(1280, 800).setLocale("en-GB"));
        context.addInitScript("""
                (() => {
                  const look = () => {
                    if (document.querySelector('table tbody tr td')) window.deftFirstRow = performance.now()
                    else requestAnimationFrame(look)
                  }
                  requestAnimationFrame(look)
                })()""");
        Page page = context.newPage();
        page.navigate(server.resolve("/sign-in").toString());
        page.locator("input").nth(0).fill("ines.marlow");
        page.locator("input[type=password]").fill("demo-only");
        page.keyboard().press("Enter");
        page.waitForSelector("nav");
        page.onRequest(this::note);
        page.waitForTimeout(SETTLED);
        List<Map<?, ?>> views = views(page);
        System.out.printf("%-44s %10s %8s%n", "", "median ms", "calls");
        for (Map<?, ?> view : views) {
            String path = "/views/" + view.get("id");
            report("open “" + view.get("name") + "”", () -> opened(page, path), page);
        }
        report("open the register “Defects”", () -> opened(page, "/registers/defects"), page);
        page.navigate(server.resolve("/registers/defects").toString());
        page.waitForSelector(FIRST_ROW);
        page.waitForTimeout(SETTLED);
        String[] orders = {"Severity", "Due"};
        int[] turn = {0};
        report("a click on a head", () -> clicked(page, orders[turn[0]++ % orders.length]), page);
        context.close();
    }

    /** Some views of the demo that have rows on any day. */
    private List<Map<?, ?>> views(Page page) {
        List<Map<?, ?>> found = new ArrayList<>();
        Object all = page.evaluate(
                "() => fetch('/api/views').then(r => r.json()).then(all => all.map(v => ({ id: v.id, name: v.name })))");
        for (Object view : (List<?>) all) {
            String name = String.valueOf(((Map<?, ?>) view).get("name"));
            if (name.equals("Waiting for parts over a fortnight") || name.equals("Issued and not returned")) {
                found.add((Map<?, ?>) view);
            }
        }
        return found;
    }

    private void note(Request request) {
        URI address = URI.create(request.url().replaceAll("\\?.*", ""));
        if (address.getPath().startsWith("/api/")) {
            calls.add(request.method() + " " + address.getPath());
        }
    }

    private interface Run {
        /** How long it took, in milliseconds. */
        double once();
    }

    private void report(String what, Run run, Page page) {
        double[] times = new double[RUNS];
        int[] counts = new int[RUNS];
        List<String> last = List.of();
        for (int i = -WARM_RUNS; i < RUNS; i++) {
            calls.clear();
            double time = run.once();
            page.waitForTimeout(SETTLED);
            if (i >= 0) {
                times[i] = time;
                counts[i] = calls.size();
                last = List.copyOf(calls);
            }
        }
        Arrays.sort(times);
        Arrays.sort(counts);
        System.out.printf("%-44s %10.0f %8d%n", what, times[RUNS / 2], counts[RUNS / 2]);
        Map<String, Long> by =
                last.stream().collect(Collectors.groupingBy(c -> c, TreeMap::new, Collectors.counting()));
        by.forEach((call, times2) -> System.out.println("    " + (times2 > 1 ? times2 + " × " : "") + call));
    }

    /** From the beginning of the navigation to the first row standing there, as the page itself sees it. */
    private double opened(Page page, String path) {
        page.navigate("about:blank");
        page.navigate(server.resolve(path).toString(), new Page.NavigateOptions().setWaitUntil(WaitUntilState.COMMIT));
        return ((Number) page.waitForFunction("() => window.deftFirstRow").jsonValue()).doubleValue();
    }

    /** From the click to the first row being another one, or the same one drawn anew, as the page itself sees it. */
    private double clicked(Page page, String head) {
        Locator button = page.locator("th")
                .filter(new Locator.FilterOptions().setHasText(head))
                .locator("button")
                .first();
        page.evaluate("""
                () => {
                  window.deftClicked = undefined
                  const table = document.querySelector('table')
                  const text = () => document.querySelector('table tbody')?.textContent ?? ''
                  const before = text()
                  let began
                  addEventListener('click', () => (began = performance.now()), { capture: true, once: true })
                  const look = () => {
                    if (began !== undefined && text() !== before && !document.querySelector('table.faded'))
                      window.deftClicked = performance.now() - began
                    else requestAnimationFrame(look)
                  }
                  requestAnimationFrame(look)
                }""");
        button.click();
        return ((Number) page.waitForFunction("() => window.deftClicked").jsonValue()).doubleValue();
    }
}
