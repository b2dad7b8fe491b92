package deftlens.bench;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.postgresql.PGConnection;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Whole requests beside the SQL that somebody would write by hand for the same question, on the large demo world. The
 * database itself takes the time of both (planning and execution, from pg_stat_statements; the least of many runs, which a busy machine
 * disturbs least). What a caller waits for is the median of the same runs: a query through JDBC with all its rows read, and a whole
 * request with its answer read.
 */
public final class Requests {

    private static final long WARM_AT_MOST = 10_000_000_000L;
    private static final long RUN_AT_MOST = 10_000_000_000L;
    private static final int WARM = 150;
    private static final int RUNS = 100;
    /** The call that is no question in a body: a file, by its address. */
    private static final String FILE = "export.csv";

    private static final JsonMapper JSON = new JsonMapper();
    private static final String COLUMNS =
            "id, number, moved_at, item, kind, quantity, change, on_hand_after, from_site, to_site, moved_at";

    private final String address;
    private final HttpClient http;
    private final CookieManager cookies = new CookieManager();
    private final Connection hand;

    /** A question: what is sent, and what somebody would write instead. */
    private record Question(String name, String register, String call, Map<String, Object> body, String sql) {
        Question(String name, String call, Map<String, Object> body, String sql) {
            this(name, "moves", call, body, sql);
        }
    }

    private Requests(String address, Connection hand) {
        this.address = address;
        this.hand = hand;
        this.http = HttpClient.newBuilder().cookieHandler(cookies).build();
    }

    /**
     * Measures everything and prints a table.
     *
     * @param arguments the server's address, the database's port, the file with its password; a regular expression that is found in
     *     the names of the questions that are measured, where not all are
     */
    public static void main(String[] arguments) throws Exception {
        String password = Files.readString(Path.of(arguments[2])).strip();
        String url = "jdbc:postgresql://127.0.0.1:" + arguments[1] + "/deft";
        try (Connection owner = DriverManager.getConnection(url, "deft", password);
                Statement statement = owner.createStatement()) {
            statement.execute("create extension if not exists pg_stat_statements");
            // A role of its own, so that the database tells the two sides apart.
            statement.execute("drop role if exists by_hand");
            statement.execute("create role by_hand superuser login password '" + password + "'");
            try (Connection hand = DriverManager.getConnection(url, "by_hand", password);
                    Statement setting = hand.createStatement()) {
                setting.execute("set plan_cache_mode = force_custom_plan");
                Requests bench = new Requests(arguments[0], hand);
                bench.signIn();
                String only = arguments.length > 3 ? arguments[3] : "";
                bench.questions(owner, only);
                // A role that has something cannot go.
                setting.execute("drop table worked");
                if (only.isEmpty()) {
                    bench.importing(owner);
                }
            } finally {
                statement.execute("drop role if exists by_hand");
            }
        }
    }

    private void signIn() throws IOException, InterruptedException {
        send("GET", "/api/welcome", null, null);
        HttpResponse<String> answer = send(
                "POST",
                "/api/session",
                JSON.writeValueAsBytes(Map.of("name", "ines.marlow", "password", "demo-only")),
                null);
        if (answer.statusCode() != 200) {
            throw new IllegalStateException(answer.body());
        }
    }

