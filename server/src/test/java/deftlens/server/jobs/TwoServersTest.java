package deftlens.server.jobs;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.context.ConfigurableApplicationContext;
import tools.jackson.databind.JsonNode;

/** Two servers on one database are one to whoever uses them: what is begun at one goes on at the other. */
@ExtendWith(TestServer.class)
class TwoServersTest {

    private static final String FILE = "Name,Size\nOak,12\nElm,7\nAsh,9\n";

    private static ConfigurableApplicationContext other;
    private static Caller ada;
    private static Caller dora;
    private static Caller dan;
    private final List<String> made = new ArrayList<>();

    @BeforeAll
    static void startAnother() {
        other = TestServer.another();
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        dan = Caller.signedIn("dan");
    }

    @AfterAll
    static void stopIt() {
        other.close();
    }

    @AfterEach
    void forgetRegisters() {
        made.forEach(key -> ada.delete("/api/registers/" + key));
    }

    private static String there() {
        return TestServer.address(other);
    }

    private static Caller.Answer ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isLessThan(300);
        return answer;
    }

    /** Looks again and again, for as long as a job may need to be begun anew. */
    private static void await(String what, BooleanSupplier comes) {
        long end = System.nanoTime() + 60_000_000_000L;
        while (!comes.getAsBoolean()) {
            assertThat(System.nanoTime()).as(what).isLessThan(end);
            Thread.onSpinWait();
        }
    }

    @Test
    void whoSignsInAtOneIsSignedInAtTheOther() {
        assertThat(dora.at(there())
                        .get("/api/session")
                        .json()
                        .at("/person/name")
                        .stringValue())
                .isEqualTo("dora");
        Caller left = Caller.signedIn("dan");
        ok(left.at(there()).delete("/api/session"));
        assertThat(left.at(TestServer.address()).get("/api/registers").status()).isEqualTo(401);
    }

    @Test
    void whoHasAViewOpenIsKnownAtBoth() {
        JsonNode view = ok(dora.at(TestServer.address())
                        .post(
                                "/api/views",
                                Map.of(
                                        "register",
                                        "jobs",
                                        "name",
                                        "Seen from two servers",
                                        "statement",
                                        "level >= 3",
                                        "columns",
                                        List.of("title"),
                                        "order",
                                        List.of())))
                .json();
        String path = "/api/views/" + view.get("id").asLong();
        ok(dora.put(
                path + "/shares",
                Map.of("version", view.get("version").asLong(), "shares", List.of(Map.of("may", "LOOK")))));
        ok(dora.at(TestServer.address()).put(path + "/presence", Map.of("page", "page-of-dora", "changing", true)));
        JsonNode others = ok(dan.at(there()).put(path + "/presence", Map.of("page", "page-of-dan", "changing", false)))
                .json()
                .get("others");
        assertThat(others).hasSize(1);
        assertThat(others.get(0).at("/who/name").stringValue()).isEqualTo("dora");
    }

    @Test
    void aQuestionAskedAtOneIsToldOfAndStoppedAtTheOther() throws SQLException {
        try (Connection holding = TestServer.connect();
                Statement lock = holding.createStatement()) {
            holding.setAutoCommit(false);
            lock.execute("lock table records.jobs in access exclusive mode");
            String name = UUID.randomUUID().toString();
            CompletableFuture<Caller.Answer> asked = CompletableFuture.supplyAsync(() -> Caller.signedIn("dora")
                    .naming(name)
                    .post("/api/registers/jobs/count", Map.of("statement", "level >= 3", "exact", true)));
            dora.at(there());
            await("it is slow", () -> {
                Caller.Answer progress = dora.get("/api/questions/" + name);
                return progress.status() == 200
                        && progress.json().get("place").stringValue().equals("running");
            });
            assertThat(dan.at(there()).get("/api/questions/" + name).status())
                    .as("it is nobody else's business")
                    .isEqualTo(404);
            ok(dora.delete("/api/questions/" + name));
            Caller.Answer answer = asked.join();
            assertThat(answer.status()).isEqualTo(503);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("stopped");
            assertThat(dora.get("/api/questions/" + name).status()).isEqualTo(404);
        } finally {
            dora.at(TestServer.address());
            dan.at(TestServer.address());
        }
    }

    private String sent(String csv) {
        return ok(ada.at(TestServer.address())
                        .upload("/api/files?name=trees.csv", csv.getBytes(StandardCharsets.UTF_8)))
                .json()
                .get("token")
                .stringValue();
    }

    private static Map<String, Object> plan() {
        List<Map<String, Object>> columns = new ArrayList<>();
        for (String name : List.of("Name", "Size")) {
            columns.add(Map.of(
                    "name",
                    name,
                    "label",
                    name,
                    "type",
                    name.equals("Size") ? "number" : "text",
                    "unfit",
                    "REFUSE",
                    "identifying",
                    name.equals("Name"),
                    "shown",
                    true));
        }
        return Map.of("columns", columns, "by", List.of(), "known", "ADD");
    }

    private JsonNode begin(String token, Map<String, Object> into) {
        return ok(ada.post(
                        "/api/files/" + token + "/import", Map.of("reading", Map.of(), "into", into, "plan", plan())))
                .json();
    }

    private static JsonNode run(long id) {
        return ok(ada.get("/api/imports/" + id)).json();
    }

    private static String state(long id) {
        return run(id).get("state").stringValue();
    }

    @Test
    void aFileSentToOneIsBroughtInAtTheOtherAndToldOfAtBoth() {
        String token = sent(FILE);
        ada.at(there());
        assertThat(ok(ada.post("/api/files/" + token + "/look", Map.of()))
                        .json()
                        .get("rows")
                        .asLong())
                .isEqualTo(3);
        long id = begin(token, Map.of("label", "Trees of two", "titleField", "Name"))
                .get("id")
                .asLong();
        ada.at(TestServer.address());
        await("it is in", () -> !state(id).equals("RUNNING"));
        JsonNode done = run(id);
        made.add(done.get("register").stringValue());
        assertThat(done.get("state").stringValue()).isEqualTo("DONE");
        assertThat(done.get("added").asLong()).isEqualTo(3);
        assertThat(ada.at(there()).get("/api/files/" + token).status())
                .as("the file is gone everywhere")
                .isEqualTo(404);
        JsonNode job = ok(ada.get("/api/jobs")).json().get("asked").get(0);
        assertThat(job.get("state").stringValue()).isEqualTo("DONE");
        assertThat(job.get("about").stringValue()).isEqualTo("trees.csv");
        assertThat(job.get("message").stringValue()).isEqualTo("3 added, 0 changed, 0 left as they were");
        ada.at(TestServer.address());
    }

    /** A register of trees that is there, and its table. */
    private String trees() {
        long id = begin(sent(FILE), Map.of("label", "Trees " + UUID.randomUUID(), "titleField", "Name"))
                .get("id")
                .asLong();
        await("it is in", () -> !state(id).equals("RUNNING"));
        String key = run(id).get("register").stringValue();
        made.add(key);
        return key;
    }

    private static String name(ConfigurableApplicationContext server) {
        return server.getBean(JobScheduler.class).schedulerName();
    }

    private static boolean isAt(ConfigurableApplicationContext server) {
        return server.getBean(JobScheduler.class).isBusy();
    }

    @Test
    void anImportIsStoppedFromTheOtherServer() throws SQLException {
        String key = trees();
        try (Connection holding = TestServer.connect();
                Statement lock = holding.createStatement()) {
            holding.setAutoCommit(false);
            lock.execute("lock table records.\"" + key + "\" in access exclusive mode");
            long id = begin(sent("Name,Size\nYew,3\n"), Map.of("register", key))
                    .get("id")
                    .asLong();
            await(
                    "it is begun",
                    () -> isAt(other) || TestServer.bean(JobScheduler.class).isBusy());
            // From whichever server does not do it.
            ada.at(isAt(other) ? TestServer.address() : there());
            ok(ada.delete("/api/imports/" + id));
            await("it is stopped", () -> state(id).equals("CANCELLED"));
        } finally {
            ada.at(TestServer.address());
        }
        assertThat(TestServer.query("select count(*) from records.\"" + key + "\""))
                .isEqualTo("3");
    }

    @Test
    void anImportGoesOnAtTheOtherServerWhereItsOwnIsStopped() throws SQLException {
        String key = trees();
        ConfigurableApplicationContext third = TestServer.another();
        long id;
        try (Connection holding = TestServer.connect();
                Statement lock = holding.createStatement()) {
            holding.setAutoCommit(false);
            lock.execute("lock table records.\"" + key + "\" in access exclusive mode");
            String token = sent("Name,Size\nYew,3\nFir,4\n");
            ada.at(TestServer.address(third));
            // Whoever is asked is told first; another one may still be quicker.
            id = begin(token, Map.of("register", key)).get("id").asLong();
            ada.at(TestServer.address());
            await(
                    "it is begun",
                    () -> isAt(third)
                            || isAt(other)
                            || TestServer.bean(JobScheduler.class).isBusy());
            boolean wasThere = isAt(third);
            String name = name(third);
            third.close();
            if (wasThere) {
                assertThat(TestServer.query("select state from job where id = (select max(id) from job)"))
                        .as("given back")
                        .isIn("WAITING", "RUNNING");
                assertThat(TestServer.query(
                                "select count(*) from scheduled_tasks where task_name = 'import' and picked and picked_by = '"
                                        + name + "'"))
                        .isEqualTo("0");
            }
            assertThat(state(id)).isEqualTo("RUNNING");
        }
        await("it is in", () -> !state(id).equals("RUNNING"));
        assertThat(run(id).get("state").stringValue()).as(run(id).toString()).isEqualTo("DONE");
        assertThat(TestServer.query("select count(*) from records.\"" + key + "\""))
                .isEqualTo("5");
    }

    @Test
    void aChangeOfManyWhoseServerIsGoneIsBegunAgainAndDoneOnce() throws SQLException {
        String key = trees();
        String at = "/api/registers/" + key + "/changes";
        Map<String, Object> asked = Map.of(
                "statement", "", "set", List.of(Map.of("field", "size", "act", "ADD", "value", 100)), "delete", false);
        String mark = ok(ada.post(at + "/preview", asked)).json().get("mark").stringValue();
        String job;
        try (Connection holding = TestServer.connect();
                Statement lock = holding.createStatement()) {
            holding.setAutoCommit(false);
            lock.execute("lock table records.\"" + key + "\" in exclusive mode");
            job = ok(ada.post(at, Map.of("change", asked, "mark", mark, "reason", "Grown.")))
                    .json()
                    .get("job")
                    .stringValue();
            await(
                    "it is begun",
                    () -> isAt(other) || TestServer.bean(JobScheduler.class).isBusy());
            ok(ada.delete(at + "/jobs/" + job));
            await("it is stopped", () -> changing(at, job).equals("STOPPED"));
        }
        String sum = "select sum(size) from records.\"" + key + "\"";
        long before = Long.parseLong(TestServer.query(sum));
        // As a server leaves it that goes away without a word; and once more, in the moment after it was done.
        for (int i = 0; i < 2; i++) {
            if (i == 0) {
                TestServer.sql(
                        "update job set state = 'RUNNING', stop_asked_at = null, ended_at = null where id = " + job);
            }
            TestServer.sql(
                    "insert into scheduled_tasks (task_name, task_instance, execution_time, picked, picked_by, last_heartbeat, version) values ('change-many', '"
                            + job + "', now() - interval '5 minutes', true, 'gone', now() - interval '5 minutes', 1)");
            await("it is looked at", () -> isNoTask(job));
            assertThat(changing(at, job)).isEqualTo("DONE");
            assertThat(Long.parseLong(TestServer.query(sum))).isEqualTo(before + 300);
        }
    }

    private static String changing(String at, String job) {
        return ok(ada.get(at + "/jobs/" + job)).json().get("state").stringValue();
    }

    private static boolean isNoTask(String job) {
        try {
            return TestServer.query("select count(*) from scheduled_tasks where task_instance = '" + job + "'")
                    .equals("0");
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void anImportWhoseServerIsGoneIsBegunAgainAndDoneOnce() throws SQLException {
        String key = trees();
        String token = sent("Name,Size\nYew,3\n");
        long id;
        try (Connection holding = TestServer.connect();
                Statement lock = holding.createStatement()) {
            holding.setAutoCommit(false);
            lock.execute("lock table records.\"" + key + "\" in access exclusive mode");
            id = begin(token, Map.of("register", key)).get("id").asLong();
            await(
                    "it is begun",
                    () -> isAt(other) || TestServer.bean(JobScheduler.class).isBusy());
            ok(ada.delete("/api/imports/" + id));
            await("it is stopped", () -> state(id).equals("CANCELLED"));
        }
        // As a server leaves it that goes away without a word: running, taken, and no heartbeat for long.
        String job = TestServer.query("select job_id from import_run where id = " + id);
        TestServer.sql("update job set state = 'RUNNING', stop_asked_at = null, ended_at = null where id = " + job);
        TestServer.sql("update import_run set state = 'RUNNING', ended_at = null where id = " + id);
        TestServer.sql(
                "insert into scheduled_tasks (task_name, task_instance, execution_time, picked, picked_by, last_heartbeat, version) values ('import', '"
                        + job + "', now() - interval '5 minutes', true, 'gone', now() - interval '5 minutes', 1)");
        await("it is in", () -> !state(id).equals("RUNNING"));
        assertThat(run(id).get("state").stringValue()).as(run(id).toString()).isEqualTo("DONE");
        assertThat(TestServer.query("select count(*) from records.\"" + key + "\""))
                .isEqualTo("4");
        // A server that went away in the moment after does it no second time.
        TestServer.sql(
                "insert into scheduled_tasks (task_name, task_instance, execution_time, picked, picked_by, last_heartbeat, version) values ('import', '"
                        + job + "', now() - interval '5 minutes', true, 'gone', now() - interval '5 minutes', 1)");
        await("it is looked at", () -> isNoTask(job));
        assertThat(state(id)).isEqualTo("DONE");
        assertThat(TestServer.query("select count(*) from records.\"" + key + "\""))
                .isEqualTo("4");
    }
}