    private HttpResponse<String> send(String method, String path, byte[] body, String type)
            throws IOException, InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", type == null ? "application/json" : type)
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofByteArray(body));
        cookies.getCookieStore().getCookies().stream()
                .filter(c -> c.getName().equals("XSRF-TOKEN"))
                .map(HttpCookie::getValue)
                .findFirst()
                .ifPresent(t -> request.header("X-XSRF-TOKEN", t));
        return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    /** The days of some years with the working seconds before each and its hours, as somebody would keep them who asks often. */
    private static final String CALENDAR = """
            create temporary table worked as
            select day, coalesce(sum(closes - opens) over (order by day rows between unbounded preceding and 1 preceding), 0) as before,
                   opens, closes
            from (select cast(d as date) as day,
                         coalesce(extract(epoch from case when e.day is null then w.from_time
                                                          else cast(e.hours #>> '{0,from}' as time) end), 0) as opens,
                         coalesce(extract(epoch from case when e.day is null then w.to_time
                                                          else cast(e.hours #>> '{0,to}' as time) end), 0) as closes
                  from generate_series(date '2019-01-01', date '2028-01-01', interval '1 day') d
                  left join working_hours w on w.weekday = extract(isodow from d)
                  left join working_exception e on e.day = cast(d as date)) h""";

    /** The working seconds of the calendar before a moment of a record, by the day that is joined for it. */
    private static String worked(String calendar, String moment) {
        return "(" + calendar + ".before + greatest(0, least(extract(epoch from cast(" + moment
                + " at time zone 'Europe/London' as time)), " + calendar + ".closes) - " + calendar + ".opens))";
    }

    private static String day(String moment) {
        return "cast(" + moment + " at time zone 'Europe/London' as date)";
    }

    private List<Question> list() throws Exception {
        try (Statement statement = hand.createStatement()) {
            statement.execute(CALENDAR);
            statement.execute("create unique index on worked (day)");
            statement.execute("analyze worked");
        }
        HttpResponse<String> added = send(
                "POST",
                "/api/registers/moves/added-fields",
                JSON.writeValueAsBytes(Map.of(
                        "fields",
                        List.of(Map.of(
                                "label", "Worked", "calculation", "working_time_between(moved_at, returned_at)")))),
                null);
        require(added);
        JsonNode withWorked = JSON.readTree(added.body());
        String recent = "moved_at >= '2026-11-17 00:00 Europe/London' and moved_at < '2026-11-24 00:00 Europe/London'";
        String half = "moved_at >= '2026-05-24 00:00 Europe/London' and moved_at < '2026-11-24 00:00 Europe/London'";
        String page = " order by moved_at desc, id desc limit ?";
        String deep =
                value("select moved_at from records.moves order by moved_at desc, id desc offset 1000000 limit 1");
        String deepId = value("select id from records.moves order by moved_at desc, id desc offset 1000000 limit 1");
        String token = Base64.getUrlEncoder()
                .withoutPadding()
                .encodeToString(JSON.writeValueAsBytes(Map.of(
                        "o",
                        "moved_at-",
                        "v",
                        List.of(java.time.OffsetDateTime.parse(deep.replace(' ', 'T') + ":00")
                                .toInstant()
                                .toString()),
                        "id",
                        Long.valueOf(deepId))));
        List<String> pasted = IntStream.range(0, 2_000)
                .mapToObj(i -> "M-" + (100_001 + i * 2_417L % 5_000_000))
                .toList();
        String numbers = pasted.stream().map(n -> "\"" + n + "\"").collect(Collectors.joining(", "));
        String array = pasted.stream()
                .map(n -> "'" + n.toLowerCase(java.util.Locale.ROOT) + "'")
                .collect(Collectors.joining(", "));
        return List.of(
                rows("newest", "", "true" + page),
                rows("rolling 7 days", "moved_at in last 7 days", recent + page),
                rows(
                        "7 days and 2 sites",
                        "moved_at in last 7 days and to_site is in (\"Lantern Pier\", \"North Quay\")",
                        recent + " and to_site = any('{Lantern Pier,North Quay}')" + page),
                new Question(
                        "2 sites, no window",
                        "rows",
                        Map.of("statement", "to_site is in (\"Lantern Pier\", \"North Quay\")"),
                        "select * from ((select " + COLUMNS.replace(", moved_at,", ", moved_at as m,")
                                + " from records.moves where to_site = 'Lantern Pier'"
                                + page + ") union all (select " + COLUMNS.replace(", moved_at,", ", moved_at as m,")
                                + " from records.moves where to_site = 'North Quay'" + page
                                + ")) u order by m desc, id desc limit ?"),
                rows(
                        "6 months, and/or over frequent values",
                        "moved_at in last 6 months and (kind is \"Issued\" or to_site is \"Lantern Pier\" and quantity > 5)",
                        half + " and (kind = 'Issued' or (to_site = 'Lantern Pier' and quantity > 5))" + page),
                rows(
                        "6 months, or of two rare criteria",
                        "moved_at in last 6 months and (number is \"M-4900123\" or returned_at on 2026-11-22)",
                        half
                                + " and (lower(number) = 'm-4900123' or (returned_at >= '2026-11-22 00:00 Europe/London' and returned_at < '2026-11-23 00:00 Europe/London'))"
                                + page),
                rows(
                        "issued to a site since 2024, not returned",
                        "kind is \"Issued\" and to_site is \"Lantern Pier\" and moved_at from 2024 and returned_at is empty",
                        "kind = 'Issued' and to_site = 'Lantern Pier' and moved_at >= '2024-01-01 00:00 Europe/London' and returned_at is null"
                                + page),
                rows(
                        "outside working hours, last month",
                        "moved_at in last month and moved_at outside working hours",
                        null),
                rows("one number", "number is \"M-3000000\"", "lower(number) = 'm-3000000'" + page),
                new Question(
                        "page at the millionth row",
                        "rows",
                        Map.of("statement", "", "after", token),
                        "select " + COLUMNS + " from records.moves where (moved_at, id) < ('" + deep + "', " + deepId
                                + ")" + page),
                new Question(
                        "2,000 pasted numbers in their order, first 100",
                        "rows",
                        Map.of("statement", "number is in (" + numbers + ")", "order", List.of("as-listed:number")),
                        "select " + COLUMNS.replace("id,", "m.id,") + " from unnest(array[" + array
                                + "]) with ordinality p(n, o) join records.moves m on lower(m.number) = p.n order by o, m.id limit ?"),
                new Question(
                        "count, 7 days",
                        "count",
                        Map.of("statement", "moved_at in last 7 days"),
                        "select count(*) from records.moves where " + recent),
                new Question(
                        "count, capped",
                        "count",
                        Map.of("statement", "kind is \"Issued\""),
                        "select count(*) from (select 1 from records.moves where kind = 'Issued' limit 10001) c"),
                new Question("total", "count", Map.of("statement", ""), "select count(*) from records.moves"),
                new Question(
                        "values of kind, no criteria",
                        "values",
                        Map.of("field", "kind"),
                        "select kind, count(*) from records.moves group by 1 order by 2 desc"),
                new Question(
                        "value above 500, calculated, last 7 days",
                        "rows",
                        Map.of("statement", "moved_at in last 7 days and value > 500"),
                        "select " + COLUMNS + " from records.moves where " + recent + " and quantity * unit_cost > 500"
                                + page),
                totals(
                        "totals, 7 days, by site and kind",
                        "moved_at in last 7 days",
                        List.of(Map.of("field", "to_site"), Map.of("field", "kind")),
                        "select grouping(to_site, kind), to_site, kind, count(*), sum(quantity) from records.moves where "
                                + recent + " group by grouping sets ((to_site, kind), (to_site), ())"),
                totals(
                        "totals, 6 months, by month and kind",
                        "moved_at in last 6 months",
                        List.of(Map.of("field", "moved_at", "by", "month"), Map.of("field", "kind")),
                        "select grouping(m, kind), m, kind, count(*), sum(quantity) from (select date_trunc('month',"
                                + " moved_at at time zone 'Europe/London') as m, kind, quantity from records.moves where "
                                + half + ") t group by grouping sets ((m, kind), (m), ())"),
                new Question(
                        "the same beside the 6 months before",
                        "totals",
                        Map.of(
                                "statement",
                                "moved_at in last 6 months",
                                "rows",
                                List.of(Map.of("field", "kind")),
                                "measures",
                                List.of(Map.of("function", "sum", "field", "quantity")),
                                "compare",
                                "before"),
                        "select kind, sum(quantity) filter (where moved_at >= '2026-05-24 00:00 Europe/London'),"
                                + " sum(quantity) filter (where moved_at < '2026-05-24 00:00 Europe/London')"
                                + " from records.moves where moved_at >= '2025-11-24 00:00 Europe/London' and moved_at <"
                                + " '2026-11-24 00:00 Europe/London' group by grouping sets ((kind), ())"),
                totals(
                        "totals of all moves by month, site and kind",
                        "",
                        List.of(
                                Map.of("field", "moved_at", "by", "month"),
                                Map.of("field", "to_site"),
                                Map.of("field", "kind")),
                        "select grouping(m, to_site, kind), m, to_site, kind, count(*), sum(quantity) from (select date_trunc('month',"
                                + " moved_at at time zone 'Europe/London') as m, to_site, kind, quantity from records.moves) t"
                                + " group by grouping sets ((m, to_site, kind), (m, to_site), (m), ())"),
                new Question(
                        "balances of all items at a date",
                        "balances",
                        Map.of(
                                "statement", "",
                                "window", "2026-09-30",
                                "by", List.of(Map.of("field", "item"))),
                        "select item, sum(change) filter (where moved_at < '2026-09-30 00:00 Europe/London'), sum(change) from"
                                + " records.moves where moved_at < '2026-10-01 00:00 Europe/London' group by item"),
                new Question(
                        "balances of all accounts at a date",
                        "dues",
                        "balances",
                        Map.of(
                                "statement", "",
                                "window", "2026-09-30",
                                "by", List.of(Map.of("field", "account"))),
                        "select account, sum(amount) filter (where posted_at < '2026-09-30 00:00 Europe/London'), sum(amount)"
                                + " from records.dues where posted_at < '2026-10-01 00:00 Europe/London' group by account"),
                rows(
                        "or of two rare values",
                        "number is \"M-4900123\" or number is \"M-123456\"",
                        "(lower(number) = 'm-4900123' or lower(number) = 'm-123456')" + page),
                new Question(
                        "latest returned first, those without last",
                        "rows",
                        Map.of("statement", "", "order", List.of("-returned_at")),
                        "select " + COLUMNS
                                + " from records.moves order by returned_at desc nulls last, id desc limit ?"),
                new Question(
                        "why one is not there",
                        "why",
                        Map.of("statement", "moved_at in last 7 days and kind is \"Issued\"", "record", "M-3000000"),
                        "select " + COLUMNS + " from records.moves where lower(number) = 'm-3000000' limit ?"),
                new Question(
                        "the words of a statement",
                        "statement",
                        Map.of("statement", "moved_at in last 7 days and kind is \"Issued\"", "records", false),
                        null),
                new Question(
                        "a statement with findings among records",
                        "statement",
                        Map.of(
                                "statement",
                                "moved_at in last 7 days and kind is \"Issued\" and to_site is \"Lantern Pier\""),
                        "select exists(select 1 from records.moves where " + recent
                                + "), exists(select 1 from records.moves where kind = 'Issued'), exists(select 1 from"
                                + " records.moves where to_site = 'Lantern Pier'), exists(select 1 from records.moves where "
                                + recent + " and kind = 'Issued' and to_site = 'Lantern Pier')"),
                new Question(
                        "what each of three criteria does",
                        "parts",
                        Map.of(
                                "statement",
                                "moved_at in last 7 days and kind is \"Issued\" and to_site is \"Lantern Pier\""),
                        "select "
                                + List.of(
                                                recent,
                                                "kind = 'Issued'",
                                                "to_site = 'Lantern Pier'",
                                                "kind = 'Issued' and to_site = 'Lantern Pier'",
                                                recent + " and to_site = 'Lantern Pier'",
                                                recent + " and kind = 'Issued'",
                                                recent + " and kind = 'Issued' and to_site = 'Lantern Pier'")
                                        .stream()
                                        .map(w -> "(select count(*) from (select 1 from records.moves where " + w
                                                + " limit 10001) c)")
                                        .collect(Collectors.joining(", "))),
                new Question(
                        "edges of 7 days",
                        "edges",
                        Map.of("statement", "moved_at in last 7 days"),
                        "(select " + COLUMNS.replace(", moved_at,", ", moved_at as m,") + " from records.moves where "
                                + recent + " order by moved_at, id limit 3) union all (select "
                                + COLUMNS.replace(", moved_at,", ", moved_at as m,")
                                + " from records.moves where moved_at < '2026-11-17 00:00 Europe/London'"
                                + " order by moved_at desc, id desc limit 3) union all (select "
                                + COLUMNS.replace(", moved_at,", ", moved_at as m,") + " from records.moves where "
                                + recent + " order by moved_at desc, id desc limit 3) union all (select "
                                + COLUMNS.replace(", moved_at,", ", moved_at as m,")
                                + " from records.moves where moved_at >= '2026-11-24 00:00 Europe/London'"
                                + " order by moved_at, id limit 3)"),
                new Question(
                        "groups, 7 days, by kind with a sum",
                        "groups",
                        Map.of(
                                "statement",
                                "moved_at in last 7 days",
                                "groups",
                                List.of(Map.of("field", "kind")),
                                "measures",
                                List.of(Map.of("function", "sum", "field", "quantity"))),
                        "select kind, count(*), sum(quantity) from records.moves where " + recent + " group by kind"),
                new Question(
                        "a file of 7 days, as CSV",
                        FILE,
                        Map.of("statement", "moved_at in last 7 days"),
                        "select " + COLUMNS + " from records.moves where " + recent
                                + " order by moved_at desc, id desc"),
                new Question(
                        "sum in working hours, 6 months",
                        "totals",
                        Map.of(
                                "statement",
                                "moved_at in last 6 months and moved_at in working hours",
                                "rows",
                                List.of(),
                                "measures",
                                List.of(Map.of("function", "sum", "field", "quantity"))),
                        "select count(*), sum(quantity) from records.moves join worked w on w.day = " + day("moved_at")
                                + " and extract(epoch from cast(moved_at at time zone 'Europe/London' as time)) >= w.opens"
                                + " and extract(epoch from cast(moved_at at time zone 'Europe/London' as time)) < w.closes where "
                                + half),
                new Question(
                        "average of working time between two, 6 months",
                        withWorked.get("key").stringValue(),
                        "totals",
                        Map.of(
                                "statement",
                                "moved_at in last 6 months",
                                "rows",
                                List.of(),
                                "measures",
                                List.of(Map.of("function", "average", "field", "_worked"))),
                        "select count(*), avg(" + worked("b", "returned_at") + " - " + worked("a", "moved_at")
                                + ") from records.moves left join worked a on a.day = " + day("moved_at")
                                + " left join worked b on b.day = " + day("returned_at") + " where " + half),
                new Question(
                        "records over six years, no criteria",
                        "histogram",
                        Map.of(),
                        "select date_trunc('month', moved_at at time zone 'Europe/London'), count(*) from records.moves group by 1 order by 1"));
    }

    private static Question totals(String name, String statement, List<Map<String, String>> rows, String sql) {
        return new Question(
                name,
                "totals",
                Map.of(
                        "statement",
                        statement,
                        "rows",
                        rows,
                        "measures",
                        List.of(Map.of("function", "count"), Map.of("function", "sum", "field", "quantity"))),
                sql);
    }

    private static Question rows(String name, String statement, String where) {
        return new Question(
                name,
                "rows",
                Map.of("statement", statement),
                where == null ? null : "select " + COLUMNS + " from records.moves where " + where);
    }

    private String value(String sql) throws SQLException {
        try (Statement statement = hand.createStatement();
                ResultSet found = statement.executeQuery(sql)) {
            found.next();
            return found.getString(1);
        }
    }

    private void questions(Connection owner, String only) throws Exception {
        System.out.printf(
                "%n%-48s %9s %9s %7s %11s %9s %7s%n",
                "warm; database: least of " + RUNS + ", wait: median; ms",
                "by hand",
                "ours",
                "ratio",
                "wait: hand",
                "ours",
                "ratio");
        for (Question question : list()) {
            if (Pattern.compile(only).matcher(question.name()).find()) {
                measure(owner, question);
            }
        }
    }

    private void measure(Connection owner, Question question) throws Exception {
        byte[] body = JSON.writeValueAsBytes(question.body());
        String path = "/api/registers/" + question.register() + "/" + question.call();
        try (PreparedStatement prepared = question.sql() == null ? null : hand.prepareStatement(question.sql());
                Statement statement = owner.createStatement()) {
            // What takes long warms up within the first runs; what is quick needs many.
            long start = System.nanoTime();
            for (int i = 0; i < WARM && (i < 2 || System.nanoTime() - start < WARM_AT_MOST); i++) {
                require(ask(question, path, body));
                if (prepared != null && i < 1) {
                    drain(prepared);
                }
            }
            statement.execute("select pg_stat_statements_reset()");
            double handsWait = prepared == null ? 0 : median(RUNS, () -> drain(prepared));
            double wait = median(RUNS, () -> require(ask(question, path, body)));
            double hands = time(statement, "by_hand", "%");
            double ours = time(statement, "deft", question.call().equals("rows") ? "%c1%\"moves\"%" : "%");
            System.out.printf(
                    "%-48s %9s %9.2f %7s %11s %9.1f %7s%n",
                    question.name(),
                    prepared == null ? "" : String.format("%.2f", hands),
                    ours,
                    prepared == null ? "" : String.format("%.2f", ours / hands),
                    prepared == null ? "" : String.format("%.1f", handsWait),
                    wait,
                    prepared == null ? "" : String.format("%.2f", wait / handsWait));
        }
    }

    private HttpResponse<String> ask(Question question, String path, byte[] body)
            throws IOException, InterruptedException {
        if (!question.call().equals(FILE)) {
            return send("POST", path, body, null);
        }
        String parameters = question.body().entrySet().stream()
                .map(e -> e.getKey() + "=" + URLEncoder.encode(e.getValue().toString(), StandardCharsets.UTF_8))
                .collect(Collectors.joining("&"));
        return send("GET", path + "?" + parameters, null, null);
    }

    /** Something that is timed. */
    @FunctionalInterface
    private interface Timed {
        void run() throws Exception;
    }

    /** The median time of so many runs, in milliseconds; of what takes long, of fewer, but at least three. */
    private static double median(int runs, Timed what) throws Exception {
        List<Double> millis = new ArrayList<>();
        long start = System.nanoTime();
        while (millis.size() < runs && (millis.size() < 3 || System.nanoTime() - start < RUN_AT_MOST)) {
            long began = System.nanoTime();
            what.run();
            millis.add((System.nanoTime() - began) / 1e6);
        }
        Collections.sort(millis);
        return millis.get(millis.size() / 2);
    }

    private static void require(HttpResponse<String> answer) {
        if (answer.statusCode() >= 300) {
            throw new IllegalStateException(answer.body());
        }
    }

    /** Runs a query with its bound limit, so that it is planned for each run, as ours is, and not once for all. */
    private static void drain(PreparedStatement prepared) throws SQLException {
        for (int i = 1; i <= prepared.getParameterMetaData().getParameterCount(); i++) {
            prepared.setLong(i, 101);
        }
        try (ResultSet found = prepared.executeQuery()) {
            int columns = found.getMetaData().getColumnCount();
            while (found.next()) {
                for (int c = 1; c <= columns; c++) {
                    found.getObject(c);
                }
            }
        }
    }

    /** The database's least time for one run, planning and execution, of the statements of a role about the moves or kept counts. */
    private static double time(Statement statement, String role, String like) throws SQLException {
        try (ResultSet found = statement.executeQuery(
                "select coalesce(sum(s.min_exec_time + s.min_plan_time), 0) from pg_stat_statements s join pg_roles r on r.oid = s.userid where r.rolname = '"
                        + role
                        + "' and (s.query ilike '%records.%moves%' or s.query ilike '%records\".\"moves%' or s.query ilike '%records%dues%' or s.query ilike '%kept_count%' or s.query ilike '%\"kept\".\"%')"
                        + " and s.query not ilike '%pg_stat_statements%' and s.query ilike '" + like + "'")) {
            found.next();
            return found.getDouble(1);
        }
    }

    /** A million rows by COPY into a table with its indexes, and the same file through our import into the same table's like. */
    private void importing(Connection owner) throws Exception {
        Path file = Files.createTempFile("deft-bench", ".csv");
        Path few = Files.createTempFile("deft-bench", ".csv");
        try (Statement statement = owner.createStatement()) {
            String columns =
                    "number, moved_at, item, kind, quantity, change, on_hand_after, to_site, moved_by, unit_cost";
            try (var out = Files.newOutputStream(file)) {
                owner.unwrap(PGConnection.class)
                        .getCopyAPI()
                        .copyOut(
                                "copy (select " + columns
                                        + " from records.moves order by id limit 1000000) to stdout (format csv, header)",
                                out);
            }
            List<String> first = new ArrayList<>();
            try (var lines = Files.lines(file)) {
                lines.limit(2_001).forEach(first::add);
            }
            Files.write(few, first);
            for (String left : List.of("bench_moves")) {
                forget(statement, left);
            }
            String key =
                    bringIn(look(few), Map.of("label", "Bench moves", "mainField", "Moved at", "titleField", "Number"));
            statement.execute("truncate records.\"" + key + "\"");
            long began = System.nanoTime();
            try (var in = Files.newInputStream(file)) {
                owner.unwrap(PGConnection.class)
                        .getCopyAPI()
                        .copyIn("copy records.\"" + key + "\" (" + columns + ") from stdin (format csv, header)", in);
            }
            double copied = (System.nanoTime() - began) / 1e9;
            statement.execute("truncate records.\"" + key + "\"");
            began = System.nanoTime();
            JsonNode look = look(file);
            double looked = (System.nanoTime() - began) / 1e9;
            began = System.nanoTime();
            bringIn(look, Map.of("register", key));
            double ours = (System.nanoTime() - began) / 1e9;
            send("DELETE", "/api/registers/" + key, null, null);
            forget(statement, key);
            System.out.printf(
                    "%n1,000,000 rows into one table with its indexes and kept counts: COPY %.1f s; ours: looking at the file %.1f s, bringing it in %.1f s, %.2f of the speed of COPY%n",
                    copied, looked, ours, copied / ours);
        } finally {
            Files.deleteIfExists(file);
            Files.deleteIfExists(few);
        }
    }

    /** Takes a register of an earlier measurement away, for good. */
    private static void forget(Statement statement, String key) throws SQLException {
        statement.execute("drop table if exists records.\"" + key + "\" cascade");
        statement.execute(
                "delete from import_run where register_id in (select id from register where key = '" + key + "')");
        statement.execute("delete from register where key = '" + key + "'");
    }

    private JsonNode look(Path file) throws Exception {
        HttpResponse<String> received = send(
                "POST",
                "/api/files?name=" + URLEncoder.encode("bench.csv", StandardCharsets.UTF_8),
                Files.readAllBytes(file),
                "application/octet-stream");
        require(received);
        return JSON.readTree(received.body());
    }

    private String bringIn(JsonNode look, Map<String, Object> into) throws Exception {
        List<Map<String, Object>> columns = new ArrayList<>();
        for (JsonNode column : look.get("columns")) {
            String name = column.get("name").stringValue();
            String label = name.substring(0, 1).toUpperCase(java.util.Locale.ROOT)
                    + name.substring(1).replace('_', ' ');
            String type = switch (name) {
                case "moved_at" -> "moment";
                case "quantity", "change", "on_hand_after" -> "number";
                case "unit_cost" -> "money";
                case "moved_by" -> "person";
                default -> "text";
            };
            columns.add(Map.of(
                    "name",
                    name,
                    "label",
                    label,
                    "type",
                    type,
                    "unfit",
                    "REFUSE",
                    "identifying",
                    name.equals("number"),
                    "shown",
                    true));
        }
        Map<String, Object> body = Map.of(
                "reading", Map.of(), "into", into, "plan", Map.of("columns", columns, "by", List.of(), "known", "ADD"));
        HttpResponse<String> started = send(
                "POST",
                "/api/files/" + look.get("token").stringValue() + "/import",
                JSON.writeValueAsBytes(body),
                null);
        require(started);
        JsonNode run = JSON.readTree(started.body());
        while (run.get("state").stringValue().equals("RUNNING")) {
            Thread.sleep(200);
            run = JSON.readTree(send("GET", "/api/imports/" + run.get("id").asLong(), null, null)
                    .body());
        }
        if (!run.get("state").stringValue().equals("DONE")) {
            throw new IllegalStateException(run.get("state") + " " + run.get("message") + " " + run.get("refused"));
        }
        return run.get("register").stringValue();
    }
}
